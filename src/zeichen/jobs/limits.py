"""How much one piece of work may take: seconds, and memory that the system refuses to go beyond.

The memory limit is the kernel's RLIMIT_DATA (getrlimit(2), "data segment", private writable mappings since Linux
4.7): an allocation beyond it fails, in Python as MemoryError, in a library that does not expect it as the end of
its process. Either becomes a sentence, and neither takes memory from the rest of the machine.
"""

import resource
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import ParamSpec, TypeVar

import cv2

from zeichen.core.errors import TooMuchError
from zeichen.core.values import require_number

P = ParamSpec("P")
T = TypeVar("T")
_PAGE_BYTES = resource.getpagesize()
_MB = 1_000_000


@dataclass(frozen=True, slots=True)
class WorkLimits:
    """What one piece of work may take. memory_mb counts the worker's own 200 to 300 MB, too."""

    time_s: float
    memory_mb: int

    def __post_init__(self) -> None:
        require_number(self.time_s, "Time limit", least=0.1, most=86_400, unit="s")
        require_number(self.memory_mb, "Memory limit", least=400, most=1_000_000, unit="MB")

    def took_too_long(self) -> TooMuchError:
        """Return what is said of work that was ended for its time."""
        return TooMuchError(
            f"This took longer than {self.time_s:g} s and was ended; nothing was kept of it. "
            "Try a simpler drawing or a smaller picture."
        )

    def took_too_much(self) -> TooMuchError:
        """Return what is said of work that was ended for its memory."""
        return TooMuchError(
            f"This needed more than {self.memory_mb} MB of memory and was ended; nothing was kept of it. "
            "Try a simpler drawing or a smaller picture."
        )


def within_memory(limits: WorkLimits, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
    """Run work in this process with a bound on its memory.

    Raises
    ------
    TooMuchError
        If it needed more.
    """
    _bound_memory(limits.memory_mb * _MB)
    try:
        return work(*args, **kwargs)
    except MemoryError as error:
        raise limits.took_too_much() from error
    except cv2.error as error:
        if error.code != cv2.Error.StsNoMem:
            raise
        raise limits.took_too_much() from error
    except RecursionError as error:
        raise TooMuchError(
            "This is nested more deeply than Zeichen can follow; nothing was kept of it."
        ) from error


def _bound_memory(most_bytes: int) -> None:
    """Let this process grow to a resident size and no further.

    What it has mapped already without using it (compiled code, stacks of threads) is not counted against it.
    """
    resident_bytes, mapped_bytes = _memory_bytes()
    room = max(most_bytes - resident_bytes, 0)
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    most = mapped_bytes + room
    resource.setrlimit(
        resource.RLIMIT_DATA, (most if hard == resource.RLIM_INFINITY else min(most, hard), hard)
    )


def _memory_bytes() -> tuple[int, int]:
    """Return what this process holds in memory, and the private writable memory it has mapped (proc(5), statm)."""
    _, resident, _, _, _, data, _ = Path("/proc/self/statm").read_text().split()
    return int(resident) * _PAGE_BYTES, int(data) * _PAGE_BYTES
