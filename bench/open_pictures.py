"""Pictures of open sets as makers bring them: dark, flat, drawn with a pen, shaded; soft, noisy, compressed.

Drawings come from the sets of bench.open_sets, drawn by lot; what is done to them follows the description
beside the public cases of pens and shading: pressure that changes, tapering ends, soft light laid over flats.
"""

import io
import random
from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
import resvg_py
import skimage.data
from PIL import Image, ImageDraw, ImageFont

from bench.open_sets import open_set
from zeichen.core.errors import ZeichenError
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry.bezier import flatten
from zeichen.core.raster import Picture

SIDE_PX = 1024
_MARGIN = 0.09
_SETS = {
    "dark": ("mdi", "maki"),
    "flat": ("openmoji", "twemoji", "streamline"),
    "hand-drawn": ("tabler", "arcticons"),
    "shaded": ("noto", "openmoji"),
}
KINDS = tuple(_SETS)
_PHOTOGRAPHS = (
    "astronaut",
    "chelsea",
    "coffee",
    "camera",
    "rocket",
    "coins",
    "retina",
    "moon",
    "brick",
    "grass",
)
SPOILS = ("clean", "soft", "noisy", "jpeg")


@dataclass(frozen=True)
class OpenPicture:
    """A picture, what it was before it was spoiled, and what was done to it."""

    kind: str
    name: str
    spoil: str
    picture: Picture
    clean: Picture


