"""How well a picture will trace at the yardstick's size, and by which method, judged before anyone traces it.

A draft of the drawing is made by the method that fits, and judged by the very proof that judges the trace.
What the picture itself shows (ground, light, noise) says what to clean up. The rules are our own.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.forecasting.drafts import Draft, draft_flats, draft_solid
from zeichen.core.forecasting.method_choice import MethodChoice, choose_method
from zeichen.core.forecasting.wrong_kind import Misfit, colours_off, misfit_at_sight, misfit_of_draft
from zeichen.core.methods import Method
from zeichen.core.proofing.findings import proof
from zeichen.core.proofing.kinds import Finding, Kind, Proof
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
from zeichen.core.raster.levels import edge_level
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import (
    INK_AND_PAPER,
    PLAIN_RIM,
    PictureReadings,
    read_picture_readings,
)
from zeichen.core.tracing.doubts import has_lettering

# The picture's own faults, from where they are worth a word; our own rules.
_LEAST_CONTRAST = 60.0
_MOST_NOISE = 6.0
_NO_CONTRAST = 16.0
# The thinnest part should be at least this many pixels wide.
_LEAST_PX_ACROSS = 0.5
_SMALL_PX = 1000
# From this mean L*a*b* distance on, what flat colours lose of a shading is seen at once.
_SHADING_LOST = 4.0
# Thinner than this share of the limit cannot be mended by thickening alone.
_TOO_FINE = 0.5
_MOST_REASONS = 3
# White areas up to this share of the figure are likely eyes and the like.
_EYE = 0.05
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
    """Something of a picture: what was measured, the limit, the step that cures it, if one does, and the verdict
    it leads to by itself; what traces well all the same is a note."""

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

    colours: of the figure's flat areas. solid_loss: share of the figure that one tone would draw wrongly.
    colours_off: mean L*a*b* distance of flat colours from the figure. thinnest_mm, smallest_gap_mm: None where
    nothing is narrower than three times its limit. loose: pieces that would fall out.
    """

    colours: int
    solid_loss: float
    colours_off: float
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
    loose: int
    lettering: bool
    signature: bool
    jpeg_noise: float
    pixels_per_mm: float


@dataclass(frozen=True, slots=True)
class Forecast:
    """The verdict, the two or three reasons that decide it, all that was measured, a chain that would help, and
    the method the picture wants and why."""

    verdict: Verdict
    reasons: tuple[Reason, ...]
    readings: ForecastReadings
    suggested: tuple[CleanStep, ...]
    method: Method
    why: str


@dataclass(frozen=True, slots=True)
class _Seen:
    """All that a forecast is made from."""

    picture: PictureReadings
    choice: MethodChoice
    draft: Draft
    judged: Proof | None
    misfit: Misfit | None
    off: float
    lettering: bool
    mm_per_px: float


def forecast(picture: Picture, yardstick: Yardstick) -> Forecast:
    """Return how well a picture will trace at the yardstick's size, and by which method."""
    readings = read_picture_readings(picture)
    wide, tall = max(1, readings.figure_width_px), max(1, readings.figure_height_px)
    mm_per_px = yardstick.width_for(wide, tall) / wide
    box = readings.share[readings.figure_box]
    choice = choose_method(readings.palette, readings.ground_rgb, box, draws_lines=yardstick.draws_lines)
    misfit = misfit_at_sight(readings)
    draft = Draft(None, 0) if misfit else _draft(picture, readings, choice)
    off = colours_off(draft, readings.palette)
    misfit = misfit or misfit_of_draft(draft, off)
    judged = None if misfit else _judged(draft, yardstick)
    lettering = misfit is None and has_lettering(picture)
    seen = _Seen(readings, choice, draft, judged, misfit, off, lettering, mm_per_px)
    reasons = _reasons(seen, yardstick)
    # What decides comes first, then what can be cured, then notes.
    order = [Verdict.WRONG_KIND, Verdict.TOO_FINE, Verdict.NEEDS_CLEAN_UP, Verdict.TRACES_WELL]
    reasons.sort(key=lambda reason: order.index(reason.verdict))
    verdict = reasons[0].verdict if reasons else Verdict.TRACES_WELL
    told = _told(seen, yardstick)
    return Forecast(verdict, tuple(reasons[:_MOST_REASONS]), told, _chain(reasons), choice.method, choice.why)


def _draft(picture: Picture, seen: PictureReadings, choice: MethodChoice) -> Draft:
    if choice.method is Method.FLATS:
        return draft_flats(picture, seen.palette, seen.figure_box)
    grey = picture.grey()
    try:
        level = edge_level(grey)
    except InvalidInputError:
        # One tone: nothing to draw.
        return Draft(None, 0)
    return draft_solid(grey, level=level, invert=not seen.dark_on_light)


