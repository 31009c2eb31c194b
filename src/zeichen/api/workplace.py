"""What a running app holds: the data folder, the worker pools, the job runner, and short-lived answers."""

import asyncio
from collections import OrderedDict
from collections.abc import Awaitable, Callable, Hashable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Request

from zeichen.core.proofing import Yardstick
from zeichen.jobs import tasks
from zeichen.jobs.forecasts import ForecastData
from zeichen.jobs.live import NewestWins
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.settings import Settings
from zeichen.jobs.workers import WorkerPool
from zeichen.store import collections
from zeichen.store.database import Database

T = TypeVar("T")
_MOST_ANSWERS = 400


@dataclass
class Workplace:
    """Handed to every route. `live` answers what someone waits for; the runner's own pool does jobs."""

    settings: Settings
    database: Database
    live: WorkerPool
    runner: JobRunner
    newest: NewestWins = field(default_factory=NewestWins)
    _answers: "OrderedDict[Hashable, Any]" = field(default_factory=OrderedDict)
    # Forecasts and verdicts take turns, so that a knob being dragged always finds a free worker.
    _unhurried: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(1))

    def yardstick_of_motif(self, motif_id: int) -> Yardstick:
        """Return what a motif's collection is judged by."""
        with self.database.read() as session:
            motif = collections.motif(session, motif_id)
            chosen = collections.collection(session, motif.collection_id)
            return collections.yardstick(session, chosen.yardstick_id).yardstick

    async def forecast(self, picture_sha: str, yardstick: Yardstick) -> ForecastData:
        """Return how well a picture will trace."""
        path = self.database.files.path(picture_sha)
        return await self._once(
            ("forecast", path, yardstick), lambda: self.live.run(tasks.forecast, path, yardstick)
        )

    async def drawing(
        self, svg_sha: str, yardstick: Yardstick, *, unhurried: bool = False
    ) -> tasks.DrawingData:
        """Return a stored drawing, judged."""
        path = self.database.files.path(svg_sha)
        key = ("drawing", path, yardstick)
        return await self._once(
            key, lambda: self.live.run(tasks.drawing_data, path, yardstick), now=not unhurried
        )

    async def _once(self, key: Hashable, work: Callable[[], Awaitable[T]], *, now: bool = False) -> T:
        if key not in self._answers:
            if now:
                self._keep(key, await work())
            else:
                async with self._unhurried:
                    if key not in self._answers:
                        self._keep(key, await work())
        answer: T = self._answers[key]
        return answer

    def _keep(self, key: Hashable, answer: object) -> None:
        self._answers[key] = answer
        while len(self._answers) > _MOST_ANSWERS:
            self._answers.popitem(last=False)

    def file(self, sha: str) -> Path:
        """Return where a stored file lies."""
        return self.database.files.path(sha)


def workplace(request: Request) -> Workplace:
    """Return the running app's workplace."""
    place: Workplace = request.app.state.workplace
    return place


Place = Annotated[Workplace, Depends(workplace)]
