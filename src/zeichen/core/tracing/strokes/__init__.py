"""Drawn lines to single strokes (centreline)."""
