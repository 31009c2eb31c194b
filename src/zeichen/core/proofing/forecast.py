"""How well a picture will trace at the yardstick's size, judged before anyone traces it.

Readings are measured in the picture; each that is out of its limits is a reason with what was measured,
the limit and, where there is one, the clean-up step that cures it. The rules and limits are our own.
"""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from zeichen.core.proofing.yardstick import Yardstick
from zeichen.core.raster.clean import CleanStep
from zeichen.core.raster.clean.steps import (
    BlackAndWhite,
    CropToSubject,
    Despeckle,
    EvenLight,
    Invert,
    Levels,
    RemoveGround,
    SmoothNoise,
    WipeBox,
)
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import (
    INK_AND_PAPER,
    PLAIN_RIM,
    PictureReadings,
    read_picture_readings,
    thinnest_px,
)
from zeichen.core.values import FloatArray

# Flat colours that a drawing still has; more are a painting or a photo.
_MOST_COLOURS = 16
_MOST_GRADIENT = 0.12
_PAINTED_GRADIENT = 0.45
# Share of pixels on edges from which a picture is texture.
_MOST_EDGE = 0.30
_LEAST_CONTRAST = 60.0
_MOST_NOISE = 6.0
# The thinnest part should be at least this many pixels wide.
_LEAST_PX_ACROSS = 0.5
_SMALL_PX = 1000
_NO_CONTRAST = 16.0
# Thinner than this share of the limit cannot be mended by thickening alone.
_TOO_FINE = 0.5
_MOST_REASONS = 3
_CHAIN_ORDER: tuple[type[CleanStep], ...] = (
    Invert,
    EvenLight,
    RemoveGround,
    WipeBox,
    SmoothNoise,
    Levels,
    Despeckle,
    BlackAndWhite,
    CropToSubject,
)


class Verdict(StrEnum):
    """What a forecast comes to."""

    TRACES_WELL = "traces-well"
    NEEDS_CLEAN_UP = "needs-clean-up"
    TOO_FINE = "too-fine"
    WRONG_KIND = "wrong-kind"


@dataclass(frozen=True, slots=True)
class Reason:
    """Why a picture will not trace well: what was measured, the limit, and the step that cures it, if one does."""

    kind: str
    words: str
    measured: float
    limit: float
    unit: str
    cure: CleanStep | None
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class ForecastReadings:
    """What was measured; lengths at the finished size.

    thinnest_mm, smallest_gap_mm: None where nothing is narrower than three times its limit.
    """

    colours: int
    edge_mixed_share: float
    gradient_share: float
    ground: str
    ground_share: float
    touches_border: bool
    dark_on_light: bool
    detail_per_px: float
    thinnest_mm: float | None
    smallest_gap_mm: float | None
    specks: int
    pieces: int
    lettering: bool
    signature: bool
    jpeg_noise: float
    pixels_per_mm: float


@dataclass(frozen=True, slots=True)
class Forecast:
    """The verdict, the two or three reasons that decide it, all that was measured, and a chain that would help."""

    verdict: Verdict
    reasons: tuple[Reason, ...]
    readings: ForecastReadings
    suggested: tuple[CleanStep, ...]


