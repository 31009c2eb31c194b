"""Tracing by any of the three methods."""

from collections.abc import Callable

import cv2
import numpy as np

from zeichen.core.methods import Method
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.outlines.solid import trace_solid
from zeichen.core.tracing.settings import Trace, TraceSettings


def trace(picture: Picture, settings: TraceSettings, *, step: Callable[[float], None] | None = None) -> Trace:
    """Return the drawing of a picture.

    Parameters
    ----------
    picture : Picture
    settings : TraceSettings
    step : function of a share 0-1, optional
        Called now and then with how much is done; may raise to stop the work.

    Raises
    ------
    InvalidInputError
        If the picture has one tone only, nothing is left at this level, or there are more than
        40,000 outlines.
    """
    report = step or (lambda share: None)
    report(0.0)
    if settings.method is Method.SOLID:
        result = trace_solid(picture, settings, report)
    elif settings.method is Method.FLATS:
        # What one method needs is not loaded for another: the command line starts for each picture.
        from zeichen.core.tracing.regions.flats import trace_flats

        result = trace_flats(picture, settings, report)
    else:
        from zeichen.core.tracing.strokes.centreline import trace_centreline

        result = trace_centreline(picture, settings, report)
    report(1.0)
    return result


def warm_up() -> None:
    """Load the compiled kernels, so that the first real picture does not wait for them."""
    from zeichen.core.tracing.outlines.untangle import without_loops

    rgb = np.full((64, 260, 3), 255, dtype=np.uint8)
    rgb[10:30, 10:50] = (200, 60, 40)
    rgb[30:54, 10:50] = 0
    rgb[30:34, 50:60] = 0
    # A speck, for what takes specks out.
    rgb[56:58, 4:6] = 0
    # Lines that cross, one that ends on another, and a tip nearer to its rim than a pen comes.
    rgb[28:32, 70:130] = rgb[6:58, 98:102] = rgb[10:28, 80:84] = 0
    for row in range(40):
        half = 1 + row // 8
        for middle in (165 - row // 2, 165 + row // 2):
            rgb[12 + row, middle - half : middle + half] = 0
    # The same ornament twice.
    for left in (200, 230):
        rgb[20:40, left : left + 12] = rgb[34:40, left + 12 : left + 20] = 0
    # Once more enlarged: its own pixels are found.
    for picture in (Picture(rgb), Picture(cv2.resize(rgb, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC))):
        for method in Method:
            trace(picture, TraceSettings(method=method))
    # A disc in a light that falls off, for what tells shading from colour.
    y, x = np.mgrid[0:160, 0:160]
    light = np.where((x - 80) ** 2 + (y - 80) ** 2 < 3600, 60 + x // 2, 255).astype(np.uint8)
    trace(Picture(np.stack([light, light // 2 + 60, light], axis=2)), TraceSettings(method=Method.FLATS))
    # A loop, as a curve makes where it has lost its way.
    without_loops(np.array([[[0.0, 0.0], [60.0, 40.0], [-20.0, 40.0], [40.0, 0.0]]]), 50.0, closed=False)
