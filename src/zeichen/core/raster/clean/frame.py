"""Clean-up of the frame: crop, turn, flip, enlarge, and a photographed page laid flat."""

import math

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean.ground import figure_mask, ground_colour
from zeichen.core.raster.picture import SMALLEST_SIDE_PX, Picture
from zeichen.core.values import AnyArray, FloatArray

# A picture is not enlarged beyond this: it would not be traced either (our own rule).
_MOST_PX = 40_000_000
# A page covers at least this share of its photo.
_LEAST_PAGE = 0.2
# What reaches so many sides of the photo is the photo's own ground.
_MOST_AT_FRAME = 3


def cropped(picture: Picture, *, x_min: float, y_min: float, x_max: float, y_max: float) -> Picture:
    """Return a part of the picture; the sides are shares of its width and height, 0-1.

    Raises
    ------
    InvalidInputError
        If next to nothing would be left.
    """
    x0, x1 = round(x_min * picture.width_px), round(x_max * picture.width_px)
    y0, y1 = round(y_min * picture.height_px), round(y_max * picture.height_px)
    if min(x1 - x0, y1 - y0) < SMALLEST_SIDE_PX:
        raise InvalidInputError(
            f"The crop would leave {max(0, x1 - x0)} x {max(0, y1 - y0)} px. Leave at least "
            f"{SMALLEST_SIDE_PX} px each way."
        )
    return Picture(np.ascontiguousarray(picture.rgb[y0:y1, x0:x1]))


def cropped_to_subject(picture: Picture, *, margin: float) -> Picture:
    """Return the picture cut to its figure with an even margin, ground added where there was too little.

    Parameters
    ----------
    margin : float
        Share of the figure's longer side that stays free all round.
    """
    mask = figure_mask(picture)
    rows, columns = np.nonzero(mask.any(axis=1))[0], np.nonzero(mask.any(axis=0))[0]
    if len(rows) == 0:
        raise InvalidInputError("There is no figure to crop to: the picture is all ground.")
    x0, x1, y0, y1 = int(columns[0]), int(columns[-1]) + 1, int(rows[0]), int(rows[-1]) + 1
    free = round(margin * max(x1 - x0, y1 - y0))
    colour = [int(v) for v in ground_colour(picture)]
    part = picture.rgb[max(0, y0 - free) : y1 + free, max(0, x0 - free) : x1 + free]
    top, left = max(0, free - y0), max(0, free - x0)
    bottom = max(0, y1 + free - picture.height_px)
    right = max(0, x1 + free - picture.width_px)
    framed = cv2.copyMakeBorder(part, top, bottom, left, right, cv2.BORDER_CONSTANT, value=colour)
    return Picture(np.ascontiguousarray(framed, dtype=np.uint8))


def turned(picture: Picture, *, angle_deg: float) -> Picture:
    """Return the picture turned clockwise, whole, on more of its ground; quarter turns are exact."""
    quarters = angle_deg / 90.0
    if abs(quarters - round(quarters)) < 1e-9:
        return Picture(np.ascontiguousarray(np.rot90(picture.rgb, -round(quarters))))
    width, height = picture.width_px, picture.height_px
    angle = math.radians(angle_deg)
    c, s = abs(math.cos(angle)), abs(math.sin(angle))
    wide, tall = math.ceil(width * c + height * s), math.ceil(width * s + height * c)
    matrix = cv2.getRotationMatrix2D((width / 2 - 0.5, height / 2 - 0.5), -angle_deg, 1.0)
    matrix[:, 2] += ((wide - width) / 2, (tall - height) / 2)
    colour = [int(v) for v in ground_colour(picture)]
    out = cv2.warpAffine(
        picture.rgb, matrix, (wide, tall), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT,
        borderValue=colour,
    )  # fmt: skip
    return Picture(np.asarray(out, dtype=np.uint8))


def flipped(picture: Picture, *, upside_down: bool) -> Picture:
    """Return the mirror image, left and right or top and bottom exchanged."""
    return Picture(np.ascontiguousarray(picture.rgb[::-1] if upside_down else picture.rgb[:, ::-1]))


def enlarged(picture: Picture, *, factor: int) -> Picture:
    """Return the picture a whole number of times as large, its edges kept crisp.

    Cubic resampling (R. G. Keys 1981, a = -0.75), which the tracing undoes: it is no worse for it, nor better.

    Raises
    ------
    InvalidInputError
        If it would be larger than what Zeichen reads.
    """
    width, height = picture.width_px * factor, picture.height_px * factor
    if width * height > _MOST_PX:
        raise InvalidInputError(
            f"Enlarged {factor} times the picture would have {width} x {height} px, more than Zeichen takes. "
            "A picture of this size traces as well as it is."
        )
    out = cv2.resize(picture.rgb, (width, height), interpolation=cv2.INTER_CUBIC)
    return Picture(np.asarray(out, dtype=np.uint8))


