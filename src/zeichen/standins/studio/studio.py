"""The studio: from an order to a picture."""

import difflib
from collections.abc import Callable

import numpy as np

from zeichen.core.briefing.generator import Look, SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.render import render_svg
from zeichen.core.raster.picture import Picture
from zeichen.standins.studio import animals, garden
from zeichen.standins.studio.faults import spoil
from zeichen.standins.studio.looks import paint
from zeichen.standins.studio.pen import Part

SUBJECTS: dict[str, Callable[[np.random.Generator], list[Part]]] = {
    "snail": animals.snail,
    "beetroot": garden.beetroot,
    "watering can": garden.watering_can,
    "teapot": garden.teapot,
    "hedgehog": animals.hedgehog,
    "bean pod": garden.bean_pod,
    "wheelbarrow": garden.wheelbarrow,
    "dragonfly": animals.dragonfly,
}
_LEAN_DEG = {"dragonfly": 28.0, "bean pod": 10.0}


class Studio:
    """A picture generator that needs no network and no model.

    faults: how often pictures carry the accidents of generated ones, 0 to 3, 1 as usual.
    """

    name = "stand-in studio"

    def __init__(self, *, faults: float = 1.0) -> None:
        self._faults = faults

    def require_known(self, order: SketchOrder) -> str:
        """Return the subject's name in the studio; InvalidInputError names near ones if it is unknown."""
        subject = " ".join(order.subject.lower().split())
        if subject not in SUBJECTS:
            near = difflib.get_close_matches(subject, SUBJECTS, n=3, cutoff=0.4)
            advice = f"Did you mean {' or '.join(near)}?" if near else f"It knows: {', '.join(SUBJECTS)}."
            raise InvalidInputError(f"The stand-in can't draw “{order.subject}”. {advice}")
        return subject

    def draw(self, order: SketchOrder) -> Picture:
        """Return the picture of an order; InvalidInputError names near subjects if this one is unknown."""
        subject = self.require_known(order)
        # Pose and faults have their own streams, so the three looks of one seed show one pose.
        key = list(SUBJECTS).index(subject)
        pose = np.random.default_rng([order.seed, key, 1])
        parts = SUBJECTS[subject](pose)
        lean = pose.uniform(-1, 1) * _LEAN_DEG.get(subject, 3.0)
        flip = -1 if pose.random() < 0.35 else 1
        size = pose.uniform(0.82, 0.9)
        weight = pose.uniform(19, 25) * (0.92 if order.look is Look.LINE else 1.0)
        transform = (
            f"translate(500 500) rotate({lean:.2f}) scale({flip * size:.4f} {size:.4f}) "
            f"translate(-500 -{_MIDDLE.get(subject, 540)})"
        )
        rgba = render_svg(
            paint(parts, order.look, weight=weight, transform=transform), width_px=order.size_px
        )
        accidents = np.random.default_rng([order.seed, key, list(Look).index(order.look), 2])
        return Picture(spoil(np.ascontiguousarray(rgba[..., :3]), accidents, faults=self._faults))


# Where each figure's middle lies on the board, so that pictures are centred.
_MIDDLE = {
    "snail": 570,
    "beetroot": 505,
    "watering can": 520,
    "teapot": 560,
    "hedgehog": 580,
    "bean pod": 440,
    "wheelbarrow": 545,
    "dragonfly": 550,
}
