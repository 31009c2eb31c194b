"""DXF read (through ezdxf): closed outlines become areas, a layer at a time, open ones drawn lines."""

import io
import math
from collections import Counter, deque
from typing import Any

import ezdxf
import numpy as np
from ezdxf import recover, units
from ezdxf.path import Command, make_path
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from zeichen.core.errors import FormatError
from zeichen.core.formats.names import FreeNames
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


def read_foreign_dxf(data: bytes) -> tuple[Drawing, list[str]]:
    """Return the drawing in a DXF file, and what of the file it does not hold, in words.

    Lengths are taken in the file's own units (mm where it has none). Lines and arcs that follow on each other
    become one path.

    Raises
    ------
    FormatError
        If the file is empty, too large, no DXF, or has nothing that can be drawn.
    """
    if not data.strip():
        raise FormatError("The file is empty (0 bytes). Choose the drawing again.")
    if len(data) > LARGEST_BYTES:
        raise FormatError(f"The DXF has {len(data)} bytes, more than the {LARGEST_BYTES} Zeichen reads.")
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise FormatError("This is not a DXF file that can be read. Save it again as DXF R2010.") from error
    unit = document.units or units.MM
    factor = _PER_MM * units.conversion_factor(unit, units.MM)
    missing: Counter[str] = Counter()
    layers: dict[str, list[FloatArray]] = {}
    for entity in _flat(document.modelspace(), missing):
        run = _segments(entity, missing)
        if run is not None and len(run):
            layers.setdefault(str(entity.dxf.layer), []).append(run)
    if not layers:
        raise FormatError("The DXF holds nothing that can be drawn: no lines, arcs, circles or splines.")
    every = np.concatenate([run.reshape(-1, 2) for runs in layers.values() for run in runs])
    low, high = every.min(axis=0), every.max(axis=0)
    size = float((high - low).max()) or 1.0
    pad = _MARGIN * size
    frame = (high - low + 2 * pad) * factor

    def placed(run: FloatArray) -> FloatArray:
        # DXF runs up, drawings run down.
        return np.asarray(
            np.stack([run[..., 0] - low[0] + pad, high[1] - run[..., 1] + pad], axis=-1) * factor
        )

    shapes: list[Shape] = []
    names = FreeNames()
    for name, runs in layers.items():
        paths = [Path(placed(run), closed) for run, closed in _chained(runs, _SAME * size)]
        closed = tuple(path for path in paths if path.closed)
        lines = tuple(path for path in paths if not path.closed)
        stem = name[:60] or "layer"
        if closed:
            shapes.append(Shape(names.take(stem), closed))
        if lines:
            shapes.append(Shape(names.take(f"{stem}-lines"), lines, stroke_width=_PEN_MM * _PER_MM))
    listed = [f"{count} × {words}" for words, count in missing.items()]
    drawing = Drawing(float(frame[0]), float(frame[1]), tuple(shapes))
    require_file_size(drawing, mm_per_unit=1 / _PER_MM)
    return drawing, listed


def _flat(space: Any, missing: Counter[str]) -> list[Any]:
    """Return entities with blocks taken apart."""
    out: list[Any] = []
    for entity in space:
        if entity.dxftype() == "INSERT":
            try:
                out.extend(entity.virtual_entities())
            except (ezdxf.DXFError, ValueError):
                missing["blocks that could not be taken apart"] += 1
        else:
            out.append(entity)
    return out


def _segments(entity: Any, missing: Counter[str]) -> FloatArray | None:
    kind = entity.dxftype()
    if kind in ("TEXT", "MTEXT", "ATTRIB"):
        missing["text: set it anew with Lettering"] += 1
        return None
    try:
        path = make_path(entity)
    except (TypeError, ValueError, ezdxf.DXFError):
        missing[f"{kind.lower()}: not drawn"] += 1
        return None
    rows: list[FloatArray] = []
    at = np.array([path.start.x, path.start.y])
    for command in path.commands():
        end = np.array([command.end.x, command.end.y])
        if command.type == Command.CURVE4_TO:
            c1 = np.array([command.ctrl1.x, command.ctrl1.y])
            c2 = np.array([command.ctrl2.x, command.ctrl2.y])
            rows.append(np.stack([at, c1, c2, end]))
        elif command.type == Command.CURVE3_TO:
            middle = np.array([command.ctrl.x, command.ctrl.y])
            rows.append(np.stack([at, at + (middle - at) * 2 / 3, end + (middle - end) * 2 / 3, end]))
        elif command.type == Command.LINE_TO and math.dist(at.tolist(), end.tolist()) > 0:
            rows.append(bezier.line_segments(np.stack([at, end]))[0])
        at = end
    run = np.array(rows) if rows else None
    if run is not None and not np.isfinite(run).all():
        raise FormatError("The DXF holds a coordinate that is not a number.")
    return run


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
