"""Lines, cubics, arcs and conics fitted to measured points: a small library that knows no picture."""
