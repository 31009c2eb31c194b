"""Whole traces of pictures as makers bring them, beside a library's first step on the same pictures in the same run.

The pictures are realbench's (its folder beside this one's, or REALBENCH), lines of a pen whose width changes and shaded
clipart, and tracebench's flat clipart. One thread each.
"""

import os
from collections.abc import Callable, Iterable, Iterator
from functools import partial
from itertools import product
from pathlib import Path

import cv2
import numpy as np
from skimage.morphology import skeletonize

from bench.timing import in_turns
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.formats.picture import read_picture
from zeichen.core.methods import Method, Shading
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import Studio

_BENCHES = Path(__file__).parents[2] / "shared"
# Rounds of k-means and how many colours besides the ground: what a palette of six asks of it.
_KMEANS, _CENTRES = (3, 10, 1.0), 7
_ROUNDS = 3
# What is drawn for noisy pictures, and how noisy it is made.
_SUBJECTS, _SIGMAS = ("snail", "hedgehog", "teapot", "carrot"), (15.0, 45.0, 60.0)


def measure_real() -> bool:
    """Print times and ratios as median and 90 %; returns whether those that were promised are kept."""
    print("\nReal pictures, decoded picture to finished drawing")
    threads = cv2.getNumThreads()
    cv2.setNumThreads(1)
    try:
        real = Path(os.environ.get("REALBENCH", _BENCHES / "realbench")) / "cases"
        clean = Path(os.environ.get("TRACEBENCH", _BENCHES / "tracebench")) / "cases"
        lines, steps, out, flats = (
            TraceSettings(method=Method.CENTRELINE),
            TraceSettings(method=Method.FLATS, shading=Shading.STEPS, colours=6),
            TraceSettings(method=Method.FLATS, shading=Shading.OUT),
            TraceSettings(method=Method.FLATS),
        )
        return all(
            [
                _measured(
                    "pen", _read(real.glob("pen-*.jpg")), lines, _thinned, "skeletonize", most_ratio=6.0
                ),
                _measured(
                    "shaded, in steps",
                    _read(real.glob("shaded-??.jpg")),
                    steps,
                    _clustered,
                    "k-means",
                    most_ratio=8.0,
                ),
                _measured(
                    "solid, noisy", _noisy(), TraceSettings(), _contours, "findContours", most_ratio=45.0
                ),
                _measured(
                    "shaded, out",
                    _read(real.glob("shaded-??.jpg")),
                    out,
                    _clustered,
                    "k-means",
                    most_ratio=8.0,
                ),
                _measured(
                    "flat clipart",
                    _read(clean.glob("flats-*.clean.png")),
                    flats,
                    _clustered,
                    "k-means",
                    most_s=0.3,
                ),
            ]
        )
    finally:
        cv2.setNumThreads(threads)


def _read(files: Iterable[Path]) -> Iterator[Picture]:
    return (read_picture(file.read_bytes()) for file in sorted(files))


def _noisy() -> Iterator[Picture]:
    """Give drawn silhouettes of 1024 px with noise, a little and much: standard deviations 0-255."""
    for number, (subject, sigma) in enumerate(product(_SUBJECTS, _SIGMAS)):
        drawn = Studio().draw(SketchOrder(subject, Look.SILHOUETTE, number)).rgb.astype(np.float64)
        noise = np.random.default_rng(number).normal(0.0, sigma, drawn.shape[:2])[..., None]
        yield Picture(np.clip(drawn + noise, 0, 255).astype(np.uint8))


def _contours(picture: Picture) -> object:
    _, mask = cv2.threshold(picture.grey(), 127, 255, cv2.THRESH_BINARY_INV)
    return cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)


def _thinned(picture: Picture) -> object:
    return skeletonize(picture.grey() < 128)


def _clustered(picture: Picture) -> object:
    samples = picture.rgb.reshape(-1, 3).astype(np.float32)
    return cv2.kmeans(samples, _CENTRES, None, _KMEANS, 1, cv2.KMEANS_PP_CENTERS)


def _measured(
    name: str,
    pictures: Iterable[Picture],
    settings: TraceSettings,
    library: Callable[[Picture], object],
    library_name: str,
    *,
    most_ratio: float = np.inf,
    most_s: float = np.inf,
) -> bool:
    ours, ratios = [], []
    for picture in pictures:
        mine, theirs = in_turns(partial(trace, picture, settings), partial(library, picture), rounds=_ROUNDS)
        ours.append(mine)
        ratios.append(mine / theirs)
    if not ours:
        print(f"  {name:<18} no pictures found")
        return True
    seconds, times = np.quantile(ours, (0.5, 0.9)), np.quantile(ratios, (0.5, 0.9))
    kept = bool(times[0] <= most_ratio and seconds[0] <= most_s)
    promise = f"at most x{most_ratio:g}" if np.isfinite(most_ratio) else f"at most {most_s:g} s"
    print(
        f"  {name:<18} {len(ours):>3} pictures   {seconds[0] * 1000:7.0f} ms (90 %: {seconds[1] * 1000:.0f})   "
        f"x{times[0]:.1f} (90 %: x{times[1]:.1f}) of {library_name}   {promise} {'kept' if kept else 'MISSED'}"
    )
    return kept
