"""What several commands read and write, and how they name it."""

import json
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.packing import file_stem

if TYPE_CHECKING:
    from zeichen.core.making.product import Product

OutFile = Annotated[Path, typer.Option("--out", help="File to write.")]
Report = Annotated[Path | None, typer.Option("--report", help="JSON file for the figures.")]
DrawingFile = Annotated[
    Path, typer.Argument(metavar="DRAWING", help="SVG or DXF file; - for standard input.")
]
WidthMm = Annotated[float, typer.Option("--width-mm", help="Finished width of the figure in mm.")]
STANDARD_INPUT = Path("-")
# How far work is, is shown after so many seconds.
_QUICK_S = 1.0
_OTHER_ENDINGS = frozenset(
    (".png", ".jpg", ".jpeg", ".webp", ".gif", ".pdf", ".eps", ".dxf", ".stl", ".zip", ".json")
)
OutDir = Annotated[Path, typer.Option("--out-dir", help="Folder for the files.")]


def read_file(path: Path) -> bytes:
    """Return what is in a file; "-" is standard input."""
    if path == STANDARD_INPUT:
        return sys.stdin.buffer.read()
    try:
        return path.read_bytes()
    except FileNotFoundError:
        raise InvalidInputError(f"There is no file {path}. Check the name.") from None
    except OSError as error:
        raise InvalidInputError(f"{path} cannot be read: {error.strerror}.") from error


def read_shown(path: Path) -> tuple[Drawing, list[str]]:
    """Return the drawing in a file without what is hidden in it (that is not made), and what was not taken of it."""
    drawing, not_taken = read_whole_drawing(path)
    return drawing.shown(), not_taken


def read_whole_drawing(path: Path) -> tuple[Drawing, list[str]]:
    """Return the drawing in a file with its hidden shapes, and what was not taken of it, which is also said."""
    from zeichen.core.formats.drawing_file import read_drawing_file

    said = name_of(path)
    drawing, not_taken, _ = read_drawing_file(read_file(path), said)
    for line in not_taken:
        typer.echo(f"{said}: not taken: {line}", err=True)
    return drawing, not_taken


def name_of(path: Path) -> str:
    """Return what to call a file in messages."""
    return "standard input" if path == STANDARD_INPUT else str(path)


def stem_of(path: Path) -> str:
    """Return what to name after a file."""
    return "drawing" if path == STANDARD_INPUT else path.stem


def write_file(path: Path, data: bytes) -> None:
    from zeichen.store.files import write_atomically

    write_atomically(path, data)


def require_svg_name(path: Path) -> None:
    """Raise InvalidInputError, before any work, if a name for an SVG says that it is something else."""
    if path.suffix.lower() in _OTHER_ENDINGS:
        raise InvalidInputError(f"{path} would hold an SVG: name it {path.with_suffix('.svg').name}.")


def write_svg_file(path: Path, svg: str) -> None:
    """Write an SVG; InvalidInputError if the name says that it is something else."""
    require_svg_name(path)
    write_file(path, svg.encode())


def write_product(product: "Product", drawing: Path, out_dir: Path) -> dict[str, object]:
    """Write a product's files and say what they are; returns the figures for a report."""
    written = []
    for made in product.files:
        stem, _, ending = made.name.partition(".")
        target = out_dir / f"{file_stem(stem_of(drawing))}-{stem}.{ending}"
        written.append({"name": target.name, "bytes": len(made.data)})
        write_file(target, made.data)
        typer.echo(f"{target}: {len(made.data)} bytes")
    for reading in product.readings:
        typer.echo(f"{reading.label}: {reading.value:.6g} {reading.unit}".rstrip())
    readings = [{"label": each.label, "value": each.value, "unit": each.unit} for each in product.readings]
    return {"files": written, "readings": readings}


def write_report(path: Path | None, figures: dict[str, object]) -> None:
    if path is not None:
        write_file(path, (json.dumps(figures, indent=1) + "\n").encode())


def comma_list(text: str) -> tuple[str, ...]:
    """Return the words between commas, none of them empty."""
    return tuple(word.strip() for word in text.split(",") if word.strip())


@contextmanager
def progress(label: str) -> Iterator[Callable[[float], None]]:
    """Show on the terminal how much is done, once it takes a while; gives what is told the share done, 0-1."""
    begun, shown = time.monotonic(), -1

    def report(share: float) -> None:
        nonlocal shown
        percent = round(100 * min(1.0, share))
        # Quick work shows nothing: it would be gone before it was read.
        if percent != shown and time.monotonic() - begun >= _QUICK_S and sys.stderr.isatty():
            shown = percent
            typer.echo(f"\r{label} {percent:3d} %", nl=False, err=True)

    try:
        yield report
    finally:
        if shown >= 0:
            typer.echo("", err=True)
