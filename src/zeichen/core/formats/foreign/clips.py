"""Clip paths as areas on the page (CSS Masking 1, section 6), clipped themselves where they say so."""

from collections import Counter
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from zeichen.core.formats.foreign.cascade import Cascade
from zeichen.core.formats.foreign.composing import Composer
from zeichen.core.formats.foreign.outlines import SHAPES, outline_of
from zeichen.core.formats.foreign.pieces import Piece, box_of, moved_paths, spines
from zeichen.core.formats.foreign.places import DEEPEST_LINKS, Place
from zeichen.core.formats.foreign.style import Style
from zeichen.core.formats.foreign.tree import Element, Family, name_of
from zeichen.core.formats.foreign.values import inverse, transform_of, translation
from zeichen.core.geometry.overlay import Region, united

_TEXT = "text in a clip path: not used for clipping"


class Clips:
    """The clip paths of a file.

    style_at: the style of an element where it stands in the file. lost: counts what is not taken, in words.
    """

    def __init__(
        self,
        family: Family,
        cascade: Cascade,
        composer: Composer,
        lost: Counter[str],
        style_at: Callable[[Element], Style],
    ) -> None:
        self._family = family
        self._cascade = cascade
        self._composer = composer
        self._lost = lost
        self._style_at = style_at
        # Those under way: one that refers to itself has no end.
        self._open: set[int] = set()

    def region(self, node: Element, place: Place, pieces: list[Piece]) -> Region:
        """Return the area of a clip path, in page units, for what it clips."""
        if id(node) in self._open:
            return Region(())
        inner = place
        if node.get("clipPathUnits") == "objectBoundingBox":
            back = inverse(place.matrix)
            assert back is not None
            box = box_of(moved_paths(tuple(spines(pieces)), back))
            inner = place.within(np.array([[box[2] - box[0], 0.0, box[0]], [0.0, box[3] - box[1], box[1]]]))
        inner = inner.within(transform_of(self._cascade.of(node).get("transform")))
        if inverse(inner.matrix) is None:
            return Region(())
        self._open.add(id(node))
        try:
            style = self._style_at(node)
            regions = [region for child in node if (region := self._part(child, style, inner)) is not None]
            whole = regions[0] if len(regions) == 1 else Region(united(regions)) if regions else Region(())
            outer = self._family.by_id.get(style.link("clip-path"))
            if outer is not None and name_of(outer) == "clipPath":
                whole = self._within(whole, self.region(outer, place, pieces))
        finally:
            self._open.discard(id(node))
        return whole

    def _part(self, node: Element, parent: Style, place: Place) -> Region | None:
        """Return the area of one element of a clip path."""
        tag = name_of(node)
        style = parent.within(self._cascade.of(node))
        if not style.drawn:
            return None
        place = place.within(transform_of(self._cascade.of(node).get("transform")))
        region: Region | None = None
        if tag in SHAPES and style.visible:
            outline = outline_of(node, font_px=style.font_px, view=place.view)
            region = Region(moved_paths(tuple(outline.paths), place.matrix), style.rule("clip-rule"))
        elif tag == "use" and place.links < DEEPEST_LINKS:
            used = self._family.linked(node)
            x, y = place.size(node, "x", style, 0), place.size(node, "y", style, 1)
            there = replace(place.within(translation(x, y)), links=place.links + 1)
            # Only shapes and text may be referred to here, other copies in between.
            if used is not None and name_of(used) in (*SHAPES, "use"):
                region = self._part(used, style, there)
        elif tag == "text" and style.visible:
            self._lost[_TEXT] += 1
        own = self._family.by_id.get(style.link("clip-path"))
        if region is not None and own is not None and name_of(own) == "clipPath":
            seen = [Piece(region.paths, (0.0, 0.0, 0.0, 1.0), region.fill_rule, spine=region.paths)]
            region = self._within(region, self.region(own, place, seen))
        return region if region is not None and region.paths else None

    def _within(self, region: Region, clip: Region) -> Region:
        """Return what two regions share."""
        piece = Piece(region.paths, (0.0, 0.0, 0.0, 1.0), region.fill_rule)
        kept = self._composer.clipped([piece], clip)
        return Region(kept[0].paths, kept[0].rule) if kept else Region(())
