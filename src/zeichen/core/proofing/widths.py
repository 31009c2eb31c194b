"""The dark area of a drawing and where it, or a gap in it, is narrow: looked at group by group of near shapes."""

import math
from collections.abc import Hashable
from dataclasses import dataclass
from itertools import chain

from shapely.geometry import MultiPolygon

from zeichen.core.geometry.polygons import as_multipolygon, is_light, painted_area
from zeichen.core.proofing.facts import Memory, ShapeFacts, near_groups
from zeichen.core.proofing.narrow import Narrowness, measure_narrowness, sample_spacing, sample_walls

_MANY_GROUPS = 400
_AT_ONCE = 50


@dataclass(frozen=True, slots=True)
class Widths:
    """The area as it is worked, its narrow parts, and its narrow gaps."""

    area: MultiPolygon
    parts: Narrowness
    gaps: Narrowness


def look_at_widths(
    shapes: list[ShapeFacts],
    thin: float,
    gap: float,
    *,
    cut_away: bool,
    tolerance: float,
    memory: Memory,
    coarse: float = 1.0,
) -> Widths:
    """Return the dark area of shapes painted in order, and where it is narrower than limits.

    Parameters
    ----------
    thin, gap : float
        Limits of parts and gaps, drawing units.
    cut_away : bool
        Whether the light areas are the material, as in a stencil: its parts are the drawing's gaps.
    coarse : float
        How many times as far apart as usual the walls are sampled.

    Notes
    -----
    No width beyond three limits is of interest, so shapes further apart than that know nothing of each
    other: each group of near ones is looked at alone, and not again as long as it stays the same. Where there are
    very many, as in a trace full of specks, some are looked at together, which finds the same in a third of the time.
    """
    drawn = [each for each in shapes if not each.area.is_empty]
    groups = near_groups([each.area for each in drawn], max(3.0 * thin, 3.0 * gap, 2.0 * tolerance))
    if len(groups) > _MANY_GROUPS:
        groups = [
            sorted(chain.from_iterable(groups[start : start + _AT_ONCE]))
            for start in range(0, len(groups), _AT_ONCE)
        ]
    total = sum(each.area.length for each in drawn)
    spacings = coarse * sample_spacing(thin, total), coarse * sample_spacing(gap, total)
    found = [
        _group_widths([drawn[k] for k in group], thin, gap, cut_away, tolerance, spacings, memory)
        for group in groups
    ]
    return Widths(
        MultiPolygon([polygon for each in found for polygon in each.area.geoms]),
        _together([each.parts for each in found]),
        _together([each.gaps for each in found]),
    )


def _group_widths(
    shapes: list[ShapeFacts],
    thin: float,
    gap: float,
    cut_away: bool,
    tolerance: float,
    spacings: tuple[float, float],
    memory: Memory,
) -> Widths:
    content = tuple((each.key, is_light(each.shape.fill)) for each in shapes)
    key: Hashable = ("widths", content, thin, gap, cut_away, tolerance, spacings)

    def measured() -> Widths:
        area = painted_area([(each.shape, each.area) for each in shapes])
        if sum(len(each.paths) for each in shapes) > 1:
            # Neighbours that share a border leave hairlines where it was flattened twice: no machine sees those.
            area = as_multipolygon(
                area.buffer(tolerance, join_style="mitre").buffer(-tolerance, join_style="mitre")
            )
        walls = sample_walls(area, spacings[0])
        parts = measure_narrowness(walls, limit=thin, inside=not cut_away)
        if spacings[1] != spacings[0]:
            walls = sample_walls(area, spacings[1])
        return Widths(area, parts, measure_narrowness(walls, limit=gap, inside=cut_away))

    return memory.recall(key, measured)


def _together(found: list[Narrowness]) -> Narrowness:
    places = sorted(chain.from_iterable(each.places for each in found), key=lambda place: place.width)
    return Narrowness(tuple(places), min((each.narrowest for each in found), default=math.inf))
