"""The faults of generated pictures that matter for tracing: how likely each is, and how it looks."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from PIL import Image

from zeichen.core.values import AnyArray, Bytes8Array
from zeichen.standins.studio.hand import Hand

Rng = np.random.Generator


class Fault(StrEnum):
    """What goes wrong in a picture."""

    SHADOW = "soft shadow"
    GRADIENT = "gradient"
    TEXTURE = "textured ground"
    SIGNATURE = "signature"
    SPECKS = "specks"
    BLOCKS = "JPEG blocks"
    TWO = "two subjects"
    CUT_OFF = "cut off at the border"
    WRONG_LOOK = "wrong look"
    INVERTED = "light on dark"
    UNEVEN = "uneven lines"
    IN_PIECES = "in pieces"


@dataclass(frozen=True, slots=True)
class Chance:
    """How often a fault happens as usual, and how often when the rule against it is not in the wording."""

    usual: float
    without_rule: float
    rule: str


# Invented figures: no generator was measured.
CHANCES: dict[Fault, Chance] = {
    Fault.SHADOW: Chance(0.20, 0.45, "flat-tone"),
    Fault.GRADIENT: Chance(0.06, 0.40, "flat-tone"),
    Fault.TEXTURE: Chance(0.05, 0.50, "white-ground"),
    Fault.SIGNATURE: Chance(0.14, 0.30, "one-figure"),
    Fault.SPECKS: Chance(0.22, 0.22, ""),
    Fault.BLOCKS: Chance(0.08, 0.08, ""),
    Fault.TWO: Chance(0.03, 0.25, "one-figure"),
    Fault.CUT_OFF: Chance(0.04, 0.30, "margin"),
    Fault.WRONG_LOOK: Chance(0.03, 0.03, ""),
    Fault.INVERTED: Chance(0.0, 0.30, "dark-figure"),
    Fault.UNEVEN: Chance(0.0, 1.0, "even-lines"),
    Fault.IN_PIECES: Chance(0.0, 1.0, "one-piece"),
}
# These follow from the wording itself; no knob turns them off or up.
ASKED_FOR = (Fault.UNEVEN, Fault.IN_PIECES, Fault.INVERTED)


def choose_faults(hand: Hand, rules: frozenset[str], *, knob: float) -> frozenset[Fault]:
    """Return the faults of a picture; knob scales how likely they are, 0 never, 1 as usual."""
    chosen = set()
    for fault, chance in CHANCES.items():
        kept = not chance.rule or chance.rule in rules
        likely = chance.usual if kept else chance.without_rule
        scale = 1.0 if fault in ASKED_FOR else knob
        if hand.random() < likely * scale:
            chosen.add(fault)
    return frozenset(chosen)


def spoil(
    rgb: Bytes8Array, rng: Rng, faults: Sequence[Fault] | frozenset[Fault], *, knob: float
) -> Bytes8Array:
    """Return the picture as a generator would have delivered it.

    With any knob above 0 edges are a little soft, the ground a little off white, and there is some JPEG noise.
    """
    picture: AnyArray = rgb.astype(np.float32)
    size = max(rgb.shape[:2])
    figure = (rgb.min(axis=2) < 128).astype(np.float32)
    if Fault.GRADIENT in faults:
        picture = _gradient(picture, figure, rng)
    if Fault.SHADOW in faults:
        picture = _shadow(picture, figure, rng)
    if Fault.TEXTURE in faults:
        picture = _texture(picture, figure, rng)
    if Fault.SPECKS in faults:
        _specks(picture, figure, rng, count=int(rng.integers(1, 6)))
    if Fault.SIGNATURE in faults:
        _signature(picture, rng)
    if Fault.INVERTED in faults:
        picture = 255.0 - picture
    if knob <= 0 and not faults:
        return np.asarray(np.clip(cv2.GaussianBlur(picture, (0, 0), 0.4), 0, 255).round().astype(np.uint8))
    tint = 255 - rng.uniform(0, 9) - rng.uniform(0, 3, 3)
    picture *= (tint / 255).astype(np.float32)
    picture = cv2.GaussianBlur(picture, (0, 0), float(rng.uniform(0.55, 0.95)) * size / 1024)
    soft = np.clip(picture, 0, 255).round().astype(np.uint8)
    quality = int(rng.integers(24, 42)) if Fault.BLOCKS in faults else int(rng.integers(82, 94))
    buffer = io.BytesIO()
    Image.fromarray(soft).save(buffer, "JPEG", quality=quality, subsampling=0)
    with Image.open(buffer) as image:
        return np.array(image.convert("RGB"), dtype=np.uint8)


def _gradient(picture: AnyArray, figure: AnyArray, rng: Rng) -> AnyArray:
    """Lighten the figure steadily from one side, as shading does."""
    height, width = figure.shape
    angle = rng.uniform(0, 2 * np.pi)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    along = (x / width - 0.5) * np.cos(angle) + (y / height - 0.5) * np.sin(angle)
    lift = np.clip(0.5 + along, 0, 1)[..., None] * float(rng.uniform(80, 130)) * figure[..., None]
    return np.asarray(np.minimum(picture + lift, 255.0))


def _shadow(picture: AnyArray, figure: AnyArray, rng: Rng) -> AnyArray:
    size = max(figure.shape)
    rows, columns = np.nonzero(figure)
    if not len(rows):
        return picture
    layer = np.zeros_like(figure)
    center = (int(columns.mean()), int(min(rows.max() + 6, figure.shape[0] - 2)))
    cv2.ellipse(layer, center, (int(np.ptp(columns) * 0.42), max(4, int(size * 0.018))), 0, 0, 360, 1.0, -1)
    layer = cv2.GaussianBlur(layer, (0, 0), size * 0.014) * float(rng.uniform(0.10, 0.2)) * (1 - figure)
    return np.asarray(picture * (1 - layer[..., None]))


def _texture(picture: AnyArray, figure: AnyArray, rng: Rng) -> AnyArray:
    """Darken the ground unevenly: paper grain, or hatching."""
    height, width = figure.shape
    if rng.random() < 0.5:
        grain = cv2.GaussianBlur(rng.normal(0, 1, (height, width)).astype(np.float32), (0, 0), width / 160)
        tone = grain / max(float(grain.std()), 1e-6) * 9.0 + 26.0
    else:
        y, x = np.mgrid[0:height, 0:width].astype(np.float32)
        step = width / float(rng.uniform(34, 54))
        tone = 42.0 * (np.sin(2 * np.pi * (x + y * float(rng.uniform(0.6, 1.4))) / step) > 0.72)
        tone = cv2.GaussianBlur(tone.astype(np.float32), (0, 0), 0.7)
    return np.asarray(picture - (tone * (1 - figure))[..., None])


def _specks(picture: AnyArray, figure: AnyArray, rng: Rng, *, count: int) -> None:
    height, width = figure.shape
    for _ in range(count):
        x = int(rng.integers(width // 16, width - width // 16))
        y = int(rng.integers(height // 16, height - height // 16))
        colour = (255.0,) * 3 if figure[y, x] else (40.0,) * 3
        axes = tuple(int(v) for v in rng.integers(1, max(2, width // 340) + 1, 2))
        cv2.ellipse(picture, (x, y), axes, 0, 0, 360, colour, -1, cv2.LINE_AA)


def _signature(picture: AnyArray, rng: Rng) -> None:
    height, width = picture.shape[:2]
    t = np.linspace(0, 1, 60)
    x = (0.80 + 0.13 * t) * width
    y = (0.945 + 0.012 * np.sin(t * rng.uniform(20, 30)) * (1 - 0.4 * t) + 0.006 * np.sin(t * 9)) * height
    line = np.stack([x, y], axis=1).round().astype(np.int32)
    cv2.polylines(picture, [line], False, (70.0, 70.0, 70.0), max(1, width // 420), cv2.LINE_AA)
