"""Programs of machines, read word by word: the words, modal groups and arc rules of RS-274/NGC.

Shares no code with what writes programs, so that a fault in one shows against the other.

Source: T. R. Kramer, F. M. Proctor, E. Messina, "The NIST RS274/NGC Interpreter - Version 3", NISTIR 6556 (2000),
from memory: words and lines, modal groups, what G and M codes ask for, the order in which a line is done, arcs. Left
out, and refused with the line's number: expressions and parameters, cutter compensation, canned cycles, other planes
than XY. A comment may also begin with a semicolon (common practice, no source).
"""

import math
import re
from dataclasses import dataclass, field
from enum import IntEnum

import numpy as np

from zeichen.core.errors import FormatError
from zeichen.core.values import AnyArray, BoolArray, FloatArray

_WORD = re.compile(r"([A-Z])([-+]?(?:\d+\.?\d*|\.\d+))")
_COMMENT = re.compile(r"\([^()]*\)|;.*")
_MESSAGE = re.compile(r"\(\s*MSG\s*,\s*([^()]*)\)", re.IGNORECASE)
# Longest line, and how many M words it may hold (NISTIR 6556, from memory).
_LONGEST, _MOST_M = 256, 4
# A program of more lines is no program of ours, and would fill the memory.
_MOST_LINES = 2_000_000
# How far an arc's end may be off its circle, mm (NISTIR 6556, from memory).
_OFF_CIRCLE_MM = 0.002
_INCH_MM = 25.4

# Modal groups by G code, times ten; 0 are those that count for their own line.
_G_GROUPS = {
    **dict.fromkeys((0, 10, 20, 30, 800), 1),
    170: 2,
    **dict.fromkeys((900, 910), 3),
    **dict.fromkeys((930, 940), 5),
    **dict.fromkeys((200, 210), 6),
    400: 7,
    490: 8,
    **dict.fromkeys((540, 550, 560, 570, 580, 590), 12),
    **dict.fromkeys((610, 611, 640), 13),
    **dict.fromkeys((40, 530), 0),
}
_M_GROUPS = {
    **dict.fromkeys((0, 1, 2, 30, 60), "stop"),
    6: "tool",
    **dict.fromkeys((3, 4, 5), "beam"),
    **dict.fromkeys((7, 8, 9), "air"),
    **dict.fromkeys((48, 49), "override"),
}
_AXES = "XYZ"
_LETTERS = frozenset("FGIJMNPRSTXYZ")


class Kind(IntEnum):
    """What a move is."""

    RAPID = 0
    LINE = 1
    CLOCKWISE = 2
    COUNTER_CLOCKWISE = 3
    DWELL = 4


class Beam(IntEnum):
    """How a beam or spindle is on: off, at its power, or following the speed."""

    OFF = 5
    CONSTANT = 3
    WITH_SPEED = 4


@dataclass(frozen=True, slots=True)
class Program:
    """The moves of a program, in order; lengths mm, all arrays of as many rows as there are moves.

    kind: (n,), see Kind. start, end: (n, 3) x, y, z. centre: (n, 2), of arcs, else nan. feed_mm_s: (n,), nan of rapid
    moves. power: (n,), the S word in force. beam: (n,), see Beam. air: (n,), whether air or coolant is on. seconds:
    (n,), of dwells. line: (n,), number of the line, from 1. operation: (n,), which of the names was announced last, by
    a message comment, -1 before any. tool: (n,), the T word of the last tool change, 0 before any.
    """

    kind: AnyArray
    start: FloatArray
    end: FloatArray
    centre: FloatArray
    feed_mm_s: FloatArray
    power: FloatArray
    beam: AnyArray
    air: BoolArray
    seconds: FloatArray
    line: AnyArray
    operation: AnyArray
    tool: AnyArray
    names: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.kind)

    @property
    def burns(self) -> BoolArray:
        """(n,), whether each move has its beam on and some power: not on rapid moves."""
        working = (self.kind != Kind.RAPID) & (self.kind != Kind.DWELL)
        return np.asarray(working & (self.beam != Beam.OFF) & (self.power > 0))


