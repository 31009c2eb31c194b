"""How a pen turned where one line bends sharply: at a corner, round one, or at two close by.

All a picture shows of it is the ink: what each would leave on the sheet is compared with what is there.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.fitting.local import end_way
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.tracing.strokes.halving import Place, best_nearby, best_place
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.values import FloatArray

# Of either side so much is drawn, so much tells how it bends, and of a shorter one this which way it goes; widths, px.
_SIDE, _BENDING, _STRAIGHT, _STRAIGHT_PX = 3.0, 1.5, 0.8, 4.0
# Sides bend evenly whose points are no further off a parabola than this (px, widths), and no more tightly than that.
_EVENLY_PX, _EVENLY = 0.25, 0.02
_TIGHTEST = 1.2
# And those that do over so many times that; what bends by less than this over it is straight, px.
_LONG, _AS_STRAIGHT_PX = 2.0, 0.3
# Arcs that turn by less than this are as good as parabolas.
_STRAIGHT_RAD = 1e-3
# They are followed in steps of so much, widths; no finer than pixels.
_STEP = 0.08
# Ink further than this from all ways that are compared belongs to something else, widths.
_AROUND = 0.75
# The rims of a way that is right differ by so much from the picture's, px² and squared widths.
_RIGHT_PX2, _RIGHT = 0.8, 0.003
# Sides that meet at less than this (sine) have no corner; they are followed no further than this, widths.
_PARALLEL, _FURTHEST = 0.25, 3.0
# A round turn, and two corners, must explain so much of what simpler ways do not, and of what a right one does not so
# much at least; a corner among others' ink may do that much worse.
_BETTER, _TWO_BETTER, _LEAST, _AS_GOOD = 0.7, 0.5, 0.3, 0.1
# Radii of round turns that are tried first, and how finely two corners are placed, widths.
_RADII = (0.15, 0.3, 0.45, 0.6, 0.8)
_PLACES, _FINE = (0.0, 0.5, 1.0, 1.5), 0.03
# And how often the steps between radii are halved.
_RADIUS_HALVINGS = 2
# Sides may be cut back by so much, widths.
_BACK = -0.25
_SHORTEST = 0.3
# Two corners are looked for where all else is off by this many times what a right way is.
_DOUBTFUL = 2.0
# Shorter runs do not tell where they come from, points and widths.
_LEAST_POINTS, _STUB = 3, 0.5
_ARC_STEPS = 6
# A corner is moved by this at first and not by more than that, widths.
_FIRST_STEP, _MOST_MOVE = 0.25, 1.0


@dataclass(frozen=True, slots=True, eq=False)
class Corner:
    """Where two sides of a stroke meet, and the radius of the pen's way round it, px; 0 for a true corner."""

    place: FloatArray
    radius: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Turn:
    """Points (n, 2) between two ends of a line, px, and the corners among them."""

    points: FloatArray
    corners: list[Corner] = field(default_factory=list)


class Side:
    """A run of points and how it goes on, bending as it did, points a step apart."""

    def __init__(self, run: FloatArray, width: float, *, straight: bool = False) -> None:
        run = np.ascontiguousarray(run)
        self.width, self.step = width, max(1.0, _STEP * width)
        self.run = run[-math.ceil(_SIDE * width) :][:: -round(3 * self.step)][::-1]
        self.onwards: FloatArray = _onwards(run, width, self.step, straight)

    def upto(self, steps: float) -> FloatArray:
        """Return the points from the end of the run on to so many steps beyond it, that place the last."""
        k = max(0, min(math.floor(steps), len(self.onwards) - 2))
        place = self.onwards[k] + (steps - k) * (self.onwards[k + 1] - self.onwards[k])
        return np.concatenate([self.onwards[: k + 1 if steps > k else k], place[None]])

    def heading(self, steps: float) -> FloatArray:
        """Return the unit direction in which the side goes so many steps beyond the run."""
        k = max(0, min(math.floor(steps), len(self.onwards) - 2))
        way = self.onwards[k + 1] - self.onwards[k]
        return np.asarray(way / math.hypot(*way))


