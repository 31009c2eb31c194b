"""Tracing by any of the three methods."""

from collections.abc import Callable

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
