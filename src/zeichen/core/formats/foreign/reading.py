"""An SVG's elements walked in painting order: what each paints, in page units, and what is not taken of it."""

import math
from collections import Counter
from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.errors import FormatError, TooMuchError
from zeichen.core.formats.foreign.cascade import Cascade
from zeichen.core.formats.foreign.clips import Clips
from zeichen.core.formats.foreign.composing import LINE_SHARE, Composer
from zeichen.core.formats.foreign.gradient_steps import steps_of, up_to
from zeichen.core.formats.foreign.gradients import (
    GRADIENTS,
    Gradient,
    chain_of,
    gradient_of,
    mean_colour,
    places_along,
    stops_of,
)
from zeichen.core.formats.foreign.marker_places import facing, reference_place
from zeichen.core.formats.foreign.outlines import MARKED, SHAPES, Outline, Vertex, box_path, outline_of
from zeichen.core.formats.foreign.pens import dashed
from zeichen.core.formats.foreign.pieces import Box, Marks, Piece, box_of, faded, moved_paths
from zeichen.core.formats.foreign.places import DEEPEST_LINKS, Place, page_size, whole_box
from zeichen.core.formats.foreign.style import Rgba, Server, Style
from zeichen.core.formats.foreign.tree import Element, Family, name_of
from zeichen.core.formats.foreign.values import (
    IDENTITY,
    Matrix,
    after,
    frame_map,
    inverse,
    length_px,
    moved,
    rotation,
    scaled_from,
    scaling,
    transform_of,
    translation,
    view_box,
)
from zeichen.core.formats.taken import LiveText
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.offsetting import arc_segments, stroked
from zeichen.core.geometry.overlay import Region

# Drawings with more pieces than this take minutes to judge (our own rule, as for elements).
MOST_PIECES = 50_000
# A circle under a map is still one if the map stretches all ways alike to this share.
_ALIKE = 1e-6
_ENDS = ("marker-start", "marker-mid", "marker-end")
# A step of a gradient that fades out is not there if it is no more than this (two steps of 8-bit colour on white).
_FAINT = 0.02
_UNDRAWN = frozenset(
    (
        "defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient",
        "filter", "style", "title", "desc", "metadata", "view", "cursor",
    )
)  # fmt: skip
_TEXT = "text"
_PICTURE = "picture: trace it instead"
_MASK = "mask: not applied"
_FILTER = "filter: not applied"
_BLEND = "blend mode: painted as ordinary colour"
_GRADIENT = "gradient: drawn in its mean colour"
_STEPS = "gradient: drawn in steps of one colour each"
_PATTERN = "pattern: drawn in its mean colour"
_BROKEN = "path whose data is not as SVG writes it: read up to there, or not at all"
_OFF_PAGE = "shape outside the page: not shown there, not taken"


@dataclass(frozen=True, slots=True)
class Page:
    """All a file paints on a page of some size, in CSS px."""

    width: float
    height: float
    pieces: list[Piece]
    texts: list[LiveText]
    lost: Counter[str]


def read_page(root: Element) -> Page:
    """Return what an SVG's elements paint.

    Raises
    ------
    FormatError
        If a coordinate is not a number.
    TooMuchError
        If there would be more than 50,000 pieces.
    """
    return _Reader(root).page()