@counted(cache=True)
def _onwards(run: FloatArray, width: float, step: float, straight: bool) -> FloatArray:
    """Return how a run of points goes on beyond its last, a step apart, along an arc as it was bending or straight."""
    x, y, dx, dy = end_way(run, max(_STRAIGHT * width, _STRAIGHT_PX))
    bend = 0.0
    for share in (_LONG, 1.0):
        first = len(run) - math.ceil(share * _BENDING * width)
        if first < 0 or straight:
            continue
        # A parabola over the direction there, if it bends evenly.
        m1 = m2 = m3 = m4 = h0 = h1 = h2 = 0.0
        for k in range(first, len(run)):
            u = (run[k, 0] - x) * dx + (run[k, 1] - y) * dy
            v = (run[k, 1] - y) * dx - (run[k, 0] - x) * dy
            m1, m2, m3, m4 = m1 + u, m2 + u * u, m3 + u * u * u, m4 + u * u * u * u
            h0, h1, h2 = h0 + v, h1 + v * u, h2 + v * u * u
        count = float(len(run) - first)
        a, b, c, _ = solve_three(count, m1, m2, m2, m3, m4, h0, h1, h2)
        furthest = 0.0
        least = 0.0
        for k in range(first, len(run)):
            u = (run[k, 0] - x) * dx + (run[k, 1] - y) * dy
            v = (run[k, 1] - y) * dx - (run[k, 0] - x) * dy
            furthest = max(furthest, abs(a + b * u + c * u * u - v))
            least = min(least, u)
        plain = abs(c) * least * least < _AS_STRAIGHT_PX
        if furthest < max(_EVENLY_PX, _EVENLY * width) and (plain or share == 1.0):
            if share > 1.0:
                # Noise over a longer line turns it less.
                b = (count * h1 - m1 * h0) / (count * m2 - m1 * m1)
                a, c = (h0 - b * m1) / count, 0.0
            x, y = x - a * dy, y + a * dx
            size = math.sqrt(1.0 + b * b)
            dx, dy = (dx - b * dy) / size, (dy + b * dx) / size
            bend = max(-1.0, min(1.0, 2.0 * c * _TIGHTEST * width)) / (_TIGHTEST * width)
            break
    out = np.empty((math.ceil(_FURTHEST * width / step), 2))
    for k in range(len(out)):
        away = k * step
        turn = bend * away
        ahead, aside = away, 0.5 * turn * away
        if abs(turn) > _STRAIGHT_RAD:
            ahead, aside = away * math.sin(turn) / turn, away * (1.0 - math.cos(turn)) / turn
        out[k, 0], out[k, 1] = x + ahead * dx - aside * dy, y + ahead * dy + aside * dx
    return out


class _Sides:
    """Both sides of a turn, and the part of the picture it is in."""

    def __init__(
        self, ink: FloatArray, one: FloatArray, other: FloatArray, width: float, others: list[FloatArray]
    ) -> None:
        self.ink, self.width, self.others = ink, width, others
        self.come, self.go = Side(one, width), Side(other, width)
        self.step = self.come.step

    def look_at(self, *places: FloatArray) -> None:
        """Set the window: what is near to the ends of both sides and some places."""
        every = np.vstack([self.come.onwards[0], self.go.onwards[0], *places])
        low, high = every.min(axis=0) - _AROUND * self.width, every.max(axis=0) + _AROUND * self.width
        self.window = InkWindow(self.ink, self.width, low, high, [self.come.run, self.go.run, *self.others])

    def off(self, points: FloatArray) -> float:
        """Return how much the ink of a way between the sides differs from the picture's, px²."""
        return self.window.off(np.concatenate([self.come.run[-1:], points, self.go.run[-1:]]))

    def between(self, s: float, t: float, middle: FloatArray | None = None) -> FloatArray:
        """Return the points along both sides so many steps beyond the runs, and some between those places."""
        return np.concatenate(
            [self.come.upto(s), *([] if middle is None else [middle]), self.go.upto(t)[::-1]]
        )


def turn_between(
    ink: FloatArray,
    one: FloatArray,
    other: FloatArray,
    width: float,
    drafted: Turn,
    others: list[FloatArray] | None = None,
) -> Turn:
    """Return the turn between two ends of a line that leaves the picture's ink: the drafted one if none is better.

    Parameters
    ----------
    ink : (height, width) float array
        How much ink each pixel holds.
    one, other : (n, 2) float arrays, px
        The points that lead to either end, about a pixel apart.
    width : float, px
        Of the line.
    drafted : Turn
        From the first end to the second.
    others : list of (n, 2) float arrays, px
        Other lines that are near.
    """
    if not (told_apart(one, width) and told_apart(other, width)):
        return drafted
    sides = _Sides(ink, one, other, width, others or [])
    met = where_sides_meet(sides.come, sides.go)
    sides.look_at(*drafted.points, *([] if met is None else [sides.come.upto(met[0])[-1]]))
    best, off = drafted, sides.off(drafted.points[:: round(sides.step)])
    right = right_px2(width)
    least = _LEAST * right
    if met is not None:
        points = sides.between(*met)
        place = sides.come.upto(met[0])[-1]
        its = sides.off(points)
        enough = off if drafted.corners else min(_BETTER * off, off - least)
        # Where others' ink hides it, nothing says that the pen did not go straight on to a corner.
        if its < (off + _AS_GOOD * right if others else enough):
            best, off = Turn(points, [Corner(place)]), its
        if off > right:
            radius, its = _best_radius(sides, met, place)
            if its < min(_BETTER * off, off - least):
                best, off = Turn(points, [Corner(place, radius)]), its
    if off > right and len(best.corners) == 1 and best.corners[0].radius == 0.0:
        moved, its = _moved(sides, best)
        if its < min(_BETTER * off, off - least):
            best, off = moved, its
    if off > _DOUBTFUL * right:
        (s, t), its = _best_two(sides)
        places = sides.come.upto(s)[-1], sides.go.upto(t)[-1]
        if its < min(_TWO_BETTER * off, off - least) and math.dist(*places) > _SHORTEST * width:
            best = Turn(sides.between(s, t), [Corner(place) for place in places])
    return best


