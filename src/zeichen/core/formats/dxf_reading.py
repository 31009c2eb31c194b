"""DXF read (through ezdxf): closed outlines become areas, a layer at a time, open ones drawn lines."""

import io
import math
from collections import deque
from collections.abc import Callable

import ezdxf
import numpy as np
from ezdxf import recover, units
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from zeichen.core.errors import FormatError, ZeichenError
from zeichen.core.formats.dxf_entities import Drawn, Key, drawn_in
from zeichen.core.formats.names import FreeNames
from zeichen.core.formats.taken import LiveText, Taken, text_line
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.extent import require_file_size
from zeichen.core.values import AnyArray, FloatArray

LARGEST_BYTES = 64 * 1024 * 1024
# Drawing units for each millimetre: what is shown with two decimals is then exact to a thousandth.
_PER_MM = 10.0
_PEN_MM = 0.3
_MARGIN = 0.05
# Ends no further apart than this share of the whole are one place.
_SAME = 1e-5


def read_foreign_dxf(data: bytes) -> Taken:
    """Return the drawing in a DXF file, and what of the file it does not hold.

    Lengths are taken in the file's own units (mm where it has none). Lines and arcs that follow on each other
    become one path; each layer and colour gives a shape of its closed paths and one of its open ones, each hatch
    one of its own. Blocks, arrays of them and their clips are worked out; what is switched off or frozen stays out.

    Raises
    ------
    FormatError
        If the file is empty, too large, no DXF, or has nothing that can be drawn.
    TooMuchError
        If it draws more lines than can be worked with.
    """
    if not data.strip():
        raise FormatError("The file is empty (0 bytes). Choose the drawing again.")
    if len(data) > LARGEST_BYTES:
        raise FormatError(f"The DXF has {len(data)} bytes, more than the {LARGEST_BYTES} Zeichen reads.")
    try:
        document, _ = recover.read(io.BytesIO(data))
        unit = document.units or units.MM
        drawn = drawn_in(document)
    except ZeichenError:
        raise
    except (
        ezdxf.DXFError,
        OSError,
        ArithmeticError,
        LookupError,
        ValueError,
        TypeError,
        AttributeError,
    ) as error:
        raise FormatError("This is not a DXF file that can be read. Save it again as DXF R2010.") from error
    factor = _PER_MM * units.conversion_factor(unit, units.MM)
    listed = [f"{count} × {words}" for words, count in drawn.lost.items()] + text_line(drawn.texts)
    every = [run.reshape(-1, 2) for _, run in drawn.lines]
    every += [run.reshape(-1, 2) for fill in drawn.fills for run in fill.runs]
    if not every:
        without = f" Not taken: {'; '.join(listed)}." if listed else ""
        raise FormatError(
            f"The DXF holds nothing that can be drawn: no lines, arcs, circles or splines.{without}"
        )
    low = np.min([points.min(axis=0) for points in every], axis=0)
    high = np.max([points.max(axis=0) for points in every], axis=0)
    size = float((high - low).max()) or 1.0
    pad = _MARGIN * size
    frame = (high - low + 2 * pad) * factor

    def placed(run: FloatArray) -> FloatArray:
        # DXF runs up, drawings run down.
        return np.asarray(
            np.stack([run[..., 0] - low[0] + pad, high[1] - run[..., 1] + pad], axis=-1) * factor
        )

    shapes, doubled = _shapes(drawn, placed, _SAME * size)
    if doubled:
        listed.append(f"{doubled} × line drawn twice on one place: taken once")
    drawing = Drawing(float(frame[0]), float(frame[1]), tuple(shapes))
    require_file_size(drawing, mm_per_unit=1 / _PER_MM)
    texts = []
    for text in drawn.texts:
        x, y = placed(np.array([text.x, text.y])).tolist()
        texts.append(LiveText(text.content, x, y, text.size * factor))
    return Taken(drawing, listed, tuple(texts))


