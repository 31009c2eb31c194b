"""The faults of generated pictures that matter for tracing, laid over a clean picture."""

import io

import cv2
import numpy as np
from PIL import Image

from zeichen.core.values import Bytes8Array

Rng = np.random.Generator


def spoil(rgb: Bytes8Array, rng: Rng, *, faults: float) -> Bytes8Array:
    """Return the picture as a generator would have delivered it.

    Always: softened edges, an off-white ground, JPEG noise. At times: a soft shadow, specks, a
    scribbled signature. `faults` scales how often, 0 never, 1 as usual.
    """
    picture = rgb.astype(np.float32)
    size = rgb.shape[0]
    figure = (rgb.min(axis=2) < 128).astype(np.float32)
    if rng.random() < 0.3 * faults:
        picture = _shadow(picture, figure, rng)
    if rng.random() < 0.3 * faults:
        _specks(picture, figure, rng, count=int(rng.integers(1, 5)))
    if rng.random() < 0.2 * faults:
        _signature(picture, rng)
    tint = 255 - rng.uniform(0, 9) - rng.uniform(0, 3, 3)
    picture *= (tint / 255).astype(np.float32)
    picture = cv2.GaussianBlur(picture, (0, 0), float(rng.uniform(0.55, 0.95)) * size / 1024)
    soft = np.clip(picture, 0, 255).round().astype(np.uint8)
    buffer = io.BytesIO()
    Image.fromarray(soft).save(buffer, "JPEG", quality=int(rng.integers(82, 94)), subsampling=0)
    with Image.open(buffer) as image:
        return np.array(image.convert("RGB"), dtype=np.uint8)


def _shadow(picture: np.ndarray, figure: np.ndarray, rng: Rng) -> np.ndarray:
    size = figure.shape[0]
    rows, columns = np.nonzero(figure)
    if not len(rows):
        return picture
    layer = np.zeros_like(figure)
    center = (int(columns.mean()), int(min(rows.max() + 6, size - 2)))
    cv2.ellipse(layer, center, (int(np.ptp(columns) * 0.42), max(4, int(size * 0.018))), 0, 0, 360, 1.0, -1)
    layer = cv2.GaussianBlur(layer, (0, 0), size * 0.014) * float(rng.uniform(0.10, 0.2)) * (1 - figure)
    return np.asarray(picture * (1 - layer[..., None]))


def _specks(picture: np.ndarray, figure: np.ndarray, rng: Rng, *, count: int) -> None:
    size = picture.shape[0]
    for _ in range(count):
        x, y = (int(v) for v in rng.integers(size // 16, size - size // 16, 2))
        colour = (255.0,) * 3 if figure[y, x] else (40.0,) * 3
        cv2.ellipse(
            picture,
            (x, y),
            tuple(int(v) for v in rng.integers(1, max(2, size // 340) + 1, 2)),
            0,
            0,
            360,
            colour,
            -1,
            cv2.LINE_AA,
        )


def _signature(picture: np.ndarray, rng: Rng) -> None:
    size = picture.shape[0]
    t = np.linspace(0, 1, 60)
    x = (0.80 + 0.13 * t) * size
    y = (0.945 + 0.012 * np.sin(t * rng.uniform(20, 30)) * (1 - 0.4 * t) + 0.006 * np.sin(t * 9)) * size
    line = np.stack([x, y], axis=1).round().astype(np.int32)
    cv2.polylines(picture, [line], False, (70.0, 70.0, 70.0), max(1, size // 420), cv2.LINE_AA)
