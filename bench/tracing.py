"""Re-tracing 1024 px sketches, beside OpenCV's findContours on the same pictures."""

import cv2
import numpy as np

from bench.timing import in_turns, line
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import Studio

_PROMISED_S = 0.300


def measure_tracing() -> bool:
    """Print the time of a whole solid trace, fit, checks and deviation included; returns whether 300 ms hold."""
    print("Solid re-trace of a 1024 px sketch, core only (findContours gives raw pixel chains, no curves)")
    kept = True
    for subject, look in (("snail", Look.SILHOUETTE), ("teapot", Look.LINE), ("hedgehog", Look.SILHOUETTE)):
        picture = Studio().draw(SketchOrder(subject, look, 41))
        grey = picture.grey()

        def outlines(grey: np.ndarray = grey) -> object:
            _, mask = cv2.threshold(grey, 127, 255, cv2.THRESH_BINARY_INV)
            return cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)

        def ours(picture=picture) -> object:
            return trace(picture, TraceSettings(level=127)).deviation

        mine, theirs = in_turns(ours, outlines)
        good = mine < _PROMISED_S
        kept = kept and good
        line(f"  {subject}, {look.value}", mine, theirs, "findContours", "under 300 ms", good)
    return kept
