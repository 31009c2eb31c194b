"""The newest request wins: of several for the same thing, only the last one is worth answering."""

import asyncio
import itertools
from collections.abc import Awaitable, Callable
from typing import TypeVar

from zeichen.core.errors import ConflictError

T = TypeVar("T")


class SupersededError(ConflictError):
    """A newer request for the same thing came in."""

    code = "superseded"


class NewestWins:
    """Runs one piece of work a key at a time; those that waited and are no longer the newest are dropped."""

    def __init__(self) -> None:
        self._numbers = itertools.count()
        self._newest: dict[str, int] = {}
        self._locks: dict[str, asyncio.Lock] = {}
        self._waiting: dict[str, int] = {}

    async def run(self, key: str, work: Callable[[], Awaitable[T]]) -> T:
        """Return the result of the work, or raise SupersededError without doing it."""
        number = next(self._numbers)
        self._newest[key] = number
        lock = self._locks.setdefault(key, asyncio.Lock())
        self._waiting[key] = self._waiting.get(key, 0) + 1
        try:
            async with lock:
                if self._newest[key] != number:
                    raise SupersededError("A newer request took this one's place.")
                return await work()
        finally:
            self._waiting[key] -= 1
            if not self._waiting[key]:
                del self._waiting[key], self._locks[key], self._newest[key]
