"""SVG files from elsewhere beside the picture resvg makes of them."""

import sys
import time
from pathlib import Path

from bench.open_sets import SETS, open_set
from zeichen.core.errors import ZeichenError
from zeichen.core.formats.svg_reading import read_foreign_svg

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from reference_pictures import likeness

_COUNT = 60
_IOU, _DELTA_E = 0.995, 2.0
_PROMISED = 0.98
# Named and not drawn: their pictures cannot be the same.
_ASIDE = ("mask", "filter", "live text", "picture")


def measure_foreign() -> bool:
    """Print how many files come in as their picture, set by set; returns whether 98 % do."""
    print(f"SVG from elsewhere: IoU with resvg at least {_IOU}, mean CIEDE2000 at most {_DELTA_E:g}")
    good = whole = 0
    for name in SETS:
        like, coloured, count, aside, seconds = 0, 0, 0, 0, 0.0
        worst = (1.0, "")
        for file, text in open_set(name, _COUNT):
            started = time.perf_counter()
            try:
                taken = read_foreign_svg(text)
            except ZeichenError as error:
                count += 1
                worst = (0.0, f"{file}: {error}")
                continue
            seconds += time.perf_counter() - started
            if any(word in line for line in taken.not_taken for word in _ASIDE):
                aside += 1
                continue
            found = likeness(text, taken.drawing)
            count += 1
            like += found.iou >= _IOU
            coloured += found.delta_e <= _DELTA_E
            worst = min(worst, (found.iou, file))
        good, whole = good + like, whole + count
        if count:
            print(
                f"  {name:<12} {like:3d} of {count:3d} like their picture, {coloured:3d} in colour, {aside} aside; "
                f"worst {worst[0]:.3f} ({worst[1]}); {1000 * seconds / count:.0f} ms each"
            )
    kept = whole > 0 and good >= _PROMISED * whole
    print(f"  all: {good} of {whole}, {_PROMISED:.0%} promised: {'kept' if kept else 'MISSED'}")
    return kept
