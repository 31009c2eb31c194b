"""Worker processes behind the `concurrent.futures.Executor` seam.

Workers only compute: they read files, return values, and never touch the database. Each watches its
parent and ends with it, so a killed app leaves nothing running.
"""

import asyncio
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Executor, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import partial
from multiprocessing.queues import Queue
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

from zeichen.core.errors import OutsideError, StoppedError

P = ParamSpec("P")
T = TypeVar("T")
ProgressQueue = Queue  # of (job id, share done)

_channel: "Any | None" = None
_REPORT_EVERY_S = 0.1
_PATIENCE_S = 3


class WorkerPool:
    """A process pool that is rebuilt when a worker dies."""

    def __init__(
        self, size: int, progress: "Any | None" = None, *, warm: Callable[[], None] | None = None
    ) -> None:
        self._size, self._progress, self._warm = size, progress, warm
        self._executor = self._build()

    async def run(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Run a function in a worker without blocking the event loop.

        Raises
        ------
        OutsideError
            If the worker died, for example for want of memory.
        """
        loop = asyncio.get_running_loop()
        executor = self._executor
        try:
            return await loop.run_in_executor(executor, partial(work, *args, **kwargs))
        except BrokenProcessPool as error:
            if executor is self._executor:
                self._executor = self._build()
            raise OutsideError(
                "The worker process died, most likely for want of memory. Try a smaller picture or run it again."
            ) from error

    def warm_up(self) -> None:
        """Start a worker and let it load what the first real call would wait for."""
        if self._warm is not None:
            self._executor.submit(self._warm)

    def close(self) -> None:
        """Stop the workers without waiting for what they are at."""
        workers = list((getattr(self._executor, "_processes", None) or {}).values())
        self._executor.shutdown(wait=False, cancel_futures=True)
        for worker in workers:
            worker.terminate()
        for worker in workers:
            worker.join(_PATIENCE_S)

    def _build(self) -> Executor:
        executor = ProcessPoolExecutor(
            self._size,
            mp_context=multiprocessing.get_context("spawn"),
            initializer=_start_worker,
            initargs=(os.getpid(), self._progress),
        )
        return executor


def progress_queue() -> Any:
    """Return a queue that workers report on."""
    return multiprocessing.get_context("spawn").Queue()


def _start_worker(parent: int, channel: Any) -> None:
    global _channel
    _channel = channel

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(0.5)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


class Reporter:
    """Called by long work with a share 0-1: passes it on, and stops the work if its stop file exists."""

    def __init__(self, job_id: int, stop_file: Path) -> None:
        self._job_id, self._stop_file = job_id, stop_file
        self._last = 0.0

    def __call__(self, share: float) -> None:
        if self._stop_file.exists():
            raise StoppedError("Cancelled.")
        moment = time.monotonic()
        if _channel is not None and (moment - self._last > _REPORT_EVERY_S or share >= 1):
            self._last = moment
            _channel.put((self._job_id, share))
