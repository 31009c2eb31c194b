"""Files taken as the body of a request, and handed out under names of any script."""

import asyncio
import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from urllib.parse import quote

from fastapi import Request
from fastapi.responses import Response

from zeichen.core.errors import InvalidInputError

BYTES_BODY = {"requestBody": {"required": True, "content": {"application/octet-stream": {
    "schema": {"type": "string", "format": "binary"}}}}}  # fmt: skip
# A body that is too large is read on, so that its sender hears why, but not for ever.
_READ_ON = 4


def download(data: bytes, media_type: str, name: str) -> Response:
    """Return a file to be saved under a name (RFC 6266 and RFC 8187: letters of all scripts as UTF-8).

    Examples
    --------
    >>> download(b"", "text/plain", "Käfer.txt").headers["content-disposition"]
    "attachment; filename*=utf-8''K%C3%A4fer.txt"
    """
    quoted = quote(name, safe="")
    said = f'filename="{name}"' if quoted == name else f"filename*=utf-8''{quoted}"
    return Response(data, media_type=media_type, headers={"Content-Disposition": f"attachment; {said}"})


async def read_body(request: Request, *, most_mb: int) -> bytes:
    """Return a request's body; InvalidInputError if it is larger than some megabytes."""
    data = bytearray()
    advice = "Make the picture smaller; 2000 px across is plenty for tracing."
    async for chunk in _within(request, most_mb, advice):
        data += chunk
    return bytes(data)


@asynccontextmanager
async def body_as_file(request: Request, folder: Path, *, most_mb: int) -> AsyncIterator[Path]:
    """Give a request's body as a file for a while; InvalidInputError if it is larger than some megabytes."""
    with tempfile.NamedTemporaryFile(dir=folder, prefix=".part-") as out:
        async for chunk in _within(request, most_mb, "Raise ZEICHEN_LARGEST_COLLECTION_MB if you trust it."):
            await asyncio.to_thread(out.write, chunk)
        await asyncio.to_thread(out.flush)
        yield Path(out.name)


async def _within(request: Request, most_mb: int, advice: str) -> AsyncIterator[bytes]:
    """Yield a body part by part; one that is too large is read on and dropped, up to four times as much."""
    most, size_bytes = most_mb * 1_000_000, 0
    async for chunk in request.stream():
        size_bytes += len(chunk)
        if size_bytes <= most:
            yield chunk
        elif size_bytes > _READ_ON * most:
            break
    if size_bytes > most:
        raise InvalidInputError(f"The file is larger than {most_mb} MB. {advice}")
