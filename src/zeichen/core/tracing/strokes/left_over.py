"""Ink that no stroke covers: a line's end beyond another line, or its foot beyond a corner."""

import math
from dataclasses import replace

import cv2
import numpy as np

from zeichen.core.geometry.nearest import nearest_on_lines
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_room import INSIDE, TOO_NEAR, inwards, rooms
from zeichen.core.tracing.strokes.pen_turn import Corner
from zeichen.core.tracing.strokes.skeleton import half_widths
from zeichen.core.values import AnyArray, FloatArray

# Ink is left over where a disc of this radius lies in it, line widths and px.
_LEFT, _LEFT_PX = 0.14, 0.5
# A pen has been where so much of its width is free on all sides, and its way there, from the strokes, is ink.
_ROOM, _ROOM_ON_THE_WAY = 0.4, 0.3
# What is nearer to a stroke's middle is the stroke's own rim, line widths.
_LEAST = 0.35
# A stroke ends where it is left if it does so within this, line widths, and goes on if it bends by no more than that.
_AT_END = 0.35
_ONWARD_DEG = 50.0
_DRAWN_PX = 1.0
# By how much room for the pen counts more than being far from all strokes, and places that are as far, px.
_ROOMY, _AS_FAR_PX = 2.0, 0.75
# Such places further apart than this, line widths, are a line beside another.
_BESIDE = 0.6
# Half a width before a square end there is more room than this, and ink so far aside of it just inside; line widths.
_SQUARE = 0.42
_CORNER, _JUST_INSIDE = 0.4, 0.12
_SUBPIXEL_BITS = 3
_EVERY = 3


def drawn(strokes: list[Stroke], shape: tuple[int, int], wider_px: float) -> AnyArray:
    """Return which pixels strokes cover, all of them so much wider."""
    return _lines(strokes, shape, [max(1, round(stroke.width + wider_px)) for stroke in strokes])


def _lines(strokes: list[Stroke], shape: tuple[int, int], widths_px: list[int]) -> AnyArray:
    out = np.zeros(shape, np.uint8)
    for stroke, width in zip(strokes, widths_px, strict=True):
        # Between points a few pixels apart lines are as good as straight, and drawing all takes far longer.
        some = np.vstack([stroke.points[::_EVERY], stroke.points[-1:]])
        points = np.round((some - 0.5) * (1 << _SUBPIXEL_BITS)).astype(np.int32)
        cv2.polylines(out, [points.reshape(-1, 1, 2)], stroke.closed, 1, width, shift=_SUBPIXEL_BITS)
    return out


def with_what_is_left(strokes: list[Stroke], mask: AnyArray, half: FloatArray, width: float) -> list[Stroke]:
    """Return strokes led on to where there is ink that none of them covers.

    Parameters
    ----------
    strokes : list of Stroke, px
    mask : (height, width) bool array
        Which pixels belong to lines.
    half : (height, width) float array, px
        How far each is from the nearest light one: see half_widths.
    width : float, px
        Of the lines.
    """
    strokes = [stroke if stroke.closed else _ending_inside(stroke, half) for stroke in strokes]
    left = mask & (drawn(strokes, mask.shape, _DRAWN_PX) == 0)
    if not strokes or not cv2.erode(left.astype(np.uint8), np.ones((3, 3), np.uint8)).any():
        return strokes
    deep = half_widths(left) > _LEFT * width + _LEFT_PX
    if not deep.any():
        return strokes
    # To the edge of the ink, half a pixel before the middle of the next light one.
    half = half - 0.5
    away = cv2.distanceTransform(1 - _lines(strokes, mask.shape, [1] * len(strokes)), cv2.DIST_L2, 5)
    out = list(strokes)
    targets: list[FloatArray] = []
    _, labels, boxes, _ = cv2.connectedComponentsWithStats(left.astype(np.uint8), connectivity=8)
    for number in np.unique(labels[deep]).tolist():
        places = _furthest(labels, number, boxes[number], half, away, width)
        if len(places) and float(np.ptp(places, axis=0).max()) > _BESIDE * width:
            out.append(Stroke(_in_line(places), False, width))
        elif len(places):
            targets.append(places.mean(axis=0))
    if targets:
        lines = [np.vstack([s.points, s.points[:1]]) if s.closed else s.points for s in out]
        ways, _, _ = nearest_on_lines(np.array(targets), lines)
        for place, way in zip(targets, ways, strict=True):
            _lead_to(out, place, place + way, half, width)
    return out


