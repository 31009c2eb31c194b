"""The studio: from an order to a picture."""

import difflib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from zeichen.core.briefing import Detail, Look, SketchOrder, rules_in
from zeichen.core.briefing.wording import ALL_RULES
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.render import render_svg
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.style_reading import read_lines
from zeichen.core.values import Bytes8Array
from zeichen.standins.studio.catalogue import SUBJECTS
from zeichen.standins.studio.faults import Fault, choose_faults, spoil
from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.looks import INK, Brush, paint
from zeichen.standins.studio.ornament import KINDS, adorn
from zeichen.standins.studio.pen import Form, Mark, Part
from zeichen.standins.studio.placing import Frame, place, round_off

_STREAM_POSE, _STREAM_FAULTS, _STREAM_ORNAMENT = 1, 2, 3
# Line weight in thousandths of the picture when the order leaves it to the studio.
_USUAL_WEIGHT = {Look.SILHOUETTE: 18.0, Look.LINE: 19.0, Look.FLAT: 15.0, Look.STENCIL: 15.0, Look.INK: 18.0}
_PROOF_PX = 512
_WIDEST_GAP = 26.0
_SOME_ADORNED = 0.25
_MOST_ADORNED = 4
_INK_GREEN = int(INK[3:5], 16)


class Faults(Enum):
    """How often pictures carry the accidents of generated ones: the knob's named settings."""

    NONE = 0.0
    USUAL = 1.0
    MANY = 3.0


@dataclass(frozen=True, slots=True)
class Drawn:
    """A picture and the faults that were put into it."""

    picture: Picture
    faults: frozenset[Fault]


class Studio:
    """A picture generator that needs no network and no model.

    faults: how often pictures carry the accidents of generated ones, 0 to 3, 1 as usual.
    """

    name = "stand-in studio"
    licence = "Drawn by the stand-in studio that ships with Zeichen; free to use for anything."

    def __init__(self, *, faults: float = 1.0) -> None:
        self._knob = faults

    def require_known(self, subject: str) -> str:
        """Return the subject's name in the studio; InvalidInputError names near ones if it is unknown."""
        name = known_subject(subject)
        if name is None:
            wanted = " ".join(subject.lower().split())
            near = difflib.get_close_matches(wanted, SUBJECTS, n=3, cutoff=0.5)
            near = near or [name for name in SUBJECTS if set(name.split()) & set(wanted.split())][:3]
            advice = f"Did you mean {' or '.join(near)}?" if near else f"It knows: {', '.join(SUBJECTS)}."
            raise InvalidInputError(f"The stand-in can't draw “{subject}”. {advice}")
        return name

    def draw(self, order: SketchOrder) -> Picture:
        """Return the picture of an order; InvalidInputError names near subjects if this one is unknown."""
        return self.draw_openly(order).picture

    def draw_openly(self, order: SketchOrder) -> Drawn:
        """Return the picture with the faults that were put into it, so that what finds them can be measured."""
        subject = self.require_known(order.subject)
        rules = rules_in(order.wording) if order.wording else frozenset(ALL_RULES)
        look = order.look
        # Faults have their own stream, so all looks of one seed show one pose.
        accidents = Hand(order.seed, f"{subject}/{look.value}", _STREAM_FAULTS, order.variations)
        faults = choose_faults(accidents, rules, knob=self._knob)
        if Fault.WRONG_LOOK in faults:
            look = Look.LINE if look is not Look.LINE else Look.FLAT
        clean = _picture(subject, replace(order, look=look), faults)
        raster = np.random.default_rng([order.seed, len(order.variations), list(Look).index(order.look), 7])
        return Drawn(Picture(spoil(clean, raster, faults, knob=self._knob)), faults)


def known_subject(subject: str) -> str | None:
    """Return the studio's name for a subject, however it is written; None if it cannot draw it."""
    wanted = " ".join(subject.lower().replace("-", " ").split())
    for name in (wanted, wanted.removesuffix("s"), wanted.removesuffix("es"), wanted.replace(" ", "")):
        if name in SUBJECTS:
            return name
    return next((name for name in SUBJECTS if name.replace(" ", "") == wanted.replace(" ", "")), None)


def _picture(subject: str, order: SketchOrder, faults: frozenset[Fault]) -> Bytes8Array:
    width_px, height_px = order.format.size_px(order.size_px)
    longer = max(width_px, height_px)
    frame = Frame(1000 * width_px / longer, 1000 * height_px / longer)
    manner = order.manner
    asked = None if manner.line_share is None else 1000 * manner.line_share
    if asked is not None and order.look in (Look.SILHOUETTE, Look.STENCIL):
        # Wider gaps would leave nothing of small parts.
        asked = min(asked, _WIDEST_GAP)
    weight = asked or _USUAL_WEIGHT[order.look] * Hand(order.seed, subject, 9, order.variations).uniform(
        0.94, 1.06
    )
    parts = _posed(subject, order, frame, faults, weight)
    if manner.corner_share is not None:
        parts = round_off(parts, min(1000 * manner.corner_share, 40.0))
    brush = Brush(
        weight,
        manner.palette,
        manner.colours,
        mitred=manner.corner_share is not None and manner.corner_share < 0.004,
        one_piece=Fault.IN_PIECES not in faults,
        wavering=0.45 if Fault.UNEVEN in faults else 0.0,
    )
    if asked is not None and order.look is not Look.FLAT:
        brush = replace(brush, weight=_matched(parts, order.look, frame, brush, asked))
    rgba = render_svg(paint(parts, order.look, frame, brush), width_px=width_px)
    return np.ascontiguousarray(rgba[:height_px, :, :3])


