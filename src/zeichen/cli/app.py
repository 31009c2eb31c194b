"""Commands. Exit codes: 0 done (for `check`: cut-ready), 2 bad use or bad input, 3 findings."""

import atexit
import gc
import json
import sys
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from zeichen.cli.colouring import add_colouring_commands
from zeichen.cli.drawing import add_drawing_commands
from zeichen.cli.files import (
    OutFile,
    Report,
    WidthMm,
    comma_list,
    name_of,
    progress,
    read_file,
    read_shown,
    require_svg_name,
    stem_of,
    write_file,
    write_report,
    write_svg_file,
)
from zeichen.cli.keeping import add_keeping_commands
from zeichen.cli.making import make_app
from zeichen.cli.proofing import add_proofing_commands
from zeichen.core.errors import InvalidInputError, OutsideError, ZeichenError
from zeichen.core.formats.picture import picture_origin, write_png
from zeichen.core.methods import Borders, Method, MethodOrAuto
from zeichen.core.packing import Listing, Origin, PackItem, file_stems, make_pack, pack_origin
from zeichen.core.proofing.yardstick import DRAWING_LINES, Process
from zeichen.core.values import require_number

if TYPE_CHECKING:
    from zeichen.jobs.tracing import TraceOrder

BAD_INPUT = 2
# What shells give for a program that was stopped by a key (128 and the signal's number).
STOPPED = 130
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


@app.command()
def trace(
    images: Annotated[list[Path], typer.Argument(metavar="IMAGE...")],
    out: Annotated[Path | None, typer.Option("--out", help="File to write, for one picture.")] = None,
    out_dir: Annotated[
        Path | None, typer.Option("--out-dir", help="Folder for the drawings, for any number of pictures.")
    ] = None,
    executor: Annotated[
        str, typer.Option(help="Where a batch runs: local (two processes) or dask://HOST:PORT.")
    ] = "local",
    method: Annotated[
        MethodOrAuto, typer.Option(help="How to trace; auto: as the picture wants, and says why.")
    ] = MethodOrAuto.AUTO,
    process: Annotated[Process | None, typer.Option(help="What will make it; for --method auto.")] = None,
    level: Annotated[
        str, typer.Option(help="auto, or the lightest grey that counts as dark, 0-255.")
    ] = "auto",
    colours: Annotated[str, typer.Option(help="auto, or how many colours (flats).")] = "auto",
    min_spot_px: Annotated[
        float, typer.Option("--min-spot-px", help="Drop spots smaller than this area, px².")
    ] = 16.0,
    tolerance_px: Annotated[
        float, typer.Option("--tolerance-px", help="How far curves may leave the picture's edge.")
    ] = 0.2,
    invert: Annotated[bool, typer.Option(help="Trace light on dark.")] = False,
    even_light: Annotated[
        bool, typer.Option("--even-light", help="Even out the light of a photo or scan first.")
    ] = False,
    keep_ground: Annotated[bool, typer.Option("--keep-ground", help="Draw the ground too (flats).")] = False,
    borders: Annotated[
        Borders, typer.Option(help="How areas of different colours meet (flats).")
    ] = Borders.SIDE_BY_SIDE,
    underlay_mm: Annotated[
        float,
        typer.Option(
            "--underlay-mm", help="How far an underlaid colour reaches under its neighbours, in mm."
        ),
    ] = 0.3,
    width_mm: Annotated[
        float | None, typer.Option("--width-mm", help="The figure's finished width; for --underlay-mm.")
    ] = None,
    palette: Annotated[
        str, typer.Option(help="The colours to draw with (flats), for example '#f4e9d0,#24272b'.")
    ] = "",
    same_palette: Annotated[
        bool, typer.Option("--same-palette", help="Draw all pictures with the same colours (flats).")
    ] = False,
    report: Report = None,
) -> None:
    """Trace a picture, or many with --out-dir, into closed paths."""
    _spare_blas()
    from zeichen.core.tracing.settings import TraceSettings
    from zeichen.jobs.tracing import TraceOrder, trace_file

    if method is MethodOrAuto.AUTO and (
        colours != "auto" or palette or same_palette or keep_ground or borders is Borders.UNDERLAID
    ):
        # Whoever asks for colours wants flats.
        method = MethodOrAuto.FLATS
    auto = method is MethodOrAuto.AUTO
    settings = TraceSettings(
        method=Method.SOLID if auto else Method(method.value),
        level=_count_or_auto(level, "Level", 0, 255),
        min_spot_px2=min_spot_px,
        tolerance_px=tolerance_px,
        invert=invert,
        colours=_count_or_auto(colours, "Colours", 1, 30),
        palette=comma_list(palette),
        keep_ground=keep_ground,
        even_light=even_light,
    )
    under: float | None = None
    if borders is Borders.UNDERLAID:
        if width_mm is None:
            raise InvalidInputError(
                "--borders underlaid needs --width-mm: the margin is in mm at the finished size."
            )
        require_number(width_mm, "Width", least=1, most=10_000, unit="mm")
        under = require_number(underlay_mm, "Underlay", least=0.01, most=20, unit="mm")
    if same_palette:
        settings = replace(settings, palette=_common_palette(images, settings.colours))
    lines = process is None or process in DRAWING_LINES
    like = TraceOrder("", b"", settings, under, width_mm, auto, lines)
    if out_dir is not None:
        if out is not None or report is not None:
            raise InvalidInputError(
                "--out and --report are for one picture; with --out-dir each has its own."
            )
        _trace_batch(images, like, out_dir, executor)
        return
    if len(images) != 1 or out is None:
        raise InvalidInputError("Give one picture and --out FILE, or any number and --out-dir FOLDER.")
    require_svg_name(out)
    order = replace(like, name=str(images[0]), data=read_file(images[0]))
    with progress("Tracing") as step:
        made = trace_file(order, step)
    write_svg_file(out, made.svg)
    write_report(report, made.figures)
    if auto:
        typer.echo(f"{made.figures['method']}: {made.figures['why']}")
    typer.echo(
        f"{out}: {made.figures['shapes']} shapes, {made.figures['nodes']} nodes, "
        f"{made.figures['deviation_px']['mean']:.3f} px off the picture on average"
    )


