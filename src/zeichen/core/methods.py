"""The words and usual numbers of tracing. They stand alone, so that whoever only names them loads nothing else."""

from enum import StrEnum

# How a picture is traced if nobody says otherwise: the one table for library, command line, app and demo.
# Curves leave the picture's edge by no more than this, px: a fifth of a pixel is what a clean edge is known to.
TOLERANCE_PX = 0.2
# Turns sharper than this stay corners, rounder ones are bends of a smooth outline (our own rule).
CORNER_DEG = 20.0
# Spots smaller than 4 x 4 px are dirt more often than drawn (our own rule).
MIN_SPOT_PX2 = 16.0
# How far colours reach under their neighbours where they do (our own rule); on the command line in mm of the product.
UNDERLAY_PX, UNDERLAY_MM = 2.0, 0.3


class Method(StrEnum):
    """The three ways of tracing."""

    SOLID = "solid"
    FLATS = "flats"
    CENTRELINE = "centreline"


class Borders(StrEnum):
    """How areas of different colours meet."""

    SIDE_BY_SIDE = "side-by-side"
    UNDERLAID = "underlaid"


class MethodOrAuto(StrEnum):
    """A way of tracing, or the one that the picture wants."""

    AUTO = "auto"
    SOLID = Method.SOLID.value
    FLATS = Method.FLATS.value
    CENTRELINE = Method.CENTRELINE.value


class Shading(StrEnum):
    """What becomes of light and shade on a figure in flat colours."""

    AUTO = "auto"
    STEPS = "steps"
    OUT = "out"


class AreaTone(StrEnum):
    """Which colour an area has whose shading is taken out."""

    MIDDLE = "middle"
    LIGHT = "light"


class Figure(StrEnum):
    """What of a picture is dark: what is darker than a level, or all that is not its ground."""

    AUTO = "auto"
    DARK = "dark"
    WHOLE = "whole"


class Inside(StrEnum):
    """What becomes of places of the ground's colour that the figure encloses."""

    AUTO = "auto"
    KEEP = "keep"
    OPEN = "open"


class Strokes(StrEnum):
    """How a drawn line is drawn: as one stroke along its middle, or as the outline of what it covers."""

    SINGLE = "single"
    OUTLINED = "outlined"
