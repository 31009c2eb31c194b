"""What a running app holds: the data folder, the worker pools, the job runner, and short-lived answers."""

import asyncio
from collections import OrderedDict
from collections.abc import Awaitable, Callable, Hashable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Request

from zeichen.core.errors import ConflictError, ZeichenError
from zeichen.core.proofing import Yardstick
from zeichen.jobs import tasks
from zeichen.jobs.forecasts import ForecastData
from zeichen.jobs.http_generator import HttpGeneratorSettings
from zeichen.jobs.live import NewestWins
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.settings import Settings
from zeichen.jobs.workers import WorkerPool
from zeichen.store import collections, workshop
from zeichen.store.database import Database

T = TypeVar("T")
GENERATOR = "generator"
_MOST_ANSWERS = 4000


@dataclass
class Workplace:
    """Handed to every route.

    live: answers what someone waits for. foreign: reads files from elsewhere. The runner's own pool does jobs.
    """

    settings: Settings
    database: Database
    live: WorkerPool
    foreign: WorkerPool
    runner: JobRunner
    newest: NewestWins = field(default_factory=NewestWins)
    _answers: "OrderedDict[Hashable, Any]" = field(default_factory=OrderedDict)
    # Forecasts and verdicts take turns, so that a knob being dragged always finds a free worker.
    _unhurried: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(1))

    def yardstick_of_motif(self, motif_id: int) -> Yardstick:
        """Return what a motif's collection is judged by."""
        with self.database.read() as session:
            return collections.yardstick_of_motif(session, motif_id)

    def generator(self) -> dict[str, Any]:
        """Return who draws the pictures, as it was set up."""
        with self.database.read() as session:
            return workshop.workshop_value(session, GENERATOR)

    def set_generator(self, value: dict[str, Any]) -> None:
        """Choose who draws the pictures."""
        if value["kind"] == "http":
            http_settings(value)
        with self.database.write() as session:
            workshop.put_workshop_value(session, GENERATOR, value)

    def draws_by_address(self) -> bool:
        """Whether pictures come from an address and not from the stand-in."""
        return bool(self.generator().get("kind") == "http")

    def spend(self, count: int, *, confirmed: bool) -> dict[str, Any]:
        """Return what a drawing job needs to know of who draws; what an address may be asked for is counted.

        Raises
        ------
        ConflictError
            If the maker has not agreed yet, or the allowance is too small.
        """
        with self.database.write() as session:
            value = workshop.workshop_value(session, GENERATOR)
            if value.get("kind") != "http":
                return {"faults": value.get("faults", 1.0)}
            settings = http_settings(value)
            left = settings.allowance
            if left is not None and count > left:
                raise ConflictError(
                    f"This would ask {settings.name} for {count} pictures, but its allowance has {left} left. "
                    "Draw fewer, or raise the allowance in the Workshop."
                )
            if not confirmed:
                raise ConflictError(
                    f"{settings.name} would be asked for {count} pictures. Agree to that first."
                )
            if left is not None:
                value["allowance"] = left - count
                workshop.put_workshop_value(session, GENERATOR, value)
            return {"generator": asdict(settings)}

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

    async def drawing_or_problem(
        self, svg_sha: str, yardstick: Yardstick, *, unhurried: bool = False
    ) -> tuple[tasks.DrawingData | None, str]:
        """Return a stored drawing, judged; if that cannot be, None and why, in a sentence."""
        try:
            return await self.drawing(svg_sha, yardstick, unhurried=unhurried), ""
        except ZeichenError as error:
            return None, str(error)

    def remember_drawing(self, svg_sha: str, yardstick: Yardstick, data: tasks.DrawingData) -> None:
        """Take note of a drawing that has been judged already."""
        self._keep(("drawing", self.database.files.path(svg_sha), yardstick), data)

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


def http_settings(value: dict[str, Any]) -> HttpGeneratorSettings:
    """Return the settings of a generator at an address; InvalidInputError if they cannot work."""
    return HttpGeneratorSettings(
        value["address"],
        value["name"] or "local generator",
        value["licence"],
        value["timeout_s"],
        value["tries"],
        value["allowance"],
        value.get("outside_confirmed", False),
    )


def workplace(request: Request) -> Workplace:
    """Return the running app's workplace."""
    place: Workplace = request.app.state.workplace
    return place


Place = Annotated[Workplace, Depends(workplace)]