def told_apart(lead: FloatArray, width: float) -> bool:
    """Return whether a run of points is long enough to tell where its line comes from."""
    return len(lead) >= max(_LEAST_POINTS, _STUB * width)


def right_px2(width: float) -> float:
    """Return by how much the rims of a way that is right differ from the picture's, px²."""
    return _RIGHT_PX2 + _RIGHT * width * width


def where_sides_meet(come: Side, go: Side) -> tuple[float, float] | None:
    """Return after how many steps beyond each run two sides first cross; None if that is nowhere near."""
    found = _first_crossing(come.onwards, go.onwards, come.step, _BACK * come.width / come.step)
    return None if found[0] < 0.0 else found[2:]


@counted(cache=True)
def _first_crossing(
    a: FloatArray, b: FloatArray, step: float, back: float
) -> tuple[float, float, float, float]:
    """Return at which pieces of two polylines, points a step apart, they first cross, and where; -1 if they do not.

    A corner may lie so many steps, less than 0, behind the first points.
    """
    found = (-1.0, -1.0, 0.0, 0.0)
    for both in range(len(a) + len(b) - 3):
        for i in range(max(0, both - len(b) + 2), min(len(a) - 1, both + 1)):
            j = both - i
            ax, ay, bx, by = (
                a[i + 1, 0] - a[i, 0],
                a[i + 1, 1] - a[i, 1],
                b[j + 1, 0] - b[j, 0],
                b[j + 1, 1] - b[j, 1],
            )
            cross = ax * by - ay * bx
            if abs(cross) < _PARALLEL * step * step:
                continue
            px, py = b[j, 0] - a[i, 0], b[j, 1] - a[i, 1]
            s, t = (px * by - py * bx) / cross, (px * ay - py * ax) / cross
            if (back if i == 0 else 0.0) <= s < 1.0 and (back if j == 0 else 0.0) <= t < 1.0:
                return float(i), float(j), i + s, j + t
    return found


def _best_radius(sides: _Sides, met: tuple[float, float], place: FloatArray) -> tuple[float, float]:
    """Return the radius of the round turn that leaves most nearly the picture's ink, px, and how far off that is."""
    come, go = sides.come.heading(met[0]), -sides.go.heading(met[1])
    bend = math.acos(max(-1.0, min(1.0, float(come @ go))))
    # The arc begins and ends so many radii from the corner; the runs may be cut back a little.
    share = math.tan(0.5 * bend)
    most = (min(met) * sides.step - _BACK * sides.width) / share
    side = np.array([-come[1], come[0]]) * math.copysign(1.0, float(come[0] * go[1] - come[1] * go[0]))
    turns = np.linspace(0.0, bend, _ARC_STEPS + 1)[:, None]

    def off(radius: float) -> float:
        back = radius * share
        arc = place - back * come + radius * (np.sin(turns) * come + (1.0 - np.cos(turns)) * side)
        return sides.off(sides.between(met[0] - back / sides.step, met[1] - back / sides.step, arc))

    radii = [share_of * sides.width for share_of in _RADII if share_of * sides.width < most]
    if not radii:
        return 0.0, math.inf
    step = 0.5 * (_RADII[1] - _RADII[0]) * sides.width
    return best_place(off, radii, step, _RADIUS_HALVINGS, lambda radius: 0.0 < radius < most)


def _moved(sides: _Sides, turn: Turn) -> tuple[Turn, float]:
    """Return a turn with its corner moved to where the pen's ink is most nearly the picture's, and how far off."""
    points, place = turn.points, turn.corners[0].place
    at = int(np.hypot(*(points - place).T).argmin())
    # The sides follow the corner, less and less towards the runs.
    share = np.interp(np.arange(len(points)), [-1, at, len(points)], [0.0, 1.0, 0.0])[:, None]

    def off_at(move: Place) -> float:
        return sides.off(points + share * (sides.width * np.array(move)))

    best, its = best_nearby(
        off_at, [(0.0, 0.0)], _FIRST_STEP, _FINE, lambda move: math.hypot(*move) <= _MOST_MOVE
    )
    shift = sides.width * np.array(best)
    return Turn(points + share * shift, [Corner(place + shift)]), its


def _best_two(sides: _Sides) -> tuple[tuple[float, float], float]:
    """Return after how many steps beyond each run the pen turned, for its ink to be the picture's, and how far off."""
    width = sides.width / sides.step

    def off(place: Place) -> float:
        return sides.off(sides.between(place[0] * width, place[1] * width))

    def inside(place: Place) -> bool:
        # Where nothing is looked at, nothing would be off.
        turns = sides.come.upto(place[0] * width)[-1], sides.go.upto(place[1] * width)[-1]
        return (
            min(place) >= _BACK
            and max(place) <= _FURTHEST
            and all(sides.window.holds(turn) for turn in turns)
        )

    every = [(s, t) for s in _PLACES for t in _PLACES]
    (s, t), its = best_nearby(off, every, 0.5 * (_PLACES[1] - _PLACES[0]), _FINE, inside)
    return (s * width, t * width), its