def _shapes(drawn: Drawn, placed: Callable[[FloatArray], FloatArray], same: float) -> tuple[list[Shape], int]:
    """Return what is drawn as shapes, runs brought to their place, and how many lines lay twice on one place."""
    shapes: list[Shape] = []
    names = FreeNames()
    twice = 0
    for key, every in _by_key(drawn.lines).items():
        runs, doubled = _once(every, same)
        twice += doubled
        paths = [Path(placed(run), closed) for run, closed in _chained(runs, same)]
        closed = tuple(path for path in paths if path.closed)
        lines = tuple(path for path in paths if not path.closed)
        stem = key.layer[:60] or "layer"
        if closed:
            shapes.append(Shape(names.take(stem), closed, key.colour))
        if lines:
            shapes.append(
                Shape(names.take(f"{stem}-lines"), lines, key.colour, stroke_width=_PEN_MM * _PER_MM)
            )
    for fill in drawn.fills:
        outlines = tuple(Path(placed(run)) for run in fill.runs)
        shapes.append(Shape(names.take(f"{fill.key.layer[:60] or 'layer'}-fill"), outlines, fill.key.colour))
    return shapes, twice


def _by_key(lines: list[tuple[Key, FloatArray]]) -> dict[Key, list[FloatArray]]:
    out: dict[Key, list[FloatArray]] = {}
    for key, run in lines:
        out.setdefault(key, []).append(run)
    return out


def _once(runs: list[FloatArray], same: float) -> tuple[list[FloatArray], int]:
    """Return runs without those drawn twice on one place, either way, and how many those were."""
    seen: set[bytes] = set()
    out: list[FloatArray] = []
    for run in runs:
        cells = np.round(run / max(same, 1e-300)).astype(np.int64)
        ways = [cells.tobytes(), np.ascontiguousarray(cells[::-1, ::-1]).tobytes()]
        if not seen.intersection(ways):
            out.append(run)
            seen.update(ways)
    return out, len(runs) - len(out)


def _chained(runs: list[FloatArray], same: float) -> list[tuple[FloatArray, bool]]:
    """Return runs put together where one begins at the end of another, and whether each is closed.

    Ends within a distance are one place; each place is looked up once, so the time grows with the runs.
    """
    starts, ends = np.array([run[0, 0] for run in runs]), np.array([run[-1, 3] for run in runs])
    place = _places(np.concatenate([starts, ends]), same)
    first, last = place[: len(runs)].tolist(), place[len(runs) :].tolist()
    meeting: dict[int, list[int]] = {}
    for k, (a, b) in enumerate(zip(first, last, strict=True)):
        if a != b:
            meeting.setdefault(a, []).append(k)
            meeting.setdefault(b, []).append(k)
    out = [(_snapped(run), True) for k, run in enumerate(runs) if first[k] == last[k]]
    used = np.array([a == b for a, b in zip(first, last, strict=True)])

    def next_at(at: int) -> int | None:
        waiting = meeting.get(at, [])
        while waiting:
            k = waiting.pop()
            if not used[k]:
                used[k] = True
                return k
        return None

    for k in range(len(runs)):
        if used[k]:
            continue
        used[k] = True
        chain, head, tail = deque([runs[k]]), first[k], last[k]
        while head != tail and (following := next_at(tail)) is not None:
            forward = first[following] == tail
            chain.append(runs[following] if forward else bezier.reverse(runs[following]))
            tail = last[following] if forward else first[following]
        while head != tail and (before := next_at(head)) is not None:
            forward = last[before] == head
            chain.appendleft(runs[before] if forward else bezier.reverse(runs[before]))
            head = first[before] if forward else last[before]
        whole, closed = np.concatenate(chain), head == tail
        out.append((_snapped(whole) if closed else whole, closed))
    return out


def _places(points: FloatArray, same: float) -> AnyArray:
    """Return a number for each point, equal for points that lie within a distance of each other."""
    pairs = cKDTree(points).query_pairs(same, p=math.inf, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points)))
    _, place = connected_components(links, directed=False)
    return np.asarray(place)


def _snapped(run: FloatArray) -> FloatArray:
    """Return a closed run whose joints are each one place."""
    out = run.copy()
    out[:-1, 3] = out[1:, 0]
    out[-1, 3] = out[0, 0]
    return out
