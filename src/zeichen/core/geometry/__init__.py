"""Bézier paths, drawings, areas and sizes.

Everything else in the core speaks in these values. Pixels become millimetres in `placement` only.
"""

from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.placement import Scale, at_true_size
from zeichen.core.geometry.polygons import drawing_area, is_simple, shape_area

__all__ = ["Drawing", "Path", "Scale", "Shape", "at_true_size", "drawing_area", "is_simple", "shape_area"]
