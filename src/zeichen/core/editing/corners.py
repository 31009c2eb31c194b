"""Rounding corners by a radius."""

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.rounding import is_corner, rounded, turn_between
from zeichen.core.values import require_number


def rounded_corner(path: Path, node: int, radius: float) -> Path:
    """Return the path with the corner where a segment starts rounded; less where its sides are too short.

    Between straight sides the arc is a circle's; see geometry.rounding.

    Raises
    ------
    InvalidInputError
        If there is no such node, no corner at it, or the radius is not above 0.
    """
    found = rounded_corners(path, [node], radius)
    start, end = bezier.end_directions(path.segments)
    if not is_corner(turn_between(end[node - 1], start[node])):
        raise InvalidInputError("There is no corner to round at this node.")
    return found


def rounded_corners(path: Path, nodes: list[int], radius: float) -> Path:
    """Return the path with several corners rounded; nodes without a corner stay."""
    require_number(radius, "Radius", above=0)
    count = len(path.segments)
    for node in nodes:
        if not 0 <= node < count or (not path.closed and node == 0):
            raise InvalidInputError(f"There is no corner {node}; the path has {count} segments.")
    return rounded(path, dict.fromkeys(nodes, radius))
