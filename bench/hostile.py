"""Files that ask for far more than they show, each of any size: scribbles, heaps of rectangles, broken style sheets."""

import io
import math
import random
from collections.abc import Callable

import ezdxf


def _page(content: str, side: int = 1000) -> bytes:
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{side}" height="{side}" viewBox="0 0 {side} {side}">'
    )
    return f"{head}{content}</svg>".encode()


def broken_rules(count: int) -> bytes:
    """A style sheet of rules that never end."""
    return _page(f'<style>{"a{" * count}</style><path d="M1 1H50V50Z"/>')


def many_transforms(count: int) -> bytes:
    """Transforms in one attribute."""
    return _page(
        f'<g transform="{"translate(1 -1) translate(-1 1) " * (count // 2)}"><path d="M1 1H50V50Z"/></g>'
    )


def copies_of_copies(doublings: int) -> bytes:
    """A square copied twice, and that twice, and so on."""
    made = '<g id="g0"><path d="M1 1H5V5Z"/></g>'
    for k in range(1, doublings + 1):
        made += f'<g id="g{k}"><use href="#g{k - 1}"/><use href="#g{k - 1}" x="5"/></g>'
    return _page(f'<defs>{made}</defs><use href="#g{doublings}"/>')


def scribble(count: int, *, filled: bool = True) -> bytes:
    """One path of lines from anywhere to anywhere, filled or drawn with a pen."""
    places = random.Random(count)
    data = "".join(f"L{places.randint(0, 999)} {places.randint(0, 999)}" for _ in range(count))
    look = "" if filled else ' fill="none" stroke="#000" stroke-width="0.5"'
    return _page(f'<path{look} d="M5 5{data}"/>')


def rectangles(count: int, *, on_one_place: bool = False, one_id: bool = False) -> bytes:
    """Rectangles side by side or on one place, each with no id or all with the same."""
    across = math.isqrt(count) + 1
    name = ' id="a"' if one_id else ""
    places = ((5, 5) if on_one_place else (k % across * 3, k // across * 3) for k in range(count))
    return _page(
        "".join(f'<rect{name} x="{x}" y="{y}" width="2" height="2"/>' for x, y in places), side=across * 3
    )


def loose_lines(count: int) -> bytes:
    """A DXF of lines that meet nowhere."""
    places = random.Random(count)
    return _dxf([[(places.uniform(0, 900), places.uniform(0, 900)) for _ in range(2)] for _ in range(count)])


def shuffled_outline(count: int) -> bytes:
    """A DXF of one outline in as many lines, in any order and direction."""
    turn = [2 * math.pi * k / count for k in range(count)]
    at = [(500 + 400 * math.cos(t), 500 + 400 * math.sin(t)) for t in turn]
    lines = [[at[k - 1], at[k]] for k in range(count)]
    order = random.Random(count)
    order.shuffle(lines)
    return _dxf([line[:: order.choice((1, -1))] for line in lines])


def _dxf(lines: list[list[tuple[float, float]]]) -> bytes:
    document = ezdxf.new(units=4)
    for start, end in lines:
        document.modelspace().add_line(start, end)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


# What was found to hold the app up, and the two sizes each is tried at.
FOUND: dict[str, tuple[Callable[[int], bytes], int, int]] = {
    "broken rules.svg": (broken_rules, 25_000, 50_000),
    "transforms.svg": (many_transforms, 25_000, 50_000),
    "copies.svg": (copies_of_copies, 12, 24),
    "scribble.svg": (scribble, 10_000, 20_000),
    "drawn scribble.svg": (lambda count: scribble(count, filled=False), 10_000, 20_000),
    "rectangles.svg": (rectangles, 10_000, 20_000),
    "rectangles on one place.svg": (lambda count: rectangles(count, on_one_place=True), 10_000, 20_000),
    "one id.svg": (lambda count: rectangles(count, one_id=True), 10_000, 20_000),
    "loose lines.dxf": (loose_lines, 10_000, 20_000),
    "outline.dxf": (shuffled_outline, 10_000, 20_000),
}
