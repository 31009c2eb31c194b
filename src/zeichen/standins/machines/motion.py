"""How a machine moves through a program: straight pieces, speeds at joints, trapezoids, time.

Each piece is run at its speed as far as acceleration lets it; where two pieces meet at an angle the speed jumps by no
more than the machine takes; what cannot be braked in time is entered more slowly (look-ahead over the whole program).
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from zeichen.core.values import AnyArray, FloatArray, require_number
from zeichen.standins.machines.rs274 import Kind, Program, sweep

# Arcs are run as chords no further from them than this, mm.
_CHORD_MM = 0.005
# Pieces that turn by less than this go straight on (sine of half the turn).
_STRAIGHT_ON = 1e-3


@dataclass(frozen=True, slots=True)
class Drives:
    """What moves a machine: mm/s and mm/s².

    travel_mm_s: speed of rapid moves. corner_speed_mm_s: the jump in speed that it takes where a path turns back.
    """

    travel_mm_s: float = 450.0
    acceleration_mm_s2: float = 4200.0
    corner_speed_mm_s: float = 6.0

    def __post_init__(self) -> None:
        require_number(self.travel_mm_s, "Top speed", above=0, most=10_000, unit="mm/s")
        require_number(self.acceleration_mm_s2, "Acceleration", above=0, most=200_000, unit="mm/s²")
        require_number(self.corner_speed_mm_s, "Corner speed", above=0, most=10_000, unit="mm/s")


@dataclass(frozen=True, slots=True)
class Pieces:
    """Straight pieces of a run, in order.

    start, end: (n, 3) mm; speed_mm_s: (n,), as asked for; move: (n,), which of the program's moves each is part of;
    wait_s: (n,), how long the machine waits before it.
    """

    start: FloatArray
    end: FloatArray
    speed_mm_s: FloatArray
    move: AnyArray
    wait_s: FloatArray

    @property
    def length_mm(self) -> FloatArray:
        """(n,)."""
        return np.asarray(np.sqrt(((self.end - self.start) ** 2).sum(axis=1)))


@dataclass(frozen=True, slots=True)
class Run:
    """Pieces with their speeds, mm/s, and times, s: where each begins and ends, and the fastest in between, (n,)."""

    pieces: Pieces
    speed_in: FloatArray
    speed_out: FloatArray
    peak: FloatArray
    seconds: FloatArray

    @property
    def total_s(self) -> float:
        """How long all of it takes, waiting included."""
        return float(self.seconds.sum() + self.pieces.wait_s.sum())


def pieces_of(program: Program, drives: Drives) -> Pieces:
    """Return the straight pieces that a program is run as; moves of no length have none."""
    start, end, speed, move, wait = [], [], [], [], []
    waited = 0.0
    for k in range(len(program)):
        kind = int(program.kind[k])
        if kind == Kind.DWELL:
            waited += float(program.seconds[k])
            continue
        places = _places(program, k)
        asked = (
            drives.travel_mm_s if kind == Kind.RAPID else min(float(program.feed_mm_s[k]), drives.travel_mm_s)
        )
        for a, b in pairwise(places):
            if a == b:
                continue
            start.append(a)
            end.append(b)
            speed.append(asked)
            move.append(k)
            wait.append(waited)
            waited = 0.0
    n = len(move)
    return Pieces(
        np.array(start, np.float64).reshape(n, 3),
        np.array(end, np.float64).reshape(n, 3),
        np.array(speed, np.float64),
        np.array(move, np.int64),
        np.array(wait, np.float64),
    )


def _places(program: Program, k: int) -> list[tuple[float, ...]]:
    """Return the places between which a move runs straight."""
    start, end = tuple(program.start[k].tolist()), tuple(program.end[k].tolist())
    kind = Kind(int(program.kind[k]))
    if kind not in (Kind.CLOCKWISE, Kind.COUNTER_CLOCKWISE):
        return [start, end]
    cx, cy = program.centre[k].tolist()
    radius = math.hypot(start[0] - cx, start[1] - cy)
    turn = sweep(kind, start, end, (cx, cy))
    step = 2.0 * math.acos(max(-1.0, 1.0 - _CHORD_MM / radius)) if radius > _CHORD_MM else math.pi
    count = max(1, math.ceil(abs(turn) / step))
    begin = math.atan2(start[1] - cy, start[0] - cx)
    inner = [
        (
            cx + radius * math.cos(begin + turn * i / count),
            cy + radius * math.sin(begin + turn * i / count),
            start[2] + (end[2] - start[2]) * i / count,
        )
        for i in range(1, count)
    ]
    return [start, *inner, end]


def run(pieces: Pieces, drives: Drives) -> Run:
    """Return how pieces are run: from rest to rest, as fast as speeds, joints and acceleration let it."""
    length, speed = pieces.length_mm, pieces.speed_mm_s
    n = len(length)
    if not n:
        none = np.zeros(0)
        return Run(pieces, none, none, none, none)
    joint = np.zeros(n + 1)
    joint[1:-1] = _joint_speeds(pieces, length, drives)
    reach = (2.0 * drives.acceleration_mm_s2 * length).tolist()
    entering = joint.tolist()
    for k in range(n):
        entering[k + 1] = min(entering[k + 1], math.sqrt(entering[k] * entering[k] + reach[k]))
    for k in range(n - 1, -1, -1):
        entering[k] = min(entering[k], math.sqrt(entering[k + 1] * entering[k + 1] + reach[k]))
    speeds = np.array(entering)
    before, after = speeds[:-1], speeds[1:]
    a = drives.acceleration_mm_s2
    peak = np.minimum(speed, np.sqrt((2.0 * a * length + before**2 + after**2) / 2.0))
    peak = np.maximum(peak, np.maximum(before, after))
    ramps = (2.0 * peak**2 - before**2 - after**2) / (2.0 * a)
    seconds = (2.0 * peak - before - after) / a + np.maximum(length - ramps, 0.0) / np.maximum(peak, 1e-12)
    return Run(pieces, before, after, peak, seconds)


def _joint_speeds(pieces: Pieces, length: FloatArray, drives: Drives) -> FloatArray:
    """Return how fast the machine may go through each joint between pieces, (n - 1,)."""
    along = (pieces.end - pieces.start) / length[:, None]
    cosine = np.clip((along[:-1] * along[1:]).sum(axis=1), -1.0, 1.0)
    turned = np.sqrt((1.0 - cosine) / 2.0)
    top = np.minimum(pieces.speed_mm_s[:-1], pieces.speed_mm_s[1:])
    # Through a turn the speed jumps by twice the sine of half of it; turning back jumps by twice the corner speed.
    allowed = np.where(
        turned < _STRAIGHT_ON, np.inf, drives.corner_speed_mm_s / np.maximum(turned, _STRAIGHT_ON)
    )
    # Whoever waits stands still.
    allowed[pieces.wait_s[1:] > 0] = 0.0
    # A piece that does not begin where the last one ended is none of a path.
    apart = np.abs(pieces.start[1:] - pieces.end[:-1]).max(axis=1) > 1e-6
    allowed[apart] = 0.0
    return np.asarray(np.minimum(top, allowed))
