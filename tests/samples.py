"""Drawings and pictures that many tests use: one of every kind, and generators of more."""

import io
import math
import os

import cv2
import numpy as np
from hypothesis import settings
from hypothesis import strategies as st
from PIL import Image
from shapely import LinearRing

from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import circle_segments, ellipse_segments, line_segments, reverse
from zeichen.core.raster import Picture
from zeichen.core.raster.coverage import coverage


def polygon(*points: tuple[float, float]) -> Path:
    """A closed path of straight lines."""
    corners = np.array([*points, points[0]], dtype=float)
    return Path(line_segments(corners))


def rectangle(x: float, y: float, width: float, height: float) -> Path:
    """A clockwise rectangle."""
    return polygon((x, y), (x + width, y), (x + width, y + height), (x, y + height))


def circle(x: float, y: float, radius: float) -> Path:
    return Path(circle_segments((x, y), radius=radius))


def hole(path: Path) -> Path:
    """The same path the other way round."""
    return Path(reverse(path.segments), path.closed)


def drawing(*shapes: Shape | Path, size: tuple[float, float] = (200.0, 200.0)) -> Drawing:
    """A drawing of shapes, or of bare paths as one shape each."""
    made = [
        shape if isinstance(shape, Shape) else Shape(f"s{number}", (shape,))
        for number, shape in enumerate(shapes, 1)
    ]
    return Drawing(*size, tuple(made))


def ring(x: float, y: float, radius: float, inner: float, name: str = "ring") -> Shape:
    """A disc with a hole."""
    return Shape(name, (circle(x, y, radius), hole(circle(x, y, inner))))


def pen(
    strokes: list[list[tuple[float, float]]], *, width: float = 9.0, size: int = 200, closed=()
) -> Picture:
    """Strokes drawn with a round pen eight times as large and averaged."""
    s = 8
    canvas = np.full((size * s, size * s), 255, np.uint8)
    for k, stroke in enumerate(strokes):
        points = np.round(np.array(stroke) * s - 0.5).astype(np.int32)
        cv2.polylines(canvas, [points], k in closed, 0, round(width * s), cv2.LINE_8)
        for x, y in points:
            cv2.circle(canvas, (int(x), int(y)), round(width * s / 2), 0, -1)
    grey = cv2.resize(canvas, (size, size), interpolation=cv2.INTER_AREA)
    return Picture(np.repeat(grey[..., None], 3, axis=2))


def blob(seed: int, x: float, y: float, *, count: int = 12, radius: float = 60.0) -> Path:
    """A closed smooth curve around a place."""
    rng = np.random.default_rng(seed)
    angle = np.linspace(0, 2 * np.pi, count, endpoint=False)
    r = radius * (1 + 0.25 * rng.standard_normal(count).clip(-2, 2))
    points = np.stack([x + r * np.cos(angle), y + r * np.sin(angle)], axis=1)
    handle = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 6
    after = np.roll(points, -1, axis=0)
    return Path(np.stack([points, points + handle, after - np.roll(handle, -1, axis=0), after], axis=1))


def picture_of(mask: np.ndarray) -> Picture:
    """A picture from how much of each pixel is ink, 0 to 1."""
    grey = np.round(255 * (1 - mask)).astype(np.uint8)
    return Picture(np.repeat(grey[..., None], 3, axis=2))


def disc_mask(size_px: int, center: tuple[float, float], radius: float, *, fine: int = 16) -> np.ndarray:
    """Exact-as-can-be coverage of a disc: area averaging of a finely sampled one."""
    axis = (np.arange(size_px * fine) + 0.5) / fine
    inside = (axis[None, :] - center[0]) ** 2 + (axis[:, None] - center[1]) ** 2 <= radius**2
    return inside.reshape(size_px, fine, size_px, fine).mean(axis=(1, 3))


def rendered(draw: Drawing, *, width_px: int = 400) -> np.ndarray:
    """How dark each pixel of a drawing is, 0 to 1, rendered on white."""
    from zeichen.core.formats.render import render_drawing

    rgba = render_drawing(draw, width_px=width_px, ground="#ffffff")
    return 1 - rgba[..., :3].mean(axis=2) / 255