class _Reader:
    def __init__(self, root: Element) -> None:
        self._root = root
        self._family = Family(root)
        self._cascade = Cascade(root)
        self._styles: dict[int, Style] = {}
        self._lost: Counter[str] = Counter()
        self._texts: list[LiveText] = []
        self._count = 0
        self._composer = Composer(1e-3, self._lost)
        self._clips = Clips(self._family, self._cascade, self._composer, self._lost, self._style_at)
        # Patterns and markers under way: one that refers to itself has no end.
        self._open: set[int] = set()

    def page(self) -> Page:
        root, style = self._root, self._style_at(self._root)
        box = view_box(root.get("viewBox"))
        width, height = page_size(root, box, style.font_px)
        place = Place(
            frame_map(box, width or 1.0, height or 1.0, root.get("preserveAspectRatio")), (1.0, 1.0)
        )
        if width is None or height is None:
            # Neither a size nor a viewBox: the page is as large as what is on it.
            place = Place(IDENTITY, (100.0, 100.0))
            self._composer.tolerance = 1e-2
            pieces = self._children(root, style, place)
            _, _, high_x, high_y = whole_box(pieces)
            return Page(max(high_x, 0.0), max(high_y, 0.0), pieces, self._texts, self._lost)
        self._composer.tolerance = LINE_SHARE * max(width, height)
        view = (box[2], box[3]) if box is not None else (width, height)
        place = replace(place, view=view)
        pieces = self._effects(root, style, place, self._children(root, style, place))
        if style.clipped_overflow:
            pieces = self._on_page(pieces, width, height)
        return Page(width, height, pieces, self._texts, self._lost)

    def _on_page(self, pieces: list[Piece], width: float, height: float) -> list[Piece]:
        """Return the pieces that show on the page; one that reaches over its edge stays whole, for the maker to see."""
        out: list[Piece] = []
        for piece in pieces:
            low_x, low_y, high_x, high_y = piece.box
            if piece.marks.hidden or (low_x < width and low_y < height and high_x > 0 and high_y > 0):
                out.append(piece)
            else:
                self._lost[_OFF_PAGE] += 1
        return out

    # Elements

    def _style_at(self, node: Element) -> Style:
        """Return the style of an element where it stands in the file."""
        found = self._styles.get(id(node))
        if found is None:
            above = self._family.parent(node)
            outer = Style.of_root() if above is None else self._style_at(above)
            found = self._styles[id(node)] = outer.within(self._cascade.of(node))
        return found

    def _children(self, node: Element, style: Style, place: Place) -> list[Piece]:
        out: list[Piece] = []
        for child in node:
            self._composer.lay_over(out, self._visit(child, style, place))
        return out

    def _visit(self, node: Element, parent: Style, place: Place) -> list[Piece]:
        """Return what an element paints."""
        tag = name_of(node)
        if not tag or tag in _UNDRAWN:
            return []
        style = parent.within(self._cascade.of(node))
        if not style.drawn:
            return []
        own = self._cascade.of(node).get("transform")
        place = place.within(transform_of(own))
        if tag == "use":
            x, y = (place.size(node, key, style, side) for side, key in enumerate("xy"))
            place = place.within(translation(x, y))
        if not np.isfinite(place.matrix).all():
            raise FormatError("The SVG holds a number that no drawing can hold. Scale it in the file first.")
        if inverse(place.matrix) is None:
            return []
        pieces = self._painted(tag, node, style, place)
        self._count += len(pieces)
        if self._count > 4 * MOST_PIECES or len(pieces) > MOST_PIECES:
            raise TooMuchError(
                f"The SVG paints more than {MOST_PIECES:,} shapes. Leave some out, and save it again."
            )
        return self._effects(node, style, place, pieces)

    def _painted(self, tag: str, node: Element, style: Style, place: Place) -> list[Piece]:
        if tag in SHAPES:
            return self._shape(tag, node, style, place)
        if tag in ("g", "a"):
            return self._children(node, style, place)
        if tag == "switch":
            chosen = next((child for child in node if name_of(child) and _holds_here(child)), None)
            return [] if chosen is None else self._visit(chosen, style, place)
        if tag == "use":
            return self._used(node, style, place)
        if tag == "svg":
            return self._framed(node, style, place, (node.get("width"), node.get("height")))
        if tag == "text":
            self._note_text(node, style, place)
        elif tag == "image" and style.visible:
            self._lost[_PICTURE] += 1
        return []

    def _used(self, node: Element, style: Style, place: Place) -> list[Piece]:
        used = self._family.linked(node)
        if used is None or place.links >= DEEPEST_LINKS:
            return []
        place = replace(place, links=place.links + 1)
        tag = name_of(used)
        if tag in ("symbol", "svg"):
            inner = style.within(self._cascade.of(used))
            if not inner.drawn:
                return []
            if tag == "symbol":
                place = place.within(transform_of(self._cascade.of(used).get("transform")))
            given = node.get("width") or used.get("width"), node.get("height") or used.get("height")
            pieces = self._framed(used, inner, place, given)
            pieces = self._effects(used, inner, place, pieces)
        else:
            pieces = self._visit(used, style, place)
        if node.get("id"):
            pieces = [replace(piece, marks=replace(piece.marks, id=node.get("id"))) for piece in pieces]
        return pieces

    def _framed(
        self, node: Element, style: Style, place: Place, given: tuple[str | None, str | None]
    ) -> list[Piece]:
        """Return what is in a frame of its own: a nested svg, or a symbol in use."""
        if name_of(node) == "svg":
            x, y = place.size(node, "x", style, 0), place.size(node, "y", style, 1)
            place = place.within(translation(x, y))
        width = length_px(given[0] or "100%", font_px=style.font_px, whole=place.view[0], default=0.0)
        height = length_px(given[1] or "100%", font_px=style.font_px, whole=place.view[1], default=0.0)
        if not (width > 0 and height > 0):
            return []
        box = view_box(node.get("viewBox"))
        inner = replace(
            place.within(frame_map(box, width, height, node.get("preserveAspectRatio"))),
            view=(box[2], box[3]) if box is not None else (width, height),
        )
        pieces = self._children(node, style, inner)
        if style.clipped_overflow:
            frame = moved_paths((box_path(0.0, 0.0, width, height),), place.matrix)
            pieces = self._composer.clipped(pieces, Region(frame))
        return pieces

    def _note_text(self, node: Element, style: Style, place: Place) -> None:
        content = " ".join("".join(node.itertext()).split())
        if not content or not style.visible or style.opacity == 0:
            return
        firsts = [
            next((each.get(key) for each in node.iter() if each.get(key)), "0").split()[0] for key in "xy"
        ]
        x, y = (
            length_px(text, font_px=style.font_px, whole=place.view[side], default=0.0)
            for side, text in enumerate(firsts)
        )
        at = moved(place.matrix, np.array([[x, y]]))[0]
        scale = math.sqrt(abs(float(np.linalg.det(place.matrix[:, :2]))))
        self._texts.append(LiveText(content, float(at[0]), float(at[1]), style.font_px * scale))

    # Shapes

    def _shape(self, tag: str, node: Element, style: Style, place: Place) -> list[Piece]:
        hidden = node.get("data-hidden") == "1"
        if not style.visible and not hidden:
            return []
        outline = outline_of(node, font_px=style.font_px, view=place.view)
        if outline.broken:
            self._lost[_BROKEN] += 1
        marks = Marks(
            str(node.get("id") or ""),
            str(node.get("data-group") or "")[:80],
            node.get("data-locked") == "1",
            hidden,
            str(node.get("data-letters") or "")[:4000],
        )
        paths = tuple(outline.paths)
        spine = moved_paths(paths, place.matrix)
        area = [] if tag == "line" else self._area(paths, spine, style, place)
        line = self._line(outline, style, place)
        markers = self._markers(outline, style, place) if tag in MARKED else []
        own = [replace(piece, marks=marks) for piece in (*area, *line)]
        if style.line_first and area and line:
            own = [*own[len(area) :], *own[: len(area)]]
        own = [replace(piece, spine=spine) for piece in own]
        out: list[Piece] = []
        for piece in own:
            self._composer.lay_over(out, [piece])
        self._composer.lay_over(out, markers)
        return out

    def _area(
        self, paths: tuple[Path, ...], spine: tuple[Path, ...], style: Style, place: Place
    ) -> list[Piece]:
        paint = style.paint("fill")
        if paint is None or not paths:
            return []
        rule = style.rule("fill-rule")
        share = style.share("fill-opacity")
        served = self._served(paint, share, paths, place)
        if isinstance(served, Gradient):
            return self._graded(served, share, paths, spine, rule, place)
        if served is None or served[3] <= 0:
            return []
        return [Piece(spine, served, rule)]

    def _graded(
        self,
        gradient: Gradient,
        share: float,
        paths: tuple[Path, ...],
        spine: tuple[Path, ...],
        rule: str,
        place: Place,
    ) -> list[Piece]:
        """Return an area that a gradient paints: whole in its last colour, and on it what goes less far."""
        whole = Piece(spine, (0.0, 0.0, 0.0, 1.0), rule)
        box = box_of(paths)
        out: list[Piece] = []
        steps = steps_of(gradient, paths, rule)
        self._lost[_STEPS if len(steps) > 1 else _GRADIENT] += 1
        for number, step in enumerate(steps):
            pieces = [whole]
            if math.isfinite(step.limit):
                pieces = self._composer.clipped([whole], self._reached(gradient, step.limit, box, place))
            if gradient.fades and number + 1 < len(steps):
                # What shows through must not lie on the next step's own colour.
                hole = self._reached(gradient, steps[number + 1].limit, box, place)
                pieces = [
                    left for piece in pieces if (left := self._composer.without(piece, hole)) is not None
                ]
            colour = (*step.colour[:3], step.colour[3] * share)
            out.extend(replace(piece, colour=colour) for piece in pieces if colour[3] >= _FAINT)
        return out

    def _reached(self, gradient: Gradient, limit: float, box: Box, place: Place) -> Region:
        inner = up_to(gradient, limit, box)
        return Region(() if inner is None else moved_paths((inner,), place.matrix))

    def _line(self, outline: Outline, style: Style, place: Place) -> list[Piece]:
        paint = style.paint("stroke")
        if paint is None or not (outline.paths or outline.dots):
            return []
        stroke = style.stroke(place.view)
        if not stroke.width > 0:
            return []
        paths = tuple(outline.paths)
        share = style.share("stroke-opacity")
        colour = self._served(paint, share, paths, place)
        if isinstance(colour, Gradient):
            self._lost[_GRADIENT] += 1
            mean = mean_colour(colour.at(places_along(paths)))
            colour = (*mean[:3], mean[3] * share)
        if colour is None or colour[3] <= 0:
            return []
        out: list[Piece] = []
        if stroke.nib.cap != "round" or stroke.nib.join != "round":
            # A line that comes back to its start without being closed has two ends there, which show.
            paths = tuple(
                replace(path, closed=not left_open)
                for path, left_open in zip(outline.paths, outline.open, strict=True)
            )
        drawn = tuple(part for path in paths for part in dashed(path, stroke))
        scale = _even_scale(place.matrix)
        if drawn and scale is not None:
            lines = moved_paths(drawn, place.matrix)
            out.append(Piece(lines, colour, width=stroke.width * scale, nib=stroke.nib, part="line"))
        elif drawn:
            # A round pen seen askew is no pen any more: its line is an area.
            stretch = float(np.linalg.norm(place.matrix[:, :2], 2))
            outlines = stroked(
                drawn, stroke.width, nib=stroke.nib, tolerance=self._composer.tolerance / max(stretch, 1e-9)
            )
            if outlines:
                out.append(Piece(moved_paths(outlines, place.matrix), colour, "evenodd", part="line"))
        if outline.dots and stroke.nib.cap != "butt":
            dots = tuple(_dot(x, y, stroke.width / 2.0, stroke.nib.cap) for x, y in outline.dots)
            out.append(Piece(moved_paths(dots, place.matrix), colour, part="dots"))
        return out

    def _served(
        self, paint: Rgba | Server, opacity: float, paths: tuple[Path, ...], place: Place
    ) -> Rgba | Gradient | None:
        """Return what a paint comes to on an element: one colour, or a gradient of several; None for nothing."""
        if not isinstance(paint, Server):
            return paint
        node = self._family.by_id.get(paint.id)
        tag = name_of(node) if node is not None else ""
        served: Rgba | Gradient | None = None
        if tag == "pattern":
            self._lost[_PATTERN] += 1
            served = self._pattern(node, box_of(paths), place)
        elif tag in GRADIENTS:
            low_x, low_y, high_x, high_y = box_of(paths)
            box = (low_x, low_y, high_x - low_x, high_y - low_y)
            styles = {id(stop): self._style_at(stop) for stop in stops_of(node, self._family)}
            served = gradient_of(node, styles, self._family, box, place.view)
        if served is None:
            return paint.fallback
        return served if isinstance(served, Gradient) else (*served[:3], served[3] * opacity)

    def _pattern(self, node: Element, box: Box, place: Place) -> Rgba | None:
        """Return the mean colour of a pattern's tile for an element with a box (SVG 2, section 14.3)."""
        chain = chain_of(node, self._family)
        holder = next((each for each in chain if len(each)), None)
        if holder is None or id(holder) in self._open:
            return None

        def said(key: str) -> str | None:
            return next((each.get(key) for each in chain if each.get(key) is not None), None)

        low_x, low_y, high_x, high_y = box
        of_box = scaled_from(low_x, low_y, high_x - low_x, high_y - low_y)
        tile_of_box = (said("patternUnits") or "objectBoundingBox") != "userSpaceOnUse"
        wholes = (1.0, 1.0) if tile_of_box else place.view
        x, y, width, height = (
            length_px(said(key), font_px=16.0, whole=wholes[number % 2], default=0.0)
            for number, key in enumerate(("x", "y", "width", "height"))
        )
        if tile_of_box:
            x, y = low_x + x * (high_x - low_x), low_y + y * (high_y - low_y)
            width, height = width * (high_x - low_x), height * (high_y - low_y)
        if not (width > 0 and height > 0):
            return None
        frame = view_box(said("viewBox"))
        inner = IDENTITY
        if frame is not None:
            inner = after(translation(x, y), frame_map(frame, width, height, said("preserveAspectRatio")))
        elif said("patternContentUnits") == "objectBoundingBox":
            inner = of_box
        self._open.add(id(holder))
        try:
            pieces = self._children(holder, self._style_at(holder), Place(inner, place.view))
        finally:
            self._open.discard(id(holder))
        seen = self._composer.clipped(pieces, Region((box_path(x, y, width, height),)))
        return self._composer.mean_colour(seen, width * height)

    # Markers

    def _markers(self, outline: Outline, style: Style, place: Place) -> list[Piece]:
        if not any(style.marker(key) for key in _ENDS):
            return []
        vertices = outline.vertices()
        width = style.stroke(place.view).width
        last = len(vertices) - 1
        out: list[Piece] = []
        for number, vertex in enumerate(vertices):
            for key, here in zip(_ENDS, (number == 0, 0 < number < last, number == last), strict=True):
                node = self._family.by_id.get(style.marker(key)) if here else None
                if node is not None and name_of(node) == "marker":
                    drawn = self._marker(node, key, vertex, width, place)
                    self._composer.lay_over(out, drawn)
        return out

    def _marker(self, node: Element, key: str, vertex: Vertex, width: float, place: Place) -> list[Piece]:
        """Return a marker on its place (SVG 2, section 13.7)."""
        style = self._style_at(node)
        if id(node) in self._open or not style.drawn:
            return []
        across = length_px(node.get("markerWidth"), font_px=style.font_px, whole=place.view[0], default=3.0)
        down = length_px(node.get("markerHeight"), font_px=style.font_px, whole=place.view[1], default=3.0)
        if not (across > 0 and down > 0):
            return []
        unit = 1.0 if node.get("markerUnits") == "userSpaceOnUse" else width
        box = view_box(node.get("viewBox"))
        frame = frame_map(box, across, down, node.get("preserveAspectRatio"))
        size = (box[2], box[3]) if box is not None else (across, down)
        ref = np.array(
            [
                [
                    reference_place(node.get("refX"), size[0], "left", "right"),
                    reference_place(node.get("refY"), size[1], "top", "bottom"),
                ]
            ]
        )
        at = moved(frame, ref)[0]
        stand = translation(vertex.x, vertex.y)
        stand = after(stand, rotation(facing(node.get("orient") or "0", key, vertex)))
        stand = after(stand, scaling(unit, unit))
        stand = after(stand, translation(-float(at[0]), -float(at[1])))
        outer = place.within(stand)
        if inverse(outer.matrix) is None:
            return []
        self._open.add(id(node))
        try:
            pieces = self._children(node, style, replace(outer.within(frame), view=size))
        finally:
            self._open.discard(id(node))
        pieces = self._effects(node, style, outer.within(frame), pieces)
        if style.clipped_overflow:
            edge = moved_paths((box_path(0.0, 0.0, across, down),), outer.matrix)
            pieces = self._composer.clipped(pieces, Region(edge))
        return [replace(piece, part=piece.part or "marker") for piece in pieces]

    # Clips, opacity, and what is not taken

    def _effects(self, node: Element, style: Style, place: Place, pieces: list[Piece]) -> list[Piece]:
        if style.link("filter"):
            self._lost[_FILTER] += 1
        if style.link("mask") or style.link("mask-image"):
            self._lost[_MASK] += 1
        if style.blended:
            self._lost[_BLEND] += 1
        clip = self._family.by_id.get(style.link("clip-path"))
        if clip is not None and name_of(clip) == "clipPath" and pieces:
            pieces = self._composer.clipped(pieces, self._clips.region(clip, place, pieces))
        share = style.opacity
        if share <= 0:
            return [piece for piece in pieces if piece.marks.hidden]
        return faded(pieces, share) if share < 1 else pieces


def _holds_here(node: Element) -> bool:
    """Return whether a child of a switch is one to draw (SVG 2, section 5.8); our language is English."""
    if node.get("requiredExtensions"):
        return False
    language = node.get("systemLanguage")
    if language is None:
        return True
    return any(each.strip().lower().split("-")[0] == "en" for each in language.split(","))


def _even_scale(matrix: Matrix) -> float | None:
    """Return by how much a map scales, or None if not all ways alike."""
    spread = np.linalg.svd(matrix[:, :2], compute_uv=False)
    return float(spread[0]) if spread[0] - spread[1] <= _ALIKE * spread[0] else None


def _dot(x: float, y: float, radius: float, cap: str) -> Path:
    if cap == "square":
        return box_path(x - radius, y - radius, 2 * radius, 2 * radius)
    return Path(arc_segments(np.array([x, y]), radius, 0.0, 2.0 * math.pi))
