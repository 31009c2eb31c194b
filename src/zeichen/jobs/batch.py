"""Many pictures at once, here or on a cluster, behind the `concurrent.futures.Executor` seam."""

import multiprocessing
import signal
from collections.abc import Callable, Iterator, MutableSequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TypeVar
from urllib.parse import urlsplit

from zeichen.core.errors import InvalidInputError, OutsideError, ZeichenError
from zeichen.jobs.processes import worker_context

In = TypeVar("In")
Out = TypeVar("Out")
LOCAL = "local"
_PROCESSES = 2
# A cluster gives a task to another worker when one is lost, this many times.
_RETRIES = 3
# How often is looked at how far the work is, s.
_LOOK_S = 0.2
Step = Callable[[float], None]


@dataclass(frozen=True)
class Crew:
    """Who works, and where each says how far it is with what it is at (one share 0-1 an item); None if it cannot."""

    executor: Executor
    shares: MutableSequence[float] | None = None


@contextmanager
def executor_for(where: str, count: int = 0) -> Iterator[Crew]:
    """Give an executor: "local" for two processes here, "dask://HOST:PORT" for a Dask cluster.

    count: of the items there will be. Whatever ends the work early, a key or an error, ends the processes too.

    Raises
    ------
    InvalidInputError
        If the words mean neither.
    OutsideError
        If the cluster does not answer, or the extra it needs is not installed.
    """
    if where == LOCAL:
        context = worker_context()
        shares = context.Array("d", max(1, count), lock=False)
        pool = ProcessPoolExecutor(_PROCESSES, mp_context=context, initializer=_begin, initargs=(shares,))
        try:
            yield Crew(pool, shares)
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            for child in multiprocessing.active_children():
                child.kill()
            raise
        pool.shutdown()
        return
    try:
        parts = urlsplit(where)
        sound = parts.scheme == "dask" and parts.hostname and parts.port
    except ValueError:
        sound = False
    if not sound:
        raise InvalidInputError(f"An executor is local or dask://HOST:PORT; got {where}.")
    try:
        from distributed import Client
    except ImportError:
        raise OutsideError(
            "Sending work to a cluster needs an extra. Install it: pip install 'zeichen[cluster]'."
        ) from None
    try:
        client = Client(f"tcp://{parts.hostname}:{parts.port}", timeout=10, set_as_default=False)
    except OSError as error:
        raise OutsideError(
            f"No Dask scheduler answers at {parts.hostname}:{parts.port}. Start one with dask scheduler, and check "
            "the address."
        ) from error
    try:
        with client.get_executor(pure=False, retries=_RETRIES) as pool:
            try:
                yield Crew(pool)
            except BaseException:
                pool.shutdown(wait=False, cancel_futures=True)
                raise
    finally:
        client.close()


def run_batch(
    crew: Crew,
    work: Callable[[In, Step], Out],
    items: list[In],
    *,
    report: Step | None = None,
) -> Iterator[tuple[int, Out | ZeichenError]]:
    """Give the result of each item, or what was wrong with it, as they come: (its number, result).

    One bad item stops none of the others; a worker that died costs the items it was at.

    report: told now and then how much of everything is done, 0-1, what is half done too.
    """
    shares = crew.shares if crew.shares is not None and len(crew.shares) >= len(items) else None
    waiting: dict[Future[Out], int] = {
        crew.executor.submit(_worked, work, item, k if shares is not None else None): k
        for k, item in enumerate(items)
    }
    while waiting:
        ended, _ = wait(waiting, timeout=_LOOK_S if report else None, return_when=FIRST_COMPLETED)
        for future in ended:
            number = waiting.pop(future)
            try:
                yield number, future.result()
            except ZeichenError as error:
                yield number, error
            except BrokenProcessPool:
                yield (
                    number,
                    OutsideError(
                        "The worker process died, most likely for want of memory. Try a smaller picture."
                    ),
                )
        if report is not None:
            under_way = sum(shares[k] for k in waiting.values()) if shares is not None else 0.0
            report((len(items) - len(waiting) + under_way) / max(1, len(items)))


# In a worker: where it says how far it is.
_shares: MutableSequence[float] | None = None


def _begin(shares: MutableSequence[float]) -> None:
    global _shares
    _shares = shares
    # The key that ends a batch goes to every process of the terminal: who began it ends it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _worked(work: Callable[[In, Step], Out], item: In, number: int | None) -> Out:
    def step(share: float) -> None:
        if _shares is not None and number is not None:
            _shares[number] = min(1.0, share)

    return work(item, step)
