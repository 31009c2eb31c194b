"""Many pictures at once, here or on a cluster, behind the `concurrent.futures.Executor` seam."""

import multiprocessing
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from typing import TypeVar
from urllib.parse import urlsplit

from zeichen.core.errors import InvalidInputError, OutsideError, ZeichenError

In = TypeVar("In")
Out = TypeVar("Out")
LOCAL = "local"
_PROCESSES = 2
# A cluster gives a task to another worker when one is lost, this many times.
_RETRIES = 3


@contextmanager
def executor_for(where: str) -> Iterator[Executor]:
    """Give an executor: "local" for two processes here, "dask://HOST:PORT" for a Dask cluster.

    Raises
    ------
    InvalidInputError
        If the words mean neither.
    OutsideError
        If the cluster does not answer, or the extra it needs is not installed.
    """
    if where == LOCAL:
        with ProcessPoolExecutor(_PROCESSES, mp_context=multiprocessing.get_context("spawn")) as pool:
            yield pool
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
            yield pool
    finally:
        client.close()


def run_batch(
    executor: Executor, work: Callable[[In], Out], items: list[In]
) -> Iterator[tuple[int, Out | ZeichenError]]:
    """Give the result of each item, or what was wrong with it, as they come: (its number, result).

    One bad item stops none of the others; a worker that died costs the items it was at.
    """
    futures: dict[Future[Out], int] = {executor.submit(work, item): k for k, item in enumerate(items)}
    for future in as_completed(futures):
        number = futures[future]
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