def _judged(draft: Draft, yardstick: Yardstick) -> Proof | None:
    if draft.drawing is None:
        return None
    try:
        return proof(draft.drawing, yardstick, draft=True)
    except InvalidInputError:
        # Of a size that nothing is made at: the picture is as good as empty.
        return None


def _told(seen: _Seen, yardstick: Yardstick) -> ForecastReadings:
    picture, found = seen.picture, _by_kind(seen)
    judged = seen.judged.readings if seen.judged is not None else None
    return ForecastReadings(
        colours=seen.choice.colours,
        solid_loss=seen.choice.solid_loss,
        colours_off=seen.off,
        edge_mixed_share=picture.edge_mixed_share,
        gradient_share=picture.gradient_share,
        ground=picture.ground,
        ground_share=picture.ground_share,
        touches_border=picture.touches_border,
        dark_on_light=picture.dark_on_light,
        detail_per_px=picture.detail_per_px,
        thinnest_mm=judged.thinnest_mm if judged else None,
        smallest_gap_mm=judged.smallest_gap_mm if judged else None,
        specks=len(found[Kind.SPECK]) + len(found[Kind.PIN_HOLE]),
        pieces=judged.pieces if judged else 0,
        loose=len(found[Kind.LOOSE_PIECE]),
        lettering=seen.lettering,
        signature=picture.signature is not None,
        jpeg_noise=picture.noise,
        pixels_per_mm=1.0 / seen.mm_per_px,
    )


def _by_kind(seen: _Seen) -> dict[Kind, list[Finding]]:
    found: dict[Kind, list[Finding]] = {kind: [] for kind in Kind}
    for finding in seen.judged.findings if seen.judged is not None else ():
        found[finding.kind].append(finding)
    if seen.choice.method is Method.CENTRELINE and (seen.choice.line_px or 0.0) > 0:
        # A line that narrows for a moment is one stroke of one width.
        found[Kind.THIN_PART] = []
    return found


def _reasons(seen: _Seen, yardstick: Yardstick) -> list[Reason]:
    """Return everything that is worth a word."""
    picture, wrong = seen.picture, Verdict.WRONG_KIND
    if not picture.figure.any() or picture.contrast < _NO_CONTRAST:
        words = "nothing stands out from the ground"
        return [Reason("empty", words, picture.contrast, _NO_CONTRAST, "grey values", None, wrong)]
    out = []
    misfit = seen.misfit
    if misfit is not None:
        out.append(Reason(misfit.kind, misfit.words, misfit.measured, misfit.limit, misfit.unit, None, wrong))
    elif seen.judged is None:
        words = "nothing is left that could be traced"
        out.append(Reason("empty", words, 0.0, 1.0, "areas", None, wrong))
    return [*out, *_drawn(seen, yardstick), *_tone(seen, painted=misfit is not None), *_size(seen, yardstick)]


def _drawn(seen: _Seen, yardstick: Yardstick) -> list[Reason]:
    """Return what the proof says of the draft."""
    limits, found, clean = yardstick.limits, _by_kind(seen), Verdict.NEEDS_CLEAN_UP
    out = []
    for name, words, of, limit in (
        ("thin", "parts as thin as", found[Kind.THIN_PART], limits.thin_mm),
        ("gap", "gaps as narrow as", found[Kind.SMALL_GAP], limits.gap_mm),
    ):
        if of:
            least = min(finding.measured for finding in of)
            fine = name == "thin" and least < _TOO_FINE * limit
            verdict = Verdict.TOO_FINE if fine else clean
            out.append(Reason(name, f"{words} {least:.2f} mm", least, limit, "mm", None, verdict))
    if loose := len(found[Kind.LOOSE_PIECE]):
        word = "piece" if loose == 1 else "pieces"
        words = f"{loose} loose {word} that would fall out: to be bridged"
        out.append(Reason("loose", words, loose, 0, word, None, clean))
    if found[Kind.COLOURS]:
        (colours,) = found[Kind.COLOURS]
        words = f"{colours.measured:.0f} colours, where {colours.limit:.0f} can be made"
        out.append(Reason("colours", words, colours.measured, colours.limit, "colours", None, clean))
    specks = len(found[Kind.SPECK]) + len(found[Kind.PIN_HOLE])
    if specks:
        word = "speck" if specks == 1 else "specks"
        words = f"{specks} {word} under {limits.speck_mm2:g} mm²"
        area = limits.speck_mm2 / seen.mm_per_px**2
        cure = Despeckle(area_px2=min(max(2.0, round(area, 1)), Despeckle.MOST_PX2))
        out.append(Reason("specks", words, specks, 0, "", cure, clean))
    if seen.off > _SHADING_LOST:
        words = "soft shading, which flat colours lose"
        out.append(Reason("gradient", words, seen.off, _SHADING_LOST, "ΔE", BlackAndWhite(), clean))
    if whites := _lost_whites(seen):
        word = "area" if whites == 1 else "areas"
        words = f"{whites} white {word} inside the figure will be open like the ground: keep the ground to fill them"
        out.append(Reason("whites", words, whites, 0, word, None, Verdict.TRACES_WELL))
    return out


