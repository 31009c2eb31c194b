"""Flat colours to a map of areas with shared borders (flats)."""
