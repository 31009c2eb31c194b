"""Commands. Exit codes: 0 done (for `check`: cut-ready), 2 bad use or bad input, 3 findings."""

import atexit
import gc
import json
import sys
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from zeichen.cli.bringing import add_bringing_command
from zeichen.cli.colouring import add_colouring_commands
from zeichen.cli.drawing import add_drawing_commands
from zeichen.cli.files import (
    OutFile,
    Report,
    WidthMm,
    comma_list,
    name_of,
    read_file,
    read_shown,
    stem_of,
    write_file,
    write_report,
)
from zeichen.cli.keeping import add_keeping_commands
from zeichen.cli.making import make_app
from zeichen.cli.proofing import add_proofing_commands
from zeichen.cli.tracing import add_tracing_command
from zeichen.core.errors import InvalidInputError, OutsideError, ZeichenError
from zeichen.core.formats.picture import picture_origin, write_png
from zeichen.core.packing import Listing, Origin, PackItem, make_pack, pack_origin
from zeichen.core.proofing.yardstick import Process

if TYPE_CHECKING:
    pass

BAD_INPUT = 2
# So many new objects before the first look for rubbish; Python's own 700 suits programs that load little.
_RUBBISH = 50_000

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    context_settings={"help_option_names": ["-h", "--help"]},
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="From an idea to files a machine can run.",
)
app.add_typer(make_app, name="make")
add_drawing_commands(app)
add_proofing_commands(app)
add_colouring_commands(app)
add_keeping_commands(app)
add_tracing_command(app)
add_bringing_command(app)


def _say_version(wanted: bool) -> None:
    if wanted:
        from importlib.metadata import version

        typer.echo(f"zeichen {version('zeichen')}")
        raise typer.Exit


@app.callback()
def _whole(
    version: Annotated[
        bool,
        typer.Option("--version", callback=_say_version, is_eager=True, help="Say which version this is."),
    ] = False,
) -> None:
    pass


@app.command("forecast")
def forecast_picture(
    image: Annotated[Path, typer.Argument(metavar="IMAGE")],
    process: Annotated[Process, typer.Option(help="What will make it.")],
    width_mm: WidthMm,
    report: Report = None,
) -> None:
    """Say how well a picture will trace at its finished size, and what would help."""
    from zeichen.core.proofing import Yardstick
    from zeichen.jobs.forecasts import forecast_data, forecast_file

    found = forecast_file(read_file(image), Yardstick.usual(process, width_mm=width_mm))
    write_report(report, asdict(forecast_data(found)))
    typer.echo(f"{found.verdict.value}, by {found.method.value}: {found.why}")
    for reason in found.reasons:
        cure = f" (cure: {reason.cure.kind})" if reason.cure is not None else ""
        typer.echo(f"  {reason.words}{cure}")


@app.command()
def clean(
    image: Annotated[Path, typer.Argument(metavar="IMAGE")],
    out: OutFile,
    suggest: Annotated[bool, typer.Option("--suggest", help="Do what the forecast suggests.")] = False,
    process: Annotated[Process | None, typer.Option(help="What will make it; for --suggest.")] = None,
    width_mm: Annotated[
        float | None, typer.Option("--width-mm", help="The figure's finished width; for --suggest.")
    ] = None,
    steps: Annotated[Path | None, typer.Option(help="JSON file with a list of steps.")] = None,
    report: Report = None,
) -> None:
    """Clean a picture up before it is traced; the steps done are in the report and can be used again."""
    from zeichen.core.formats.picture import read_picture
    from zeichen.core.proofing import Yardstick
    from zeichen.core.raster.clean import cleaned, steps_from_data, steps_to_data
    from zeichen.jobs.forecasts import forecast_file

    if suggest == (steps is not None):
        raise InvalidInputError("Give either --suggest with --process and --width-mm, or --steps FILE.")
    data = read_file(image)
    if steps is not None:
        chain = steps_from_data(_json_steps(steps))
    else:
        if process is None or width_mm is None:
            raise InvalidInputError(
                "--suggest needs --process and --width-mm: what helps depends on the finished size."
            )
        chain = forecast_file(data, Yardstick.usual(process, width_mm=width_mm)).suggested
    picture = cleaned(read_picture(data), chain)
    write_file(out, write_png(picture.rgb, origin=picture_origin(data)))
    write_report(
        report, {"steps": steps_to_data(chain), "width_px": picture.width_px, "height_px": picture.height_px}
    )
    done = ", ".join(step.kind for step in chain if step.on) or "nothing to do"
    typer.echo(f"{out}: {picture.width_px} x {picture.height_px} px, {done}")


