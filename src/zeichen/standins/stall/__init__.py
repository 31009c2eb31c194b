"""A stand-in marketplace: invented demand figures, the same for the same day."""

from zeichen.standins.stall.demand import Demand, demand_for_theme

__all__ = ["Demand", "demand_for_theme"]
