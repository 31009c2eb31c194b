"""What an SVG file may ask for before it is read: how deep, and how many elements with all copies.

A file of a kilobyte can ask for millions of copies (`use` of `use`). They are counted here first, each element once.
"""

from typing import Any

from zeichen.core.errors import FormatError, TooMuchError
from zeichen.core.formats.foreign.tree import link_of, name_of

# Our own rules: the busiest drawings makers bring in have a few thousand elements, a dozen groups deep.
MOST_ELEMENTS = 50_000
DEEPEST = 200


def require_bounds(root: Any) -> None:
    """Look at a file before it is read.

    Raises
    ------
    TooMuchError
        If it has too many elements, with all copies that `use` makes of them.
    FormatError
        If it is nested too deeply, or an element is used within itself.
    """
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
    if name_of(node) == "use":
        used = by_id.get(link_of(node))
        if used is not None:
            parts.append(used)
    return parts