@app.command()
def pack(
    drawings: Annotated[list[Path], typer.Argument(metavar="DRAWING...")],
    title: Annotated[str, typer.Option(help="What the pack is called.")],
    out: OutFile,
    width_mm: Annotated[float, typer.Option("--width-mm", help="Width of each figure in mm.")] = 200.0,
    keywords: Annotated[str, typer.Option(help="Separated by commas.")] = "",
    description: Annotated[str, typer.Option(help="For the listing.")] = "",
    origin: Annotated[
        Origin | None,
        typer.Option(
            help="machine: a picture generator was used; hand: it was not. Needed for drawings whose file does not say."
        ),
    ] = None,
    report: Report = None,
) -> None:
    """Write one ZIP with SVG, EPS, PDF, DXF, PNG, JPEG and the listing."""
    items = []
    not_taken: dict[str, list[str]] = {}
    for path in drawings:
        drawing, missing = read_shown(path)
        items.append(PackItem(stem_of(path), drawing, width_mm))
        if missing:
            not_taken[name_of(path)] = missing
    listing = Listing(title, description, comma_list(keywords))
    made_by = pack_origin([item.drawing.origin for item in items], told=origin)
    if made_by is None:
        silent = next(
            name_of(path) for path, item in zip(drawings, items, strict=True) if item.drawing.origin is None
        )
        raise InvalidInputError(
            f"{silent} does not say how its picture came about: add --origin machine if a picture generator was used, "
            "--origin hand if none was."
        )
    write_file(out, make_pack(items, replace(listing, origin=made_by)))
    write_report(report, {"motifs": [item.name for item in items], "not_taken": not_taken})
    typer.echo(f"{out}: {len(items)} motifs")


@app.command()
def serve() -> None:
    """Start the app on 127.0.0.1."""
    from zeichen.api.server import serve as run

    run()


@app.command()
def demo() -> None:
    """Seed the Pippin Row scenario if the data folder is new, and start the app."""
    from zeichen.api.server import serve as run

    run(with_demo=True)


def main() -> None:
    """Run the command line; expected errors become one line on standard error and exit code 2."""
    # Loading numpy, OpenCV and numba makes hundreds of thousands of objects that stay: looking through them
    # for rubbish again and again takes a tenth of a short command's time.
    gc.set_threshold(_RUBBISH)
    # And taking them apart one by one at the end takes a fifth of it: they go with the process.
    atexit.register(gc.freeze)
    try:
        app()
    except (InvalidInputError, OutsideError, ZeichenError) as error:
        typer.echo(f"zeichen: {error}", err=True)
        sys.exit(BAD_INPUT)
    except (MemoryError, RecursionError):
        typer.echo(
            "zeichen: This needs more memory than there is. Try something smaller or plainer.", err=True
        )
        sys.exit(BAD_INPUT)


def _json_steps(path: Path) -> object:
    """Return what a file of steps or an earlier report holds."""
    raw = read_file(path)
    try:
        data = json.loads(raw)
    except ValueError as error:
        raise InvalidInputError(f"{path} is not JSON: {error}. Write a list of steps.") from error
    return data["steps"] if isinstance(data, dict) and "steps" in data else data
