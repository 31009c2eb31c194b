"""Picture to drawing: subpixel boundaries, corners, and the curve fit between them.

Three methods are named; solid is built.
"""

from zeichen.core.tracing.boundary import Contours, find_contours
from zeichen.core.tracing.curve_fit import FitSettings, fit_contour
from zeichen.core.tracing.deviation import Deviation, measure_deviation
from zeichen.core.tracing.solid import Method, Trace, TraceSettings, trace, warm_up

__all__ = [
    "Contours",
    "Deviation",
    "FitSettings",
    "Method",
    "Trace",
    "TraceSettings",
    "find_contours",
    "fit_contour",
    "measure_deviation",
    "trace",
    "warm_up",
]
