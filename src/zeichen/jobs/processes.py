"""Where worker processes come from: one that has loaded everything, of which each worker is a copy at once.

Loading takes seconds, a copy takes hundredths of one: a worker that was ended (cancelled, dead, past its limits) is
replaced before anyone notices.
"""

import multiprocessing
from multiprocessing.context import ForkServerContext, SpawnContext


def worker_context() -> ForkServerContext:
    """Return the context to start workers in; the first start in an app waits until all is loaded."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["zeichen.jobs.loaded"])
    return context


def plain_context() -> SpawnContext:
    """Return the context to start workers in that load only what their work asks for, and no kernels."""
    return multiprocessing.get_context("spawn")