def read_program(text: str) -> Program:
    """Return the moves of a program.

    Raises
    ------
    FormatError
        With the number of the line, for what the language does not allow or the machines do not know.
    """
    lines = text.splitlines()
    if len(lines) > _MOST_LINES:
        raise FormatError(
            f"The program has {len(lines)} lines, more than the {_MOST_LINES} the machine takes."
        )
    reader = ProgramReader()
    for line in lines:
        reader.take(line)
        if reader.has_ended:
            break
    return reader.program()


@dataclass(slots=True)
class _Rows:
    """The columns of a program while it grows."""

    kind: list[int] = field(default_factory=list)
    start: list[tuple[float, float, float]] = field(default_factory=list)
    end: list[tuple[float, float, float]] = field(default_factory=list)
    centre: list[tuple[float, float]] = field(default_factory=list)
    feed: list[float] = field(default_factory=list)
    power: list[float] = field(default_factory=list)
    beam: list[int] = field(default_factory=list)
    air: list[bool] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    line: list[int] = field(default_factory=list)
    operation: list[int] = field(default_factory=list)
    tool: list[int] = field(default_factory=list)


class ProgramReader:
    """Reads a program line by line, as a controller does that acknowledges each."""

    def __init__(self) -> None:
        self._rows = _Rows()
        self._names: list[str] = []
        self._number = 0
        self._place = (0.0, 0.0, 0.0)
        # 80 is no motion at all (G80), what a machine begins with differs: here it has to be said.
        self._motion = 80
        self._unit_mm = 1.0
        self._is_absolute = True
        self._is_inverse_time = False
        self._feed = math.nan
        self._power = 0.0
        self._beam = Beam.OFF
        self._air = False
        self._tool = self._next_tool = 0
        self._operation = -1
        self.has_ended = False

    @property
    def place_mm(self) -> tuple[float, float, float]:
        """Where the head is after what was read."""
        return self._place

    def program(self) -> Program:
        """Return what was read so far."""
        rows = self._rows
        n = len(rows.kind)
        return Program(
            np.array(rows.kind, np.int8),
            np.array(rows.start).reshape(n, 3),
            np.array(rows.end).reshape(n, 3),
            np.array(rows.centre).reshape(n, 2),
            np.array(rows.feed, np.float64),
            np.array(rows.power, np.float64),
            np.array(rows.beam, np.int8),
            np.array(rows.air, np.bool_),
            np.array(rows.seconds, np.float64),
            np.array(rows.line, np.int64),
            np.array(rows.operation, np.int64),
            np.array(rows.tool, np.int64),
            tuple(self._names),
        )

    def take(self, line: str) -> None:
        """Read the next line.

        Raises
        ------
        FormatError
            If it cannot be read; nothing of it is done then.
        """
        self._number += 1
        if len(line) > _LONGEST:
            raise self._wrong(f"is longer than {_LONGEST} characters")
        if "(" in line or ";" in line:
            for message in _MESSAGE.findall(line):
                self._announce(" ".join(message.split()))
            line = _COMMENT.sub("", line)
        bare = line.replace(" ", "").replace("\t", "").upper()
        if not bare or bare == "%":
            return
        # A line that is marked to be left out, where the operator says so; nobody does.
        bare = bare.removeprefix("/")
        words = _WORD.findall(bare)
        if sum(len(letter) + len(digits) for letter, digits in words) != len(bare):
            raise self._wrong(f"cannot be read: “{_WORD.sub('', bare)[:20]}”")
        self._do(words)

    def _wrong(self, words: str) -> FormatError:
        return FormatError(f"Line {self._number} {words}.")

    def _announce(self, name: str) -> None:
        if name not in self._names:
            self._names.append(name)
        self._operation = self._names.index(name)

    def _do(self, words: list[tuple[str, str]]) -> None:
        given: dict[str, float] = {}
        codes: dict[int, int] = {}
        m_codes: dict[str, int] = {}
        count_m = 0
        for letter, digits in words:
            value = float(digits)
            if letter == "G":
                code = round(10 * value)
                group = _G_GROUPS.get(code) if abs(10 * value - code) < 1e-6 else None
                if group is None:
                    raise self._wrong(f"has G{value:g}, which the machine does not know")
                if group in codes:
                    raise self._wrong(f"has two G words of one group, G{codes[group] / 10:g} and G{value:g}")
                codes[group] = code
            elif letter == "M":
                count_m += 1
                m_group = _M_GROUPS.get(int(value)) if value == int(value) else None
                if m_group is None:
                    raise self._wrong(f"has M{value:g}, which the machine does not know")
                if m_group in m_codes and m_group != "air":
                    raise self._wrong(f"has two M words of one group, M{m_codes[m_group]} and M{value:g}")
                m_codes[m_group] = int(value)
            elif letter not in _LETTERS:
                raise self._wrong(f"has the word {letter}, which the machine does not know")
            elif letter in given:
                raise self._wrong(f"has the word {letter} twice")
            else:
                given[letter] = value
        if count_m > _MOST_M:
            raise self._wrong(f"has more than {_MOST_M} M words")
        self._set(given, codes, m_codes)
        if codes.get(0) == 40:
            self._dwell(given)
        elif any(axis in given for axis in _AXES):
            self._move(given, is_machine=codes.get(0) == 530)
        elif codes.get(1, 800) != 800:
            raise self._wrong("says how to move, but not where to")
        elif not given.keys().isdisjoint("IJR"):
            raise self._wrong("gives an arc no end")
        if m_codes.get("stop") in (2, 30):
            self.has_ended = True

    def _set(self, given: dict[str, float], codes: dict[int, int], m_codes: dict[str, int]) -> None:
        """Do all of a line that lasts, in the language's order."""
        for letter, least in (("F", 0.0), ("S", 0.0), ("T", 0.0)):
            if given.get(letter, least) < least:
                raise self._wrong(f"has a negative {letter} word")
        if 5 in codes:
            self._is_inverse_time = codes[5] == 930
        if 6 in codes:
            # What was set in the other unit keeps its meaning.
            self._unit_mm = _INCH_MM if codes[6] == 200 else 1.0
        if "F" in given:
            self._feed = given["F"] if self._is_inverse_time else given["F"] * self._unit_mm / 60.0
        if "S" in given:
            self._power = given["S"]
        if "T" in given:
            self._next_tool = int(given["T"])
        if "tool" in m_codes:
            self._tool = self._next_tool
        if "beam" in m_codes:
            self._beam = Beam(m_codes["beam"])
        if "air" in m_codes:
            self._air = m_codes["air"] != 9
        if 3 in codes:
            self._is_absolute = codes[3] == 900
        if 1 in codes:
            self._motion = codes[1] // 10

    def _dwell(self, given: dict[str, float]) -> None:
        if given.get("P", -1.0) < 0.0:
            raise self._wrong("waits (G4), but has no P word that says how many seconds")
        if any(axis in given for axis in _AXES):
            raise self._wrong("waits (G4) and moves at once")
        self._add(Kind.DWELL, self._place, (math.nan, math.nan), given["P"], math.nan)

    def _move(self, given: dict[str, float], *, is_machine: bool) -> None:
        if self._motion == 80:
            raise self._wrong("says where to move, but none of G0 to G3 says how")
        absolute = self._is_absolute or is_machine
        x, y, z = (
            (0.0 if absolute else before) + given[axis] * self._unit_mm if axis in given else before
            for axis, before in zip(_AXES, self._place, strict=True)
        )
        end = (x, y, z)
        kind = Kind(self._motion)
        if kind is Kind.RAPID:
            self._add(kind, end, (math.nan, math.nan), 0.0, math.nan)
            return
        if math.isnan(self._feed) or self._feed <= 0.0 or (self._is_inverse_time and "F" not in given):
            raise self._wrong("works without a feed (F word)")
        centre = (math.nan, math.nan) if kind is Kind.LINE else self._centre(kind, end, given)
        feed = self._feed
        if self._is_inverse_time:
            # F is how many such moves fit into a minute.
            feed = _length(kind, self._place, end, centre) * self._feed / 60.0
        self._add(kind, end, centre, 0.0, feed)

    def _centre(
        self, kind: Kind, end: tuple[float, float, float], given: dict[str, float]
    ) -> tuple[float, float]:
        x, y, _ = self._place
        if "X" not in given and "Y" not in given:
            raise self._wrong("has an arc without X or Y")
        if "R" in given:
            if "I" in given or "J" in given:
                raise self._wrong("gives an arc both a radius and a centre")
            radius = given["R"] * self._unit_mm
            dx, dy = end[0] - x, end[1] - y
            chord = math.hypot(dx, dy)
            if chord < 1e-9:
                raise self._wrong("has an arc by its radius that ends where it starts")
            over = radius * radius - chord * chord / 4.0
            if over < -_OFF_CIRCLE_MM * abs(radius):
                raise self._wrong("has an arc whose radius is less than half the way to its end")
            # The shorter arc for a positive radius, the longer one for a negative.
            side = math.sqrt(max(over, 0.0)) * (
                1.0 if (kind is Kind.COUNTER_CLOCKWISE) == (radius > 0) else -1.0
            )
            return x + dx / 2 - side * dy / chord, y + dy / 2 + side * dx / chord
        if "I" not in given and "J" not in given:
            raise self._wrong("has an arc without centre (I, J) or radius (R)")
        cx, cy = x + given.get("I", 0.0) * self._unit_mm, y + given.get("J", 0.0) * self._unit_mm
        from_start, from_end = math.hypot(x - cx, y - cy), math.hypot(end[0] - cx, end[1] - cy)
        if from_start < 1e-9 or abs(from_start - from_end) > _OFF_CIRCLE_MM:
            raise self._wrong("has an arc whose end is not on its circle")
        return cx, cy

    def _add(
        self,
        kind: Kind,
        end: tuple[float, float, float],
        centre: tuple[float, float],
        seconds: float,
        feed: float,
    ) -> None:
        rows = self._rows
        rows.kind.append(kind)
        rows.start.append(self._place)
        rows.end.append(end)
        rows.centre.append(centre)
        rows.feed.append(feed)
        rows.power.append(self._power)
        rows.beam.append(self._beam)
        rows.air.append(self._air)
        rows.seconds.append(seconds)
        rows.line.append(self._number)
        rows.operation.append(self._operation)
        rows.tool.append(self._tool)
        self._place = end


def sweep(kind: Kind, start: tuple[float, ...], end: tuple[float, ...], centre: tuple[float, float]) -> float:
    """Return the angle an arc turns through, radians, negative clockwise; a whole turn if it ends where it starts."""
    begin = math.atan2(start[1] - centre[1], start[0] - centre[0])
    stop = math.atan2(end[1] - centre[1], end[0] - centre[0])
    turn = (stop - begin) % (2.0 * math.pi)
    if math.hypot(start[0] - end[0], start[1] - end[1]) < 1e-9:
        turn = 2.0 * math.pi if kind is Kind.COUNTER_CLOCKWISE else 0.0
    return turn if kind is Kind.COUNTER_CLOCKWISE else turn - 2.0 * math.pi


def _length(
    kind: Kind, start: tuple[float, ...], end: tuple[float, ...], centre: tuple[float, float]
) -> float:
    if kind is Kind.LINE:
        return math.dist(start, end)
    radius = math.hypot(start[0] - centre[0], start[1] - centre[1])
    return math.hypot(radius * sweep(kind, start, end, centre), end[2] - start[2])
