"""The commands that come before tracing: compose wordings, draw sketches."""

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from zeichen.cli.files import OutFile, Report, comma_list, read_file, write_file, write_report
from zeichen.core.briefing import (
    ALL_RULES,
    Detail,
    HouseStyle,
    Look,
    Manner,
    PictureFormat,
    Reach,
    SketchOrder,
    Variation,
    compose_all,
    compose_wording,
    manner_after,
    parse_subjects,
)
from zeichen.core.briefing.subjects import SubjectLine
from zeichen.core.errors import InvalidInputError
from zeichen.core.provenance import Origin


class FaultLevel(StrEnum):
    """How often the stand-in's pictures carry the accidents of generated ones."""

    NONE = "none"
    USUAL = "usual"
    MANY = "many"


Palette = Annotated[str, typer.Option(help="Colours of a flat drawing, for example '#f4e9d0,#24272b'.")]
Colours = Annotated[int | None, typer.Option(help="Most colours of a flat drawing.")]
HowMuch = Annotated[Detail, typer.Option(help="How much is drawn inside the figure.")]
Shape = Annotated[PictureFormat, typer.Option("--format", help="Shape of the picture.")]


def add_drawing_commands(app: typer.Typer) -> None:
    """Add the commands of this module."""
    app.command()(words)
    app.command()(sketch)


def words(
    subjects: Annotated[Path, typer.Option(help="Text file with one subject a line: what | pose | note.")],
    out: OutFile,
    look: Annotated[Look, typer.Option(help="House style: look.")] = Look.SILHOUETTE,
    rules: Annotated[
        str, typer.Option(help=f"all, none, or some of {', '.join(ALL_RULES)}, with commas.")
    ] = "all",
    detail: HowMuch = Detail.SOME,
    colours: Colours = None,
    palette: Palette = "",
    picture_format: Shape = PictureFormat.SQUARE,
    line_mm: Annotated[
        float | None, typer.Option("--line-mm", help="Line weight on the finished piece; with --width-mm.")
    ] = None,
    width_mm: Annotated[
        float | None, typer.Option("--width-mm", help="Finished width of the figure.")
    ] = None,
) -> None:
    """Write the wording of each subject, one a line, for any picture generator."""
    if line_mm is not None and width_mm is None:
        raise InvalidInputError("--line-mm needs --width-mm: a generator knows only its picture, not mm.")
    found = parse_subjects(_text(subjects))
    style = HouseStyle(look, line_mm, detail, colours, comma_list(palette), picture_format)
    lines = tuple(line for line in found.lines if line.on)
    if not lines:
        raise InvalidInputError(f"{subjects} names no subject. Write one a line, for example: snail.")
    made = compose_all(lines, style=style, rule_keys=_rules(rules), width_mm=width_mm)
    write_file(out, ("\n".join(made) + "\n").encode())
    for name in found.repeated:
        typer.echo(f"{name} is there more than once; the first counts", err=True)
    typer.echo(f"{out}: {len(made)} wordings")


def sketch(
    subject: Annotated[str, typer.Option(help="What to draw, for example: snail.")],
    out: OutFile,
    look: Annotated[Look, typer.Option(help="House style: look.")] = Look.SILHOUETTE,
    seed: Annotated[int, typer.Option(help="The same seed gives the same picture.")] = 1,
    size_px: Annotated[int, typer.Option(help="Longer side in px.")] = 1024,
    faults: Annotated[
        FaultLevel, typer.Option(help="How often the accidents of generated pictures happen.")
    ] = FaultLevel.USUAL,
    like: Annotated[
        Path | None, typer.Option(help="Picture whose line weight, corners, detail and colours to follow.")
    ] = None,
    pose: Annotated[str, typer.Option(help="For example: facing left, leaning right, upright.")] = "",
    rules: Annotated[str, typer.Option(help="all, none, or some of the rules, with commas.")] = "all",
    detail: Annotated[Detail | None, typer.Option(help="How much is drawn inside the figure.")] = None,
    colours: Colours = None,
    palette: Palette = "",
    picture_format: Shape = PictureFormat.SQUARE,
    vary: Annotated[
        list[str] | None,
        typer.Option(
            help="near:SEED or far:SEED, a step from the picture; repeat for steps after each other."
        ),
    ] = None,
    report: Report = None,
) -> None:
    """Draw a sketch with the stand-in studio."""
    from zeichen.core.formats.picture import read_picture, write_png
    from zeichen.core.raster.style_reading import read_style
    from zeichen.standins.studio import Faults, Studio

    manner = Manner(detail=detail, colours=colours, palette=comma_list(palette))
    figures: dict[str, object] = {}
    if like is not None:
        reading = read_style(read_picture(read_file(like)))
        manner = manner_after(reading, manner)
        figures["reference"] = {
            "line_share": reading.line_share,
            "corner_share": reading.corner_share,
            "detail": reading.detail,
            "palette": list(reading.palette),
        }
    wording = compose_wording(
        SubjectLine(subject, pose), style=HouseStyle(look, format=picture_format), rule_keys=_rules(rules)
    )
    order = SketchOrder(
        subject,
        look,
        seed,
        wording,
        size_px,
        pose,
        picture_format,
        manner,
        tuple(map(_variation, vary or ())),
    )
    drawn = Studio(faults=Faults[faults.name].value).draw_openly(order)
    write_file(out, write_png(drawn.picture.rgb, origin=Origin.MACHINE))
    write_report(
        report,
        {
            "wording": wording,
            "seed": seed,
            "faults": sorted(fault.value for fault in drawn.faults),
            **figures,
        },
    )
    typer.echo(f"{out}: {drawn.picture.width_px} x {drawn.picture.height_px} px")


def _variation(text: str) -> Variation:
    reach, _, seed = text.partition(":")
    if reach not in list(Reach) or not seed.isdigit():
        raise InvalidInputError(f"A variation is written near:SEED or far:SEED; got {text}.")
    return Variation(Reach(reach), int(seed))


def _rules(text: str) -> tuple[str, ...]:
    if text in ("all", "none"):
        return ALL_RULES if text == "all" else ()
    return comma_list(text)


def _text(path: Path) -> str:
    try:
        return read_file(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InvalidInputError(f"{path} is not text. Save it as plain text (UTF-8).") from error
