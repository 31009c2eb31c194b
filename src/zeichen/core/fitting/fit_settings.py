"""How closely curves follow a boundary, and from how far its corners are looked at."""

from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from zeichen.core.compiled import uncounted
from zeichen.core.values import require_number

# What is left of the weight of points that blur has moved: nothing left lets a curve leave them, more bends it there
# (our own rule; of an aligned fit more, as its handles at corners follow the points).
_LEAST_WEIGHT, _LEAST_WEIGHT_ALIGNED = 0.02, 0.08
# Noise counts no further than this, and moves what is seen of a border's end by so many times itself.
_MOST_NOISE_PX = 0.12
_CARRIED = 6
# Points on a straight edge err by no more than this: own pixels, times the noise, or of the tolerance.
_ERR, _ERR_OF_NOISE, _ERR_OF_TOLERANCE = 0.042, 1.2, 0.3


class Spans(NamedTuple):
    """What a fit asks of its settings, as compiled functions take it: lengths in px, see FitSettings."""

    tolerance: float
    straight: float
    corner_deg: float
    skip: float
    moved: float
    moved_at_end: float
    reach: float
    noise: float
    pixel: float
    blur: float
    least_weight: float


@uncounted
def with_stretch(spans: Spans, skip: float, reach: float) -> Spans:
    """Return what a fit asks with another stretch of a corner's sides."""
    return Spans(
        spans.tolerance,
        spans.straight,
        spans.corner_deg,
        skip,
        spans.moved,
        spans.moved_at_end,
        reach,
        spans.noise,
        spans.pixel,
        spans.blur,
        spans.least_weight,
    )


@dataclass(frozen=True, slots=True)
class FitSettings:
    """How closely curves follow the boundary and what counts as a corner.

    tolerance_px: largest distance of a curve from the measured boundary.
    corner_deg: a turn sharper than this stays a corner.
    pixel_px: side of the pixels the picture truly has.
    blur_px: how soft it is, standard deviation beside those pixels' squares.
    noise_px: typical error of a single point.
    aligned: for whole outlines that stand alone, handles too short to be felt make no spikes.
    """

    tolerance_px: float = 0.2
    corner_deg: float = 20.0
    pixel_px: float = 1.0
    blur_px: float = 0.0
    noise_px: float = 0.0
    aligned: bool = False

    def __post_init__(self) -> None:
        require_number(self.tolerance_px, "Tolerance", least=0.02, most=50, unit="px", advice="Try 0.1 px.")
        require_number(self.corner_deg, "Corner angle", least=10, most=170, unit="degrees")
        require_number(self.pixel_px, "Pixel size", least=0.5, most=40, unit="px")
        require_number(self.blur_px, "Blur", least=0, most=20, unit="px")
        require_number(self.noise_px, "Noise", least=0, most=20, unit="px")

    @property
    def least_weight(self) -> float:
        """What say a point has that a corner's blur moved: beside other colours less, for those moved it too."""
        return _LEAST_WEIGHT_ALIGNED if self.aligned else _LEAST_WEIGHT

    @property
    def skip_px(self) -> float:
        """Up to where a corner's blur moves the boundary."""
        return 1.2 * self.pixel_px + 1.2 * self.blur_px

    @property
    def quiet_px(self) -> float:
        """Up to where a point's surroundings, and so its place, feel a right-angled corner."""
        return 2.2 * self.pixel_px + 1.5 * self.blur_px

    @property
    def quiet_end_px(self) -> float:
        """Up to where a point feels what meets at the end of its border: lossy compression carries it further."""
        return self.quiet_px + _CARRIED * min(self.noise_px, _MOST_NOISE_PX)

    @property
    def reach_px(self) -> float:
        """How far to look on either side of a corner."""
        return 5.4 * self.pixel_px + 4.0 * self.blur_px + 20.0 * min(self.noise_px, _MOST_NOISE_PX)

    @property
    def allowed_px(self) -> float:
        """The tolerance, or what the noise alone makes of a perfect fit if that is more."""
        return max(self.tolerance_px, 4.0 * self.noise_px)

    @property
    def straight_px(self) -> float:
        """How far points of a straight run may lie off its line: as far as they err, however coarse curves may be."""
        err = max(_ERR * self.pixel_px, _ERR_OF_NOISE * self.noise_px)
        return min(_ERR_OF_TOLERANCE * self.allowed_px, err)

    @property
    def spans(self) -> Spans:
        """All of it as compiled functions take it."""
        return _spans(self)


@lru_cache(maxsize=64)
def _spans(settings: FitSettings) -> Spans:
    return Spans(
        tolerance=float(settings.allowed_px),
        straight=float(settings.straight_px),
        corner_deg=float(settings.corner_deg),
        skip=float(settings.skip_px),
        moved=float(settings.quiet_px),
        moved_at_end=float(settings.quiet_end_px),
        reach=float(settings.reach_px),
        noise=float(settings.noise_px),
        pixel=float(settings.pixel_px),
        blur=float(settings.blur_px),
        least_weight=settings.least_weight,
    )