def page_flat(picture: Picture, corners: FloatArray | None = None) -> Picture:
    """Return a photographed page as if seen from straight above.

    Parameters
    ----------
    corners : (4, 2) float array, optional
        The page's corners as shares of width and height, clockwise from the upper left; None finds them.

    Raises
    ------
    InvalidInputError
        If no page is found, or the corners do not make one.
    """
    size = np.array([picture.width_px, picture.height_px], dtype=np.float64)
    found = find_page(picture) if corners is None else np.asarray(corners, dtype=np.float64)
    if found is None:
        raise InvalidInputError(
            "No page was found: its four edges must show against what it lies on. Crop the picture by hand."
        )
    quad = (found * size).astype(np.float32)
    if not cv2.isContourConvex(quad.reshape(-1, 1, 2)) or abs(cv2.contourArea(quad)) < 64:
        raise InvalidInputError("The four corners do not make a page. Put them at its corners, clockwise.")
    sides = np.linalg.norm(np.roll(quad, -1, axis=0) - quad, axis=1)
    wide = max(SMALLEST_SIDE_PX, round(float(sides[0] + sides[2]) / 2))
    tall = max(SMALLEST_SIDE_PX, round(float(sides[1] + sides[3]) / 2))
    # Corners are pixels' outer corners; the warp takes their centres.
    target = np.array([[0, 0], [wide, 0], [wide, tall], [0, tall]], dtype=np.float32) - np.float32(0.5)
    matrix = cv2.getPerspectiveTransform(quad - np.float32(0.5), target)
    out = cv2.warpPerspective(
        picture.rgb, matrix, (wide, tall), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
    )
    return Picture(np.asarray(out, dtype=np.uint8))


def find_page(picture: Picture) -> FloatArray | None:
    """Return the corners of a light page on something darker, as shares, clockwise from the upper left."""
    grey = picture.grey()
    scale = 600.0 / max(grey.shape)
    small = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else grey
    # What is drawn on the page is closed over first.
    closed = cv2.morphologyEx(small, cv2.MORPH_CLOSE, np.ones((15, 15), np.uint8))
    _, mask = cv2.threshold(closed, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    contours, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    page = max(contours, key=cv2.contourArea)
    if cv2.contourArea(page) < _LEAST_PAGE * small.size:
        return None
    hull = cv2.convexHull(page)
    x, y, wide, tall = cv2.boundingRect(hull)
    at_frame = (x <= 1) + (y <= 1) + (x + wide >= small.shape[1] - 1) + (y + tall >= small.shape[0] - 1)
    if at_frame >= _MOST_AT_FRAME:
        return None
    for share in (0.02, 0.03, 0.05, 0.08):
        corners = cv2.approxPolyDP(hull, share * cv2.arcLength(hull, True), True)
        if len(corners) == 4:
            return _ordered(_sides_met(page, corners.reshape(4, 2)) / np.array(small.shape[::-1]))
    return None


def _sides_met(outline: AnyArray, corners: AnyArray) -> FloatArray:
    """Return where straight lines through the outline's points along each side meet: exacter than any one point."""
    points = outline.reshape(-1, 2).astype(np.float64) + 0.5
    rough = corners.astype(np.float64) + 0.5
    lines = []
    for k in range(4):
        a, b = rough[k], rough[(k + 1) % 4]
        way = (b - a) / np.linalg.norm(b - a)
        along, off = (points - a) @ way, np.abs((points - a) @ np.array([-way[1], way[0]]))
        length = float(np.linalg.norm(b - a))
        near = points[(off < 6.0) & (along > 0.08 * length) & (along < 0.92 * length)]
        if len(near) < 8:
            return rough
        middle = near.mean(axis=0)
        direction = np.linalg.svd(near - middle, full_matrices=False)[2][0]
        lines.append((middle, direction))
    met = []
    for k in range(4):
        (p, u), (q, v) = lines[k - 1], lines[k]
        s, _ = np.linalg.solve(np.column_stack([u, -v]), q - p)
        met.append(p + s * u)
    return np.array(met)


def _ordered(corners: FloatArray) -> FloatArray:
    """Return four corners clockwise on screen from the one nearest to the upper left."""
    middle = corners.mean(axis=0)
    turn = np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0])
    around = corners[np.argsort(turn)]
    return np.roll(around, -int(around.sum(axis=1).argmin()), axis=0)
