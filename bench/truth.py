"""Traces measured against ground truth by the tracebench rig, beside what the tracing must reach."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

# Nothing, to three decimals of a percent.
_NO_GAP = 5e-6
# What must be reached for each row: column of the rig, the limit, and whether more is better.
TARGETS: dict[tuple[str, str], dict[str, tuple[float, bool]]] = {
    ("solid", "clean"): {"mean": (0.025, False), "p95": (0.06, False), "node_ratio": (1.05, False),
                         "corner_recall": (0.98, True), "corner_precision": (0.95, True)},
    ("solid", "jpeg"): {"mean": (0.030, False), "p95": (0.07, False), "node_ratio": (1.10, False),
                        "corner_recall": (0.97, True), "corner_precision": (0.95, True)},
    ("solid", "soft"): {"mean": (0.06, False), "p95": (0.14, False), "node_ratio": (1.20, False),
                        "corner_recall": (0.92, True), "corner_precision": (0.90, True)},
    ("solid", "large"): {"mean": (0.025, False), "p95": (0.06, False), "node_ratio": (1.10, False),
                         "corner_recall": (0.98, True), "corner_precision": (0.97, True)},
    ("flats", "clean"): {"mean": (0.06, False), "p95": (0.18, False), "node_ratio": (1.1, False),
                         "gap": (_NO_GAP, False), "delta_e": (0.15, False)},
    ("flats", "jpeg"): {"mean": (0.10, False), "p95": (0.30, False), "node_ratio": (1.2, False),
                        "gap": (_NO_GAP, False), "delta_e": (0.5, False)},
    ("flats", "soft"): {"mean": (0.14, False), "p95": (0.40, False), "node_ratio": (1.3, False),
                        "gap": (_NO_GAP, False), "delta_e": (0.6, False)},
    ("centreline", "clean"): {"missed_mean": (0.12, False), "stray_mean": (0.12, False),
                              "missed_p95": (0.45, False), "stray_p95": (0.45, False), "node_ratio": (1.3, False),
                              "stray_max": (2.5, False)},
    ("centreline", "jpeg"): {"missed_mean": (0.12, False), "stray_mean": (0.12, False),
                             "missed_p95": (0.45, False), "stray_p95": (0.45, False), "node_ratio": (1.3, False),
                             "stray_max": (2.5, False)},
    ("centreline", "soft"): {"missed_mean": (0.18, False), "stray_mean": (0.18, False),
                             "missed_p95": (0.65, False), "stray_p95": (0.65, False), "node_ratio": (1.4, False)},
}  # fmt: skip
# Ratios to the truth that must lie in a band.
BANDS: dict[tuple[str, str], dict[str, tuple[float, float]]] = {
    **{
        ("solid", degradation): {"self_crossing": (0, 0), "closed": (1, 1)}
        for degradation in ("clean", "jpeg", "soft", "large")
    },
    **{
        ("centreline", degradation): {"path_ratio": (0.9, 1.1), "length_ratio": (0.995, 1.005)}
        for degradation in ("clean", "jpeg")
    },
    ("centreline", "soft"): {"path_ratio": (0.9, 1.15), "length_ratio": (0.99, 1.01)},
}
_SEE_THROUGH = 0.0005
_COMMAND = "trace {image} --method {method} --colours {colours} --out {svg} --report {json}"


def measure_truth() -> bool:
    """Print the rig's table and how each figure stands to its limit; returns whether all are kept."""
    folder = Path(os.environ.get("TRACEBENCH", Path(__file__).parents[2] / "shared" / "tracebench"))
    if not (folder / "tracebench.py").exists():
        print("Traces against ground truth: the rig is not here. Set TRACEBENCH to its folder.")
        return True
    zeichen = Path(sys.executable).with_name("zeichen")
    kept = _rig_is_true(folder)
    rows = _rows(folder, f"{zeichen} {_COMMAND}")
    if rows is None:
        return False
    for row in rows:
        place = row["method"], row["degradation"]
        words = []
        for key, (limit, more) in TARGETS.get(place, {}).items():
            value = row[key]
            good = value is not None and (value >= limit if more else value <= limit + 1e-9)
            kept = kept and good
            words.append(f"{key} {value:.3f} {'kept' if good else f'MISSED ({limit:g})'}")
        for key, (low, high) in BANDS.get(place, {}).items():
            good = low <= row[key] <= high
            kept = kept and good
            words.append(f"{key} {row[key]:.3f} {'kept' if good else f'MISSED ({low:g}-{high:g})'}")
        print(f"  {row['method']} {row['degradation']}: " + ", ".join(words))
        kept = kept and row["failures"] == 0
    under = _rows(folder, f"{zeichen} {_COMMAND} --borders underlaid --width-mm 100", "--only", "flats")
    for row in under or []:
        good = row["see_through"] <= _SEE_THROUGH
        kept = kept and good
        print(
            f"  flats {row['degradation']}, underlaid: see_through {row['see_through']:.5f} "
            + ("kept" if good else f"MISSED ({_SEE_THROUGH:g})")
        )
    return kept and under is not None


def _rows(folder: Path, command: str, *more: str) -> list[dict[str, Any]] | None:
    """Run the rig with a tracer and print its table; returns the summary, None if there is none."""
    with tempfile.TemporaryDirectory() as scratch:
        results = Path(scratch, "results.json")
        done = subprocess.run(
            [sys.executable, folder / "tracebench.py", folder / "cases", "--jobs", "2", "--json", results,
             "--command", command, *more],
            text=True, capture_output=True, cwd=scratch, check=False,
        )  # fmt: skip
        print(done.stdout)
        if not results.exists():
            print(done.stderr)
            return None
        return list(json.loads(results.read_text())["summary"])


def _rig_is_true(folder: Path) -> bool:
    """Feed the rig with the truth itself: it must find nothing wrong with it."""
    rows = _rows(folder, "cp {truth} {svg}")
    off = [
        row[key]
        for row in rows or []
        for key in ("mean", "missed_mean", "stray_mean")
        if row.get(key) is not None
    ]
    good = bool(off) and max(off) < 1e-3
    print(
        f"  The rig fed with the truth: {max(off, default=float('nan')):.5f} px off, "
        + ("kept" if good else "MISSED")
    )
    return good