def forecast(picture: Picture, yardstick: Yardstick, *, lettering: bool = False) -> Forecast:
    """Return how well a picture will trace.

    Parameters
    ----------
    picture : Picture
    yardstick : Yardstick
    lettering : bool
        Whether rows of small letters were found in it.
    """
    seen = read_picture_readings(picture)
    wide, tall = seen.figure_width_px, seen.figure_height_px
    mm_per_px = yardstick.width_for(wide, tall) / max(1, wide)
    limits = yardstick.limits
    figure = seen.share[seen.figure_box]
    thin = _narrowest(figure, limits.thin_mm / mm_per_px, around=0.0)
    gap = _narrowest(1.0 - figure, limits.gap_mm / mm_per_px, around=1.0)
    speck_px2 = limits.speck_mm2 / mm_per_px**2
    specks = sum(area < speck_px2 for area in (*seen.piece_areas_px2, *seen.hole_areas_px2))
    readings = ForecastReadings(
        colours=seen.colours,
        edge_mixed_share=seen.edge_mixed_share,
        gradient_share=seen.gradient_share,
        ground=seen.ground,
        ground_share=seen.ground_share,
        touches_border=seen.touches_border,
        dark_on_light=seen.dark_on_light,
        detail_per_px=seen.detail_per_px,
        thinnest_mm=None if thin is None else thin * mm_per_px,
        smallest_gap_mm=None if gap is None else gap * mm_per_px,
        specks=specks,
        pieces=sum(area >= speck_px2 for area in seen.piece_areas_px2),
        lettering=lettering,
        signature=seen.signature is not None,
        jpeg_noise=seen.noise,
        pixels_per_mm=1.0 / mm_per_px,
    )
    reasons = _reasons(seen, readings, yardstick, speck_px2)
    # What decides comes first, then what can be cured.
    order = [Verdict.WRONG_KIND, Verdict.TOO_FINE, Verdict.NEEDS_CLEAN_UP]
    reasons.sort(key=lambda reason: order.index(reason.verdict))
    verdict = reasons[0].verdict if reasons else Verdict.TRACES_WELL
    return Forecast(verdict, tuple(reasons[:_MOST_REASONS]), readings, _chain(reasons))


def _reasons(
    seen: PictureReadings, readings: ForecastReadings, yardstick: Yardstick, speck_px2: float
) -> list[Reason]:
    """Return everything that is out of its limits."""
    wrong, clean = Verdict.WRONG_KIND, Verdict.NEEDS_CLEAN_UP
    if not seen.figure.any() or seen.contrast < _NO_CONTRAST:
        words = "nothing stands out from the ground"
        return [Reason("empty", words, seen.contrast, _NO_CONTRAST, "grey values", None, wrong)]
    out = _widths(readings, yardstick)
    if readings.edge_mixed_share > _MOST_EDGE:
        words = "edges everywhere: texture or a photo"
        out.append(Reason("texture", words, readings.edge_mixed_share, _MOST_EDGE, "", None, wrong))
    painted = readings.gradient_share > _PAINTED_GRADIENT and seen.ground != "plain"
    if painted:
        words = "shaded all over, like a photo"
        out.append(Reason("painted", words, readings.gradient_share, _PAINTED_GRADIENT, "", None, wrong))
    elif readings.gradient_share > _MOST_GRADIENT:
        share = readings.gradient_share
        out.append(Reason("gradient", "soft shading", share, _MOST_GRADIENT, "", BlackAndWhite(), clean))
    if readings.colours > _MOST_COLOURS:
        words = f"{readings.colours} colours"
        out.append(Reason("colours", words, readings.colours, _MOST_COLOURS, "", None, wrong))
    if not seen.dark_on_light:
        out.append(Reason("light-on-dark", "light on a dark ground", 0, 1, "", Invert(), clean))
    if seen.ground != "plain" and not painted:
        by_light = seen.ground == "uneven" and seen.dark_on_light and readings.colours <= INK_AND_PAPER
        cure: CleanStep = EvenLight() if by_light else RemoveGround(tolerance=40.0)
        words = "the ground is not plain"
        out.append(Reason("ground", words, readings.ground_share, PLAIN_RIM, "", cure, clean))
    if seen.touches_border:
        words = "the figure touches the picture's border"
        out.append(Reason("border", words, 0, 1, "px", CropToSubject(), clean))
    return [*out, *_marks(seen, readings, yardstick, speck_px2), *_faint(seen, readings, yardstick)]


