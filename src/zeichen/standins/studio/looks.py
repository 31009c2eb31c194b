"""One list of parts, five looks: silhouette, bold line, flat colour, stencil, brush and ink."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.optimize import linear_sum_assignment
from shapely.geometry.base import BaseGeometry

from zeichen.core.briefing import Look
from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.values import rgb_colours
from zeichen.standins.studio.cut_paper import silhouette, stencil
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, outline_data
from zeichen.standins.studio.placing import Frame

INK = "#1e2023"
PAPER = "#ffffff"
TONES = {
    "ochre": "#d9a441",
    "rust": "#a8502f",
    "cream": "#f3e3bd",
    "brown": "#6d4a33",
    "dark": "#2e2a2b",
    "leaf": "#54824a",
    "lime": "#a9bf6a",
    "beet": "#7d2748",
    "rose": "#d9838c",
    "sky": "#8fbcc9",
    "teal": "#2f6470",
    "red": "#c2402f",
}
# A nib held at this angle makes strokes across it broad and strokes along it thin.
_NIB_DEG = 38.0
_MOST_BLACK = 0.2


@dataclass(frozen=True, slots=True)
class Brush:
    """What a look is painted with: line weight in board units, palette, joins, whether all hangs together."""

    weight: float
    palette: tuple[str, ...] = ()
    colours: int | None = None
    mitred: bool = False
    one_piece: bool = True
    wavering: float = 0.0


def paint(parts: Sequence[Part], look: Look, frame: Frame, brush: Brush) -> str:
    """Return an SVG picture of the frame's size in board units."""
    if look is Look.SILHOUETTE:
        rows = [_filled(silhouette(parts, brush.weight, one_piece=brush.one_piece), INK)]
    elif look is Look.STENCIL:
        rows = [_filled(stencil(parts, brush.weight), INK)]
    elif look is Look.FLAT:
        tones = choose_tones(parts, brush.palette, brush.colours)
        rows = [_flat(part, brush.weight, tones) for part in parts]
    elif look is Look.LINE:
        rows = [_line(part, brush, k) for k, part in enumerate(parts)]
    else:
        whole = shapely.union_all([part.area for part in parts if isinstance(part, Form)]).area
        rows = [_inked(part, brush.weight, whole) for part in parts]
    join = "miter" if brush.mitred else "round"
    size = f"{frame.width:g} {frame.height:g}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {size}" width="{frame.width:g}" '
        f'height="{frame.height:g}"><rect width="{frame.width:g}" height="{frame.height:g}" fill="{PAPER}"/>'
        f'<g stroke-linejoin="{join}" stroke-linecap="round">{"".join(rows)}</g></svg>'
    )


def choose_tones(parts: Sequence[Part], palette: Sequence[str], colours: int | None) -> dict[str, str]:
    """Return the colour of each tone of a figure: from a palette if there is one, no more than asked for.

    Large tones are served first: what has to share a colour is what shows least.
    """
    used: dict[str, float] = {}
    for part in parts:
        area = part.line.length * 12 if isinstance(part, Mark) else part.area.area
        used[part.tone] = used.get(part.tone, 0.0) + area
    names = sorted(used, key=lambda name: -used[name])
    own = {name: TONES[name] for name in names}
    if not palette:
        if colours is None or len(names) <= colours:
            return own
        palette = [own[name] for name in names[:colours]]
    near = difference(
        to_lab(rgb_colours([own[name] for name in names]))[:, None], to_lab(rgb_colours(palette))[None, :]
    )
    first = names[: len(palette)]
    _, taken = linear_sum_assignment(near[: len(first)] * np.sqrt([[used[name]] for name in first]))
    chosen = {name: palette[int(k)] for name, k in zip(first, taken, strict=True)}
    for row, name in enumerate(names[len(first) :], len(first)):
        chosen[name] = palette[int(near[row].argmin())]
    return chosen


def _filled(area: BaseGeometry, fill: str) -> str:
    return f'<path d="{outline_data(area)}" fill="{fill}" fill-rule="evenodd"/>'


def _line(part: Part, brush: Brush, number: int) -> str:
    # Without the rule of even lines a hand presses now more, now less.
    weight = brush.weight * (1.0 + brush.wavering * math.sin(2.4 * number + 0.7))
    if isinstance(part, Form):
        fill = INK if part.tone == "dark" and not part.joined else PAPER
        data = outline_data(part.area)
        return f'<path d="{data}" fill="{fill}" stroke="{INK}" stroke-width="{weight:.2f}"/>'
    if isinstance(part, Mark):
        data = outline_data(part.line)
        return f'<path d="{data}" fill="none" stroke="{INK}" stroke-width="{weight:.2f}"/>'
    return _filled(part.area, INK)


def _flat(part: Part, weight: float, tones: dict[str, str]) -> str:
    if isinstance(part, Mark):
        width = max(0.7, abs(part.width)) * weight
        return (
            f'<path d="{outline_data(part.line)}" fill="none" stroke="{tones[part.tone]}" '
            f'stroke-width="{width:.2f}"/>'
        )
    return _filled(part.area, tones[part.tone])


def _inked(part: Part, weight: float, whole: float) -> str:
    if isinstance(part, Dot):
        return _filled(part.area, INK)
    if isinstance(part, Mark):
        return "".join(_brushed(part.line, weight, taper=True))
    # A few black areas give a brush drawing weight; large ones would make it a silhouette.
    small = part.area.area < _MOST_BLACK * whole
    solid = not part.joined and (part.tone == "dark" or (part.tone in ("brown", "beet") and small))
    base = _filled(part.area, INK if solid else PAPER)
    rings = [
        ring
        for polygon in getattr(part.area, "geoms", [part.area])
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return base + "".join(step for ring in rings for step in _brushed(ring, weight, taper=False))


def _brushed(line: BaseGeometry, weight: float, *, taper: bool) -> list[str]:
    """Return a stroke as short pieces whose width follows its direction, as a brush or broad nib leaves it."""
    made = []
    for run in getattr(line, "geoms", [line]):
        if run.is_empty or run.length < 1.0:
            continue
        steps = max(4, int(run.length / max(4.0, 0.4 * weight)))
        at = np.linspace(0.0, 1.0, steps + 1)
        spots = np.array([run.interpolate(t, normalized=True).coords[0] for t in at])
        heading = np.arctan2(*np.diff(spots, axis=0).T[::-1])
        pressed = 0.62 + 0.76 * np.abs(np.sin(heading - math.radians(_NIB_DEG)))
        if taper:
            pressed *= 0.35 + 0.75 * np.sin(np.pi * np.clip((at[:-1] + at[1:]) / 2, 0.04, 0.96)) ** 0.6
        widths = weight * np.convolve(np.pad(pressed, 2, mode="edge"), np.full(5, 0.2), mode="valid")
        made += [
            f'<path d="M{x0:.1f} {y0:.1f}L{x1:.1f} {y1:.1f}" stroke="{INK}" stroke-width="{w:.2f}"/>'
            for (x0, y0), (x1, y1), w in zip(spots[:-1], spots[1:], widths, strict=True)
        ]
    return made
