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
