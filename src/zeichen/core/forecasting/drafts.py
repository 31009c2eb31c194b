"""Drafts: the drawing a trace would come to, near enough to be judged, in a few hundredths of a second.

Outlines are polygons where a trace fits curves. What a proof measures of a drawing (parts, gaps, pieces, specks)
it measures of a draft alike; what depends on curves (nodes, corners, crossings) it does not.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from shapely.geometry.polygon import orient

from zeichen.core.geometry.drawing import Drawing, Shape
from zeichen.core.geometry.polygons import path_from_ring
from zeichen.core.raster.colours import Palette, hex_colour
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.edges.marching_squares import find_contours
from zeichen.core.tracing.outlines.solid import nested_shapes
from zeichen.core.tracing.regions.flats import ground_label
from zeichen.core.tracing.regions.labelling import label_pixels, regions_of
from zeichen.core.tracing.regions.planar_map import map_of
from zeichen.core.values import AnyArray, Bytes8Array, FloatArray

# What a trace leaves out unless it is told otherwise, px² (the trace's own default).
LEAST_SPOT_PX2 = 16.0
# Outlines are plain within this; a fit of curves is as near (its usual tolerance), px.
_PLAIN_PX = 0.2
# More areas than this are no figure; the trace refuses many more, and a proof of them takes seconds (own rule).
MOST_AREAS = 1500
# Of larger pictures every second pixel is looked at, or fewer. (Half of 1024 px would take two thirds of the time,
# but the specks that noise leaves in a trace do not show in it: 90.7 of 100 verdicts right, not 92.4.)
_FLATS_PX = 1000
_RIM_PX = 6


@dataclass(frozen=True)
class Draft:
    """A draft, in the picture's px, and into how many areas the picture falls; no drawing if those are too many
    or none. Of flat colours, what was looked at: labels is the number of each pixel's colour, ground that of the
    ground, or None; rgb the pixels."""

    drawing: Drawing | None
    areas: int
    labels: AnyArray | None = None
    ground: int | None = None
    rgb: Bytes8Array | None = None


def draft_solid(grey: Bytes8Array, *, level: float, invert: bool = False) -> Draft:
    """Return the draft of the dark areas of a picture, or with invert of its light ones.

    Parameters
    ----------
    grey : (height, width) uint8 array
    level : float
        Grey up to this is dark.
    """
    height, width = grey.shape
    contours = find_contours(grey, level=level, invert=invert)
    areas = contours.areas()
    kept = np.nonzero(np.abs(areas) >= LEAST_SPOT_PX2)[0]
    if not 0 < len(kept) <= MOST_AREAS:
        return Draft(None, len(kept))
    loops = [_plain(contours[k]) for k in kept.tolist()]
    shapes = nested_shapes(
        [path_from_ring(np.vstack([loop, loop[:1]])) for loop in loops], loops, areas[kept]
    )
    return Draft(Drawing(float(width), float(height), shapes) if shapes else None, len(kept))


def draft_flats(picture: Picture, palette: Palette, box: tuple[slice, slice]) -> Draft:
    """Return the draft of a picture's areas of one colour each; neighbours share their borders.

    box: rows and columns that hold the figure, all else is ground.
    """
    rgb = picture.rgb
    factor = max(1, round(max(rgb.shape[:2]) / _FLATS_PX))
    top, bottom, left, right = _around(box, rgb.shape, factor)
    rgb = rgb[top:bottom, left:right]
    if factor > 1:
        size = (max(1, rgb.shape[1] // factor), max(1, rgb.shape[0] // factor))
        rgb = cv2.resize(rgb, size, interpolation=cv2.INTER_AREA)
    labels = label_pixels(rgb, palette.rgb, min_spot_px2=LEAST_SPOT_PX2 / factor**2)
    ground = ground_label(labels)
    regions, count = regions_of(labels)
    if count > MOST_AREAS:
        return Draft(None, count, labels, ground, rgb)
    planar = map_of(regions)
    lines = []
    for k in range(len(planar)):
        points = _calmed(planar.corners(k), closed=bool(planar.start[k] < 0))
        lines.append(shapely.linestrings(points * factor + (left, top)))
    faces = shapely.get_parts(
        shapely.polygonize(shapely.simplify(np.array(lines), factor * _PLAIN_PX, preserve_topology=False))
    )
    shapes: list[Shape] = []
    for face in sorted(faces, key=lambda face: -face.area):
        at = face.representative_point()
        row = min(int((at.y - top) / factor), labels.shape[0] - 1)
        column = min(int((at.x - left) / factor), labels.shape[1] - 1)
        colour = int(labels[row, column])
        if colour == ground:
            continue
        # Outlines run the way in which their area is positive, holes the other.
        face = orient(face)
        paths = tuple(path_from_ring(ring.coords) for ring in (face.exterior, *face.interiors))
        shapes.append(Shape(f"s{len(shapes)}", paths, hex_colour(palette.rgb[colour])))
    drawing = Drawing(float(picture.width_px), float(picture.height_px), tuple(shapes)) if shapes else None
    return Draft(drawing, count, labels, ground, rgb)


def _around(box: tuple[slice, slice], shape: tuple[int, ...], factor: int) -> tuple[int, int, int, int]:
    """Return the first and last row and column to look at: the box and some ground around it."""
    rim = _RIM_PX * factor
    (top, bottom), (left, right) = (
        (max(0, part.start - rim), min(size, part.stop + rim)) for part, size in zip(box, shape, strict=False)
    )
    return top, bottom, left, right


def _plain(ring: FloatArray) -> FloatArray:
    """Return a closed polyline with fewer points, within the tolerance."""
    closed = np.vstack([ring, ring[:1]])
    plain = shapely.get_coordinates(
        shapely.simplify(shapely.linestrings(closed), _PLAIN_PX, preserve_topology=False)
    )[:-1]
    return plain if len(plain) >= 3 else ring


def _calmed(corners: FloatArray, *, closed: bool) -> FloatArray:
    """Return the stairs of pixel corners as a calm line through their middles; open ends stay where they are."""
    middles = (corners[1:] + corners[:-1]) / 2
    if closed:
        for _ in range(3):
            middles = (np.roll(middles, 1, axis=0) + 2 * middles + np.roll(middles, -1, axis=0)) / 4
        return np.vstack([middles, middles[:1]])
    line = np.vstack([corners[:1], middles, corners[-1:]])
    for _ in range(3):
        line[1:-1] = (line[:-2] + 2 * line[1:-1] + line[2:]) / 4
    return line
