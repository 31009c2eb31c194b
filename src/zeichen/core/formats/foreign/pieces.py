"""What a file paints, piece by piece: areas and lines of one colour, in page units."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.formats.foreign.style import Rgba
from zeichen.core.formats.foreign.values import Matrix, moved
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.offsetting import Nib, stroked
from zeichen.core.geometry.overlay import Region

Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Marks:
    """What the file says of a piece beside its look: its name and what Zeichen noted on it."""

    id: str = ""
    group: str = ""
    locked: bool = False
    hidden: bool = False
    letters: str = ""


_ROUND, _UNMARKED = Nib(), Marks()


@dataclass(frozen=True, slots=True)
class Piece:
    """An area, or with a width a drawn line, of one colour, in page units.

    spine: the paths the piece comes from, for the box its element has (SVG 2, section 8.10).
    """

    paths: tuple[Path, ...]
    colour: Rgba
    rule: str = "nonzero"
    width: float | None = None
    nib: Nib = _ROUND
    marks: Marks = _UNMARKED
    spine: tuple[Path, ...] = ()
    part: str = ""

    @property
    def box(self) -> Box:
        """Return the box around it, its pen included."""
        low_x, low_y, high_x, high_y = box_of(self.paths)
        reach = self.reach
        return low_x - reach, low_y - reach, high_x + reach, high_y + reach

    @property
    def reach(self) -> float:
        """How far its pen may reach beyond its line."""
        if self.width is None:
            return 0.0
        longest = max(
            self.nib.mitre_limit if self.nib.join == "mitre" else 1.0,
            math.sqrt(2.0) if self.nib.cap == "square" else 1.0,
        )
        return self.width / 2.0 * longest

    def region(self, tolerance: float) -> Region:
        """Return the area it covers."""
        if self.width is None:
            return Region(self.paths, self.rule)
        return Region(stroked(self.paths, self.width, nib=self.nib, tolerance=tolerance), "nonzero")

    def cut(self, paths: tuple[Path, ...]) -> "Piece":
        """Return the piece as another area."""
        return replace(self, paths=paths, rule="evenodd", width=None)


def box_of(paths: tuple[Path, ...]) -> Box:
    """Return the exact box around paths; an empty one if there are none."""
    parts = [path.segments for path in paths if len(path.segments)]
    if not parts:
        return math.inf, math.inf, -math.inf, -math.inf
    return bezier.bounds(np.concatenate(parts))


def moved_paths(paths: tuple[Path, ...], matrix: Matrix) -> tuple[Path, ...]:
    """Return paths under a map."""
    return tuple(path.moved(lambda points: moved(matrix, points)) for path in paths)


def over(colour: Rgba, ground: Rgba) -> Rgba:
    """Return a colour laid over another.

    Examples
    --------
    >>> over((0.0, 0.0, 0.0, 0.5), (1.0, 1.0, 1.0, 1.0))
    (0.5, 0.5, 0.5, 1.0)
    """
    share = colour[3]
    alpha = share + ground[3] * (1.0 - share)
    if alpha <= 0:
        return 0.0, 0.0, 0.0, 0.0
    red, green, blue = ((colour[k] * share + ground[k] * ground[3] * (1.0 - share)) / alpha for k in range(3))
    return red, green, blue, alpha


def faded(pieces: list[Piece], share: float) -> list[Piece]:
    """Return pieces that show through by a share more."""
    return [replace(piece, colour=(*piece.colour[:3], piece.colour[3] * share)) for piece in pieces]


def spines(pieces: list[Piece]) -> Iterator[Path]:
    """Yield the paths that pieces come from."""
    for piece in pieces:
        yield from piece.spine
