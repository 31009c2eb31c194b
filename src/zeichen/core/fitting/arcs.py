"""True arcs: where a corner between two lines was rounded, and of curves that nearly are some."""

import math

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.fitting.node_insertion import begin_at_nearest, drop_node, wrapped
from zeichen.core.fitting.spline import Spline
from zeichen.core.fitting.spline_arrays import SplineArrays, up_to
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import BoolArray, FloatArray

# Curves that turn less have no radius to speak of; more than a quarter and a bit, one cubic is no arc.
_LEAST_ARC_RAD = math.radians(12.0)
_MOST_ARC_RAD = math.radians(100.0)
# A rounding smaller than this may as well be the picture's blur at a sharp corner, px.
_LEAST_MERGED_PX = 2.5
_LEAST_RADIUS_PX = 1.0
# The ends of an arc lean alike on its chord, but for so much.
_MOST_TILT_RAD = math.radians(1.2)
_LEAST_POINTS = 6
_ROUNDS = 12


def make_arcs(spline: Spline, within: float, moved: float) -> int:
    """Make true arcs of what may be some; returns how many.

    Of the curves that round a corner between two lines, arcs that touch both. Only the radius is free then, and
    all points of the curve tell it; the arc must lie within a distance of them. Two short curves between the
    lines, with a corner that was none, become one arc.

    Other curves that are nearly arcs of a circle get the handles of true ones, if that moves them by no more than
    a distance. A curve is nearly one if its ends lean alike on its chord and its handles are about as long as an
    arc's: 4/3 tan(turn / 4) radii (the usual cubic for an arc, error below 0.03 % up to a quarter).
    """
    spline.count, made = _make_arcs(spline.arrays(), spline.count, within, moved)
    return int(made)


@counted(cache=True)
def _make_arcs(spline: SplineArrays, m: int, within: float, moved: float) -> tuple[int, int]:
    """Return how many nodes are left, and how many arcs were made."""
    _, _, _, node, _, line, _, _, angle, handle, closed = spline
    made = 0
    for curves in (2, 1):
        k = NONE
        while k < (m if closed else m - 1):
            inside = m >= 3 + curves and (closed or 0 < k < m - 1 - curves)
            left, right = around(k - 1, m), around(k + curves, m)
            if inside and line[left] and line[right] and not line[k] and not line[around(k + curves - 1, m)]:
                arc, tip_x, tip_y, radius = _arc_between(up_to(spline, m), k, right, within, curves > 1)
                if arc:
                    made += 1
                    at = k
                    if curves > 1:
                        gone = around(k + 1, m)
                        drop_node(spline, gone, m)
                        m -= 1
                        at = k - 1 if gone < k else k
                    _lay_arc(up_to(spline, m), at, tip_x, tip_y, radius)
            k += 1
    return m, made + _even_handles(m if closed else m - 1, node[:m], line[:m], angle[:m], handle[:m], moved)