def _widths(readings: ForecastReadings, yardstick: Yardstick) -> list[Reason]:
    limits = yardstick.limits
    out = []
    for kind, words, measured, limit in (
        ("thin", "parts as thin as", readings.thinnest_mm, limits.thin_mm),
        ("gap", "gaps as narrow as", readings.smallest_gap_mm, limits.gap_mm),
    ):
        if measured is None or measured >= limit:
            continue
        fine = kind == "thin" and measured < _TOO_FINE * limit
        verdict = Verdict.TOO_FINE if fine else Verdict.NEEDS_CLEAN_UP
        out.append(Reason(kind, f"{words} {measured:.2f} mm", measured, limit, "mm", None, verdict))
    return out


def _marks(
    seen: PictureReadings, readings: ForecastReadings, yardstick: Yardstick, speck_px2: float
) -> list[Reason]:
    """Return what does not belong to the figure."""
    out = []
    clean = Verdict.NEEDS_CLEAN_UP
    if seen.signature is not None:
        x_min, y_min, x_max, y_max = seen.signature
        wipe = WipeBox(x_min=x_min, y_min=y_min, x_max=x_max, y_max=y_max)
        words = "a small mark in a corner, likely a signature"
        out.append(Reason("signature", words, 1, 0, "", wipe, clean))
    if readings.specks:
        word = "speck" if readings.specks == 1 else "specks"
        words = f"{readings.specks} {word} under {yardstick.limits.speck_mm2:g} mm²"
        cure = Despeckle(area_px2=min(max(2.0, round(speck_px2, 1)), Despeckle.MOST_PX2))
        out.append(Reason("specks", words, readings.specks, 0, "", cure, clean))
    if readings.lettering:
        out.append(Reason("lettering", "small letters, which never trace well", 1, 0, "", None, clean))
    return out


def _faint(seen: PictureReadings, readings: ForecastReadings, yardstick: Yardstick) -> list[Reason]:
    """Return what is wrong with tone and sharpness."""
    out = []
    clean = Verdict.NEEDS_CLEAN_UP
    if seen.contrast < _LEAST_CONTRAST:
        out.append(
            Reason(
                "contrast",
                "little contrast",
                seen.contrast,
                _LEAST_CONTRAST,
                "grey values",
                _stretched(seen),
                clean,
            )
        )
    if readings.jpeg_noise > _MOST_NOISE:
        noise = readings.jpeg_noise
        smooth = SmoothNoise(strength=min(60.0, round(3.0 * noise, 1)))
        out.append(Reason("noise", "compression noise", noise, _MOST_NOISE, "grey values", smooth, clean))
    across = yardstick.limits.thin_mm * readings.pixels_per_mm
    if across < _LEAST_PX_ACROSS and max(seen.width_px, seen.height_px) <= _SMALL_PX:
        # Enlarging adds no detail: the trace finds what is there as well without it (measured).
        words = f"only {across:.1f} px for the thinnest part the process holds: a larger picture is needed"
        out.append(Reason("small", words, across, _LEAST_PX_ACROSS, "px", None, clean))
    return out


def _stretched(seen: PictureReadings) -> Levels:
    black = max(0, min(253, round(seen.darkest)))
    return Levels(black=black, white=max(black + 2, min(255, round(seen.lightest))))


def _chain(reasons: list[Reason]) -> tuple[CleanStep, ...]:
    """Return the cures in an order in which none undoes another."""
    cures = [reason.cure for reason in reasons if reason.cure is not None]
    return tuple(sorted(cures, key=lambda cure: _CHAIN_ORDER.index(type(cure))))


def _narrowest(share: FloatArray, limit_px: float, *, around: float) -> float | None:
    """Return the width of the thinnest part; what lies around the box is none of it (0) or all (1)."""
    # Below a pixel a width is a guess; above three limits nobody asks, and nothing is wider than the figure.
    most = min(max(3.0, 3.0 * limit_px), float(max(share.shape)))
    framed = np.pad(share, int(most) + 2, constant_values=around)
    found = thinnest_px(framed, least=max(0.7, min(0.2 * limit_px, most)), most=most)
    return None if found is None else found[0]