def _matched(parts: Sequence[Part], look: Look, frame: Frame, brush: Brush, asked: float) -> float:
    """Return the brush's weight with which lines come out as heavy as asked, measured on a small proof."""
    weight = brush.weight
    longer = max(frame.width, frame.height)
    best, nearest = weight, math.inf
    for _ in range(3):
        svg = paint(parts, look, frame, replace(brush, weight=weight))
        grey = render_svg(svg, width_px=round(_PROOF_PX * frame.width / longer))[..., 1].astype(np.float64)
        found, _ = read_lines(np.clip((255.0 - grey) / (255.0 - _INK_GREEN), 0.0, 1.0))
        if found is None:
            break
        off = asked * _PROOF_PX / longer / found.width_px
        if abs(math.log(off)) < nearest:
            best, nearest = weight, abs(math.log(off))
        if nearest < 0.03:
            break
        weight = float(np.clip(weight * off, 0.5 * asked, 2.0 * asked))
    return best


def _posed(
    subject: str, order: SketchOrder, frame: Frame, faults: frozenset[Fault], weight: float
) -> list[Part]:
    entry = SUBJECTS[subject]
    hand = Hand(order.seed, subject, _STREAM_POSE, order.variations)
    parts = _detailed(
        entry.draw(hand), order, Hand(order.seed, subject, _STREAM_ORNAMENT, order.variations), weight
    )
    lean = hand.uniform(-1, 1) * entry.lean_deg
    mirrored = hand.random() < 0.35
    size = hand.uniform(0.8, 0.86)
    words = set(order.pose.lower().replace(",", " ").split())
    if words & {"left", "right"}:
        mirrored = ("left" in words) != (entry.faces == "left")
    if words & {"leaning", "tilted"}:
        lean += (-1 if ("left" in words) != mirrored else 1) * 16.0
    if words & {"upright", "straight"}:
        lean = 0.0
    if Fault.TWO in faults:
        other = entry.draw(Hand(order.seed + 1, subject, _STREAM_POSE))
        small = 0.46 if frame.width <= frame.height else 0.6
        first = place(parts, frame, lean_deg=lean, mirrored=mirrored, size_share=small, middle=(0.27, 0.5))
        return first + place(
            other, frame, lean_deg=-lean, mirrored=not mirrored, size_share=small, middle=(0.73, 0.52)
        )
    middle = (0.5, 0.5)
    if Fault.CUT_OFF in faults:
        middle = (0.78 if mirrored else 0.22, 0.56)
    return place(parts, frame, lean_deg=lean, mirrored=mirrored, size_share=size, middle=middle)


def _detailed(parts: Sequence[Part], order: SketchOrder, hand: Hand, weight: float) -> list[Part]:
    """Return the parts with as much drawn inside the outline as is asked for."""
    level = order.manner.detail or Detail.SOME
    if level is Detail.PLAIN:
        return [part for part in parts if isinstance(part, Form) or not part.extra]
    rich = level is Detail.RICH
    if hand.random() >= (1.0 if rich else _SOME_ADORNED):
        return list(parts)
    kind = hand.among(list(KINDS))
    rooms = [
        (number, _room(part, parts[number + 1 :], weight))
        for number, part in enumerate(parts)
        if isinstance(part, Form) and not part.joined and part.tone != "dark" and (rich or part.decor)
    ]
    rooms.sort(key=lambda entry: -entry[1].area)
    made = list(parts)
    for number, room in sorted(rooms[: _MOST_ADORNED if rich else 1], reverse=True):
        form = parts[number]
        ornament = adorn(form.tone, room, hand, weight=1.1 * weight, kind=kind)
        if ornament:
            # The ornament takes the place of the little lines that were there.
            gone = [
                k
                for k in range(number + 1, len(made))
                if _little(made[k]) and _geometry(made[k]).intersects(room)
            ]
            made = [part for k, part in enumerate(made) if k not in gone]
            made[number + 1 : number + 1] = ornament
    return made


def _room(form: Form, above: Sequence[Part], weight: float) -> BaseGeometry:
    """Return where ornament may go on a form: what neither later forms nor its main marks take up."""
    taken = [_geometry(part).buffer(weight) for part in above if not _little(part)]
    return form.area.difference(shapely.union_all(taken)).buffer(-1.9 * weight)


def _little(part: Part) -> bool:
    return not isinstance(part, Form) and part.extra


def _geometry(part: Part) -> BaseGeometry:
    return part.line if isinstance(part, Mark) else part.area
