"""The command that traces."""

import sys
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from zeichen.cli import tracing_options as options
from zeichen.cli.files import (
    Report,
    comma_list,
    progress,
    read_file,
    require_svg_name,
    write_file,
    write_report,
    write_svg_file,
)
from zeichen.core.errors import InvalidInputError, ZeichenError
from zeichen.core.methods import (
    MIN_SPOT_PX2,
    TOLERANCE_PX,
    UNDERLAY_MM,
    AreaTone,
    Borders,
    Figure,
    Inside,
    Method,
    MethodOrAuto,
    Shading,
    Strokes,
)
from zeichen.core.packing import file_stems
from zeichen.core.values import require_number

if TYPE_CHECKING:
    from zeichen.jobs.tracing import TraceOrder

# What shells give for a program that was stopped by a key (128 and the signal's number).
STOPPED = 130


def add_tracing_command(app: typer.Typer) -> None:
    """Add the command to an app."""
    app.command("trace")(_trace)


def _trace(
    images: options.ImagesOption,
    out: options.OutOption = None,
    out_dir: options.OutDirOption = None,
    executor: options.ExecutorOption = "local",
    method: options.MethodOption = MethodOrAuto.AUTO,
    process: options.ProcessOption = None,
    level: options.LevelOption = "auto",
    colours: options.ColoursOption = "auto",
    min_spot_px: options.MinSpotPxOption = MIN_SPOT_PX2,
    tolerance_px: options.TolerancePxOption = TOLERANCE_PX,
    invert: options.InvertOption = False,
    even_light: options.EvenLightOption = False,
    keep_ground: options.KeepGroundOption = False,
    borders: options.BordersOption = Borders.SIDE_BY_SIDE,
    underlay_mm: options.UnderlayMmOption = UNDERLAY_MM,
    width_mm: options.WidthMmOption = None,
    palette: options.PaletteOption = "",
    same_palette: options.SamePaletteOption = False,
    shading: options.ShadingOption = Shading.AUTO,
    tone: options.ToneOption = AreaTone.MIDDLE,
    figure: options.FigureOption = Figure.AUTO,
    inside: options.InsideOption = Inside.AUTO,
    strokes: options.StrokesOption = Strokes.SINGLE,
    report: Report = None,
) -> None:
    """Trace a picture, or many with --out-dir, into closed paths."""
    _spare_blas()
    from zeichen.core.tracing.settings import TraceSettings
    from zeichen.jobs.tracing import TraceOrder

    if method is MethodOrAuto.AUTO and (
        colours != "auto"
        or palette
        or same_palette
        or keep_ground
        or borders is Borders.UNDERLAID
        or shading is not Shading.AUTO
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
        shading=shading,
        tone=tone,
        figure=figure,
        inside=inside,
        strokes=strokes,
    )
    under = _underlay(width_mm, underlay_mm) if borders is Borders.UNDERLAID else None
    if same_palette:
        settings = replace(settings, palette=_common_palette(images, settings.colours))
    like = TraceOrder("", b"", settings, under, width_mm, auto, process)
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
    _trace_one(images[0], like, out, report)


def _underlay(width_mm: float | None, underlay_mm: float) -> float:
    """Return how far an underlaid colour reaches, mm, once it can be told."""
    if width_mm is None:
        raise InvalidInputError(
            "--borders underlaid needs --width-mm: the margin is in mm at the finished size."
        )
    require_number(width_mm, "Width", least=1, most=10_000, unit="mm")
    return require_number(underlay_mm, "Underlay", least=0.01, most=20, unit="mm")


def _trace_one(image: Path, like: "TraceOrder", out: Path, report: Path | None) -> None:
    """Trace one picture, and say what was made of it."""
    from zeichen.jobs.tracing import trace_file

    order = replace(like, name=str(image), data=read_file(image))
    with progress("Tracing") as step:
        made = trace_file(order, step)
    write_svg_file(out, made.svg)
    write_report(report, made.figures)
    if like.auto:
        typer.echo(f"{made.figures['method']}: {made.figures['why']}")
    for line in made.figures["chosen"]:
        typer.echo(f"  {line}")
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
