"""The hand a picture is drawn in, measured: line weight, roundness of corners, detail, colours.

Raster arrays are (row, column), y down, a pixel's value sits at its centre.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d

from zeichen.core.raster.colours import find_palette, hex_colour
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import INK_AND_PAPER, PictureReadings, read_picture_readings
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Larger pictures are measured in a copy of this size; what is measured are shares.
_MOST_PX = 1536
# Wider than these shares of the longer side is an area, not a line, and no gap (our own rules).
_WIDEST, _WIDEST_GAP = 0.055, 0.045
# A line is at least this many times as long as it is wide.
_LONG = 2.5
# With less of the figure solid its dark lines are what is drawn, with more the light gaps in it; in between the
# dark lines must be so many times as long as the gaps (limits that tell the studio's looks apart).
_FEW_SOLID, _MANY_SOLID, _LONGER = 0.3, 0.45, 2.0
_AXES = 16
_MOST_PLACES = 600
_RAY_STEP_PX = 1.0
# Bends gentler than a circle of this share of the longer side are no corners.
_GENTLEST = 0.05
_BEND_SMOOTH_PX = 1.6
_SHARP_PX = 3.0


@dataclass(frozen=True, slots=True)
class StyleReading:
    """How a picture is drawn; lengths as shares of its longer side.

    line_share: mean width of its drawn lines, None without any; line_of_ink: those are dark strokes and not
    light gaps in a figure. corner_share: usual radius of the corners of its outlines, 0 sharp, None without
    any. detail: length of what is drawn over the square root of the area within the outline. palette: its
    colours without the ground, #rrggbb, empty for ink on paper.
    """

    line_share: float | None
    line_of_ink: bool
    corner_share: float | None
    detail: float
    palette: tuple[str, ...]


def read_style(picture: Picture) -> StyleReading:
    """Return the hand a picture is drawn in."""
    longer = max(picture.width_px, picture.height_px)
    if longer > _MOST_PX:
        size = tuple(max(1, round(v * _MOST_PX / longer)) for v in (picture.width_px, picture.height_px))
        picture = Picture(np.ascontiguousarray(cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA)))
        longer = max(size)
    readings = read_picture_readings(picture)
    ink = readings.share
    lines, of_ink = read_lines(ink)
    corner, length_px = _outlines(ink, longer)
    # A drawn line has an edge on either side.
    drawn_px = length_px / 2.0 if of_ink else length_px
    area = _filled_area(ink > 0.5)
    return StyleReading(
        line_share=None if lines is None else lines.width_px / longer,
        line_of_ink=of_ink,
        corner_share=None if corner is None else corner / longer,
        detail=drawn_px / math.sqrt(area) if area > 0 else 0.0,
        palette=_colours(picture, readings),
    )


def read_lines(ink: FloatArray) -> "tuple[LineWeight | None, bool]":
    """Return the lines a picture is drawn in, and whether they are dark strokes and not light gaps.

    Parameters
    ----------
    ink : (height, width) array
        How much of each pixel is figure, 0-1.
    """
    longer = max(ink.shape)
    dark = line_weight_px(ink, widest_px=_WIDEST * longer)
    solid = _solid_share(ink > 0.5, _WIDEST * longer)
    if dark is not None and solid <= _FEW_SOLID:
        return dark, True
    gaps = line_weight_px(_gaps(ink, reach_px=0.5 * _WIDEST_GAP * longer), widest_px=_WIDEST_GAP * longer)
    if gaps is None or (
        dark is not None and solid <= _MANY_SOLID and dark.length_px >= _LONGER * gaps.length_px
    ):
        return dark, True
    return gaps, False


@dataclass(frozen=True, slots=True)
class LineWeight:
    """Mean width of the lines of a picture and about how long they are together, px."""

    width_px: float
    length_px: float


def line_weight_px(share: FloatArray, *, widest_px: float) -> LineWeight | None:
    """Return the mean width of lines, each place along them weighing the same; None if there are none.

    At places along the middle the width is the shortest of the chords in 16 directions between the two
    places where the ink falls below one half, found between pixels; so it does not depend on the pixel grid.

    Parameters
    ----------
    share : (height, width) array
        How much of each pixel is drawn, 0-1.
    widest_px : float, px
        What is wider is no line.
    """
    mask = share > 0.5
    if not mask.any():
        return None
    inside = cv2.distanceTransform(np.pad(mask, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    ridge = (
        mask & (inside >= cv2.dilate(inside, np.ones((3, 3), np.uint8)) - 0.35) & (2 * inside < widest_px + 2)
    )
    rows, columns = np.nonzero(ridge)
    if len(rows) < 8:
        return None
    every = max(1, len(rows) // _MOST_PLACES)
    chords = _chords(share, rows[::every], columns[::every], reach_px=max(6.0, _LONG * widest_px))
    axis = chords.argmin(axis=1)
    width = chords[np.arange(len(chords)), axis]
    along = chords[np.arange(len(chords)), (axis + _AXES // 2) % _AXES]
    line = (width <= widest_px) & (along >= _LONG * width)
    if line.sum() < 5:
        return None
    low, high = np.percentile(width[line], (4, 96))
    usual = width[line][(width[line] >= low) & (width[line] <= high)]
    return LineWeight(float(usual.mean()), float(every * line.sum()))


def _chords(share: FloatArray, rows: AnyArray, columns: AnyArray, *, reach_px: float) -> FloatArray:
    """Return the lengths of ink through places along each axis, (place, axis)."""
    angle = (np.arange(_AXES) * np.pi / _AXES).astype(np.float32)
    ahead = np.arange(0.0, reach_px, _RAY_STEP_PX, dtype=np.float32)
    rows, columns = rows.astype(np.float32), columns.astype(np.float32)
    source = share.astype(np.float32)
    total = np.zeros((len(rows), _AXES))
    for side in (1.0, -1.0):
        dx, dy = np.float32(side) * np.cos(angle), np.float32(side) * np.sin(angle)
        x = columns[:, None, None] + dx[None, :, None] * ahead
        y = rows[:, None, None] + dy[None, :, None] * ahead
        flat = (len(rows) * _AXES, len(ahead))
        # remap takes at most 32767 rows at once.
        parts = [
            cv2.remap(
                source,
                x.reshape(flat)[k : k + 30_000],
                y.reshape(flat)[k : k + 30_000],
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_CONSTANT,
            )
            for k in range(0, flat[0], 30_000)
        ]
        seen = np.vstack(parts)
        out = seen < 0.5
        out[:, -1] = True
        end = np.maximum(out.argmax(axis=1), 1)
        at = np.arange(len(seen))
        before, after = seen[at, end - 1], seen[at, end]
        part = np.clip((before - 0.5) / np.maximum(before - after, 1e-6), 0.0, 1.0)
        total += ((end - 1 + part) * _RAY_STEP_PX).reshape(len(rows), _AXES)
    return total


def _solid_share(mask: BoolArray, width_px: float) -> float:
    """Return how much of what is drawn a disc of that width fits into."""
    inside = cv2.distanceTransform(np.pad(mask, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    away = cv2.distanceTransform((inside <= width_px / 2.0).astype(np.uint8), cv2.DIST_L2, 5)
    return float((mask & (away <= width_px / 2.0)).sum() / max(1, mask.sum()))


def _gaps(ink: FloatArray, *, reach_px: float) -> FloatArray:
    """Return how much of each pixel is a light gap in the figure: what a closing with a disc would fill."""
    size = 2 * max(1, round(reach_px)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    padded = np.pad(ink.astype(np.float32), size)
    filled = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, disc)[size:-size, size:-size]
    return np.asarray(np.clip(filled - ink, 0.0, 1.0))


def _filled_area(mask: BoolArray) -> float:
    """Return the area within the outermost outlines, px²."""
    outer, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    filled = cv2.drawContours(np.zeros(mask.shape, np.uint8), outer, -1, 1, cv2.FILLED)
    return float(filled.sum())


def _outlines(share: FloatArray, longer: int) -> tuple[float | None, float]:
    """Return the usual radius of corners (0: sharp), px, and the length of all outlines, px."""
    # Loaded here: it brings all of scipy.stats along, which nothing else needs.
    from scipy.signal import find_peaks

    # Half as large pixels bring the contour's places nearer to the edge.
    fine = cv2.resize(np.pad(share, 2).astype(np.float32), None, fx=2, fy=2, interpolation=cv2.INTER_LINEAR)
    contours, _ = cv2.findContours((fine > 0.5).astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    radii: list[float] = []
    length = 0.0
    for contour in contours:
        points = contour[:, 0].astype(np.float64) / 2.0
        if len(points) < 24:
            continue
        smooth = gaussian_filter1d(points, 2 * _BEND_SMOOTH_PX, axis=0, mode="wrap")
        step = np.roll(smooth, -1, axis=0) - smooth
        size = np.hypot(*step.T)
        length += float(size.sum())
        if size.sum() < 0.02 * longer:
            continue
        heading = np.arctan2(step[:, 1], step[:, 0])
        turn = np.angle(np.exp(1j * (np.roll(heading, -1) - heading)))
        bend = gaussian_filter1d(
            np.abs(gaussian_filter1d(turn / np.maximum(size, 1e-6), 2.0, mode="wrap")), 1.0
        )
        tops, _ = find_peaks(bend, height=1.0 / (_GENTLEST * longer), distance=8)
        radii += (1.0 / bend[tops]).tolist()
    if len(radii) < 3:
        return None, length
    usual = float(np.median(radii))
    return (0.0 if usual < _SHARP_PX else usual), length


def _colours(picture: Picture, readings: PictureReadings) -> tuple[str, ...]:
    if readings.colours <= INK_AND_PAPER:
        return ()
    step = max(1, max(picture.rgb.shape) // 512)
    palette = find_palette(np.ascontiguousarray(picture.rgb[::step, ::step]))
    ground = palette.rgb[int(np.argmax(palette.area_px))]
    return tuple(hex_colour(rgb) for rgb in palette.rgb if np.abs(rgb - ground).max() > 24)
