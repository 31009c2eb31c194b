"""The compiled kernels, made ready as a job: at the first start on a machine, and after an update."""

import asyncio
import contextlib
import subprocess
import sys
from typing import Any

from zeichen.core.errors import OutsideError
from zeichen.core.tracing import warming
from zeichen.jobs.runner import JobContext, JobRunner
from zeichen.store.records import Job

KIND = "prepare"
_LABEL = "Getting the tracing ready, at the first start only"
_WAITS = "Tracing, forecasts and checks wait for it. Pictures can be drawn and brought in."
_EVERY_S = 1.0


async def prepare(context: JobContext) -> dict[str, Any]:
    """Compile the kernels in processes of their own; what needs them waits for it."""
    task = subprocess.Popen([sys.executable, "-m", warming.__name__])
    try:
        while task.poll() is None:
            context.stopped()
            await context.progress(await asyncio.to_thread(warming.share_done), _WAITS)
            await asyncio.sleep(_EVERY_S)
    finally:
        with contextlib.suppress(OSError):
            task.terminate()
    if task.returncode:
        raise OutsideError(
            "The tracing could not be made ready. The log of the server says more; run it again."
        )
    return {}


async def prepare_if_needed(runner: JobRunner) -> Job | None:
    """Queue the job unless all is there, and return it."""
    if await asyncio.to_thread(warming.is_ready):
        return None
    return await runner.submit(KIND, _LABEL, {})
