"""How far a drawing is from the boundary it was traced from."""

from dataclasses import dataclass

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.nearest import nearest_on_lines
from zeichen.core.values import FloatArray

_SAMPLE_PX = 1.0


@dataclass(frozen=True, slots=True)
class Deviation:
    """Distances between drawing and picture boundary, both ways, in px."""

    mean_px: float
    p95_px: float
    largest_px: float
    place_px: tuple[float, float]


def measure_deviation(
    paths: list[Path], contours: list[FloatArray], *, closed: list[bool] | None = None
) -> Deviation:
    """Return mean, 95th percentile, largest distance and where that is; zeros when both are empty.

    Contours close unless closed says otherwise.
    """
    if not paths or not contours:
        return Deviation(0.0, 0.0, 0.0, (0.0, 0.0))
    curve = [bezier.flatten(path.segments, tolerance=0.01, longest=_SAMPLE_PX) for path in paths]
    ring = closed or [True] * len(contours)
    loops = [np.vstack([c, c[:1]]) if r else c for c, r in zip(contours, ring, strict=True)]
    to_curve, to_contour = (
        np.hypot(*nearest_on_lines(np.vstack(places), lines)[0].T)
        for places, lines in ((contours, curve), (curve, loops))
    )
    places = np.vstack([*contours, *curve])
    both = np.concatenate([to_curve, to_contour])
    worst = int(both.argmax())
    return Deviation(
        mean_px=float((to_curve.mean() + to_contour.mean()) / 2),
        p95_px=float(max(np.percentile(to_curve, 95), np.percentile(to_contour, 95))),
        largest_px=float(both[worst]),
        place_px=(float(places[worst, 0]), float(places[worst, 1])),
    )
