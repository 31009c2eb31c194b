"""Joining, subtracting and intersecting areas with curved borders, exactly: results keep their sources' curves.

Curves are laid out as fine polylines, all polylines are cut where they meet, and the faces between them are
found and judged by the fill rule. Every edge of a face knows the piece of curve it came from, so an outline
is put together from pieces of the very curves that were given; only where two meet is there a new node,
moved to where the curves themselves cross. No face is ever seen as a polygon by the caller.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from zeichen.core.compiled import counted
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.ring_curves import ChordIndex, Chords, cut_out, joined_runs
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Polylines lie within this share of the whole size of their curves.
_FLATNESS = 4e-5
# Places are rounded to about this share of the whole size, so that meetings are found without doubt.
# No more than 2**31 steps to either side: two places have one key only if they are one (see _keys in ring_curves).
_GRID = 2.0**-30
_MOST_STEPS = 256


@dataclass(frozen=True, slots=True)
class Region:
    """An area: closed paths and the rule that says what is inside them (SVG 2, section 13.4.1)."""

    paths: tuple[Path, ...]
    fill_rule: str = "evenodd"

    @classmethod
    def of(cls, shape: Shape) -> "Region":
        """Return the area of a filled shape; an open path counts as closed by a straight line."""
        return cls(shape.paths, shape.fill_rule)


class Overlay:
    """Regions laid over each other: the faces they cut each other into, and which regions hold each face.

    Attributes
    ----------
    inside : (faces, regions) bool array
    areas : (faces,) float array
        Of the faces, as polygons.
    """

    def __init__(self, regions: list[Region]) -> None:
        self._chords = _lay_out(regions)
        self._faces: AnyArray = np.empty(0, dtype=object)
        self.inside: BoolArray = np.zeros((0, len(regions)), np.bool_)
        self.areas: FloatArray = np.zeros(0)
        chords = self._chords
        if chords is None:
            return
        noded = shapely.union_all(_runs(chords))
        faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))
        if not len(faces):
            return
        self._faces = faces
        self.areas = np.asarray(shapely.area(faces))
        places = shapely.get_coordinates(shapely.point_on_surface(faces))
        winding = _winding(places, chords.start, chords.end, chords.region, len(regions))
        odd = np.array([region.fill_rule == "evenodd" for region in regions])
        self.inside = np.where(odd[None, :], winding % 2 != 0, winding != 0)

    def in_any(self) -> BoolArray:
        """Return which faces lie in any region."""
        return np.asarray(self.inside.any(axis=1))

    def outline(self, keep: BoolArray, *, least_width: float = 0.0) -> tuple[Path, ...]:
        """Return the outlines of some faces together: outer paths clockwise on screen, holes the other way.

        Parameters
        ----------
        keep : (faces,) bool array
        least_width : float
            What is narrower all along is left out: slivers between borders that nearly coincide.
        """
        if self._chords is None or not keep.any():
            return ()
        chosen = self._faces[keep]
        whole = shapely.coverage_union_all(chosen) if len(chosen) > 1 else chosen[0]
        rings: list[BaseGeometry] = []
        outer: list[bool] = []
        for polygon in shapely.get_parts(whole):
            if polygon.geom_type == "Polygon":
                rings.extend([polygon.exterior, *polygon.interiors])
                outer.extend([True] + [False] * len(polygon.interiors))
        paths: list[Path] = []
        for number, segments in self._curved(rings):
            path = Path(segments)
            # What is no wider than the rounding (or than was asked for) is no area.
            if abs(path.area) < max(8.0 * self._chords.grid, least_width / 2.0) * rings[number].length:
                continue
            forward = path.area > 0
            paths.append(path if forward == outer[number] else Path(bezier.reverse(path.segments)))
        return tuple(paths)

    @cached_property
    def _index(self) -> "ChordIndex":
        assert self._chords is not None
        return ChordIndex(self._chords)

    def _curved(self, rings: list[BaseGeometry]) -> list[tuple[int, FloatArray]]:
        """Return the number and the segments of each ring that is one."""
        chords = self._chords
        assert chords is not None
        points, number = shapely.get_coordinates(rings, return_index=True)
        # The step from one ring's last point to the next one's first is no edge.
        edge = np.nonzero(number[1:] == number[:-1])[0]
        runs = joined_runs(self._index.pieces(points[edge], points[edge + 1], number[edge]))
        segments, owner = cut_out(chords.segments, runs, chords.grid)
        bounds = np.searchsorted(owner, np.arange(len(rings) + 1))
        return [
            (k, segments[bounds[k] : bounds[k + 1]]) for k in range(len(rings)) if bounds[k + 1] > bounds[k]
        ]


def united(regions: list[Region]) -> tuple[Path, ...]:
    """Return the outlines of all regions together."""
    overlay = Overlay(regions)
    return overlay.outline(overlay.in_any())


def subtracted(first: Region, *others: Region) -> tuple[Path, ...]:
    """Return the outlines of a region less others."""
    overlay = Overlay([first, *others])
    return overlay.outline(overlay.inside[:, 0] & ~overlay.inside[:, 1:].any(axis=1))


def intersected(regions: list[Region]) -> tuple[Path, ...]:
    """Return the outlines of what all regions share."""
    overlay = Overlay(regions)
    return overlay.outline(np.asarray(overlay.inside.all(axis=1)))


def untangled(region: Region) -> tuple[Path, ...]:
    """Return the outlines of a region as its fill rule shows it: paths that neither cross themselves nor others."""
    return united([region])


def _lay_out(regions: list[Region]) -> Chords | None:
    runs: list[FloatArray] = []
    owner: list[int] = []
    for number, region in enumerate(regions):
        for path in region.paths:
            if not len(path.segments):
                continue
            runs.append(closed_run(path.segments))
            owner.append(number)
    if not runs:
        return None
    segments = np.concatenate(runs)
    low, high = segments.reshape(-1, 2).min(axis=0), segments.reshape(-1, 2).max(axis=0)
    size = float((high - low).max())
    if not size > 0:
        return None
    # A power of two, so that rounding to it loses nothing more.
    grid = float(2.0 ** np.round(np.log2(max(size, float(np.abs([low, high]).max())) * _GRID)))
    steps = np.minimum(bezier.chord_count(segments, tolerance=_FLATNESS * size), _MOST_STEPS).astype(np.int64)
    which = np.repeat(np.arange(len(segments)), steps)
    first = np.concatenate([[0], np.cumsum(steps)[:-1]])
    number = np.arange(len(which)) - first[which]
    t0, t1 = number / steps[which], (number + 1) / steps[which]
    start, end = bezier.point_of_each(segments[which], t0), bezier.point_of_each(segments[which], t1)
    start[number == 0] = segments[which[number == 0], 0]
    last = number == steps[which] - 1
    end[last] = segments[which[last], 3]
    start, end = np.round(start / grid) * grid, np.round(end / grid) * grid
    held_by = np.repeat(np.repeat(owner, [len(run) for run in runs]), steps)
    long = (start != end).any(axis=1)
    if not long.any():
        return None
    return Chords(segments, start[long], end[long], which[long], t0[long], t1[long], held_by[long], grid)


def closed_run(segments: FloatArray) -> FloatArray:
    """Return a run whose end is its start: a gap is closed by a straight line, the last digit is no gap."""
    gap = float(np.abs(segments[-1, 3] - segments[0, 0]).max())
    if gap == 0.0:
        return segments
    size = float(np.abs(segments).max()) or 1.0
    if gap < 1e-9 * size:
        segments = segments.copy()
        segments[-1, 3] = segments[0, 0]
        return segments
    return np.concatenate([segments, bezier.line_segments(np.stack([segments[-1, 3], segments[0, 0]]))])


def _runs(chords: Chords) -> AnyArray:
    """Return the chords as lines, one for each connected run, which are noded faster."""
    breaks = (chords.start[1:] != chords.end[:-1]).any(axis=1)
    last = np.concatenate([breaks, [True]])
    # Every chord's start, and the end of each run's last chord.
    number = np.concatenate([[0], np.cumsum(breaks)])
    order = np.concatenate([np.arange(len(last)) * 2.0, np.nonzero(last)[0] * 2.0 + 1.0]).argsort()
    points = np.concatenate([chords.start, chords.end[last]])[order]
    return np.asarray(shapely.linestrings(points, indices=np.concatenate([number, number[last]])[order]))


@counted(cache=True)
def _winding(
    places: FloatArray, start: FloatArray, end: FloatArray, region: AnyArray, regions: int
) -> AnyArray:
    """Return how often each region's paths go around each place."""
    out = np.zeros((len(places), regions), np.int64)
    order = np.argsort(places[:, 1])
    ys = places[order, 1]
    for k in range(len(start)):
        ay, by = start[k, 1], end[k, 1]
        if ay == by:
            continue
        low, high = min(ay, by), max(ay, by)
        ax, bx = start[k, 0], end[k, 0]
        for n in range(np.searchsorted(ys, low), len(ys)):
            y = ys[n]
            if y >= high:
                break
            x = places[order[n], 0]
            side = (bx - ax) * (y - ay) - (x - ax) * (by - ay)
            if ay < by:
                if side > 0.0:
                    out[order[n], region[k]] += 1
            elif side < 0.0:
                out[order[n], region[k]] -= 1
    return out
