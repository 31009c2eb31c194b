"""States of a drawing kept small: an SVG as what has changed in it since another, number by number.

Every state of a drawing is kept for good, and most differ from the one before by a moved node or a new colour. A
line of the file (one shape) that was there before is named by its number; one with the same words and other
numbers is kept as the differences of its numbers; the rest as words and numbers. Moved as a whole, a figure of
3,400 numbers is then a few hundred bytes instead of 24,000. What does not come back exactly is kept as it is.
"""

import re
import zlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

IntArray = NDArray[np.int64]

# As Zeichen writes numbers: no needless digits, four decimals at most.
_NUMBER = re.compile(r"(?<![\d.])(-?(?:0|[1-9]\d{0,9})(?:\.\d{0,3}[1-9])?)(?![\d.])")
_UNITS = 10_000
_GAP = "\0"
# Beyond, taking the numbers apart would hold an edit up (a third of a second for each megabyte, measured).
_MOST_BYTES = 400_000
_AS_IT_IS, _APART = b"Z", b"D"


def encoded(svg: bytes, base: bytes | None = None) -> bytes:
    """Return a file in fewer bytes, told by another one that has to be there when it is decoded."""
    plain = _AS_IT_IS + zlib.compress(svg, 6)
    if len(svg) > _MOST_BYTES or (base is not None and len(base) > _MOST_BYTES):
        return plain
    try:
        apart = _APART + zlib.compress(_told(svg.decode(), (base or b"").decode()), 9)
        whole = len(apart) < len(plain) and decoded(apart, base) == svg
    except (UnicodeDecodeError, ValueError, OverflowError):
        return plain
    return apart if whole else plain


def decoded(data: bytes, base: bytes | None = None) -> bytes:
    """Return the file that was encoded; ValueError or zlib.error if it is damaged."""
    content = zlib.decompress(data[1:])
    if data[:1] == _AS_IT_IS:
        return content
    if data[:1] != _APART:
        raise ValueError("not an encoded state")
    return _heard(content, (base or b"").decode()).encode()


@dataclass(frozen=True, slots=True)
class _Line:
    """One line of a file: its words, with gaps where its numbers are."""

    words: str
    numbers: IntArray

    @classmethod
    def of(cls, text: str) -> "_Line":
        parts = _NUMBER.split(text)
        numbers = np.rint(np.array(parts[1::2], dtype=np.float64) * _UNITS).astype(np.int64)
        return cls(_GAP.join(parts[::2]), numbers)

    def text(self) -> str:
        out = []
        for words, number in zip(
            self.words.split(_GAP), [*map(_written, self.numbers.tolist()), ""], strict=True
        ):
            out += [words, number]
        return "".join(out)


def _written(units: int) -> str:
    whole, part = divmod(abs(units), _UNITS)
    sign = "-" if units < 0 else ""
    return f"{sign}{whole}.{part:04d}".rstrip("0") if part else f"{sign}{whole}"


def _told(text: str, base: str) -> bytes:
    if _GAP in text:
        raise ValueError("holds the sign for a gap")
    before = base.split("\n") if base else []
    places = {line: k for k, line in enumerate(before)}
    lines = [_Line.of(each) for each in before]
    # A shape is looked for by its name first: others may be built of as many curves.
    alike = {line.words: k for k, line in enumerate(lines)}
    named = {_name(each): k for k, each in enumerate(before)}
    orders: list[str] = []
    changed: list[IntArray] = []
    fresh: list[IntArray] = []
    for each in text.split("\n"):
        if each in places:
            orders.append(f"={places[each]}")
            continue
        line = _Line.of(each)
        known = named.get(_name(each))
        if known is None or lines[known].words != line.words:
            known = alike.get(line.words)
        if known is not None:
            orders.append(f"~{known}")
            changed.append(_steps(line.numbers - lines[known].numbers))
        else:
            orders.append(f"+{line.words}")
            fresh.append(_steps(line.numbers))
    head = "\n".join(orders).encode()
    return b"".join((len(head).to_bytes(4, "little"), head, _planes(changed), _planes(fresh)))


def _name(line: str) -> str:
    return line.partition(' d="')[0]


def _heard(content: bytes, base: str) -> str:
    size = int.from_bytes(content[:4], "little")
    orders = content[4 : 4 + size].decode().split("\n")
    rest = memoryview(content)[4 + size :]
    changed, rest = _unfolded(rest)
    fresh, _ = _unfolded(rest)
    before = base.split("\n")
    at = {"~": 0, "+": 0}
    streams = {"~": changed, "+": fresh}
    out = []
    for order in orders:
        mark, what = order[:1], order[1:]
        if mark == "=":
            out.append(before[int(what)])
            continue
        known = _Line.of(before[int(what)]) if mark == "~" else None
        words = what if known is None else known.words
        count = words.count(_GAP)
        numbers = _sums(streams[mark][at[mark] : at[mark] + count])
        at[mark] += count
        out.append(_Line(words, numbers if known is None else known.numbers + numbers).text())
    return "\n".join(out)


def _steps(numbers: IntArray) -> IntArray:
    """Return each number less the one before the last: along a path x follows x and y follows y."""
    out = numbers.copy()
    out[2:] -= numbers[:-2]
    return out


def _sums(steps: IntArray) -> IntArray:
    out = steps.copy()
    for start in (0, 1):
        out[start::2] = np.cumsum(steps[start::2])
    return out


def _planes(parts: list[IntArray]) -> bytes:
    """Return numbers as bytes, all lowest ones first: most are small, so that the other planes are zeros."""
    numbers = np.concatenate(parts) if parts else np.zeros(0, dtype=np.int64)
    # Signs are folded in (0, -1, 1, -2, ...), or small negative numbers would fill the upper planes.
    folded = ((numbers << 1) ^ (numbers >> 63)).astype("<u8")
    raw: Any = folded.view(np.uint8).reshape(-1, 8).T
    return len(numbers).to_bytes(4, "little") + bytes(raw.tobytes())


def _unfolded(data: memoryview) -> tuple[IntArray, memoryview]:
    count = int.from_bytes(data[:4], "little")
    raw = np.frombuffer(data[4 : 4 + 8 * count], dtype=np.uint8).reshape(8, count)
    folded = np.ascontiguousarray(raw.T).view("<u8").reshape(-1)
    numbers = (folded >> np.uint64(1)).astype(np.int64) ^ -(folded & np.uint64(1)).astype(np.int64)
    return numbers, data[4 + 8 * count :]
