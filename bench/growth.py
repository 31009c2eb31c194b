"""How the time of a trace grows with the picture: in proportion to its pixels and nodes, or faster."""

import time
from collections.abc import Callable
from functools import partial

import cv2
import numpy as np

from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

# From the first side to the second, px; centrelines take longest, so they stop earlier.
_SIDES_PX = {Method.SOLID: (2048, 8192), Method.FLATS: (1024, 4096), Method.CENTRELINE: (1024, 4096)}
# Time for each pixel and node may grow so much on the way.
_MOST = 1.5


def measure_growth() -> bool:
    """Print the time for each pixel at two sizes of one figure, and their ratio; returns whether all are kept."""
    print("Growth of time with the picture's side, as time for each pixel and node")
    kept = [
        _grows_evenly(method, "one flower", partial(_flower, line=method is Method.CENTRELINE))
        for method in _SIDES_PX
    ]
    kept.append(_grows_evenly(Method.CENTRELINE, "more and more lines that meet", _meetings))
    return all(kept)


def _grows_evenly(method: Method, what: str, draw: Callable[[int], Picture]) -> bool:
    rates = []
    trace(draw(512), TraceSettings(method=method))
    for side in _SIDES_PX[method]:
        picture = draw(side)
        started = time.perf_counter()
        drawing = trace(picture, TraceSettings(method=method)).drawing
        seconds = time.perf_counter() - started
        rates.append(seconds / (side * side + drawing.node_count))
        print(f"  {method:<10} {side} px {seconds:7.2f} s, {drawing.node_count} nodes, {what}")
    growth = rates[1] / rates[0]
    print(f"  {method:<10} x{growth:.2f}, at most {_MOST:g} {'kept' if growth <= _MOST else 'MISSED'}")
    return growth <= _MOST


def _meetings(side: int) -> Picture:
    """A sheet of lines that meet, cross and end on others, as large each however large the sheet."""
    cell = np.full((256, 256), 255, np.uint8)
    ways = [
        [(20, 12), (20, 116)],
        [(70, 16), (20, 60), (66, 112)],
        [(64, 64), (118, 40)],
        [(84, 20), (112, 110)],
    ]
    for way in ways:
        cv2.polylines(cell, [np.array(way, np.int32)], False, 0, 9, cv2.LINE_AA)
    canvas = np.tile(cell, (side // 256, side // 256))
    return Picture(np.repeat(canvas[..., None], 3, axis=2))


def _flower(side: int, *, line: bool) -> Picture:
    """A flower of seven petals, filled with a hole, or drawn with a pen that grows with the picture."""
    turn = np.linspace(0.0, 2.0 * np.pi, 2000, endpoint=False)
    radius = side * (0.3 + 0.12 * np.cos(7 * turn))
    points = side / 2 + radius[:, None] * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    corners = np.round(points * 256).astype(np.int32)
    canvas = np.full((side, side), 255, np.uint8)
    if line:
        cv2.polylines(canvas, [corners], True, 0, side // 64, cv2.LINE_AA, 8)
    else:
        cv2.fillPoly(canvas, [corners], 0, cv2.LINE_AA, 8)
        cv2.circle(canvas, (side // 2, side // 2), side // 9, 255, -1, cv2.LINE_AA)
    return Picture(np.repeat(canvas[..., None], 3, axis=2))
