"""The words for ways of tracing. They stand alone, so that whoever only names them loads nothing else."""

from enum import StrEnum


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
