"""Proof: findings at true size, judged by a yardstick, and the mends that repair them."""

from typing import TYPE_CHECKING, Any

from zeichen.core.proofing.yardstick import Limits, Process, Yardstick, usual_limits

if TYPE_CHECKING:
    from zeichen.core.proofing.findings import proof
    from zeichen.core.proofing.kinds import Finding, How, Kind, Proof, Readings
    from zeichen.core.proofing.mending import Mended, mend_all
    from zeichen.core.proofing.mends import mend
    from zeichen.core.proofing.narrow import NarrowPlace, narrow_places

__all__ = [
    "Finding",
    "How",
    "Kind",
    "Limits",
    "Mended",
    "NarrowPlace",
    "Process",
    "Proof",
    "Readings",
    "Yardstick",
    "mend",
    "mend_all",
    "narrow_places",
    "proof",
    "usual_limits",
]


def __getattr__(name: str) -> Any:
    """Load what judges a drawing when it is first asked for: the command line names yardsticks long before."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from zeichen.core.proofing import findings, kinds, mending, mends, narrow

    for module in (kinds, findings, mends, mending, narrow):
        if hasattr(module, name):
            return getattr(module, name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
