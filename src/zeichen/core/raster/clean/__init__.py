"""Clean-up: steps that change a picture before it is traced, in order, each switchable; the picture itself stays."""

from zeichen.core.raster.clean.chain import at_scale, cleaned, steps_from_data, steps_to_data
from zeichen.core.raster.clean.steps import STEP_KINDS, CleanStep

__all__ = ["STEP_KINDS", "CleanStep", "at_scale", "cleaned", "steps_from_data", "steps_to_data"]
