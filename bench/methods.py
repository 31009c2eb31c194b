"""The three methods, warm and on one thread, beside general-purpose libraries on the same pictures."""

import subprocess
import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from skimage.morphology import skeletonize

from bench.timing import in_turns, line
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.formats.picture import write_png
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import Studio

_START_S = 1.5


def measure_methods() -> bool:
    """Print times as ratios to libraries in the same run; returns whether all limits hold."""
    cv2.setNumThreads(1)
    print("Decoded picture to finished paths, as a ratio to a library's step on the same picture")
    kept = True
    for size_px, limit in ((512, 40), (2048, 20)):
        picture = Studio(faults=0).draw(SketchOrder("snail", Look.SILHOUETTE, 41, size_px=size_px))
        _, mask = cv2.threshold(picture.grey(), 127, 255, cv2.THRESH_BINARY_INV)
        kept &= _ratio(
            f"  solid, {size_px} px", picture, TraceSettings(),
            lambda mask=mask: cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE), "findContours", limit,
        )  # fmt: skip
    flat = Studio(faults=0).draw(SketchOrder("watering can", Look.FLAT, 40, size_px=512))
    kept &= _ratio(
        "  flats, 512 px",
        flat,
        TraceSettings(method=Method.FLATS),
        lambda: _label_contours(flat),
        "k-means",
        3,
    )
    drawn = Studio(faults=0).draw(SketchOrder("teapot", Look.LINE, 41, size_px=512))
    thin = drawn.grey() < 128
    kept &= _ratio(
        "  centreline, 512 px", drawn, TraceSettings(method=Method.CENTRELINE), lambda: skeletonize(thin),
        "skeletonize", 6,
    )  # fmt: skip
    return bool(kept & _start(drawn))


def _ratio(name: str, picture: Picture, settings: TraceSettings, library, words: str, limit: float) -> bool:
    mine, theirs = in_turns(lambda: trace(picture, settings), library)
    good = mine <= limit * theirs
    line(name, mine, theirs, words, f"at most {limit} x, is {mine / theirs:.0f} x", good)
    return good


def _label_contours(picture: Picture) -> object:
    """K-means over all pixels, then the contours of every label."""
    pixels = picture.rgb.reshape(-1, 3).astype(np.float32)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 10, 1.0)
    _, labels, _ = cv2.kmeans(pixels, 5, None, criteria, 1, cv2.KMEANS_PP_CENTERS)
    sheet = labels.reshape(picture.rgb.shape[:2])
    return [
        cv2.findContours((sheet == k).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
        for k in range(5)
    ]


def _start(picture: Picture) -> bool:
    """Print how long the command line takes for one 512 px picture, start included."""
    with tempfile.TemporaryDirectory() as folder:
        image = Path(folder, "picture.png")
        image.write_bytes(write_png(picture.rgb))
        command = [
            Path(sys.executable).with_name("zeichen"),
            "trace",
            image,
            "--out",
            Path(folder, "out.svg"),
        ]
        bare = [sys.executable, "-c", "import numpy, cv2, scipy.spatial, numba"]

        def run(words):
            return lambda: subprocess.run(words, check=True, capture_output=True)

        mine, theirs = in_turns(run(command), run(bare))
    good = mine < _START_S
    line("  command line, 512 px", mine, theirs, "importing its libraries alone", f"under {_START_S} s", good)
    return good