def _ending_inside(stroke: Stroke, half: FloatArray) -> Stroke:
    """Return an open stroke with ends that came too near to the side of its line moved in.

    One cut square ends at the rim, too: half a width before it has all the room of a line, and its corners are ink.
    """
    points, width = stroke.points, stroke.width
    near = rooms(half, np.ascontiguousarray(points[[0, -1]])) < TOO_NEAR * width
    for side in np.nonzero(near)[0].tolist():
        run = points if side == 0 else points[::-1]
        away = np.hypot(*(run - run[0]).T)
        inner = int(np.argmax(away > 0.5 * width))
        if inner == 0:
            continue
        # Points there may be far apart.
        back = run[inner] + (run[inner - 1] - run[inner]) * (
            (away[inner] - 0.5 * width) / max(away[inner] - away[inner - 1], 1e-9)
        )
        way = (run[0] - back) / max(math.dist(run[0], back), 1e-9)
        aside = _CORNER * width * np.array([-way[1], way[0]])
        inside = run[0] - _JUST_INSIDE * width * way
        room, *corners = rooms(half, np.stack([back, inside + aside, inside - aside]))
        if room > _SQUARE * width and min(corners) > 0.0:
            continue
        place = inwards(float(run[0, 0]), float(run[0, 1]), half, INSIDE * width)
        run = np.vstack([place, run[inner:]])
        points = run if side == 0 else run[::-1]
    return stroke if points is stroke.points else replace(stroke, points=points)


def _furthest(
    labels: AnyArray, number: int, box: AnyArray, half: FloatArray, away: AnyArray, width: float
) -> FloatArray:
    """Return where a pen that left a piece of ink was furthest from all strokes, (n, 2): along a line beside one.

    labels: the number of each pixel's piece; box: the piece's left, top, width and height.
    """
    around = math.ceil(width)
    left, top, wide, high = box[:4].tolist()
    right, bottom = left + wide + around, top + high + around
    left, top = max(0, left - around), max(0, top - around)
    window = (slice(top, bottom), slice(left, right))
    reach = cv2.distanceTransform((labels[window] != number).astype(np.uint8), cv2.DIST_L2, 5) < 0.5 * width
    possible = reach & (half[window] >= _ROOM * width) & (away[window] > _LEAST * width)
    if not possible.any():
        return np.zeros((0, 2))
    # Beyond where the pen was last there is less and less room for it.
    score = np.where(possible, away[window] + _ROOMY * np.minimum(half[window], 0.5 * width), 0.0)
    down, across = np.nonzero(score > score.max() - _AS_FAR_PX)
    return np.stack([across + left + 0.5, down + top + 0.5], axis=1)


def _in_line(places: FloatArray) -> FloatArray:
    """Return the mean places along the direction in which some extend furthest, about a pixel apart."""
    middle = places.mean(axis=0)
    way = np.linalg.svd(places - middle, full_matrices=False)[2][0]
    step = np.round((places - middle) @ way).astype(np.int64)
    step -= step.min()
    count = np.bincount(step)
    sums = np.stack([np.bincount(step, places[:, axis]) for axis in range(2)], axis=1)
    return np.asarray(sums[count > 0] / count[count > 0, None])


def _lead_to(
    strokes: list[Stroke], place: FloatArray, start: FloatArray, half: FloatArray, width: float
) -> None:
    """Lead the stroke that ends at the place on strokes nearest to another on to that, or begin one there."""
    gap = math.dist(start, place)
    steps = max(2, round(gap))
    between = start + np.linspace(0.0, 1.0, steps + 1)[1:, None] * (place - start)
    room = min(ink_at(half, float(x), float(y)) for x, y in between)
    if gap < _LEAST * width or room < _ROOM_ON_THE_WAY * width:
        return
    ending = _ending_at(strokes, start, (place - start) / gap, width)
    if ending is None:
        strokes.append(Stroke(np.vstack([start, between]), False, width))
        return
    number, at_start, bend_deg = ending
    stroke = strokes[number]
    run = stroke.points if at_start else stroke.points[::-1]
    corners = list(stroke.corners)
    if bend_deg > _ONWARD_DEG:
        corners.append(Corner(run[0]))
    run = np.vstack([between[::-1], run])
    strokes[number] = replace(stroke, points=run if at_start else run[::-1], corners=corners)


def _ending_at(
    strokes: list[Stroke], place: FloatArray, way: FloatArray, width: float
) -> tuple[int, bool, float] | None:
    """Return the stroke that ends at a place, whether it starts there, and how far it bends to go on; None for none."""
    best: tuple[int, bool, float] | None = None
    for number, stroke in enumerate(strokes):
        if stroke.closed or len(stroke.points) < 2:
            continue
        for at_start in (True, False):
            if math.dist(stroke.points[0 if at_start else -1], place) > _AT_END * width:
                continue
            run = stroke.points if at_start else stroke.points[::-1]
            come = run[0] - run[min(len(run) - 1, max(1, round(0.6 * width)))]
            size = math.hypot(*come)
            bend = math.degrees(math.acos(max(-1.0, min(1.0, float(come @ way) / max(size, 1e-9)))))
            if best is None or bend < best[2]:
                best = number, at_start, bend
    return best
