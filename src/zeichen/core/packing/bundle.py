"""One ZIP with every open format a buyer may ask for, and the listing text."""

import io
import zipfile
from dataclasses import dataclass, replace

from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.picture import MM_PER_INCH, write_jpeg, write_png
from zeichen.core.formats.render import render_drawing
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.packing.listing import Listing, listing_text
from zeichen.core.packing.naming import file_stems
from zeichen.core.values import require_number

PRINT_DPI = 300
_PREVIEW_PX = 1600
_PREVIEW_GROUND = "#ffffff"
# The same pack always has the same bytes, so the stamp inside the ZIP is fixed: the format's earliest day.
_STAMP = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class PackItem:
    """One motif of a pack."""

    name: str
    drawing: Drawing
    width_mm: float = 200.0

    def __post_init__(self) -> None:
        require_number(self.width_mm, "Width", above=0, most=1000, unit="mm")


def motif_files(item: PackItem) -> dict[str, bytes]:
    """Return SVG, EPS, PDF, DXF, transparent PNG and JPEG preview of one motif, by file ending."""
    # The writers are loaded when something is packed: the command line starts for a trace, too.
    from zeichen.core.formats.dxf import write_coloured_dxf
    from zeichen.core.formats.eps import write_eps
    from zeichen.core.formats.pdf import write_pdf

    placed = at_true_size(item.drawing, width_mm=item.width_mm, margin_mm=item.width_mm * 0.02)
    width_px = round(placed.width / MM_PER_INCH * PRINT_DPI)
    preview_px = round(_PREVIEW_PX * min(1.0, placed.width / placed.height))
    return {
        "svg": write_svg(placed, unit="mm", title=item.name).encode(),
        "eps": write_eps(placed, title=item.name),
        "pdf": write_pdf(placed, title=item.name),
        "dxf": write_coloured_dxf(placed),
        "png": write_png(
            render_drawing(placed, width_px=width_px), dpi=PRINT_DPI, srgb=True, origin=placed.origin
        ),
        "jpg": write_jpeg(
            render_drawing(placed, width_px=preview_px, ground=_PREVIEW_GROUND)[..., :3], origin=placed.origin
        ),
    }


def make_pack(items: list[PackItem], listing: Listing) -> bytes:
    """Return the ZIP of a pack.

    Raises
    ------
    InvalidInputError
        If there is no motif. Two with the same name are numbered.
    """
    if not items:
        raise InvalidInputError("The pack is empty. Add at least one drawing.")
    stems = file_stems([item.name for item in items])
    out = io.BytesIO()
    lines: list[str] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bundle:
        for stem, item in zip(stems, items, strict=True):
            noted = replace(item, drawing=replace(item.drawing, origin=listing.origin))
            for ending, data in motif_files(noted).items():
                name = f"{stem}.{ending}" if len(items) == 1 else f"{stem}/{stem}.{ending}"
                _add(bundle, name, data)
                lines.append(f"{name}  {len(data)} bytes")
        _add(bundle, "listing.txt", listing_text(listing, file_lines=lines).encode())
    return out.getvalue()


def _add(bundle: zipfile.ZipFile, name: str, data: bytes) -> None:
    entry = zipfile.ZipInfo(name, _STAMP)
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.external_attr = 0o644 << 16
    bundle.writestr(entry, data)