def _common_palette(images: list[Path], colours: int | None) -> tuple[str, ...]:
    """Return the colours of all pictures together."""
    from zeichen.core.formats.picture import read_picture
    from zeichen.core.raster.colours import common_palette, hex_colour

    found = common_palette(
        [read_picture(read_file(image)).rgb for image in images],
        colours=None if colours is None else colours + 1,
    )
    return tuple(hex_colour(rgb) for rgb in found.rgb)


def _trace_batch(
    images: list[Path],
    like: "TraceOrder",
    out_dir: Path,
    where: str,
) -> None:
    """Trace many pictures, a progress bar on standard error; what fails is said at the end."""
    from zeichen.jobs.batch import executor_for, run_batch
    from zeichen.jobs.tracing import trace_file

    failed: list[str] = []
    orders, stems = [], []
    for image, stem in zip(images, file_stems([image.stem for image in images]), strict=True):
        try:
            orders.append(replace(like, name=str(image), data=read_file(image)))
            stems.append(stem)
        except InvalidInputError as error:
            failed.append(str(error))
    open_ones = dict(enumerate(order.name for order in orders))
    try:
        with executor_for(where, len(orders)) as crew, progress("Tracing") as report:
            for number, result in run_batch(crew, trace_file, orders, report=report):
                name = Path(open_ones.pop(number))
                if isinstance(result, ZeichenError):
                    failed.append(f"{name}: {result}")
                    continue
                target = out_dir / f"{stems[number]}.svg"
                write_file(target, result.svg.encode())
                write_report(target.with_suffix(".json"), result.figures)
    except KeyboardInterrupt:
        done = len(images) - len(failed) - len(open_ones)
        typer.echo(
            f"Stopped: {done} of {len(images)} traced into {out_dir}, these are kept. "
            f"Not traced: {', '.join([*failed, *open_ones.values()])}.",
            err=True,
        )
        raise typer.Exit(STOPPED) from None
    typer.echo(f"{len(images) - len(failed)} of {len(images)} traced into {out_dir}")
    if failed:
        raise InvalidInputError("Not traced: " + " / ".join(failed))


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


def _count_or_auto(text: str, name: str, least: int, most: int) -> int | None:
    if text == "auto":
        return None
    if not text.isdigit() or not least <= int(text) <= most:
        raise InvalidInputError(f"{name} must be auto or a whole number from {least} to {most}; got {text}.")
    return int(text)


def _spare_blas() -> None:
    """Load numba without scipy's linear algebra, which it looks for and no kernel uses: a fifth of a second."""
    blas = "scipy.linalg.cython_blas"
    if blas in sys.modules:
        return
    sys.modules[blas] = None  # type: ignore[assignment]
    try:
        import numba.np.arraymath  # noqa: F401
    finally:
        del sys.modules[blas]
