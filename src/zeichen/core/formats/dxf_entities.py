"""What a DXF file draws: blocks, arrays, clips, layers and colours worked out by the front end of ezdxf."""

import math
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from ezdxf.addons.drawing import Frontend, RenderContext
from ezdxf.addons.drawing.backend import Backend
from ezdxf.addons.drawing.config import (
    BackgroundPolicy,
    Configuration,
    HatchPolicy,
    ImagePolicy,
    LinePolicy,
    ProxyGraphicPolicy,
    TextPolicy,
)
from ezdxf.path import Command

from zeichen.core.errors import FormatError, TooMuchError
from zeichen.core.formats.taken import LiveText
from zeichen.core.geometry import bezier
from zeichen.core.values import FloatArray

# Drawings with more lines than this take minutes to judge (our own rule, as for SVG).
MOST_RUNS = 200_000
_TOO_MANY = f"The DXF draws more than {MOST_RUNS:,} lines, with all copies of its blocks. Leave some out."
_ENDLESS = "The DXF uses a block within itself, which has no end. Save it again in a drawing program."
_CONFIG = Configuration(
    background_policy=BackgroundPolicy.WHITE,
    line_policy=LinePolicy.SOLID,
    hatch_policy=HatchPolicy.NORMAL,
    # A pattern so dense that it takes longer is drawn solid.
    hatching_timeout=5.0,
    image_policy=ImagePolicy.IGNORE,
    text_policy=TextPolicy.IGNORE,
    proxy_graphic_policy=ProxyGraphicPolicy.IGNORE,
)


@dataclass(frozen=True, slots=True)
class Key:
    """The layer and the colour (#rrggbb) of what is drawn."""

    layer: str
    colour: str


@dataclass(slots=True)
class Fill:
    """An area that an entity fills: closed runs, even-odd."""

    key: Key
    runs: list[FloatArray]


@dataclass(slots=True)
class Drawn:
    """All a file draws, y up, in its own units. lines: runs of cubics, (n, 4, 2) each."""

    lines: list[tuple[Key, FloatArray]] = field(default_factory=list)
    fills: list[Fill] = field(default_factory=list)
    texts: list[LiveText] = field(default_factory=list)
    lost: Counter[str] = field(default_factory=Counter)


def drawn_in(document: Any) -> Drawn:
    """Return what the model space of a DXF document draws.

    Raises
    ------
    TooMuchError
        If there are more than 200,000 lines, with all copies of blocks.
    FormatError
        If a block is used within itself, or a coordinate is not a number.
    """
    space = document.modelspace()
    if _copies(document, space, {}, set()) > MOST_RUNS:
        raise TooMuchError(_TOO_MANY)
    out = Drawn()
    frontend = _Reader(RenderContext(document), _Collector(out), _CONFIG)
    frontend.drawn = out
    try:
        frontend.draw_layout(space)
    except RecursionError as error:
        raise FormatError(_ENDLESS) from error
    return out


def _copies(document: Any, space: Any, known: dict[str, int], under_way: set[str]) -> int:
    """Return how many entities a layout or block draws with all copies of blocks; each block is counted once."""
    total = 0
    for entity in space:
        if entity.dxftype() != "INSERT":
            total += 1
            continue
        name = str(entity.dxf.get("name", "")).lower()
        block = document.blocks.get(name) if name else None
        if block is None:
            continue
        if name in under_way:
            raise FormatError(_ENDLESS)
        if name not in known:
            under_way.add(name)
            known[name] = _copies(document, block, known, under_way)
            under_way.discard(name)
        # Rows or columns without a distance lie on one place, but are gone through all the same.
        places = max(1, entity.dxf.get("row_count", 1)) * max(1, entity.dxf.get("column_count", 1))
        total = min(total + max(1, known[name]) * places, 10 * MOST_RUNS)
    return total


