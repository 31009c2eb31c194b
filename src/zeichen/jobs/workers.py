"""Worker processes: each piece of work has a limit of time and memory, past which its worker is ended and replaced.

Workers only compute: they read files, return values, and never touch the database. Each watches the
app and ends with it, so a killed app leaves nothing running. Pebble's pool is used because it can end
one worker and leave the others at what they do.
"""

import asyncio
import contextlib
import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import TimeoutError as WorkTimeoutError
from concurrent.futures.process import BrokenProcessPool
from multiprocessing.connection import Connection
from multiprocessing.context import BaseContext
from pathlib import Path
from typing import ParamSpec, TypeVar

import cv2
from pebble import CONSTS, ProcessExpired, ProcessFuture, ProcessPool

from zeichen.core.errors import OutsideError, StoppedError
from zeichen.core.tracing import warming
from zeichen.jobs.limits import WorkLimits, within_memory
from zeichen.jobs.processes import plain_context, worker_context

P = ParamSpec("P")
T = TypeVar("T")

_channel: Connection | None = None
_REPORT_EVERY_S = 0.1
_PATIENCE_S = 3
# A worker that was told to end has this long, s, before it is killed; it has nothing to put in order.
CONSTS.term_timeout = 0.3


class ProgressChannel:
    """Carries (job id, share done) from workers to the app.

    A plain pipe: what is written in one piece of under 4096 bytes arrives whole (pipe(7), PIPE_BUF), so no lock is
    needed that a worker ended in the middle of a report would leave behind.
    """

    def __init__(self) -> None:
        self._reading, self.writing = multiprocessing.get_context("spawn").Pipe(duplex=False)

    def get(self) -> tuple[int, float] | None:
        """Wait for the next report; None once the channel is to be closed."""
        report: tuple[int, float] | None = self._reading.recv()
        return report

    def end(self) -> None:
        """Let the reader come to its end."""
        self.writing.send(None)

    def close(self) -> None:
        """Let go of the pipe."""
        self._reading.close()
        self.writing.close()


class WorkerPool:
    """A pool of processes; work past its limits ends with its worker, as does work nobody waits for any more."""

    def __init__(
        self,
        size: int,
        limits: WorkLimits,
        progress: ProgressChannel | None = None,
        *,
        context: Callable[[], BaseContext] = worker_context,
    ) -> None:
        self._size, self.limits, self._context = size, limits, context
        self._channel, self._progress = progress, None if progress is None else progress.writing
        # For what needs no kernels, as long as they are not there.
        self._plain: WorkerPool | None = None
        self._is_ready = False
        # Nothing is ever sent: the pipe ends with this process, however that ends.
        self._lifeline, self._held = multiprocessing.Pipe(duplex=False)
        self._rebuilding = threading.Lock()
        self._pool = self._build()

    async def run(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Run a function in a worker without blocking the event loop; cancelling this ends the worker.

        Raises
        ------
        TooMuchError
            If the work needed more time or memory than it may.
        OutsideError
            If the worker died of something else.
        """
        # In a thread: to ask starts the workers, which wait until all is loaded.
        pool = await asyncio.to_thread(self._working)
        try:
            scheduling = asyncio.ensure_future(
                asyncio.to_thread(
                    pool.schedule,
                    within_memory,
                    args=(self.limits, work, *args),
                    kwargs=kwargs,
                    timeout=self.limits.time_s,
                )
            )
            try:
                future = await asyncio.shield(scheduling)
            except asyncio.CancelledError:
                scheduling.add_done_callback(_forget)
                raise
            result: T = await asyncio.wrap_future(future)
            return result
        except WorkTimeoutError as error:
            raise self.limits.took_too_long() from error
        except ProcessExpired as error:
            # A library that is refused memory and does not expect it ends its process by one of these signals.
            if -(error.exitcode or 0) in (signal.SIGABRT, signal.SIGSEGV, signal.SIGKILL):
                raise self.limits.took_too_much() from error
            raise _died() from error
        except (BrokenProcessPool, RuntimeError) as error:
            if pool.active:
                raise
            self._rebuilt(pool)
            raise _died() from error

    async def run_plain(self, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Run what needs no kernels, as `run` does, but without waiting for them where they are being compiled."""
        return await (await asyncio.to_thread(self._for_plain)).run(work, *args, **kwargs)

    async def warm_up(self) -> None:
        """Start the workers, so that the first real call does not wait for it."""
        await asyncio.to_thread(self._pool.schedule, int)

    def close(self) -> None:
        """Stop the workers without waiting for what they are at."""
        if self._plain is not None:
            self._plain.close()
        self._pool.stop()
        with contextlib.suppress(TimeoutError):
            self._pool.join(_PATIENCE_S)
        self._held.close()
        self._lifeline.close()

    def _for_plain(self) -> "WorkerPool":
        with self._rebuilding:
            if not self._is_ready:
                self._is_ready = warming.is_ready()
                if self._is_ready and self._plain is not None:
                    # What it is at is done to its end.
                    self._plain._pool.close()
            if self._is_ready:
                return self
            if self._plain is None:
                self._plain = WorkerPool(1, self.limits, self._channel, context=plain_context)
            return self._plain

    def _working(self) -> ProcessPool:
        pool = self._pool
        return pool if pool.active else self._rebuilt(pool)

    def _rebuilt(self, broken: ProcessPool) -> ProcessPool:
        with self._rebuilding:
            if self._pool is broken:
                self._pool = self._build()
            return self._pool

    def _build(self) -> ProcessPool:
        return ProcessPool(
            self._size,
            context=self._context(),
            initializer=_start_worker,
            initargs=(self._lifeline, self._progress),
        )


def _forget(scheduling: "asyncio.Future[ProcessFuture]") -> None:
    """End work that was asked for and given up before it was under way."""
    if not scheduling.cancelled() and scheduling.exception() is None:
        scheduling.result().cancel()


def _died() -> OutsideError:
    return OutsideError("The worker process died. Nothing was lost; run it again.")


def _start_worker(lifeline: Connection, channel: Connection | None) -> None:
    global _channel
    _channel = channel
    # The key that ends a command goes to every process of the terminal: who began the work ends it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # Ended at once, even inside a compiled function, where a handler of Python's would have to wait.
    signal.signal(signal.SIGTERM, signal.SIG_DFL)

    def watch() -> None:
        with contextlib.suppress(EOFError, OSError):
            lifeline.recv()
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()
    # None were started in the process this one is a copy of.
    cv2.setNumThreads(-1)


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
            _channel.send((self._job_id, share))