@uncounted
def _arc_between(
    spline: SplineArrays, k: int, right: int, within: float, merged: bool
) -> tuple[bool, float, float, float]:
    """Return whether an arc rounds the corner between the line before segment k and that from node `right` on.

    And where the lines meet (x, y), and its radius.
    """
    q, node, first, closed = spline.points, spline.node, spline.first, spline.closed
    n, m = len(q), len(node)
    left, after = around(k - 1, m), around(right + 1, m)
    come_x, come_y = node[k, 0] - node[left, 0], node[k, 1] - node[left, 1]
    go_x, go_y = node[after, 0] - node[right, 0], node[after, 1] - node[right, 1]
    size = max(norm(come_x, come_y), 1e-9)
    come_x, come_y = come_x / size, come_y / size
    size = max(norm(go_x, go_y), 1e-9)
    go_x, go_y = go_x / size, go_y / size
    cross = come_x * go_y - come_y * go_x
    turn = abs(math.atan2(cross, come_x * go_x + come_y * go_y))
    none = (False, 0.0, 0.0, 0.0)
    if not _LEAST_ARC_RAD < turn < _MOST_ARC_RAD:
        return none
    far = ((node[right, 0] - node[k, 0]) * go_y - (node[right, 1] - node[k, 1]) * go_x) / cross
    tip_x, tip_y = node[k, 0] + far * come_x, node[k, 1] + far * come_y
    start, count = first[k], around(first[right] - first[k], n) if closed else first[right] - first[k]
    if count < _LEAST_POINTS:
        return none
    # The centre lies on the line that halves the angle, as far out as the radius asks.
    in_x, in_y = go_x - come_x, go_y - come_y
    size = max(norm(in_x, in_y), 1e-9) * math.cos(turn / 2)
    in_x, in_y = in_x / size, in_y / size
    low, high = start + count // 5, start + count - count // 5
    nearest = math.inf
    for i in range(low, high):
        nearest = min(nearest, norm(q[around(i, n), 0] - tip_x, q[around(i, n), 1] - tip_y))
    # An arc stays so far from its tip; far smaller ones fit the points best among their like, too.
    radius = nearest / (1.0 / math.cos(turn / 2) - 1.0)
    for _ in range(_ROUNDS):
        # By Gauss and Newton: points lie best on a circle round the tip plus so many radii inwards.
        top = bottom = 0.0
        for i in range(low, high):
            x, y = q[around(i, n), 0] - tip_x - in_x * radius, q[around(i, n), 1] - tip_y - in_y * radius
            away = max(norm(x, y), 1e-9)
            slope = -(x * in_x + y * in_y) / away - 1.0
            top += (away - radius) * slope
            bottom += slope * slope
        step = top / max(bottom, 1e-12)
        radius = max(0.1, radius - step)
        if abs(step) < 1e-9:
            break
    back = radius * math.tan(turn / 2)
    room = min(
        (tip_x - node[left, 0]) * come_x + (tip_y - node[left, 1]) * come_y,
        (node[after, 0] - tip_x) * go_x + (node[after, 1] - tip_y) * go_y,
    )
    if radius < (_LEAST_MERGED_PX if merged else _LEAST_RADIUS_PX) or back > room - 0.5:
        return none
    for i in range(low, high):
        off = (
            norm(q[around(i, n), 0] - tip_x - in_x * radius, q[around(i, n), 1] - tip_y - in_y * radius)
            - radius
        )
        if abs(off) > within:
            return none
    return True, tip_x, tip_y, radius


@uncounted
def _lay_arc(spline: SplineArrays, k: int, tip_x: float, tip_y: float, radius: float) -> None:
    """Make segment k the arc that touches the lines before and after it, which meet at the tip."""
    q, _, _, node, first, _, corner, pinned, angle, handle, _ = spline
    m = len(node)
    left, right = around(k - 1, m), around(k + 1, m)
    after = around(right + 1, m)
    come = math.atan2(node[k, 1] - node[left, 1], node[k, 0] - node[left, 0])
    go = math.atan2(node[after, 1] - node[right, 1], node[after, 0] - node[right, 0])
    turn = abs(wrapped(go - come))
    back = radius * math.tan(turn / 2)
    node[k, 0], node[k, 1] = tip_x - back * math.cos(come), tip_y - back * math.sin(come)
    node[right, 0], node[right, 1] = tip_x + back * math.cos(go), tip_y + back * math.sin(go)
    angle[k, 0] = angle[left, 1] = angle[left, 0] = come
    angle[k, 1] = angle[right, 0] = angle[right, 1] = go
    handle[k, 0] = handle[k, 1] = 4.0 / 3.0 * math.tan(turn / 4.0) * radius
    begin_at_nearest(q, k, left, right, node, first)
    begin_at_nearest(q, right, k, after, node, first)
    # The arc touches its lines: no corners there.
    corner[k] = corner[right] = pinned[k] = pinned[right] = False


@uncounted
def _even_handles(
    segments: int, node: FloatArray, line: BoolArray, angle: FloatArray, handle: FloatArray, within: float
) -> int:
    """Give what is nearly an arc the two handles of one; returns how many."""
    made = 0
    for k in range(segments):
        if line[k]:
            continue
        j = (k + 1) % len(node)
        dx, dy = node[j, 0] - node[k, 0], node[j, 1] - node[k, 1]
        chord = math.hypot(dx, dy)
        if chord < 1.0:
            continue
        along = math.atan2(dy, dx)
        lean0, lean1 = angle[k, 0] - along, angle[k, 1] - along
        lean0 -= 2 * math.pi * math.floor(lean0 / (2 * math.pi) + 0.5)
        lean1 -= 2 * math.pi * math.floor(lean1 / (2 * math.pi) + 0.5)
        turn, tilt = abs(lean1 - lean0), abs(lean0 + lean1)
        if not _LEAST_ARC_RAD < turn < _MOST_ARC_RAD or tilt >= _MOST_TILT_RAD:
            continue
        sine = math.sin(turn / 2.0)
        arm = 4.0 / 3.0 * math.tan(turn / 4.0) * chord / (2.0 * sine)
        off = max(abs(handle[k, 0] - arm), abs(handle[k, 1] - arm)) * 0.75 * sine
        if off + tilt * chord / 8.0 < within:
            handle[k, 0] = handle[k, 1] = arm
            made += 1
    return made
