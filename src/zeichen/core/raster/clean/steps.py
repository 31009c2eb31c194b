"""The steps of a clean-up and their settings, as plain values."""

from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import ClassVar

import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean import frame, ground, tone
from zeichen.core.raster.even_light import even_light
from zeichen.core.raster.picture import Picture
from zeichen.core.values import require_number


@dataclass(frozen=True, slots=True)
class CleanStep:
    """One step; switched off it does nothing and keeps its settings."""

    kind: ClassVar[str] = ""
    on: bool = True

    def apply(self, picture: Picture, original: Picture) -> Picture:
        """Return the changed picture; original is what the chain began with."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Crop(CleanStep):
    """Keep a box, given in shares of width and height."""

    kind: ClassVar[str] = "crop"
    x_min: float = 0.0
    y_min: float = 0.0
    x_max: float = 1.0
    y_max: float = 1.0

    def __post_init__(self) -> None:
        _require_box(self.x_min, self.y_min, self.x_max, self.y_max)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.cropped(picture, x_min=self.x_min, y_min=self.y_min, x_max=self.x_max, y_max=self.y_max)


@dataclass(frozen=True, slots=True)
class CropToSubject(CleanStep):
    """Cut to the figure with an even margin, given as a share of its longer side."""

    kind: ClassVar[str] = "crop-to-subject"
    margin: float = 0.08

    def __post_init__(self) -> None:
        require_number(self.margin, "Margin", least=0, most=1)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.cropped_to_subject(picture, margin=self.margin)


@dataclass(frozen=True, slots=True)
class Turn(CleanStep):
    """Turn clockwise."""

    kind: ClassVar[str] = "turn"
    angle_deg: float = 0.0

    def __post_init__(self) -> None:
        require_number(self.angle_deg, "Angle", least=-360, most=360, unit="degrees")

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.turned(picture, angle_deg=self.angle_deg)


@dataclass(frozen=True, slots=True)
class PageFlat(CleanStep):
    """Lay a photographed page flat by its edges."""

    kind: ClassVar[str] = "page-flat"

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.page_flat(picture)


@dataclass(frozen=True, slots=True)
class Flip(CleanStep):
    """Mirror, left and right or top and bottom."""

    kind: ClassVar[str] = "flip"
    upside_down: bool = False

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.flipped(picture, upside_down=self.upside_down)


@dataclass(frozen=True, slots=True)
class Enlarge(CleanStep):
    """Make two or four times as large."""

    kind: ClassVar[str] = "enlarge"
    factor: int = 2

    def __post_init__(self) -> None:
        if self.factor not in (2, 3, 4):
            raise InvalidInputError(f"A picture is enlarged 2, 3 or 4 times; got {self.factor}.")

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return frame.enlarged(picture, factor=self.factor)


@dataclass(frozen=True, slots=True)
class EvenLight(CleanStep):
    """Even out the light of a photo or scan; the picture becomes grey."""

    kind: ClassVar[str] = "even-light"

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return Picture(np.repeat(even_light(picture.grey())[:, :, None], 3, axis=2))


@dataclass(frozen=True, slots=True)
class Levels(CleanStep):
    """Stretch black and white to the ends of the scale; middle above 1 is lighter."""

    kind: ClassVar[str] = "levels"
    black: int = 30
    white: int = 225
    middle: float = 1.0

    def __post_init__(self) -> None:
        require_number(self.black, "Black", least=0, most=254)
        require_number(self.white, "White", least=1, most=255)
        require_number(self.middle, "Middle", least=0.2, most=5)
        if self.black >= self.white:
            raise InvalidInputError(f"Black ({self.black}) must be darker than white ({self.white}).")

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return tone.levelled(picture, black=self.black, white=self.white, middle=self.middle)


@dataclass(frozen=True, slots=True)
class BlackAndWhite(CleanStep):
    """Black and white by a level; None finds it."""

    kind: ClassVar[str] = "black-and-white"
    level: int | None = None

    def __post_init__(self) -> None:
        if self.level is not None:
            require_number(self.level, "Level", least=0, most=254)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return tone.black_and_white(picture, level=self.level)


@dataclass(frozen=True, slots=True)
class Invert(CleanStep):
    """Exchange light and dark."""

    kind: ClassVar[str] = "invert"

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return tone.inverted(picture)


@dataclass(frozen=True, slots=True)
class SmoothNoise(CleanStep):
    """Smooth compression noise up to some grey values, edges kept."""

    kind: ClassVar[str] = "smooth-noise"
    strength: float = 12.0

    def __post_init__(self) -> None:
        require_number(self.strength, "Strength", above=0, most=80)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return tone.smoothed(picture, strength=self.strength)


@dataclass(frozen=True, slots=True)
class RemoveGround(CleanStep):
    """Make the ground white, and what of it shows through the figure if holes is set."""

    kind: ClassVar[str] = "remove-ground"
    tolerance: float = 24.0
    holes: bool = True

    def __post_init__(self) -> None:
        require_number(self.tolerance, "Tolerance", least=0, most=200)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return ground.without_ground(picture, tolerance=self.tolerance, holes=self.holes)


@dataclass(frozen=True, slots=True)
class Despeckle(CleanStep):
    """Take away marks and pin holes smaller than an area."""

    kind: ClassVar[str] = "despeckle"
    MOST_PX2: ClassVar[float] = 1e6
    area_px2: float = 40.0

    def __post_init__(self) -> None:
        require_number(self.area_px2, "Area", least=1, most=self.MOST_PX2, unit="px²")

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return ground.without_specks(picture, area_px2=self.area_px2)


@dataclass(frozen=True, slots=True)
class WipeBox(CleanStep):
    """Wipe out a box (shares of width and height), such as a signature."""

    kind: ClassVar[str] = "wipe-box"
    x_min: float = 0.0
    y_min: float = 0.0
    x_max: float = 0.1
    y_max: float = 0.1

    def __post_init__(self) -> None:
        _require_box(self.x_min, self.y_min, self.x_max, self.y_max)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return ground.without_box(
            picture, x_min=self.x_min, y_min=self.y_min, x_max=self.x_max, y_max=self.y_max
        )


@dataclass(frozen=True, slots=True)
class Brush(CleanStep):
    """A stroke that rubs out, or brings back what earlier steps took away."""

    kind: ClassVar[str] = "brush"
    path: tuple[tuple[float, float], ...] = ()
    width: float = 0.02
    restore: bool = False

    def __post_init__(self) -> None:
        require_number(self.width, "Brush", above=0, most=1)
        if not 1 <= len(self.path) <= 20_000:
            raise InvalidInputError("A brush stroke needs between 1 and 20000 places.")
        for x, y in self.path:
            require_number(x, "Place", least=-1, most=2)
            require_number(y, "Place", least=-1, most=2)

    def apply(self, picture: Picture, original: Picture) -> Picture:
        return ground.painted(
            picture,
            original,
            path=np.array(self.path, dtype=np.float64),
            width=self.width,
            restore=self.restore,
        )


STEP_KINDS: dict[str, Callable[..., CleanStep]] = {
    step.kind: step
    for step in (
        Crop, CropToSubject, Turn, PageFlat, Flip, Enlarge, EvenLight, Levels, BlackAndWhite, Invert,
        SmoothNoise, RemoveGround, Despeckle, WipeBox, Brush,
    )
}  # fmt: skip


def settings_of(step: CleanStep) -> dict[str, object]:
    """Return a step's settings by name, without whether it is on."""
    return {f.name: getattr(step, f.name) for f in fields(step) if f.name != "on"}


def _require_box(x_min: float, y_min: float, x_max: float, y_max: float) -> None:
    for value in (x_min, y_min, x_max, y_max):
        require_number(value, "Side of the box", least=0, most=1)
    if not (x_min < x_max and y_min < y_max):
        raise InvalidInputError("The box is empty: its left and top must come before its right and bottom.")
