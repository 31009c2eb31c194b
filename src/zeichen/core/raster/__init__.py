"""Pictures, and what can be read from their pixels before anything is traced."""

from zeichen.core.raster.levels import edge_level, otsu_level
from zeichen.core.raster.picture import Picture

__all__ = ["Picture", "edge_level", "otsu_level"]
