"""What an SVG file may ask for before it is read: how deep, how many elements with all copies, and which style rules.

A file of a kilobyte can ask for millions of copies (`use` of `use`), and broken style sheets hold up a reader that
looks for their ends. All of it is counted here first, each element once.
"""

from typing import Any
from xml.etree import ElementTree

import tinycss2

from zeichen.core.errors import FormatError, TooMuchError

# Our own rules: the busiest drawings makers bring in have a few thousand elements, a dozen groups deep.
MOST_ELEMENTS = 50_000
DEEPEST = 200
_HREF = ("href", "{http://www.w3.org/1999/xlink}href")
_SVG = "http://www.w3.org/2000/svg"


def bounded(root: Any, raw: bytes) -> bytes:
    """Return the file as it may be read: as it is, or with only those style rules that are whole.

    Raises
    ------
    TooMuchError
        If it has too many elements, with all copies that `use` makes of them.
    FormatError
        If it is nested too deeply, or an element is used within itself.
    """
    _require_count(root)
    sheets = [node for node in root.iter() if _name(node) == "style" and node.text]
    if not sheets:
        return raw
    for node in sheets:
        node.text = _whole_rules(node.text)
    ElementTree.register_namespace("", _SVG)
    ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")
    written: bytes = ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)
    return written


def _name(node: Any) -> str:
    return str(node.tag).rsplit("}", 1)[-1].lower()


def _require_count(root: Any) -> None:
    by_id: dict[str, Any] = {}
    depth = {id(root): 1}
    every = 0
    for node in root.iter():
        every += 1
        own = depth[id(node)]
        if own > DEEPEST:
            raise FormatError(
                f"The SVG is nested more than {DEEPEST} groups deep. Take groups apart and save it again."
            )
        for child in node:
            depth[id(child)] = own + 1
        if node.get("id"):
            by_id.setdefault(node.get("id"), node)
    if every > MOST_ELEMENTS or _copied(root, by_id) > MOST_ELEMENTS:
        copies = "" if every > MOST_ELEMENTS else " with all the copies that “use” makes of them"
        raise TooMuchError(
            f"The SVG has more than {MOST_ELEMENTS:,} elements{copies}. Join shapes of one colour into one path, or "
            "leave some out, and save it again."
        )


def _copied(root: Any, by_id: dict[str, Any]) -> int:
    """Return how many elements there are once every `use` has its copy; each element is counted once."""
    sizes: dict[int, int] = {}
    under_way: set[int] = set()
    waiting: list[tuple[Any, bool]] = [(root, False)]
    while waiting:
        node, looked_at = waiting.pop()
        key = id(node)
        if key in sizes:
            continue
        parts = _parts(node, by_id)
        if looked_at:
            under_way.discard(key)
            sizes[key] = min(1 + sum(sizes[id(part)] for part in parts), 10 * MOST_ELEMENTS)
            continue
        if key in under_way:
            continue
        under_way.add(key)
        waiting.append((node, True))
        for part in parts:
            if id(part) in under_way:
                raise FormatError(
                    "The SVG uses an element within itself, which has no end. Save it again in a drawing program."
                )
            waiting.append((part, False))
    return sizes[id(root)]


def _parts(node: Any, by_id: dict[str, Any]) -> list[Any]:
    parts = list(node)
    if _name(node) == "use":
        link = next((node.get(key) for key in _HREF if node.get(key)), "")
        used = by_id.get(link[1:]) if link.startswith("#") else None
        if used is not None:
            parts.append(used)
    return parts


def _whole_rules(text: str) -> str:
    """Return only those rules of a style sheet that are a selector and its declarations, as CSS Syntax 3 reads them."""
    try:
        rules = tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)
        return "\n".join(
            f"{tinycss2.serialize(rule.prelude).strip()} {{{tinycss2.serialize(rule.content)}}}"
            for rule in rules
            if rule.type == "qualified-rule" and not any(token.type == "{} block" for token in rule.content)
        )
    except RecursionError:
        return ""
