"""How often the forecast agrees with what tracing then shows, and how long it takes."""

import json
import os
from pathlib import Path

import cv2

from bench.timing import in_turns, line
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.picture import read_picture
from zeichen.core.proofing import Process, Yardstick, proof
from zeichen.core.proofing.forecast import Verdict, forecast
from zeichen.core.raster import Picture
from zeichen.core.tracing import Method, TraceSettings, trace
from zeichen.jobs.forecasts import forecast_picture
from zeichen.standins.studio import SUBJECTS, Fault, Studio

_PROMISED_S = 0.150
# A trace is fine when it lies this near to the picture, as a share of the thinnest part.
_NEAR = 0.25
# What a maker would have to mend that the picture, not the drawing's use, brought about.
_TROUBLE = {"thin_part", "small_gap", "speck", "self_crossing"}
# A narrow place of less than this share of the limit is the slender end of something, not a part.
_SLENDER = 0.3
# The reasons by which a fault is named. A forecast gives two or three reasons, so not every fault is.
_NAMED = {
    Fault.SHADOW: {"ground", "gradient", "painted"},
    Fault.GRADIENT: {"gradient", "painted"},
    Fault.TEXTURE: {"texture", "ground", "painted"},
    Fault.SIGNATURE: {"signature"},
    Fault.SPECKS: {"specks"},
    Fault.BLOCKS: {"noise"},
    Fault.CUT_OFF: {"border"},
}


def measure_forecasts() -> bool:
    """Print the agreement, picture set by picture set, and the time; returns whether 150 ms hold."""
    print("Forecast beside what tracing then shows: findings over specks and widths, deviation, refusals")
    engrave = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
    cut = Yardstick.usual(Process.LASER_CUT, width_mm=120)
    for name, pictures, yardstick in (
        ("open sets, laser engraving", _open_sets(), engrave),
        ("open sets, laser cutting", _open_sets(), cut),
        ("studio without faults", _studio(0.0), engrave),
        ("studio, faults as usual", _studio(1.0), engrave),
        ("studio, many faults", _studio(3.0), engrave),
    ):
        counts = {(said, shown): 0 for said in (True, False) for shown in (True, False)}
        for picture, method in pictures:
            said = forecast(picture, yardstick).verdict is Verdict.TRACES_WELL
            counts[said, _traces_well(picture, method, yardstick)] += 1
        total = sum(counts.values())
        if total:
            agree = counts[True, True] + counts[False, False]
            print(
                f"  {name:<28} {agree:3d} of {total:3d} agree ({100 * agree / total:3.0f} %); said well and was not "
                f"{counts[True, False]}, said not and was well {counts[False, True]}"
            )
    _known_faults(engrave)
    picture = Studio().draw(SketchOrder("hedgehog", Look.SILHOUETTE, 41))
    mine, theirs = in_turns(
        lambda: forecast_picture(picture, engrave),
        lambda: cv2.connectedComponentsWithStats((picture.grey() < 128).astype("uint8")),
    )
    good = mine < _PROMISED_S
    line("  1024 px, all readings", mine, theirs, "connectedComponents", "under 150 ms", good)
    return good


def _traces_well(picture: Picture, method: Method, yardstick: Yardstick) -> bool:
    try:
        result = trace(picture, TraceSettings(method=method, min_spot_px2=4.0))
    except InvalidInputError:
        return False
    judged = proof(result.drawing, yardstick)
    limits = {"thin_part": yardstick.limits.thin_mm, "small_gap": yardstick.limits.gap_mm}
    trouble = [
        finding
        for finding in judged.findings
        if finding.kind.value in _TROUBLE
        and finding.measured >= _SLENDER * limits.get(finding.kind.value, 0.0)
    ]
    scale = yardstick.finished_width_mm(result.drawing) / max(1.0, _figure_width(result.drawing))
    return not trouble and result.deviation.p95_px * scale <= _NEAR * yardstick.limits.thin_mm


def _figure_width(drawing) -> float:
    x_min, _, x_max, _ = drawing.bounds()
    return x_max - x_min


def _open_sets() -> list[tuple[Picture, Method]]:
    folder = Path(os.environ.get("TRACEBENCH", Path(__file__).parents[2] / "shared" / "tracebench")) / "cases"
    if not (folder / "cases.json").exists():
        return []
    cases = json.loads((folder / "cases.json").read_text())["cases"]
    return [
        (read_picture((folder / case["image"]).read_bytes()), Method(case["method"]))
        for case in cases
        if case["method"] != "centreline" and case["degradation"] != "large"
    ]


def _studio(faults: float) -> list[tuple[Picture, Method]]:
    studio = Studio(faults=faults)
    return [
        (studio.draw(SketchOrder(subject, look, 7)), Method.FLATS if look is Look.FLAT else Method.SOLID)
        for subject in list(SUBJECTS)[::5]
        for look in Look
    ]


def _known_faults(yardstick: Yardstick) -> None:
    """Print how often the forecast names a fault that is in the picture, and one that is not."""
    print("Faults put into the studio's pictures, and how often the forecast names them")
    studio = Studio(faults=3)
    seen = []
    for number, subject in enumerate(list(SUBJECTS)[::2]):
        for look in (Look.SILHOUETTE, Look.LINE, Look.FLAT):
            for seed in (3, 4):
                made = studio.draw_openly(SketchOrder(subject, look, 100 * number + seed))
                found = forecast(made.picture, yardstick)
                seen.append((made.faults, {reason.kind for reason in found.reasons}))
    for fault, kinds in _NAMED.items():
        there = [bool(kinds & reasons) for faults, reasons in seen if fault in faults]
        clean = [bool(kinds & reasons) for faults, reasons in seen if not faults - {Fault.WRONG_LOOK}]
        print(
            f"  {fault.value:<24} named in {sum(there):3d} of {len(there):3d} that have it, "
            f"in {sum(clean):3d} of {len(clean):3d} without any fault"
        )
