"""What several commands read and write, and how they name it."""

import json
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
DrawingFile = Annotated[Path, typer.Argument(metavar="DRAWING.svg")]
WidthMm = Annotated[float, typer.Option("--width-mm", help="Finished width of the figure in mm.")]
OutDir = Annotated[Path, typer.Option("--out-dir", help="Folder for the files.")]


def read_file(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except FileNotFoundError:
        raise InvalidInputError(f"There is no file {path}. Check the name.") from None
    except OSError as error:
        raise InvalidInputError(f"{path} cannot be read: {error.strerror}.") from error


def read_drawing(path: Path) -> Drawing:
    """Return the drawing in a file without what is hidden in it: that is neither judged nor made."""
    return read_whole_drawing(path)[0].shown()


def read_whole_drawing(path: Path) -> tuple[Drawing, list[str]]:
    """Return the drawing in a file with its hidden shapes, and what was not taken of it, which is also said."""
    from zeichen.core.formats.svg_reading import read_whole_svg

    drawing, not_taken = read_whole_svg(read_file(path))
    for line in not_taken:
        typer.echo(f"{path}: not taken: {line}", err=True)
    return drawing, not_taken


def write_file(path: Path, data: bytes) -> None:
    from zeichen.store.files import write_atomically

    write_atomically(path, data)


def write_product(product: "Product", drawing: Path, out_dir: Path) -> None:
    for made in product.files:
        stem, _, ending = made.name.partition(".")
        target = out_dir / f"{file_stem(drawing.stem)}-{stem}.{ending}"
        write_file(target, made.data)
        typer.echo(f"{target}: {len(made.data)} bytes")
    for reading in product.readings:
        typer.echo(f"{reading.label}: {reading.value:.6g} {reading.unit}".rstrip())


def write_report(path: Path | None, figures: dict[str, object]) -> None:
    if path is not None:
        write_file(path, (json.dumps(figures, indent=1) + "\n").encode())


def comma_list(text: str) -> tuple[str, ...]:
    """Return the words between commas, none of them empty."""
    return tuple(word.strip() for word in text.split(",") if word.strip())
