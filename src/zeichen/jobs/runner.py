"""The job queue: each job is a row first, then work, then a result, and every change is an event."""

import asyncio
import logging
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from zeichen.core.errors import ConflictError, InvalidInputError, StoppedError, ZeichenError
from zeichen.jobs.turns import LargeTurns
from zeichen.jobs.workers import ProgressChannel, Reporter, WorkerPool
from zeichen.store import jobs as job_store
from zeichen.store.database import Database
from zeichen.store.records import Job

log = logging.getLogger("zeichen.jobs")
Watcher = asyncio.Queue[Job]
# A job that was asked to stop has this long, s, to do so at its next step; then its worker is ended.
_GRACE_S = 0.4


@dataclass
class JobContext:
    """What a job's work may use. `step` goes to the worker, `progress` tells from here."""

    database: Database
    pool: WorkerPool
    job_id: int
    params: dict[str, Any]
    step: Reporter
    progress: Callable[[float, str], Awaitable[None]]
    stopped: Callable[[], None]
    large: LargeTurns


Work = Callable[[JobContext], Awaitable[dict[str, Any]]]


@dataclass
class JobRunner:
    """Runs jobs one by one in the background pool, as many at once as it has workers."""

    database: Database
    pool: WorkerPool
    channel: ProgressChannel
    kinds: dict[str, Work]
    at_once: int = 1
    large: LargeTurns = field(default_factory=LargeTurns)
    # The kind of job that others wait for, in processes of its own and not in the pool; and the kinds that need not.
    prepares: str = ""
    plain: frozenset[str] = frozenset()
    _tasks: dict[int, asyncio.Task[None]] = field(default_factory=dict)
    _watchers: set[Watcher] = field(default_factory=set)
    _gate: asyncio.Semaphore | None = None
    # News of a job go out in the order in which they were kept: "done" must never be followed by "running".
    _telling: asyncio.Lock = field(default_factory=asyncio.Lock)

    async def start(self) -> None:
        """Clear up after a dead app, mark what it left unfinished, and listen to the workers."""
        self._gate = asyncio.Semaphore(self.at_once)
        self.stop_folder.mkdir(parents=True, exist_ok=True)
        for leftover in self.stop_folder.iterdir():
            leftover.unlink(missing_ok=True)
        await asyncio.to_thread(self.database.files.sweep)
        with self.database.write() as session:
            job_store.interrupt_unfinished(session)
        loop = asyncio.get_running_loop()
        self._listener = asyncio.create_task(self._listen(loop))

    async def close(self) -> None:
        """Stop listening; unfinished jobs are marked at the next start."""
        self.channel.end()
        for task in self._tasks.values():
            task.cancel()
        await asyncio.gather(*self._tasks.values(), return_exceptions=True)
        await self._listener
        self.channel.close()

    @property
    def stop_folder(self) -> Path:
        """Where a file named after a job asks its worker to stop."""
        return self.database.folder / "stops"

    async def submit(self, kind: str, label: str, params: dict[str, Any]) -> Job:
        """Queue a job and return it as it stands."""
        if kind not in self.kinds:
            raise InvalidInputError(f"There is no job of the kind {kind}.")
        # A client that hangs up must not leave a row behind that nothing works on.
        return await asyncio.shield(self._start(kind, label, params))

    async def _start(self, kind: str, label: str, params: dict[str, Any]) -> Job:
        job_id = await asyncio.to_thread(self._add, kind, label, params)
        self._tasks[job_id] = asyncio.create_task(self._run(job_id, kind, params), name=kind)
        return await self._publish(job_id)

    async def wait(self, job_id: int) -> Job:
        """Return a job once it has ended."""
        task = self._tasks.get(job_id)
        if task is not None:
            await asyncio.wait([task])
        return await asyncio.to_thread(self._get, job_id)

    async def cancel(self, job_id: int) -> Job:
        """Ask a job to stop; one that has not started stops at once, one that does not listen is ended."""
        job = await asyncio.to_thread(self._get, job_id)
        if job.state not in job_store.UNFINISHED:
            raise ConflictError(f"The job is {job.state} already; there is nothing to cancel.")
        await asyncio.to_thread((self.stop_folder / str(job_id)).touch)
        task = self._tasks.get(job_id)
        if task is not None:
            asyncio.get_running_loop().call_later(_GRACE_S if job.state == "running" else 0, task.cancel)
        return job

    async def again(self, job_id: int) -> Job:
        """Queue a finished, failed or interrupted job once more; the new one takes its place."""
        job = await asyncio.to_thread(self._get, job_id)
        if job.state in job_store.UNFINISHED:
            raise ConflictError("The job is still under way.")
        if job.kind not in self.kinds:
            raise ConflictError(
                f"This Zeichen knows no job of the kind {job.kind}. Start the work anew instead."
            )
        return await asyncio.shield(self._repeat(job))

    async def _repeat(self, job: Job) -> Job:
        following = await self._start(job.kind, job.label, job.params)
        await self._change(job.id, again_id=following.id)
        return following

    async def again_all(self) -> list[Job]:
        """Queue once more all that failed or was interrupted; what would ask a generator at an address is left."""

        def undone() -> list[Job]:
            with self.database.read() as session:
                return job_store.undone_jobs(session)

        waiting = [job for job in await asyncio.to_thread(undone) if not job.params.get("generator")]
        return [await self.again(job.id) for job in waiting if job.kind in self.kinds]

    def watch(self) -> Watcher:
        """Return a queue that receives every change of every job."""
        watcher: Watcher = asyncio.Queue(maxsize=500)
        self._watchers.add(watcher)
        return watcher

    def unwatch(self, watcher: Watcher) -> None:
        """Stop sending to a queue."""
        self._watchers.discard(watcher)

    @asynccontextmanager
    async def _place(self, kind: str) -> AsyncIterator[None]:
        """Wait for one of the pool's places; who waits for what is prepared takes none from others meanwhile."""
        assert self._gate is not None
        if kind == self.prepares:
            yield
            return
        preparing = [task for task in self._tasks.values() if task.get_name() == self.prepares]
        if preparing and kind not in self.plain:
            await asyncio.wait(preparing)
        async with self._gate:
            yield

    async def _run(self, job_id: int, kind: str, params: dict[str, Any]) -> None:
        stop_file = self.stop_folder / str(job_id)

        def stopped() -> None:
            if stop_file.exists():
                raise StoppedError("Cancelled.")

        async def progress(share: float, message: str) -> None:
            await self._change(job_id, progress=share, message=message)

        try:
            async with self._place(kind):
                stopped()
                await self._change(job_id, state="running")
                context = JobContext(
                    self.database,
                    self.pool,
                    job_id,
                    params,
                    Reporter(job_id, stop_file),
                    progress,
                    stopped,
                    self.large,
                )
                result = await self.kinds[kind](context)
            await self._change(job_id, state="done", progress=1.0, message="", result=result)
        except (StoppedError, asyncio.CancelledError) as error:
            if isinstance(error, asyncio.CancelledError) and not stop_file.exists():
                raise
            await self._change(
                job_id, state="cancelled", message="Cancelled. What was finished before is kept."
            )
        except ZeichenError as error:
            await self._change(job_id, state="failed", message=str(error))
        except Exception:
            log.exception("job %s failed", job_id)
            await self._change(
                job_id,
                state="failed",
                message="Something went wrong inside Zeichen. The log of the "
                "server says more; the job can be run again.",
            )
        finally:
            stop_file.unlink(missing_ok=True)
            self._tasks.pop(job_id, None)

    async def _listen(self, loop: asyncio.AbstractEventLoop) -> None:
        while True:
            message = await loop.run_in_executor(None, self.channel.get)
            if message is None:
                return
            job_id, share = message
            if job_id in self._tasks:
                try:
                    await self._change(job_id, progress=float(share))
                except ZeichenError:
                    log.exception("progress of job %s was not kept", job_id)

    def _add(self, kind: str, label: str, params: dict[str, Any]) -> int:
        with self.database.write() as session:
            return job_store.add_job(session, kind, label, params)

    def _get(self, job_id: int) -> Job:
        with self.database.read() as session:
            return job_store.job(session, job_id)

    async def _change(self, job_id: int, **columns: Any) -> None:
        def change() -> None:
            with self.database.write() as session:
                # A late progress report must not wake a job that has ended.
                if (
                    set(columns) <= {"progress", "message"}
                    and job_store.job(session, job_id).state != "running"
                ):
                    return
                job_store.change_job(session, job_id, **columns)

        async with self._telling:
            await asyncio.to_thread(change)
            await self._tell(job_id)

    async def _publish(self, job_id: int) -> Job:
        async with self._telling:
            return await self._tell(job_id)

    async def _tell(self, job_id: int) -> Job:
        job = await asyncio.to_thread(self._get, job_id)
        for watcher in list(self._watchers):
            # A watcher that has fallen behind loses the oldest news, never the newest.
            if watcher.full():
                watcher.get_nowait()
            watcher.put_nowait(job)
        return job
