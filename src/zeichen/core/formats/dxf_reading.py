"""DXF read (through ezdxf): closed outlines become areas, a layer at a time, open ones drawn lines."""

import io
import math
from collections import Counter
from typing import Any

import ezdxf
import numpy as np
from ezdxf import recover, units
from ezdxf.path import Command, make_path

from zeichen.core.errors import FormatError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.extent import require_file_size
from zeichen.core.values import FloatArray

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
    for name, runs in layers.items():
        paths = [Path(placed(run), closed) for run, closed in _chained(runs, _SAME * size)]
        closed = tuple(path for path in paths if path.closed)
        lines = tuple(path for path in paths if not path.closed)
        stem = name[:60] or "layer"
        if closed:
            shapes.append(Shape(_free(stem, shapes), closed))
        if lines:
            shapes.append(Shape(_free(f"{stem}-lines", shapes), lines, stroke_width=_PEN_MM * _PER_MM))
    listed = [f"{count} × {words}" for words, count in missing.items()]
    drawing = Drawing(float(frame[0]), float(frame[1]), tuple(shapes))
    require_file_size(drawing, mm_per_unit=1 / _PER_MM)
    return drawing, listed


def _free(stem: str, shapes: list[Shape]) -> str:
    taken = {shape.id for shape in shapes}
    while stem in taken:
        stem += "x"
    return stem


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
    """Return runs put together where one begins at the end of another, and whether each is closed."""
    out: list[tuple[FloatArray, bool]] = []
    left = []
    for run in runs:
        if np.abs(run[-1, 3] - run[0, 0]).max() <= same:
            out.append((_snapped(run), True))
        else:
            left.append(run)
    while left:
        chain = left.pop()
        grown = True
        while grown and np.abs(chain[-1, 3] - chain[0, 0]).max() > same:
            grown = False
            for k, other in enumerate(left):
                for candidate in (other, bezier.reverse(other)):
                    if np.abs(candidate[0, 0] - chain[-1, 3]).max() <= same:
                        chain = np.concatenate([chain, candidate])
                    elif np.abs(candidate[-1, 3] - chain[0, 0]).max() <= same:
                        chain = np.concatenate([candidate, chain])
                    else:
                        continue
                    left.pop(k)
                    grown = True
                    break
                if grown:
                    break
        closed = bool(np.abs(chain[-1, 3] - chain[0, 0]).max() <= same)
        out.append((_snapped(chain) if closed else chain, closed))
    return out


def _snapped(run: FloatArray) -> FloatArray:
    """Return a closed run whose joints are each one place."""
    out = run.copy()
    out[:-1, 3] = out[1:, 0]
    out[-1, 3] = out[0, 0]
    return out
