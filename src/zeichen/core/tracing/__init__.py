"""Picture to drawing, by three methods: solid, flats and centreline."""

from zeichen.core.fitting.curve_fit import fit_contour
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.methods import Borders, Method
from zeichen.core.tracing.deviation import Deviation, measure_deviation
from zeichen.core.tracing.doubts import Doubt, DoubtKind, find_doubts
from zeichen.core.tracing.edges.boundary import Contours, find_contours
from zeichen.core.tracing.ladder import Rung, climb, suggested
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.tracing.trace import trace, warm_up
from zeichen.core.tracing.veil import Veil, measure_veil

__all__ = [
    "Borders",
    "Contours",
    "Deviation",
    "Doubt",
    "DoubtKind",
    "FitSettings",
    "Method",
    "Rung",
    "Trace",
    "TraceSettings",
    "Veil",
    "climb",
    "find_contours",
    "find_doubts",
    "fit_contour",
    "measure_deviation",
    "measure_veil",
    "suggested",
    "trace",
    "warm_up",
]
