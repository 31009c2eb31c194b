"""A stand-in laser: reads a program as its controller would, times it, and shows what it burned.

It shares no code with the writer, so that a fault in one shows against the other.
"""

import math
from dataclasses import dataclass, field

import cv2
import numpy as np
from shapely.geometry import Polygon

from zeichen.core.errors import InvalidInputError
from zeichen.core.values import AnyArray, Bytes8Array, FloatArray
from zeichen.standins.machines.motion import Drives, pieces_of, run
from zeichen.standins.machines.rs274 import Beam, Kind, Program, read_program

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
class _Burn:
    """Straight pieces with the beam on: start, end (n, 2) mm, energy a mm (n,) as power share by speed, (n,) names."""

    start: FloatArray
    end: FloatArray
    dose: FloatArray
    operation: list[str]


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
    program = read_program(text)
    drives = Drives(machine.travel_mm_s, machine.acceleration_mm_s2, machine.corner_speed_mm_s)
    pieces = pieces_of(program, drives)
    done = run(pieces, drives)
    power = _power(program, machine)[pieces.move]
    named = [program.names[k] if k >= 0 else "" for k in program.operation.tolist()]
    names = [named[k] for k in pieces.move.tolist()]
    on = power > 0
    if not on.any():
        raise InvalidInputError("The program burns nothing: no working move has its power on.")
    burning = _Burn(
        pieces.start[on, :2],
        pieces.end[on, :2],
        power[on] / pieces.speed_mm_s[on],
        [name for name, burns in zip(names, on.tolist(), strict=True) if burns],
    )
    ends = np.vstack([burning.start, burning.end])
    low, high = ends.min(axis=0), ends.max(axis=0)
    operations: dict[str, float] = {}
    for name, seconds in zip(names, (done.seconds + pieces.wait_s).tolist(), strict=True):
        operations[name] = operations.get(name, 0.0) + seconds
    picture, picture_bounds = _burn(burning, low, high, machine)
    warnings = []
    if low.min() < -1e-6 or high[0] > machine.bed_width_mm or high[1] > machine.bed_height_mm:
        warnings.append(f"The work leaves the {machine.bed_width_mm:g} x {machine.bed_height_mm:g} mm bed.")
    length = pieces.length_mm
    return Rehearsal(
        seconds=done.total_s,
        bounds_mm=(float(low[0]), float(low[1]), float(high[0]), float(high[1])),
        burned_mm=float(length[on].sum()),
        travel_mm=float(length[~on].sum()),
        operations=tuple(operations.items()),
        picture=picture,
        picture_bounds_mm=picture_bounds,
        engraves_first=_engraves_first(burning.operation),
        inner_first=_inner_first(burning),
        warnings=tuple(warnings),
    )


def _power(program: Program, machine: LaserMachine) -> AnyArray:
    """Return the share of its power, 0-1, that the beam has on each move."""
    working = (program.kind != Kind.RAPID) & (program.beam != Beam.OFF)
    return np.where(working, np.clip(program.power / machine.power_steps, 0.0, 1.0), 0.0)


def _engraves_first(names: list[str]) -> bool:
    first_cut = names.index(_CUT) if _CUT in names else len(names)
    return all(name == _CUT for name in names[first_cut:])


def _inner_first(burning: _Burn) -> bool:
    """Tell whether each closed cut came before those around it, from the moves alone."""
    loops: list[Polygon] = []
    points: list[tuple[float, ...]] = []
    for start, end, name in zip(burning.start.tolist(), burning.end.tolist(), burning.operation, strict=True):
        if name != _CUT:
            continue
        if not points or math.dist(points[-1], start) > 1e-6:
            points = [tuple(start)]
        points.append(tuple(end))
        if len(points) > 3 and math.dist(points[0], points[-1]) < 1e-6:
            loops.append(Polygon(points).buffer(0))
            points = []
    return not any(
        before.contains(after) and not before.equals(after)
        for number, before in enumerate(loops)
        for after in loops[number + 1 :]
    )


def _burn(
    burning: _Burn, low: FloatArray, high: FloatArray, machine: LaserMachine
) -> tuple[Bytes8Array, tuple[float, float, float, float]]:
    margin = 2.0
    x0, y0 = float(low[0]) - margin, float(low[1]) - margin
    x1, y1 = float(high[0]) + margin, float(high[1]) + margin
    scale = min(10.0, _MOST_SIDE_PX / max(x1 - x0, y1 - y0))
    shape = (max(1, math.ceil((y1 - y0) * scale)), max(1, math.ceil((x1 - x0) * scale)))
    picture = np.full(shape, 255, dtype=np.uint8)
    thickness = max(1, round(machine.beam_mm * scale))
    shades = np.round(150 * (1 - np.sqrt(burning.dose / burning.dose.max()))).astype(int)
    corner, down = np.array([x0, y1]), np.array([scale, -scale])
    begins = np.round((burning.start - corner) * down).astype(int)
    ends = np.round((burning.end - corner) * down).astype(int)
    for begin, end, shade in zip(begins.tolist(), ends.tolist(), shades.tolist(), strict=True):
        cv2.line(picture, begin, end, shade, thickness)
    return picture, (x0, y0, x1, y1)
