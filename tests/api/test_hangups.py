"""A client that hangs up ends its work, and two bad requests never stop others."""

import asyncio

import pytest
from fastapi import FastAPI, Request

from zeichen.api.hangups import Hangups


def asked(app, messages, *, hang_up_after_s: float | None) -> list[dict]:
    """Send one request to an app and return what it answered; the client may hang up after a while."""
    answers: list[dict] = []

    async def main() -> None:
        waiting = list(messages)

        async def receive() -> dict:
            if waiting:
                return waiting.pop(0)
            await asyncio.sleep(60 if hang_up_after_s is None else hang_up_after_s)
            return {"type": "http.disconnect"}

        async def send(message: dict) -> None:
            answers.append(message)

        scope = {
            "type": "http", "method": "POST", "path": "/", "raw_path": b"/", "query_string": b"", "headers": [],
            "http_version": "1.1", "scheme": "http", "root_path": "", "server": ("127.0.0.1", 1), "client": None,
        }  # fmt: skip
        await asyncio.wait_for(app(scope, receive, send), 10)

    asyncio.run(main())
    return answers


@pytest.fixture
def app():
    made = FastAPI()
    made.state.seen = []

    @made.post("/")
    async def slow(request: Request) -> dict[str, int]:
        size = len(await request.body())
        try:
            await asyncio.sleep(0.5)
        except asyncio.CancelledError:
            made.state.seen.append("ended")
            raise
        made.state.seen.append("answered")
        return {"size": size}

    made.add_middleware(Hangups)
    return made


BODY = [{"type": "http.request", "body": b"x" * 10, "more_body": k < 9} for k in range(10)]


def test_a_client_that_stays_is_answered_whatever_its_body(app):
    answers = asked(app, BODY, hang_up_after_s=None)
    assert (
        answers[0]["status"] == 200
        and answers[1]["body"] == b'{"size":100}'
        and app.state.seen == ["answered"]
    )


def test_a_client_that_hangs_up_ends_its_work(app):
    assert asked(app, BODY, hang_up_after_s=0.05) == [] and app.state.seen == ["ended"]
