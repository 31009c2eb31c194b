"""What a proof says: kinds of findings, their mends, readings.

Places are given twice: in drawing units for the screen, and in mm from the drawing's top left corner.
"""

from dataclasses import dataclass
from enum import StrEnum

from zeichen.core.geometry.placement import Scale
from zeichen.core.proofing.narrow import Trail


class Kind(StrEnum):
    """What can be wrong."""

    OPEN_PATH = "open_path"
    SELF_CROSSING = "self_crossing"
    DUPLICATE_OUTLINE = "duplicate_outline"
    GROUND = "ground"
    SIGNATURE = "signature"
    HIDDEN_SHAPE = "hidden_shape"
    OVERLAP = "overlap"
    BORDER_GAP = "border_gap"
    SPECK = "speck"
    PIN_HOLE = "pin_hole"
    COLOURS = "colours"
    NODES = "nodes"
    TIGHT_CORNER = "tight_corner"
    FINE_TIP = "fine_tip"
    THIN_PART = "thin_part"
    SMALL_GAP = "small_gap"
    LOOSE_PIECE = "loose_piece"
    LETTERING = "lettering"
    TOO_LARGE = "too_large"
    OFF_SHEET = "off_sheet"
    UNMEASURED = "unmeasured"


class How(StrEnum):
    """What a mend does."""

    CLOSE = "close"
    UNTANGLE = "untangle"
    KEEP_ONE = "keep_one"
    DROP = "drop"
    SUBTRACT = "subtract"
    JOIN = "join"
    SHARE_BORDER = "share_border"
    ABSORB = "absorb"
    FILL = "fill"
    MERGE_COLOURS = "merge_colours"
    SIMPLIFY = "simplify"
    RELIEVE = "relieve"
    BLUNT = "blunt"
    THICKEN = "thicken"
    OPEN = "open"
    BRIDGE = "bridge"
    MOVE_IN = "move_in"


# The mends of each kind, the usual one first; a kind without one is for the maker to decide.
MENDS: dict[Kind, tuple[How, ...]] = {
    Kind.OPEN_PATH: (How.CLOSE, How.DROP),
    Kind.SELF_CROSSING: (How.UNTANGLE, How.DROP),
    Kind.DUPLICATE_OUTLINE: (How.KEEP_ONE,),
    Kind.GROUND: (How.DROP,),
    Kind.SIGNATURE: (How.DROP,),
    Kind.HIDDEN_SHAPE: (How.DROP,),
    Kind.OVERLAP: (How.SUBTRACT, How.JOIN),
    Kind.BORDER_GAP: (How.SHARE_BORDER,),
    Kind.SPECK: (How.ABSORB, How.DROP),
    Kind.PIN_HOLE: (How.FILL,),
    Kind.COLOURS: (How.MERGE_COLOURS,),
    Kind.NODES: (How.SIMPLIFY,),
    Kind.TIGHT_CORNER: (How.RELIEVE,),
    Kind.FINE_TIP: (How.BLUNT,),
    Kind.THIN_PART: (How.THICKEN, How.DROP),
    Kind.SMALL_GAP: (How.OPEN, How.FILL),
    Kind.LOOSE_PIECE: (How.BRIDGE, How.DROP),
    Kind.LETTERING: (),
    Kind.TOO_LARGE: (),
    Kind.OFF_SHEET: (How.MOVE_IN,),
    Kind.UNMEASURED: (),
}


@dataclass(frozen=True, slots=True)
class Finding:
    """One measured problem: kind, place, value, limit, and the shape it belongs to ('' if several).

    other: a second shape that has a part in it, or ''. sure: whether it is a fact or only likely.
    trail_px: along a narrow place, the middles between its walls; of a signature and of likely letters two
    corners of their box. mends: what can be done about it, the usual first. size_mm2: of a loose piece.
    """

    kind: Kind
    x_px: float
    y_px: float
    x_mm: float
    y_mm: float
    measured: float
    limit: float
    unit: str
    shape: str
    other: str = ""
    sure: bool = True
    trail_px: Trail = ()
    mends: tuple[How, ...] = ()
    size_mm2: float = 0.0


@dataclass(frozen=True, slots=True)
class Readings:
    """The numbers of a drawing at its finished size. Widths over three limits are given as None."""

    width_mm: float
    height_mm: float
    shapes: int
    paths: int
    closed_paths: int
    nodes: int
    pieces: int
    thinnest_mm: float | None
    smallest_gap_mm: float | None
    area_mm2: float


@dataclass(frozen=True, slots=True)
class Proof:
    """A drawing judged by a yardstick."""

    findings: tuple[Finding, ...]
    readings: Readings

    @property
    def cut_ready(self) -> bool:
        """Whether nothing was found."""
        return not self.findings


class Bench:
    """Collects findings and knows the scale between drawing units and mm."""

    def __init__(self, scale: Scale) -> None:
        self.scale = scale
        self.found: list[Finding] = []

    def add(
        self,
        kind: Kind,
        x_px: float,
        y_px: float,
        *,
        measured: float,
        limit: float,
        unit: str,
        shape: str,
        other: str = "",
        sure: bool = True,
        trail_px: Trail = (),
        mends: tuple[How, ...] | None = None,
        size_mm2: float = 0.0,
    ) -> None:
        """Note a finding; its place in mm follows from its place in the drawing."""
        self.found.append(
            Finding(
                kind,
                float(x_px),
                float(y_px),
                self.scale.to_mm(float(x_px)),
                self.scale.to_mm(float(y_px)),
                round(measured, 4),
                limit,
                unit,
                shape,
                other,
                sure,
                trail_px,
                MENDS[kind] if mends is None else mends,
                size_mm2,
            )
        )
