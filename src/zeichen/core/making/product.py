"""What every product comes to: files and the numbers that matter."""

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class MadeFile:
    """One file: its name, media type and bytes."""

    name: str
    media_type: str
    data: bytes


@dataclass(frozen=True, slots=True)
class Reading:
    """One number of a product, with its unit."""

    label: str
    value: float
    unit: str


@dataclass(frozen=True, slots=True)
class Product:
    """The files of a ticket and its readings."""

    files: tuple[MadeFile, ...]
    readings: tuple[Reading, ...] = field(default=())
    notes: tuple[str, ...] = field(default=())
