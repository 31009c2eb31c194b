"""Pieces cut by clips, and mixed where they show through.

A later piece takes the place of what lies below it; what is half transparent becomes pieces of mixed colour, one
for each piece below, so that the picture is the same without transparency.
"""

from collections import Counter
from dataclasses import replace

import numpy as np
import shapely

from zeichen.core.errors import TooMuchError
from zeichen.core.formats.foreign.pieces import Box, Piece, box_of, over
from zeichen.core.formats.foreign.style import Rgba
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.overlay import Overlay, Region, closed_run
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.geometry.tangle import require_untangled
from zeichen.core.values import FloatArray

# How far borders of drawn lines may be off, as a share of the page.
LINE_SHARE = 2e-5
# Polygons that stand in for curves in a first look are that much coarser.
_LOOK = 20.0
# What is less than this share of a piece is not there: rounding (our own rule).
_NOTHING = 1e-5
# Opaque to the eye: a step of 8-bit colour is 1/255.
OPAQUE = 1.0 - 0.5 / 255.0
# So many pieces are laid over each other at most for the sake of what shows through (our own rule).
MOST_MIXED = 3000
# Fewer segments cannot cross so often that it matters.
_BUSY = 300
_TOO_BUSY = "shape that crosses itself too often to be cut where it is hidden: left whole"
_MIXED_ENOUGH = "half-transparent colour over too many shapes: mixed with white there"


