"""The one place where errors become status codes and one JSON shape: a code and a sentence."""

from collections.abc import Sequence
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from zeichen.core.errors import (
    ConflictError,
    DamagedError,
    InvalidInputError,
    NotFoundError,
    OutsideError,
    StoppedError,
    ZeichenError,
)

_STATUS: list[tuple[type[ZeichenError], int]] = [
    (InvalidInputError, 422),
    (NotFoundError, 404),
    (ConflictError, 409),
    (DamagedError, 409),
    (StoppedError, 409),
    (OutsideError, 503),
]


class Problem(BaseModel):
    """What is wrong: a stable code, and a sentence that can be shown as it is."""

    code: str
    message: str


# What any route may answer besides its own.
DECLARED: dict[int | str, dict[str, Any]] = {
    404: {"model": Problem, "description": "Something asked for does not exist."},
    409: {
        "model": Problem,
        "description": "The request no longer fits what is kept, or a file of it is damaged.",
    },
    422: {"model": Problem, "description": "A value or file handed in cannot be used."},
    503: {"model": Problem, "description": "The disk, the database or a service outside said no."},
}


def status_of(error: ZeichenError) -> int:
    """Return the status code of an error.

    Examples
    --------
    >>> status_of(NotFoundError("gone"))
    404
    """
    return next((status for kind, status in _STATUS if isinstance(error, kind)), 500)


def tell(app: FastAPI) -> None:
    """Let an app answer with the family of errors."""

    @app.exception_handler(ZeichenError)
    async def known(_request: Request, error: ZeichenError) -> JSONResponse:
        return _reply(status_of(error), error.code, str(error))

    @app.exception_handler(RequestValidationError)
    async def invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        return _reply(422, InvalidInputError.code, _sentence(error.errors()))

    @app.exception_handler(HTTPException)
    async def http(_request: Request, error: HTTPException) -> JSONResponse:
        return _reply(error.status_code, "http", str(error.detail))

    @app.exception_handler(Exception)
    async def unknown(_request: Request, _error: Exception) -> JSONResponse:
        return _reply(
            500, "error", "Something went wrong inside Zeichen. Nothing was lost; the server's log says more."
        )


def _reply(status: int, code: str, message: str) -> JSONResponse:
    return JSONResponse({"code": code, "message": message}, status_code=status)


def _sentence(errors: Sequence[Any]) -> str:
    first = errors[0]
    place = " ".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
    return f"{(place or 'The request').replace('_', ' ').capitalize()}: {first['msg']}."
