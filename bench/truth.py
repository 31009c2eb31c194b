"""Traces measured against ground truth by the tracebench rig, beside what the tracing must reach."""

import importlib
import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

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
# A line lies on another where it is this near to it and runs the same way, to so much of a cosine; not on itself,
# unless so much further along it.
_ON_IT_PX, _SAME_WAY, _FURTHER_PX = 0.25, 0.99, 6.0
_STEP_PX = 0.25
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
        if row["method"] == "centreline" and row["degradation"] == "clean":
            once = _drawn_once(folder)
            print(
                f"    (of the truths' length {once:.4f} is drawn once: lines on top of others nobody sees; "
                f"length against that {row['length_ratio'] / once:.4f})"
            )
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


def _drawn_once(folder: Path) -> float:
    """Return which share of the line drawings' true length lies on no line drawn before it, mean over the pictures."""
    sys.path.insert(0, str(folder))
    rig = importlib.import_module("tracebench")
    cases = json.loads((folder / "cases" / "cases.json").read_text())
    shares = []
    for case in cases if isinstance(cases, list) else cases["cases"]:
        if case["method"] != "centreline" or case["degradation"] != "clean":
            continue
        shapes = rig.read_shapes(folder / "cases" / case["truth"], case["width"], case["height"])
        lines = [subpath.flatten() for shape in shapes if shape.stroke for subpath in shape.subpaths]
        shares.append(_share_on_none(lines))
    return float(np.mean(shares))


def _share_on_none(lines: list[Any]) -> float:
    """Return the share of some polylines' length that does not lie on one before it, or on an earlier stretch."""
    places, ways, alongs, owners = [], [], [], []
    for number, line in enumerate(lines):
        run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        count = max(2, int(np.ceil(run[-1] / _STEP_PX)))
        at = (np.arange(count) + 0.5) * run[-1] / count
        place = np.column_stack([np.interp(at, run, line[:, axis]) for axis in range(2)])
        way = np.gradient(place, axis=0)
        places.append(place)
        ways.append(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])
        alongs.append(at)
        owners.append(np.full(count, number))
    place, way, along, owner = (np.concatenate(each) for each in (places, ways, alongs, owners))
    pairs = cKDTree(place).query_pairs(_ON_IT_PX, output_type="ndarray")
    first, second = pairs.min(axis=1), pairs.max(axis=1)
    same_way = np.abs((way[first] * way[second]).sum(axis=1)) > _SAME_WAY
    apart = (owner[first] != owner[second]) | (np.abs(along[first] - along[second]) > _FURTHER_PX)
    again = np.zeros(len(place), np.bool_)
    again[second[same_way & apart]] = True
    return float(1.0 - again.mean())