class Composer:
    """Puts pieces together on a page.

    Parameters
    ----------
    tolerance : float
        How far borders of drawn lines may be off, page units.
    lost : Counter
        Takes what could not be done, in words.
    """

    def __init__(self, tolerance: float, lost: Counter[str]) -> None:
        self.tolerance, self._lost = tolerance, lost
        self._mixed = 0
        # By the identity of paths, which are kept so that it stays theirs.
        self._polygons: dict[int, tuple[tuple[Path, ...], shapely.MultiPolygon]] = {}

    def clipped(self, pieces: list[Piece], clip: Region) -> list[Piece]:
        """Return what of some pieces lies in a region; what it does not cut stays what it was, lines included."""
        if not clip.paths:
            return []
        frame, outer = _frame(clip), box_of(clip.paths)
        out: list[Piece] = []
        for piece in pieces:
            box = piece.box
            if not _meet(box, outer):
                continue
            if frame is not None and _holds(frame, box):
                out.append(piece)
                continue
            inner, _ = self._shared(piece, clip)
            if inner is not None:
                out.append(inner)
        return out

    def without(self, piece: Piece, hole: Region) -> Piece | None:
        """Return a piece less a region; None if nothing is left."""
        overlay = Overlay([piece.region(self.tolerance), hole])
        paths = overlay.outline(overlay.inside[:, 0] & ~overlay.inside[:, 1], least_width=self.tolerance)
        return piece.cut(paths) if paths else None

    def lay_over(self, below: list[Piece], above: list[Piece]) -> None:
        """Lay pieces over others, which they join: opaque ones as they are, others mixed with what they lie on.

        Source of the mixture: source over (Compositing and Blending 1, section 9.1.4).
        """
        ground = below[:] if any(piece.colour[3] < OPAQUE for piece in above) else []
        for piece in above:
            if piece.colour[3] >= OPAQUE or piece.marks.hidden:
                below.append(piece)
            else:
                below.extend(self._mixtures(piece, ground))

    def mean_colour(self, pieces: list[Piece], whole: float) -> Rgba | None:
        """Return the mean colour of pieces, later ones covering earlier ones, over an area they lie in."""
        regions = [piece.region(self.tolerance) for piece in pieces]
        total = np.zeros(4)
        overlay = Overlay(regions) if regions else None
        if overlay is None:
            return None
        for number, piece in enumerate(pieces):
            shown = overlay.inside[:, number] & ~overlay.inside[:, number + 1 :].any(axis=1)
            share = float(overlay.areas[shown].sum()) / whole
            total += np.array([*(np.array(piece.colour[:3]) * piece.colour[3]), piece.colour[3]]) * share
        if not total[3] > 0:
            return None
        red, green, blue = (total[:3] / total[3]).tolist()
        return red, green, blue, float(min(1.0, total[3]))

    def _mixtures(self, piece: Piece, ground: list[Piece]) -> list[Piece]:
        """Return a piece mixed with each of those below, the lowest first."""
        laid: list[Piece] = []
        box = piece.box
        for under in reversed(ground):
            if under.marks.hidden or not _meet(box, under.box):
                continue
            if self._mixed > MOST_MIXED:
                self._lost[_MIXED_ENOUGH] += 1
                break
            part, covers = self._on(piece, under)
            if part is not None:
                laid.append(replace(part, colour=over(piece.colour, under.colour)))
            if covers:
                return laid[::-1]
        return [piece, *laid[::-1]]

    def _on(self, piece: Piece, under: Piece) -> tuple[Piece | None, bool]:
        """Return what of a piece lies on another one, and whether all of it does."""
        frame = _frame(Region(under.paths)) if under.width is None else None
        if frame is not None and _holds(frame, piece.box):
            return piece, True
        look, other = self._polygon(piece), self._polygon(under)
        # Only where borders meet, or nearly do, is it worth while to look at the curves.
        slack = 2.0 * _LOOK * self.tolerance
        if shapely.distance(look, other) > slack:
            return None, False
        if shapely.contains(other, look) and shapely.distance(other.boundary, look) > slack:
            return piece, True
        self._mixed += 1
        return self._shared(piece, under.region(self.tolerance))

    def _shared(self, piece: Piece, region: Region) -> tuple[Piece | None, bool]:
        """Return what of a piece lies in a region, and whether all of it does."""
        if self._is_tangled(piece):
            self._lost[_TOO_BUSY] += 1
            return piece, True
        overlay = Overlay([piece.region(self.tolerance), region])
        own = overlay.inside[:, 0]
        both = own & overlay.inside[:, 1]
        size = float(overlay.areas[own].sum())
        if overlay.areas[own & ~both].sum() <= _NOTHING * size:
            return piece, True
        if overlay.areas[both].sum() <= _NOTHING * size:
            return None, False
        paths = overlay.outline(both)
        return (piece.cut(paths) if paths else None), False

    def _is_tangled(self, piece: Piece) -> bool:
        """Return whether a piece crosses itself so often that cutting it would take minutes."""
        if sum(len(path.segments) for path in piece.paths) < _BUSY:
            return False
        try:
            require_untangled(
                [bezier.flatten(path.segments, tolerance=_LOOK * self.tolerance) for path in piece.paths]
            )
        except TooMuchError:
            return True
        return False

    def _polygon(self, piece: Piece) -> shapely.MultiPolygon:
        found = self._polygons.get(id(piece.paths))
        if found is None:
            shape = Shape(
                "", piece.paths, fill_rule=piece.rule, stroke_width=piece.width, cap=piece.nib.cap, join=piece.nib.join,
                mitre_limit=piece.nib.mitre_limit,
            )  # fmt: skip
            area = shape_area(shape, tolerance=_LOOK * self.tolerance)
            shapely.prepare(area)
            found = self._polygons[id(piece.paths)] = (piece.paths, area)
        return found[1]


def _frame(region: Region) -> Box | None:
    """Return the box that a region is, if it is one: four straight sides along the axes."""
    if len(region.paths) != 1 or len(region.paths[0].segments) not in (3, 4):
        return None
    segments: FloatArray = region.paths[0].segments
    low_x, low_y, high_x, high_y = box_of(region.paths)
    full = (high_x - low_x) * (high_y - low_y)
    return (
        (low_x, low_y, high_x, high_y)
        if abs(abs(bezier.signed_area(closed_run(segments))) - full) <= 1e-9 * full
        else None
    )


def _holds(frame: Box, box: Box) -> bool:
    slack = 1e-6 * max(frame[2] - frame[0], frame[3] - frame[1])
    return (
        box[0] >= frame[0] - slack
        and box[1] >= frame[1] - slack
        and box[2] <= frame[2] + slack
        and box[3] <= frame[3] + slack
    )


def _meet(a: Box, b: Box) -> bool:
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]
