"""Proof: findings at true size, judged by a yardstick, and the mends that repair them."""

from typing import TYPE_CHECKING, Any

from zeichen.core.proofing.yardstick import Limits, Process, Yardstick, usual_limits

if TYPE_CHECKING:
    from zeichen.core.proofing.findings import Finding, Kind, Proof, Readings, proof
    from zeichen.core.proofing.mends import delete_shapes, drop_specks
    from zeichen.core.proofing.narrow import NarrowPlace, narrow_places

__all__ = [
    "Finding",
    "Kind",
    "Limits",
    "NarrowPlace",
    "Process",
    "Proof",
    "Readings",
    "Yardstick",
    "delete_shapes",
    "drop_specks",
    "narrow_places",
    "proof",
    "usual_limits",
]


def __getattr__(name: str) -> Any:
    """Load what judges a drawing when it is first asked for: the command line names yardsticks long before."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from zeichen.core.proofing import findings, mends, narrow

    for module in (findings, mends, narrow):
        if hasattr(module, name):
            return getattr(module, name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
