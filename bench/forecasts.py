"""How often the forecast agrees with what tracing then shows, and how long it takes."""

import json
import os
import time
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from statistics import median

import cv2

from bench.open_pictures import KINDS, open_pictures, wrong_pictures
from bench.timing import in_turns, line
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.forecasting.forecast import Verdict, forecast
from zeichen.core.formats.picture import read_picture
from zeichen.core.geometry import Drawing
from zeichen.core.methods import Method
from zeichen.core.proofing import Kind, Process, Yardstick, proof
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import SUBJECTS, Fault, Studio

_PROMISED_S = 0.150
# A trace is fine when it lies this near to the picture, as a share of the thinnest part; a tenth of a millimetre
# off shows on nothing that is made (common practice, no source).
_NEAR, _SEEN_MM = 0.25, 0.1
# What a maker would have to mend or clean up.
_TROUBLE = {
    Kind.THIN_PART, Kind.SMALL_GAP, Kind.SPECK, Kind.PIN_HOLE, Kind.LOOSE_PIECE, Kind.COLOURS, Kind.SELF_CROSSING,
    Kind.BORDER_GAP,
}  # fmt: skip
# Pictures of each kind.
_EACH = 24
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
    """Print how forecasts agree with what tracing then shows, picture kind by kind; returns whether 150 ms hold."""
    print("Forecast beside what tracing then shows: findings of the proof, deviation, refusals")
    engrave = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
    uses = {
        "engrave": engrave,
        "cut": Yardstick.usual(Process.LASER_CUT, width_mm=120),
        "relief": Yardstick.usual(Process.RELIEF, width_mm=100),
    }
    took: list[float] = []
    whole: Counter[tuple[bool, bool]] = Counter()
    for kind in KINDS:
        whole += _confusion(
            kind, ((each.picture, None) for each in open_pictures(kind, _EACH, seed=77)), uses, took
        )
    _sum_up("open sets, all", whole)
    _confusion("tracebench", _tracebench(), uses, took)
    for faults in (0.0, 1.0, 3.0):
        _confusion(f"studio, faults x {faults:g}", _studio(faults), {"engrave": engrave}, took)
    _wrong_kinds(engrave)
    _known_faults(engrave)
    print(f"  Of {len(took)} forecasts half took under {1000 * median(took):.0f} ms")
    picture = Studio().draw(SketchOrder("hedgehog", Look.SILHOUETTE, 41))
    mine, theirs = in_turns(
        lambda: forecast(picture, engrave),
        lambda: cv2.connectedComponentsWithStats((picture.grey() < 128).astype("uint8")),
    )
    good = mine < _PROMISED_S
    line("  1024 px, all readings", mine, theirs, "connectedComponents", "under 150 ms", good)
    return good


def _confusion(
    name: str,
    pictures: Iterable[tuple[Picture, Method | None]],
    uses: dict[str, Yardstick],
    took: list[float],
) -> Counter[tuple[bool, bool]]:
    """Print how often a picture was said to trace well (or not) and did (or not), by use; returns the sums."""
    whole: Counter[tuple[bool, bool]] = Counter()
    by_use: dict[str, Counter[tuple[bool, bool]]] = {use: Counter() for use in uses}
    for picture, method in pictures:
        traced: dict[Method, Trace | None] = {}
        for use, yardstick in uses.items():
            begun = time.perf_counter()
            said = forecast(picture, yardstick)
            took.append(time.perf_counter() - begun)
            by = method or said.method
            if by not in traced:
                traced[by] = _traced(picture, by)
            well = _traced_well(traced[by], yardstick)
            by_use[use][said.verdict is Verdict.TRACES_WELL, well] += 1
    for use, counts in by_use.items():
        _sum_up(f"{name}, {use}", counts)
        whole += counts
    return whole


def _sum_up(name: str, counts: Counter[tuple[bool, bool]]) -> None:
    total, agree = sum(counts.values()), counts[True, True] + counts[False, False]
    said_well = counts[True, True] + counts[True, False]
    if total:
        print(
            f"  {name:<24} said well: was {counts[True, True]:3d}, was not {counts[True, False]:3d} "
            f"({100 * counts[True, False] / max(1, said_well):3.0f} %);  said not: was not {counts[False, False]:3d}, "
            f"was {counts[False, True]:3d};  agree {100 * agree / total:3.0f} %"
        )


def _traced(picture: Picture, method: Method) -> Trace | None:
    try:
        return trace(picture, TraceSettings(method=method))
    except InvalidInputError:
        return None


def _traced_well(result: Trace | None, yardstick: Yardstick) -> bool:
    if result is None:
        return False
    judged = proof(result.drawing, yardstick)
    scale = yardstick.finished_width_mm(result.drawing) / max(1.0, _figure_width(result.drawing))
    near = result.deviation.p95_px * scale <= max(_NEAR * yardstick.limits.thin_mm, _SEEN_MM)
    return near and not any(finding.kind in _TROUBLE for finding in judged.findings)


def _figure_width(drawing: Drawing) -> float:
    x_min, _, x_max, _ = drawing.bounds()
    return x_max - x_min


def _tracebench() -> Iterator[tuple[Picture, Method | None]]:
    folder = Path(os.environ.get("TRACEBENCH", Path(__file__).parents[2] / "shared" / "tracebench")) / "cases"
    if (folder / "cases.json").exists():
        for case in json.loads((folder / "cases.json").read_text())["cases"]:
            if case["method"] != "centreline" and case["degradation"] != "large":
                yield read_picture((folder / case["image"]).read_bytes()), Method(case["method"])


def _studio(faults: float) -> Iterator[tuple[Picture, Method | None]]:
    studio = Studio(faults=faults)
    for subject in list(SUBJECTS)[::5]:
        for look in Look:
            yield studio.draw(SketchOrder(subject, look, 7)), None


def _wrong_kinds(yardstick: Yardstick) -> None:
    """Print how often photographs and pages of writing are called the wrong kind."""
    found: dict[str, list[bool]] = {}
    for each in wrong_pictures(10):
        said = forecast(each.picture, yardstick).verdict is Verdict.WRONG_KIND
        found.setdefault(each.kind, []).append(said)
    for kind, said in found.items():
        print(f"  {kind:<24} called the wrong kind: {sum(said)} of {len(said)}")


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
