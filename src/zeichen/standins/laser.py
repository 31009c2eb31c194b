"""A stand-in laser: reads G-code with its own parser, times it, and shows what it burned.

It shares no code with the writer, so that a fault in one shows against the other. Understood:
RS-274/NGC words G0-G3, G17, G20/G21, G90/G91, G94, M2-M5, M30, F, S, X, Y, I, J, N and comments.
"""

import math
import re
from dataclasses import dataclass, field

import cv2
import numpy as np
from shapely.geometry import Polygon

from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.values import Bytes8Array

_WORD = re.compile(r"([A-Za-z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
_MOST_BLOCKS = 2_000_000
_MOST_SIDE_PX = 4000
_CUT = "cut"


@dataclass(frozen=True, slots=True)
class LaserMachine:
    """What the machine can do. S words run from 0 to power_steps; rapid moves go at travel speed."""

    bed_width_mm: float = 420.0
    bed_height_mm: float = 270.0
    travel_mm_s: float = 450.0
    acceleration_mm_s2: float = 4200.0
    corner_speed_mm_s: float = 6.0
    power_steps: float = 1000.0
    beam_mm: float = 0.12


@dataclass(frozen=True, slots=True)
class Move:
    """One straight move: from, to, speed, power share 0-1, and the operation named before it."""

    x0: float
    y0: float
    x1: float
    y1: float
    speed_mm_s: float
    power: float
    operation: str

    @property
    def length_mm(self) -> float:
        """Length of the move."""
        return math.hypot(self.x1 - self.x0, self.y1 - self.y0)


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a run would do.

    bounds_mm: box of everything burned (x0, y0, x1, y1), y up. picture: (height, width) uint8, 255 is
    untouched, darker is more energy; row 0 is the upper edge. engraves_first: nothing is engraved once a cut
    was begun. inner_first: no closed cut lies inside one that was made before it.
    """

    seconds: float
    bounds_mm: tuple[float, float, float, float]
    burned_mm: float
    travel_mm: float
    operations: tuple[tuple[str, float], ...]
    picture: Bytes8Array
    picture_bounds_mm: tuple[float, float, float, float]
    engraves_first: bool
    inner_first: bool
    warnings: tuple[str, ...] = field(default=())


def parse(text: str, machine: LaserMachine) -> list[Move]:
    """Return the moves of a program.

    Raises
    ------
    FormatError
        With the line number, for words the laser does not know or cannot place.
    """
    lines = text.splitlines()
    if len(lines) > _MOST_BLOCKS:
        raise FormatError(
            f"The program has {len(lines)} lines, more than the {_MOST_BLOCKS} the laser takes."
        )
    state = _State(machine)
    for number, line in enumerate(lines, 1):
        state.block(number, line)
        if state.ended:
            break
    return state.moves


class _State:
    def __init__(self, machine: LaserMachine) -> None:
        self.machine = machine
        self.moves: list[Move] = []
        self.ended = False
        self._x = self._y = 0.0
        self._motion: int | None = None
        self._mm = 1.0
        self._absolute = True
        self._on = False
        self._s = 0.0
        self._feed_mm_s = 0.0
        self._operation = ""

    def block(self, number: int, line: str) -> None:
        for comment in re.findall(r"\(([^)]*)\)", line):
            self._operation = comment.split(",")[0].strip()
        bare = re.sub(r"\([^)]*\)", "", line).split(";")[0].strip()
        if not bare or bare == "%":
            return
        rest = _WORD.sub("", bare).strip()
        if rest:
            raise FormatError(f"Line {number}: the laser cannot read “{rest[:20]}”.")
        target: dict[str, float] = {}
        for letter, digits in _WORD.findall(bare):
            value = float(digits)
            letter = letter.upper()
            if letter == "G":
                self._g(number, value)
            elif letter == "M":
                self._m(number, value)
            elif letter == "F":
                self._feed_mm_s = value * self._mm / 60
            elif letter == "S":
                self._s = value
            elif letter in "XYIJ":
                target[letter] = value * self._mm
            elif letter != "N":
                raise FormatError(f"Line {number}: the laser does not know the word {letter}.")
        if "X" in target or "Y" in target:
            self._go(number, target)

    def _g(self, number: int, value: float) -> None:
        if value in (0, 1, 2, 3):
            self._motion = int(value)
        elif value in (20, 21):
            self._mm = 25.4 if value == 20 else 1.0
        elif value in (90, 91):
            self._absolute = value == 90
        elif value not in (17, 94):
            raise FormatError(f"Line {number}: the laser does not know G{value:g}.")

    def _m(self, number: int, value: float) -> None:
        if value in (3, 4):
            self._on = True
        elif value == 5:
            self._on = False
        elif value in (2, 30):
            self.ended = True
        else:
            raise FormatError(f"Line {number}: the laser does not know M{value:g}.")

    def _go(self, number: int, target: dict[str, float]) -> None:
        if self._motion is None:
            raise FormatError(f"Line {number}: a place is given before any of G0 to G3.")
        base_x, base_y = (0.0, 0.0) if self._absolute else (self._x, self._y)
        x = base_x + target["X"] if "X" in target else self._x
        y = base_y + target["Y"] if "Y" in target else self._y
        if self._motion in (2, 3):
            for ax, ay in self._arc(number, x, y, target):
                self._line(number, ax, ay)
        else:
            self._line(number, x, y)

    def _arc(self, number: int, x: float, y: float, target: dict[str, float]) -> list[tuple[float, float]]:
        cx, cy = self._x + target.get("I", 0.0), self._y + target.get("J", 0.0)
        radius = math.hypot(self._x - cx, self._y - cy)
        if radius < 1e-9 or abs(math.hypot(x - cx, y - cy) - radius) > 0.01 + radius * 0.001:
            raise FormatError(f"Line {number}: the arc's end does not lie on its circle.")
        begin, end = math.atan2(self._y - cy, self._x - cx), math.atan2(y - cy, x - cx)
        sweep = (end - begin) % (2 * math.pi) or 2 * math.pi
        if self._motion == 2:
            sweep -= 2 * math.pi
            sweep = sweep or -2 * math.pi
        count = max(
            2, math.ceil(abs(sweep) / math.acos(max(0.0, 1 - 0.005 / radius))) if radius > 0.005 else 2
        )
        inner = [
            (
                cx + radius * math.cos(begin + sweep * k / count),
                cy + radius * math.sin(begin + sweep * k / count),
            )
            for k in range(1, count)
        ]
        return [*inner, (x, y)]

    def _line(self, number: int, x: float, y: float) -> None:
        rapid = self._motion == 0
        if not rapid and self._feed_mm_s <= 0:
            raise FormatError(f"Line {number}: a working move has no feed (F word).")
        speed = self.machine.travel_mm_s if rapid else self._feed_mm_s
        power = 0.0 if rapid or not self._on else min(max(self._s / self.machine.power_steps, 0.0), 1.0)
        self.moves.append(Move(self._x, self._y, x, y, speed, power, self._operation))
        self._x, self._y = x, y


def rehearse(text: str, machine: LaserMachine | None = None) -> Rehearsal:
    """Return time, bounds and picture of a program.

    Raises
    ------
    FormatError
        If the program cannot be read.
    InvalidInputError
        If it burns nothing.
    """
    machine = machine or LaserMachine()
    moves = parse(text, machine)
    burning = [move for move in moves if move.power > 0 and move.length_mm > 0]
    if not burning:
        raise InvalidInputError("The program burns nothing: no working move has its power on.")
    seconds = _durations(moves, machine)
    ends = np.array([[m.x0, m.y0] for m in burning] + [[m.x1, m.y1] for m in burning])
    low, high = ends.min(axis=0), ends.max(axis=0)
    operations: dict[str, float] = {}
    for move, duration in zip(moves, seconds, strict=True):
        operations[move.operation] = operations.get(move.operation, 0.0) + duration
    picture, picture_bounds = _burn(burning, low, high, machine)
    warnings = []
    if low.min() < -1e-6 or high[0] > machine.bed_width_mm or high[1] > machine.bed_height_mm:
        warnings.append(f"The work leaves the {machine.bed_width_mm:g} x {machine.bed_height_mm:g} mm bed.")
    return Rehearsal(
        seconds=float(sum(seconds)),
        bounds_mm=(float(low[0]), float(low[1]), float(high[0]), float(high[1])),
        burned_mm=sum(m.length_mm for m in burning),
        travel_mm=sum(m.length_mm for m in moves if m.power == 0),
        operations=tuple(operations.items()),
        picture=picture,
        picture_bounds_mm=picture_bounds,
        engraves_first=_engraves_first(burning),
        inner_first=_inner_first(burning),
        warnings=tuple(warnings),
    )


def _engraves_first(burning: list[Move]) -> bool:
    names = [move.operation for move in burning]
    first_cut = names.index(_CUT) if _CUT in names else len(names)
    return all(name == _CUT for name in names[first_cut:])


def _inner_first(burning: list[Move]) -> bool:
    """Tell whether each closed cut came before those around it, from the moves alone."""
    loops: list[Polygon] = []
    points: list[tuple[float, float]] = []
    for move in (move for move in burning if move.operation == _CUT):
        if not points or math.dist(points[-1], (move.x0, move.y0)) > 1e-6:
            points = [(move.x0, move.y0)]
        points.append((move.x1, move.y1))
        if len(points) > 3 and math.dist(points[0], points[-1]) < 1e-6:
            loops.append(Polygon(points).buffer(0))
            points = []
    return not any(
        before.contains(after) and not before.equals(after)
        for number, before in enumerate(loops)
        for after in loops[number + 1 :]
    )


def _durations(moves: list[Move], machine: LaserMachine) -> list[float]:
    """Return the seconds of each move: trapezoidal speed profiles, slowed to corner speed where the path bends."""
    count = len(moves)
    if not count:
        return []
    a = machine.acceleration_mm_s2
    join = [0.0] * (count + 1)
    for k in range(1, count):
        before, after = moves[k - 1], moves[k]
        lengths = before.length_mm * after.length_mm
        if lengths <= 0:
            continue
        cosine = (
            (before.x1 - before.x0) * (after.x1 - after.x0) + (before.y1 - before.y0) * (after.y1 - after.y0)
        ) / lengths
        top = min(before.speed_mm_s, after.speed_mm_s)
        # Straight on keeps its speed; a bend allows what the machine takes as a jolt, spread over its sharpness.
        bend = math.sqrt(max(0.0, (1 - cosine) / 2))
        join[k] = top if bend < 1e-3 else min(top, machine.corner_speed_mm_s / bend)
    for k in range(count):
        join[k + 1] = min(join[k + 1], math.sqrt(join[k] ** 2 + 2 * a * moves[k].length_mm))
    for k in range(count - 1, -1, -1):
        join[k] = min(join[k], math.sqrt(join[k + 1] ** 2 + 2 * a * moves[k].length_mm))
    return [
        _trapezoid(move.length_mm, join[k], join[k + 1], move.speed_mm_s, a) for k, move in enumerate(moves)
    ]


def _trapezoid(length: float, v0: float, v1: float, top: float, a: float) -> float:
    if length <= 0:
        return 0.0
    peak = min(top, math.sqrt(max(0.0, (2 * a * length + v0 * v0 + v1 * v1) / 2)))
    ramps = max(0.0, (2 * peak * peak - v0 * v0 - v1 * v1) / (2 * a))
    cruise = max(0.0, length - ramps)
    return (peak - v0) / a + (peak - v1) / a + (cruise / peak if peak > 0 else 0.0)


def _burn(
    moves: list[Move], low: np.ndarray, high: np.ndarray, machine: LaserMachine
) -> tuple[Bytes8Array, tuple[float, float, float, float]]:
    margin = 2.0
    x0, y0 = float(low[0]) - margin, float(low[1]) - margin
    x1, y1 = float(high[0]) + margin, float(high[1]) + margin
    scale = min(10.0, _MOST_SIDE_PX / max(x1 - x0, y1 - y0))
    shape = (max(1, math.ceil((y1 - y0) * scale)), max(1, math.ceil((x1 - x0) * scale)))
    picture = np.full(shape, 255, dtype=np.uint8)
    thickness = max(1, round(machine.beam_mm * scale))
    dose = np.array([m.power / m.speed_mm_s for m in moves])
    strongest = dose.max()
    for move, energy in zip(moves, dose.tolist(), strict=True):
        shade = round(150 * (1 - math.sqrt(energy / strongest)))
        begin = (round((move.x0 - x0) * scale), round((y1 - move.y0) * scale))
        end = (round((move.x1 - x0) * scale), round((y1 - move.y1) * scale))
        cv2.line(picture, begin, end, shade, thickness)
    return picture, (x0, y0, x1, y1)
