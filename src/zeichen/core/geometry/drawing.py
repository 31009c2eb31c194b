"""The drawing: shapes made of paths made of cubic Bézier segments.

Units are the sketch's pixels, (x, y) with y down and (0, 0) at the picture's top left corner.
Outer paths run clockwise on screen (positive area), holes the other way.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace

import numpy as np

from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.geometry import bezier
from zeichen.core.provenance import Origin
from zeichen.core.values import FloatArray, require_number

FILL_RULES = ("evenodd", "nonzero")
CAPS = ("round", "butt", "square")
JOINS = ("round", "mitre", "bevel")
# Products of two such numbers are still exact to a hundredth; no drawing comes near to it (our own rule).
LARGEST_COORDINATE = 1e9


@dataclass(frozen=True, slots=True)
class Path:
    """One connected run of cubic segments, closed or open."""

    segments: FloatArray
    closed: bool = True

    def __post_init__(self) -> None:
        segments = np.asarray(self.segments, dtype=np.float64)
        if segments.ndim != 3 or segments.shape[1:] != (4, 2):
            raise InvalidInputError(
                f"A path needs an (n, 4, 2) array of control points; got {segments.shape}."
            )
        largest = np.abs(segments).max(initial=0.0)
        if not largest <= LARGEST_COORDINATE:
            said = f"of {largest:.3g}" if np.isfinite(largest) else "that is not a finite number"
            raise InvalidInputError(f"A path holds a coordinate {said}; no drawing is as large as that.")
        if segments is self.segments and segments.flags.writeable:
            segments = segments.copy()
        segments.flags.writeable = False
        object.__setattr__(self, "segments", segments)

    @property
    def area(self) -> float:
        """Signed area in square units; 0 for an open path."""
        return bezier.signed_area(self.segments) if self.closed and len(self.segments) else 0.0

    @property
    def end_gap(self) -> float:
        """Distance between the last and the first point."""
        if not len(self.segments):
            return 0.0
        return float(np.hypot(*(self.segments[-1, 3] - self.segments[0, 0])))

    def moved(self, change: Callable[[FloatArray], FloatArray]) -> "Path":
        """Return the path with every control point changed by an affine function."""
        return replace(self, segments=change(self.segments.reshape(-1, 2)).reshape(-1, 4, 2))


@dataclass(frozen=True, slots=True)
class Shape:
    """A filled area (or, with a stroke width, a drawn line) of one colour.

    group: shapes with the same one are chosen together. locked: not to be changed by hand. hidden: neither
    shown, judged nor made. letters: the order (JSON) that set these letters, as long as nobody changed them.
    cap, join, mitre_limit: of a drawn line, its ends and corners as SVG 2, section 13.5, has them.
    """

    id: str
    paths: tuple[Path, ...]
    fill: str = "#24272b"
    fill_rule: str = "evenodd"
    stroke_width: float | None = None
    group: str = ""
    locked: bool = False
    hidden: bool = False
    letters: str = ""
    cap: str = "round"
    join: str = "round"
    mitre_limit: float = 4.0

    def __post_init__(self) -> None:
        if self.fill_rule not in FILL_RULES:
            raise InvalidInputError(
                f"Fill rule must be one of {', '.join(FILL_RULES)}; got {self.fill_rule}."
            )
        if self.stroke_width is not None:
            require_number(self.stroke_width, "Line width", least=0, most=LARGEST_COORDINATE, unit="px")
        if self.cap not in CAPS or self.join not in JOINS:
            raise InvalidInputError(
                f"A line ends {', '.join(CAPS)} and turns {', '.join(JOINS)}; got {self.cap}, {self.join}."
            )
        require_number(self.mitre_limit, "Mitre limit", least=1, most=LARGEST_COORDINATE)

    @property
    def area(self) -> float:
        """Area in square units: outer paths less their holes."""
        return abs(sum(path.area for path in self.paths))

    def bounds(self) -> tuple[float, float, float, float]:
        """Return the exact box around the shape; raises InvalidInputError if it has no segments."""
        return Drawing(1, 1, (self,)).bounds()

    @property
    def node_count(self) -> int:
        """How many segments the shape has."""
        return sum(len(path.segments) for path in self.paths)


@dataclass(frozen=True, slots=True)
class Drawing:
    """Shapes on a frame of a given size, painted in order.

    origin: how its picture came about, as far as its file says.
    """

    width: float
    height: float
    shapes: tuple[Shape, ...] = field(default=())
    origin: Origin | None = None

    def __post_init__(self) -> None:
        require_number(self.width, "Drawing width", above=0, most=LARGEST_COORDINATE, unit="px")
        require_number(self.height, "Drawing height", above=0, most=LARGEST_COORDINATE, unit="px")
        ids = [shape.id for shape in self.shapes]
        if len(set(ids)) != len(ids):
            raise InvalidInputError("Two shapes of the drawing have the same id; give each its own.")

    @property
    def paths(self) -> list[Path]:
        """All paths of all shapes, in painting order."""
        return [path for shape in self.shapes for path in shape.paths]

    @property
    def node_count(self) -> int:
        """How many segments the drawing has."""
        return sum(shape.node_count for shape in self.shapes)

    def shown(self) -> "Drawing":
        """Return the drawing without its hidden shapes."""
        if not any(shape.hidden for shape in self.shapes):
            return self
        return replace(self, shapes=tuple(shape for shape in self.shapes if not shape.hidden))

    def with_hidden_of(self, whole: "Drawing") -> "Drawing":
        """Return the drawing with the hidden shapes of what it was, on top: where they lie does not show."""
        hidden = tuple(shape for shape in whole.shapes if shape.hidden)
        return replace(self, shapes=(*self.shapes, *hidden)) if hidden else self

    def shape(self, shape_id: str) -> Shape:
        """Return one shape; NotFoundError if there is none of that id."""
        for shape in self.shapes:
            if shape.id == shape_id:
                return shape
        raise NotFoundError(f"The drawing has no shape {shape_id}.")

    def bounds(self) -> tuple[float, float, float, float]:
        """Return the exact box around all shapes; raises InvalidInputError if there are none."""
        parts = [path.segments for path in self.paths if len(path.segments)]
        if not parts:
            raise InvalidInputError("The drawing is empty: there is nothing to measure or make.")
        return bezier.bounds(np.concatenate(parts))

    def without(self, shape_ids: Iterable[str]) -> "Drawing":
        """Return the drawing less some shapes; raises NotFoundError for an unknown id."""
        gone = set(shape_ids)
        missing = gone - {shape.id for shape in self.shapes}
        if missing:
            raise NotFoundError(f"The drawing has no shape {', '.join(sorted(missing))}.")
        return replace(self, shapes=tuple(shape for shape in self.shapes if shape.id not in gone))

    def moved(self, change: Callable[[FloatArray], FloatArray], *, width: float, height: float) -> "Drawing":
        """Return the drawing on a new frame with every point changed by an affine function."""
        shapes = tuple(
            replace(shape, paths=tuple(path.moved(change) for path in shape.paths)) for shape in self.shapes
        )
        return Drawing(width, height, shapes, self.origin)
