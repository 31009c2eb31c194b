"""Which declarations hold for each element: attributes, style sheets by specificity and order, inline style.

Source: CSS Cascade 4, section 6, and SVG 2, section 6; the sheets are parsed by tinycss2, the selectors matched
by cssselect2.
"""

import logging
from typing import Any

import cssselect2
import tinycss2

from zeichen.core.formats.foreign.tree import Element, name_of

Declarations = dict[str, str]
# What an SVG attribute can say that a style rule can say too; all others are attributes only.
PROPERTIES = frozenset(
    (
        "clip-path", "clip-rule", "color", "display", "fill", "fill-opacity", "fill-rule", "filter",
        "font-family", "font-size", "marker", "marker-end", "marker-mid", "marker-start", "mask",
        "mask-image", "mix-blend-mode", "opacity", "overflow", "paint-order", "stop-color", "stop-opacity",
        "stroke", "stroke-dasharray", "stroke-dashoffset", "stroke-linecap", "stroke-linejoin",
        "stroke-miterlimit", "stroke-opacity", "stroke-width", "transform", "visibility",
    )
)  # fmt: skip
# Rules are matched element by element: no file of a maker has more (our own rule).
_MOST_RULES = 5000
log = logging.getLogger("zeichen.formats")


class Cascade:
    """The declarations of every element of a file."""

    def __init__(self, root: Element) -> None:
        self._own: dict[int, Declarations] = {}
        self._matcher = _matcher(root)
        if self._matcher is not None:
            for wrapped in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
                self._own[id(wrapped.etree_element)] = self._declared(wrapped.etree_element, wrapped)

    def of(self, node: Element) -> Declarations:
        """Return what holds for an element itself, before anything is inherited."""
        found = self._own.get(id(node))
        if found is None:
            found = self._own[id(node)] = self._declared(node, None)
        return found

    def _declared(self, node: Element, wrapped: Any) -> Declarations:
        out = {key: value.strip() for key, value in node.attrib.items() if key in PROPERTIES}
        weighty: Declarations = {}
        if self._matcher is not None and wrapped is not None:
            # Least specific first, equal ones in the order of the file.
            for _, _, pseudo, (plain, important) in self._matcher.match(wrapped):
                if pseudo is None:
                    _take(out, plain)
                    _take(weighty, important)
        if node.get("style"):
            plain, important = _declarations(node.get("style"))
            _take(out, plain)
            _take(weighty, important)
        _take(out, weighty)
        return out


def _take(out: Declarations, more: Declarations) -> None:
    if "marker" in more:
        for end in ("marker-start", "marker-mid", "marker-end"):
            out[end] = more["marker"]
    out.update(more)


def _matcher(root: Element) -> Any:
    """Return what finds the rules of an element, or None if the file has no style sheet."""
    sheets = [
        "".join(node.itertext())
        for node in root.iter()
        if name_of(node) == "style" and str(node.get("type") or "text/css").strip().lower() == "text/css"
    ]
    if not any(sheet.strip() for sheet in sheets):
        return None
    matcher = cssselect2.Matcher()
    count = 0
    for sheet in sheets:
        for prelude, content in _rules(sheet):
            payload = _declarations(content)
            try:
                selectors = cssselect2.compile_selector_list(prelude)
            except (cssselect2.SelectorError, RecursionError) as error:
                log.debug("a style rule is passed over: %s", error)
                continue
            for selector in selectors:
                count += 1
                if count <= _MOST_RULES:
                    matcher.add_selector(selector, payload)
    return matcher


def _rules(sheet: str) -> list[tuple[Any, Any]]:
    """Return the plain rules of a sheet, selector and body; rules for other media or fonts are none of ours."""
    try:
        parsed = tinycss2.parse_stylesheet(sheet, skip_comments=True, skip_whitespace=True)
    except RecursionError:
        return []
    return [
        (rule.prelude, rule.content)
        for rule in parsed
        if rule.type == "qualified-rule" and not any(token.type == "{} block" for token in rule.content)
    ]


def _declarations(content: Any) -> tuple[Declarations, Declarations]:
    """Return declarations, those of ordinary weight and those marked important."""
    plain: Declarations = {}
    important: Declarations = {}
    try:
        parsed = tinycss2.parse_declaration_list(content, skip_comments=True, skip_whitespace=True)
    except RecursionError:
        return plain, important
    for each in parsed:
        if each.type == "declaration":
            value = tinycss2.serialize(each.value).strip()
            (important if each.important else plain)[each.lower_name] = value
    return plain, important