class _Reader(Frontend):  # type: ignore[misc]
    """Takes notes of what is not drawn."""

    drawn: Drawn

    def draw_text_entity(self, entity: Any, properties: Any) -> None:
        self._note(entity, str(entity.plain_text()), float(entity.dxf.height))

    def draw_mtext_entity(self, entity: Any, properties: Any) -> None:
        self._note(entity, str(entity.plain_text()), float(entity.dxf.char_height))

    def draw_point_entity(self, entity: Any, properties: Any) -> None:
        self.drawn.lost["point: not drawn"] += 1

    def draw_image_entity(self, entity: Any, properties: Any) -> None:
        self.drawn.lost["picture: trace it instead"] += 1

    def draw_ole2frame_entity(self, entity: Any, properties: Any) -> None:
        self.drawn.lost["object of another program: not drawn"] += 1

    def skip_entity(self, entity: Any, msg: str) -> None:
        if msg != "invisible":
            self.drawn.lost[f"{entity.dxftype().lower()}: not drawn"] += 1

    def _note(self, entity: Any, content: str, height: float) -> None:
        place = entity.dxf.get("insert", (0.0, 0.0, 0.0))
        words = " ".join(content.split())
        if words:
            self.drawn.texts.append(LiveText(words, float(place[0]), float(place[1]), height))


class _Collector(Backend):  # type: ignore[misc]
    """Keeps what the front end draws as runs of cubics."""

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._drawn = drawn
        self._count = 0

    def set_background(self, color: str) -> None:
        """The page has no colour of its own."""

    def clear(self) -> None:
        """There is nothing to begin anew."""

    def draw_point(self, pos: Any, properties: Any) -> None:
        self._drawn.lost["point: not drawn"] += 1

    def draw_line(self, start: Any, end: Any, properties: Any) -> None:
        self._line(_straight([start, end]), properties)

    def draw_solid_lines(self, lines: Any, properties: Any) -> None:
        for start, end in lines:
            self._line(_straight([start, end]), properties)

    def draw_path(self, path: Any, properties: Any) -> None:
        for run in _runs(path):
            self._line(run, properties)

    def draw_filled_paths(self, paths: Any, properties: Any) -> None:
        self._fill([run for path in paths for run in _runs(path)], properties)

    def draw_filled_polygon(self, points: Any, properties: Any) -> None:
        places = [(point.x, point.y) for point in points.vertices()]
        if len(places) > 2:
            self._fill([_straight([*places, places[0]])], properties)

    def draw_image(self, image_data: Any, properties: Any) -> None:
        self._drawn.lost["picture: trace it instead"] += 1

    def _line(self, run: FloatArray, properties: Any) -> None:
        self._counted(run)
        if len(run):
            self._drawn.lines.append((_key(properties), run))

    def _fill(self, runs: list[FloatArray], properties: Any) -> None:
        for run in runs:
            self._counted(run)
        runs = [run for run in runs if len(run)]
        if runs:
            self._drawn.fills.append(Fill(_key(properties), runs))

    def _counted(self, run: FloatArray) -> None:
        self._count += 1
        if self._count > MOST_RUNS:
            raise TooMuchError(_TOO_MANY)
        if not np.isfinite(run).all():
            raise FormatError("The DXF holds a coordinate that is not a number.")


def _key(properties: Any) -> Key:
    return Key(str(properties.layer), str(properties.color)[:7].lower())


def _straight(points: list[Any]) -> FloatArray:
    places = np.array([[float(point[0]), float(point[1])] for point in points])
    long = np.concatenate([[True], (np.diff(places, axis=0) != 0).any(axis=1)])
    places = places[long]
    return bezier.line_segments(places) if len(places) > 1 else np.zeros((0, 4, 2))


def _runs(path: Any) -> list[FloatArray]:
    """Return the runs of an ezdxf path, lines and curves as cubics."""
    out: list[FloatArray] = []
    rows: list[FloatArray] = []
    whole = path.to_path() if hasattr(path, "to_path") else path
    at = np.array([whole.start.x, whole.start.y])
    for command in whole.commands():
        end = np.array([command.end.x, command.end.y])
        if command.type == Command.MOVE_TO:
            out.append(np.array(rows).reshape(-1, 4, 2))
            rows = []
        elif command.type == Command.CURVE4_TO:
            c1 = np.array([command.ctrl1.x, command.ctrl1.y])
            c2 = np.array([command.ctrl2.x, command.ctrl2.y])
            rows.append(np.stack([at, c1, c2, end]))
        elif command.type == Command.CURVE3_TO:
            middle = np.array([command.ctrl.x, command.ctrl.y])
            rows.append(np.stack([at, at + (middle - at) * 2 / 3, end + (middle - end) * 2 / 3, end]))
        elif math.dist(at.tolist(), end.tolist()) > 0:
            rows.append(bezier.line_segments(np.stack([at, end]))[0])
        at = end
    out.append(np.array(rows).reshape(-1, 4, 2))
    return [run for run in out if len(run)]
