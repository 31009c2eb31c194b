"""Outlines that are equal or mirrored get equal curves."""