def open_pictures(kind: str, count: int, *, seed: int = 5) -> Iterator[OpenPicture]:
    """Yield about so many pictures of a kind, in turns clean, soft, noisy and compressed."""
    chance = np.random.default_rng(seed)
    sets = _SETS[kind]
    each = -(-count // len(sets))
    for of_set in sets:
        # A set that holds every figure twice, coloured and in lines: coloured, without its sheets of guides.
        wanted = [
            (name, svg)
            for name, svg in open_set(of_set, 4 * each, seed=seed)
            if of_set != "openmoji"
            or ("color" in name and "guide" not in svg and "00b0ff" not in svg.lower())
        ]
        for number, (name, svg) in enumerate(wanted[:each]):
            rgb = _drawn(kind, of_set, svg, chance)
            if rgb is None:
                continue
            yield _spoiled(kind, f"{of_set}-{name.split('/')[-1]}", number, rgb, chance)


def spoiled(rgb: np.ndarray, how: str, chance: np.random.Generator) -> np.ndarray:
    """Return a picture made soft, noisy, or written as a JPEG of quality 70; clean leaves it."""
    if how == "soft":
        rgb = cv2.GaussianBlur(rgb, (0, 0), 1.6)
    elif how == "noisy":
        noisy = cv2.GaussianBlur(rgb, (0, 0), 0.8) + chance.normal(0.0, 5.0, rgb.shape)
        rgb = np.clip(noisy, 0, 255).astype(np.uint8)
    elif how == "jpeg":
        packed = cv2.imencode(".jpg", rgb[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 70])[1]
        rgb = cv2.imdecode(packed, cv2.IMREAD_COLOR)[..., ::-1]
    return np.ascontiguousarray(rgb)


def wrong_pictures(count: int, *, seed: int = 5) -> Iterator[OpenPicture]:
    """Yield pictures that no trace does justice to: photographs (of scikit-image) and pages of writing."""
    chance = np.random.default_rng(seed)
    for number, name in enumerate(_PHOTOGRAPHS[:count]):
        rgb = np.asarray(getattr(skimage.data, name)())
        rgb = np.repeat(rgb[:, :, None], 3, axis=2) if rgb.ndim == 2 else rgb
        larger = SIDE_PX / max(rgb.shape[:2])
        rgb = cv2.resize(rgb, None, fx=larger, fy=larger, interpolation=cv2.INTER_AREA if larger < 1 else 1)
        yield _spoiled("photograph", name, number, rgb, chance)
    for number in range(count):
        yield _spoiled("page of writing", str(number), number, _page(chance), chance)


def _spoiled(kind: str, name: str, number: int, rgb: np.ndarray, chance: np.random.Generator) -> OpenPicture:
    spoil = SPOILS[number % len(SPOILS)]
    return OpenPicture(kind, name, spoil, Picture(spoiled(rgb, spoil, chance)), Picture(rgb))


def _drawn(kind: str, of_set: str, svg: str, chance: np.random.Generator) -> np.ndarray | None:
    if kind == "hand-drawn":
        return _by_pen(svg, chance)
    rgba = _rendered(svg)
    if rgba is None:
        return None
    alpha = rgba[..., 3:] / 255.0
    colour = rgba[..., :3].astype(float)
    if kind == "dark":
        ink = chance.choice([[0, 0, 0], [17, 17, 17], [40, 40, 60], [90, 30, 20]])
        colour = np.broadcast_to(np.asarray(ink, float), colour.shape)
    if kind == "shaded" and of_set != "noto":
        colour = _lit(colour, chance)
    return np.round(colour * alpha + 255.0 * (1 - alpha)).astype(np.uint8)


def _rendered(svg: str) -> np.ndarray | None:
    png = resvg_py.svg_to_bytes(
        svg_string=svg.replace("currentColor", "#000"), width=900, skip_system_fonts=True
    )
    rgba = np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGBA"))
    rows, columns = np.nonzero(rgba[..., 3].any(axis=1))[0], np.nonzero(rgba[..., 3].any(axis=0))[0]
    if not len(rows):
        return None
    figure = rgba[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    room = SIDE_PX * (1 - 2 * _MARGIN)
    # Once more at the size at which the figure fills its frame.
    wide = max(8, round(900 * room / max(figure.shape[:2])))
    if wide > 6000:
        return None
    png = resvg_py.svg_to_bytes(
        svg_string=svg.replace("currentColor", "#000"), width=wide, skip_system_fonts=True
    )
    rgba = np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGBA"))
    rows, columns = np.nonzero(rgba[..., 3].any(axis=1))[0], np.nonzero(rgba[..., 3].any(axis=0))[0]
    figure = rgba[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1][:SIDE_PX, :SIDE_PX]
    sheet = np.zeros((SIDE_PX, SIDE_PX, 4), np.uint8)
    top, left = ((SIDE_PX - size) // 2 for size in figure.shape[:2])
    sheet[top : top + figure.shape[0], left : left + figure.shape[1]] = figure
    return sheet


def _lit(colour: np.ndarray, chance: np.random.Generator) -> np.ndarray:
    """Return flat colours with a light from one side, and highlights."""
    y, x = np.mgrid[0:SIDE_PX, 0:SIDE_PX] / SIDE_PX
    angle = chance.uniform(0, 2 * np.pi)
    slope = (x - 0.5) * np.cos(angle) + (y - 0.5) * np.sin(angle)
    light = 1.0 + chance.uniform(0.25, 0.5) * slope
    lit = colour * light[..., None]
    for _ in range(int(chance.integers(1, 4))):
        at = chance.uniform(0.25, 0.75, 2)
        spot = np.exp(-((x - at[0]) ** 2 + (y - at[1]) ** 2) / (2 * chance.uniform(0.05, 0.12) ** 2))
        lit += (255.0 - lit) * (0.5 * spot[..., None]) * (colour.max(axis=2, keepdims=True) > 40)
    return np.clip(lit, 0, 255)


def _by_pen(svg: str, chance: np.random.Generator) -> np.ndarray | None:
    """Return the strokes of a line drawing, drawn again by a pen whose pressure changes."""
    try:
        drawing = read_svg(svg.replace("currentColor", "#000"))
    except ZeichenError:
        return None
    lines = [path for shape in drawing.shapes if shape.stroke_width is not None for path in shape.paths]
    if not lines:
        return None
    low_x, low_y, high_x, high_y = drawing.bounds()
    scale = SIDE_PX * (1 - 2 * _MARGIN) / max(high_x - low_x, high_y - low_y, 1e-6)
    moved = SIDE_PX / 2 - scale * np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
    usual, swing, fine = chance.uniform(9.0, 24.0), chance.uniform(0.12, 0.28), 4
    sheet = np.full((SIDE_PX * fine, SIDE_PX * fine), 255, np.uint8)
    for path in lines:
        points = flatten(path.segments, tolerance=0.02 / scale) * scale + moved
        steps = np.hypot(*np.diff(points, axis=0).T)
        along = np.concatenate([[0.0], np.cumsum(steps)])
        if along[-1] < 2.0:
            continue
        at = np.linspace(0.0, along[-1], max(4, int(along[-1] / 2.0)))
        line = np.column_stack([np.interp(at, along, points[:, k]) for k in (0, 1)])
        phase = chance.uniform(0, 2 * np.pi, 3)
        wave = sum(np.sin(at / long + p) for long, p in zip((37.0, 71.0, 150.0), phase, strict=True)) / 1.7
        wide = usual * (1.0 + swing * wave)
        if not path.closed:
            if chance.random() < 0.6:
                wide *= np.clip(0.35 + (at[-1] - at) / (3.0 * usual), 0.0, 1.0)
            if chance.random() < 0.3:
                wide *= 1.0 + 0.5 * np.exp(-((at / usual) ** 2))
        line += np.column_stack([np.sin(at / 90.0 + phase[0]), np.cos(at / 110.0 + phase[1])]) * 1.5
        for (x, y), width in zip(line, wide, strict=True):
            centre = round(x * fine * 16), round(y * fine * 16)
            cv2.circle(sheet, centre, max(16, round(width / 2 * fine * 16)), 20, -1, cv2.LINE_AA, 4)
    grey = cv2.resize(sheet, (SIDE_PX, SIDE_PX), interpolation=cv2.INTER_AREA)
    return np.repeat(grey[:, :, None], 3, axis=2)


def _page(chance: np.random.Generator) -> np.ndarray:
    """Return a page of made-up words."""
    sheet = Image.new("L", (SIDE_PX, SIDE_PX), 250)
    size = int(chance.integers(18, 40))
    font, pen = ImageFont.load_default(size), ImageDraw.Draw(sheet)
    letters = random.Random(int(chance.integers(1 << 30)))
    for top in range(80, SIDE_PX - 80, int(size * 1.4)):
        line = ""
        while pen.textlength(line, font=font) < SIDE_PX - 220:
            line += " " + "".join(letters.choice("aeinorstlmdu") for _ in range(letters.randint(2, 9)))
        pen.text((90, top), line, fill=30, font=font)
    return np.repeat(np.asarray(sheet)[:, :, None], 3, axis=2)
