"""Proof: findings at true size, judged by a yardstick, and the mends that repair them."""

from zeichen.core.proofing.findings import Finding, Kind, Proof, Readings, proof
from zeichen.core.proofing.mends import delete_shapes, drop_specks
from zeichen.core.proofing.narrow import NarrowPlace, narrow_places
from zeichen.core.proofing.yardstick import Limits, Process, Yardstick, usual_limits

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
