"""Mend all over the drawings of the open sets and the traces of the studio: what gets cut-ready, and that it rests."""

import json
import os
from collections import Counter
from pathlib import Path

from zeichen.core.errors import FormatError
from zeichen.core.formats.svg_reading import read_foreign_svg
from zeichen.core.geometry import Drawing
from zeichen.core.proofing import Process, Yardstick, mend_all, proof

_STICKS = (
    Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80),
    Yardstick.usual(Process.LASER_CUT, width_mm=120),
    Yardstick.usual(Process.CARVE, width_mm=200),
)


def measure_mending() -> bool:
    """Print how many drawings are cut-ready before and after, and how many a second run would change."""
    drawings = _open_drawings()
    if not drawings:
        print("Mend all over the open sets: the rig is not here. Set TRACEBENCH to its folder.")
        return True
    print(f"Mend all over {len(drawings)} drawings of the open sets, for three processes each")
    before = after = restless = worse = 0
    left: Counter[str] = Counter()
    for drawing in drawings:
        for yardstick in _STICKS:
            judged = proof(drawing, yardstick)
            mended = mend_all(drawing, yardstick)
            before += judged.cut_ready
            after += mended.proof.cut_ready
            worse += len(mended.proof.findings) > len(judged.findings)
            restless += mend_all(mended.drawing, yardstick).changed
            left.update({finding.kind.value for finding in mended.proof.findings})
    whole = len(drawings) * len(_STICKS)
    print(f"  cut-ready before {before}, after {after} of {whole}; left for the maker: {dict(left)}")
    print(f"  with more findings than before {worse}, changed by a second run {restless} (promised: none)")
    return worse == 0 and restless == 0


def _open_drawings() -> list[Drawing]:
    folder = Path(os.environ.get("TRACEBENCH", Path(__file__).parents[2] / "shared" / "tracebench")) / "cases"
    if not (folder / "cases.json").exists():
        return []
    cases = json.loads((folder / "cases.json").read_text())["cases"]
    found = []
    for name in sorted({case["truth"] for case in cases}):
        try:
            found.append(read_foreign_svg((folder / name).read_bytes())[0])
        except FormatError:
            continue
    return found
