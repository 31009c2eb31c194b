"""Large pictures one after the other: each may take more than a gigabyte while it is worked on."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

# From here on work on a picture takes over 700 MB (measured on flats); most pictures have one or two million.
LARGE_PX = 12_000_000


class LargeTurns:
    """Lets work on large pictures in one at a time; small ones never wait."""

    def __init__(self) -> None:
        self._one = asyncio.Semaphore(1)

    @asynccontextmanager
    async def turn(self, pixels: int) -> AsyncIterator[None]:
        """Wait until no other large picture is worked on, if this one is large."""
        if pixels < LARGE_PX:
            yield
            return
        async with self._one:
            yield