def png(array: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(array).save(out, "PNG")
    return out.getvalue()


def blots_picture(size: int = 1700) -> bytes:
    """A PNG of three megapixels with hundreds of blots: seconds of work for any job on it."""
    canvas = np.full((size, size), 255, np.uint8)
    rows, columns = np.mgrid[0:size, 0:size].astype(np.float32)
    canvas[np.sin(rows / 17) * np.cos(columns / 23 + rows / 900) > 0.35] = 0
    out = io.BytesIO()
    Image.fromarray(canvas).save(out, "PNG", compress_level=1)
    return out.getvalue()


def rose_picture(size_px: int = 640) -> bytes:
    """A picture no other test and no studio draws: a rosette of petals around an eye, as PNG."""
    canvas = np.full((size_px * 4, size_px * 4), 255, np.uint8)
    middle = size_px * 2
    for petal in range(9):
        angle = 2 * math.pi * petal / 9
        place = (
            int(middle + size_px * 0.95 * math.cos(angle)),
            int(middle + size_px * 0.95 * math.sin(angle)),
        )
        cv2.ellipse(
            canvas,
            place,
            (int(size_px * 0.62), int(size_px * 0.24)),
            math.degrees(angle),
            0,
            360,
            25,
            -1,
            cv2.LINE_AA,
        )
    cv2.circle(canvas, (middle, middle), int(size_px * 0.55), 255, -1, cv2.LINE_AA)
    cv2.circle(canvas, (middle, middle), int(size_px * 0.34), 25, -1, cv2.LINE_AA)
    small = cv2.resize(canvas, (size_px, size_px), interpolation=cv2.INTER_AREA)
    return png(np.repeat(small[..., None], 3, axis=2))


def star_points(count: int, outer: float, inner: float, turn: float) -> list[tuple[float, float]]:
    return [
        (
            100 + (outer if k % 2 == 0 else inner) * math.cos(turn + math.pi * k / count),
            100 + (outer if k % 2 == 0 else inner) * math.sin(turn + math.pi * k / count),
        )
        for k in range(2 * count)
    ]


coordinates = st.floats(-500, 500, allow_nan=False, allow_infinity=False, width=32)
points = st.tuples(coordinates, coordinates)
curves = st.lists(st.tuples(points, points, points, points), min_size=1, max_size=5).map(
    lambda rows: np.array(rows, dtype=float)
)


@st.composite
def connected_runs(draw) -> np.ndarray:
    """A run of cubics each starting where the last one ended."""
    rows = np.array(draw(curves))
    rows[1:, 0] = rows[:-1, 3]
    return rows


@st.composite
def star_drawings(draw) -> Drawing:
    """A star, an ellipse or a ring of any sound size and turn."""
    kind = draw(st.sampled_from(["star", "ellipse", "ring"]))
    turn = draw(st.floats(0, 3))
    if kind == "star":
        tips = draw(st.integers(4, 9))
        outer = draw(st.floats(40, 90))
        return drawing(polygon(*star_points(tips, outer, outer * draw(st.floats(0.45, 0.8)), turn)))
    if kind == "ellipse":
        rx, ry = draw(st.floats(20, 90)), draw(st.floats(20, 90))
        return drawing(Path(ellipse_segments((100.0, 100.0), radius_x=rx, radius_y=ry)))
    outer = draw(st.floats(40, 90))
    return drawing(ring(100, 100, outer, outer * draw(st.floats(0.3, 0.7))))


def inked(*rings: np.ndarray, size: int) -> np.ndarray:
    """How much of every pixel is ink, 0 to 1, exactly: what rings enclose, whichever way round they run."""
    right_way = [ring if LinearRing(ring).is_ccw else ring[::-1] for ring in rings]
    return np.clip(np.abs(coverage(right_way, size, size)), 0, 1)


def exact(ring: np.ndarray, size: int) -> Picture:
    """A polygon with the share of ink in every pixel exactly right."""
    return picture_of(inked(ring, size=size))


def spun(ring: np.ndarray, turn: float, centre: tuple[float, float]) -> np.ndarray:
    spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return ring @ spin.T + np.array(centre)


def svg_file(content: str, *, side: int = 100) -> bytes:
    """An SVG file of a square page with some content, as another program would write it."""
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{side}" height="{side}" viewBox="0 0 {side} {side}">'
    )
    return f"{head}{content}</svg>".encode()


def is_thorough() -> bool:
    """Whether there is the time for all cases, as `make bench` has it."""
    return os.environ.get("HYPOTHESIS_PROFILE") == "thorough"


def thinned(cases, every: int) -> list:
    """Every so many of some cases, and all of them where there is the time."""
    return list(cases)[:: 1 if is_thorough() else every]


def examples(count: int) -> settings:
    """A good half of so many examples of a property, and twenty times as many in `make bench`, which has the time."""
    return settings(max_examples=20 * count if is_thorough() else max(5, round(0.6 * count)))
