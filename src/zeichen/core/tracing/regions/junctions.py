"""Where the borders of a planar map meet: read off the lines on which they come in.

Three pixels that touch do not say where three areas meet; the borders do, extended to each other. Where an
area runs out in a slender wedge its last pixels hold less than half of it and belong to others: there the
wedge's two sides are extended to where they meet.
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry.lines import where_lines_meet
from zeichen.core.geometry.nearest import nearest_on
from zeichen.core.tracing.regions.boundary_chains import ArcEnd, Leaving
from zeichen.core.tracing.regions.planar_map import PlanarMap
from zeichen.core.values import BoolArray, FloatArray

# Lines meet this near to where three pixels touch, or further off if all of them pass the place as closely as this.
_FURTHEST_JUNCTION_PX = 1.6
_FURTHEST_SURE_PX = 4.5
_SURE_PX = 0.16
# The sides of a wedge leave its tip within such an angle of each other.
_WEDGE_DEG = (2.0, 32.0)
# How much further than the last pixel that is its own a wedge may go, px.
_LONGEST_WEDGE_PX = 22.0
# The border that goes on from a wedge's tip passes this near to it, px.
_BESIDE_PX = 1.0
_LEAST_WEDGE_PX = 1.5
# So much of a wedge must be seen in the border beside it.
_SEEN_SHARE = 0.6
# Where four areas meet, pixels show two junctions joined by so many cracks at most, of areas with a rim that is longer.
_SHORT_CRACKS = 3
_LEAST_RIM_CRACKS = 12
# And their lines meet this near to each other, if not the wrong way round.
_ONE_PLACE_PX = 0.35


@dataclass(frozen=True, slots=True)
class Junctions:
    """Where borders meet and how.

    map: the map whose junctions they are, those that are one place joined; leaving: how each arc's end leaves its
    junction; places: (n, 2) px; wedges: for each junction that is the tip of a slender wedge, where the wedge's
    last own pixel is.
    """

    map: PlanarMap
    leaving: dict[ArcEnd, Leaving]
    places: FloatArray
    wedges: dict[int, FloatArray]


def _line_at(vertex: FloatArray, run: FloatArray, fit: FitSettings) -> tuple[FloatArray, FloatArray] | None:
    """Return the line on which a run of points leaves a junction: its place there and its direction.

    As long a stretch as is straight is used: there may be a corner near by.
    """
    run = run[:40]
    away = np.linalg.norm(run - vertex, axis=1)
    skip = fit.skip_px + 0.6
    first = float(away.min(initial=np.inf))
    reach = fit.reach_px + 1.5 + max(0.0, first - skip)
    # Only up to where the run turns back.
    turned = np.nonzero(away > reach)[0]
    run, away = (run[: int(turned[0])], away[: int(turned[0])]) if len(turned) else (run, away)
    limit = 0.12 + 3.0 * fit.noise_px
    best: tuple[FloatArray, FloatArray] | None = None
    for share in (1.0, 0.75, 0.55, 0.4):
        near = (away >= min(skip, 0.4 * share * reach)) & (away <= share * reach)
        if near.sum() < 3:
            break
        points = run[near]
        middle = points.mean(axis=0)
        direction = np.linalg.svd(points - middle)[2][0]
        if direction @ (points[-1] - points[0]) < 0:
            direction = -direction
        off = np.abs((points - middle) @ np.array([-direction[1], direction[0]])).max()
        best = middle + direction * float(direction @ (vertex - middle)), direction
        if off < limit:
            break
    return best


def find_junctions(
    planar: PlanarMap, own: list[FloatArray], witness: list[BoolArray], inside: BoolArray, fit: FitSettings
) -> Junctions:
    """Return how arcs leave each junction, and where, extended to it, they come nearest to meeting.

    Two junctions beside each other may be one place where four areas meet: the map that is returned joins them.

    Parameters
    ----------
    planar : PlanarMap
    own : list of (n, 2) float arrays, px
        For each arc the points on its edge.
    witness : list of bool arrays
        Which of the points are where two plain colours meet.
    inside : (n,) bool array
        Whether an arc has areas on both sides.
    fit : FitSettings
    """
    found = _found(planar, own, witness, inside, fit)
    joined = _joined(planar, found, inside)
    return found if joined is None else _found(joined, own, witness, inside, fit)


def _joined(planar: PlanarMap, found: Junctions, inside: BoolArray) -> PlanarMap | None:
    """Return the map with junctions joined that are one place, if any are."""
    cracks = np.diff(planar.starts)
    rim = np.bincount(np.concatenate([planar.right, planar.left]) + 1, np.tile(cracks, 2))[1:]
    pairs: list[tuple[int, int]] = []
    for arc in np.nonzero(inside & (cracks <= _SHORT_CRACKS))[0].tolist():
        a, b = int(planar.start[arc]), int(planar.end[arc])
        if a < 0 or a == b or a in found.wedges or b in found.wedges:
            continue
        if min(rim[planar.right[arc]], rim[planar.left[arc]]) < _LEAST_RIM_CRACKS:
            continue
        apart = found.places[b] - found.places[a]
        onward = planar.junctions[b] - planar.junctions[a]
        if float(np.hypot(*apart)) < _ONE_PLACE_PX or float(apart @ onward) <= 0.0:
            pairs.append((a, b))
    if not pairs:
        return None
    count = len(planar.junctions)
    joined = coo_array((np.ones(len(pairs)), tuple(np.array(pairs).T)), shape=(count, count))
    # Each place goes by the first of its junctions.
    _, group = connected_components(joined, directed=False)
    one = np.unique(group, return_index=True)[1][group]
    start, end = (np.where(ends >= 0, one[ends], -1) for ends in (planar.start, planar.end))
    return replace(planar, start=start, end=end)


def _found(
    planar: PlanarMap, own: list[FloatArray], witness: list[BoolArray], inside: BoolArray, fit: FitSettings
) -> Junctions:
    count = len(planar.junctions)
    vertex = planar.junctions.astype(np.float64)
    normal = np.zeros((count, 2, 2))
    right = np.zeros((count, 2))
    on_rim = np.zeros(count, bool)
    leaving: dict[ArcEnd, Leaving] = {}
    for k in range(len(planar)):
        for which, junction in ((0, int(planar.start[k])), (1, int(planar.end[k]))):
            if junction < 0 or is_within(planar, k):
                continue
            if not inside[k]:
                on_rim[junction] = True
                continue
            believed = own[k][witness[k]] if witness[k].sum() >= 4 else own[k]
            found = _line_at(vertex[junction], believed if which == 0 else believed[::-1], fit)
            if found is None:
                continue
            place, direction = found
            n = np.array([-direction[1], direction[0]])
            normal[junction] += np.outer(n, n)
            right[junction] += n * (n @ place)
            leaving[k, which] = Leaving(place, direction)
    meeting = _ends_at(planar, leaving)
    places = vertex.copy()
    for j in range(count):
        if on_rim[j]:
            continue
        a = normal[j] + 0.01 * np.eye(2)
        place = np.linalg.solve(a, right[j] + 0.01 * vertex[j])
        lines = [leaving[end] for end in meeting.get(j, ())]
        sure = len(lines) > 2 and all(_passes(line, place) < _SURE_PX for line in lines)
        if np.linalg.norm(place - vertex[j]) <= (_FURTHEST_SURE_PX if sure else _FURTHEST_JUNCTION_PX):
            places[j] = place
    wedges = {}
    for j, ends in meeting.items():
        tip = None if on_rim[j] or len(ends) != 3 else _wedge_tip(ends, leaving, own, witness, vertex[j])
        if tip is not None:
            wedges[j] = vertex[j]
            places[j] = tip
    return Junctions(planar, leaving, places, wedges)


def is_within(planar: PlanarMap, arc: int) -> bool:
    """Return whether an arc lies within one place, where junctions were joined."""
    short = planar.starts[arc + 1] - planar.starts[arc] <= _SHORT_CRACKS
    return bool(planar.start[arc] == planar.end[arc] >= 0 and short)


def _ends_at(planar: PlanarMap, leaving: dict[ArcEnd, Leaving]) -> dict[int, list[ArcEnd]]:
    at: dict[int, list[ArcEnd]] = {}
    for arc, end in leaving:
        at.setdefault(int(planar.start[arc] if end == 0 else planar.end[arc]), []).append((arc, end))
    return at


def _passes(line: Leaving, place: FloatArray) -> float:
    """Return how far from a place a line passes, px."""
    off = place - line.place
    return float(abs(off[0] * line.direction[1] - off[1] * line.direction[0]))


def _wedge_tip(
    ends: list[ArcEnd],
    leaving: dict[ArcEnd, Leaving],
    own: list[FloatArray],
    witness: list[BoolArray],
    vertex: FloatArray,
) -> FloatArray | None:
    """Return where the sides of a slender wedge meet beyond its last pixel, on the border that goes on from there."""
    for third in ends:
        a, b = (leaving[end] for end in ends if end != third)
        cross = float(a.direction[0] * b.direction[1] - a.direction[1] * b.direction[0])
        angle = float(np.degrees(np.arctan2(abs(cross), float(a.direction @ b.direction))))
        if not _WEDGE_DEG[0] < angle < _WEDGE_DEG[1]:
            continue
        tip = where_lines_meet(a.place, a.direction, b.place, b.direction)
        along = -(a.direction + b.direction) / np.linalg.norm(a.direction + b.direction)
        forwards = slice(None) if third[1] == 0 else slice(None, None, -1)
        run, plain = own[third[0]][forwards], witness[third[0]][forwards]
        beyond = float((tip - vertex) @ along)
        if not 0.0 < beyond < _LONGEST_WEDGE_PX or len(run) < 4:
            continue
        # Where the border is plain again there is nothing of the wedge left.
        over = np.nonzero(plain[:-2] & plain[1:-1] & plain[2:])[0]
        last = int(over[0]) if len(over) else len(run) - 1
        if beyond < _LEAST_WEDGE_PX or float((run[last] - vertex) @ along) < _SEEN_SHARE * beyond - 1.0:
            continue
        if np.linalg.norm(nearest_on(tip[None], run[:-1], run[1:])[0]) < _BESIDE_PX:
            return tip
    return None
