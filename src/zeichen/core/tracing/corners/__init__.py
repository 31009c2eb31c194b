"""Corners put where the drawn ink says."""