def _lost_whites(seen: _Seen) -> int:
    """Return how many areas of the ground's colour the figure of flat colours encloses: eyes, teeth, windows."""
    labels, ground = seen.draft.labels, seen.draft.ground
    if labels is None or ground is None or seen.draft.drawing is None:
        return 0
    count, numbers, stats, _ = cv2.connectedComponentsWithStats(
        (labels == ground).astype(np.uint8), connectivity=4
    )
    outside = np.zeros(count, bool)
    for rim in (numbers[0], numbers[-1], numbers[:, 0], numbers[:, -1]):
        outside[rim] = True
    outside[0] = True
    # Small ones: a ring's large inside is meant to be open.
    figure = float((labels != ground).sum())
    return int((~outside & (stats[:, cv2.CC_STAT_AREA] < _EYE * figure)).sum())


def _tone(seen: _Seen, *, painted: bool) -> list[Reason]:
    """Return what is wrong with the picture's ground, light and marks."""
    picture, out = seen.picture, []
    clean, note = Verdict.NEEDS_CLEAN_UP, Verdict.TRACES_WELL
    if not picture.dark_on_light and seen.choice.method is not Method.FLATS:
        out.append(Reason("light-on-dark", "light on a dark ground", 0, 1, "", Invert(), clean))
    if picture.ground != "plain" and not painted:
        by_light = picture.ground == "uneven" and picture.dark_on_light and picture.colours <= INK_AND_PAPER
        cure: CleanStep = EvenLight() if by_light else RemoveGround(tolerance=40.0)
        words = "the ground is not plain"
        out.append(Reason("ground", words, picture.ground_share, PLAIN_RIM, "", cure, clean))
    if picture.touches_border:
        words = "the figure touches the picture's border"
        out.append(Reason("border", words, 0, 1, "px", CropToSubject(), clean))
    if picture.signature is not None:
        x_min, y_min, x_max, y_max = picture.signature
        wipe = WipeBox(x_min=x_min, y_min=y_min, x_max=x_max, y_max=y_max)
        words = "a small mark in a corner, likely a signature"
        out.append(Reason("signature", words, 1, 0, "", wipe, clean))
    if seen.lettering:
        out.append(Reason("lettering", "small letters, which never trace well", 1, 0, "", None, clean))
    if picture.contrast < _LEAST_CONTRAST:
        words = "little contrast"
        out.append(
            Reason(
                "contrast",
                words,
                picture.contrast,
                _LEAST_CONTRAST,
                "grey values",
                _stretched(picture),
                clean,
            )
        )
    if picture.noise > _MOST_NOISE:
        # What noise does to the drawing, the draft shows; by itself it is a note.
        smooth = SmoothNoise(strength=min(60.0, round(3.0 * picture.noise, 1)))
        out.append(
            Reason("noise", "compression noise", picture.noise, _MOST_NOISE, "grey values", smooth, note)
        )
    return out


def _size(seen: _Seen, yardstick: Yardstick) -> list[Reason]:
    across = yardstick.limits.thin_mm / seen.mm_per_px
    if across >= _LEAST_PX_ACROSS or max(seen.picture.width_px, seen.picture.height_px) > _SMALL_PX:
        return []
    # Enlarging adds no detail: the trace finds what is there as well without it (measured). What it finds traces
    # well: of 12 such pictures of the public cases, 12 did. So it is a note.
    words = f"only {across:.1f} px for the thinnest part the process holds: a larger picture is needed"
    return [Reason("small", words, across, _LEAST_PX_ACROSS, "px", None, Verdict.TRACES_WELL)]


def _stretched(seen: PictureReadings) -> Levels:
    black = max(0, min(253, round(seen.darkest)))
    return Levels(black=black, white=max(black + 2, min(255, round(seen.lightest))))


def _chain(reasons: Iterable[Reason]) -> tuple[CleanStep, ...]:
    """Return the cures of what needs one, in an order in which none undoes another."""
    cures = [reason.cure for reason in reasons if reason.cure and reason.verdict is not Verdict.TRACES_WELL]
    return tuple(sorted(cures, key=lambda cure: _CHAIN_ORDER.index(type(cure))))
