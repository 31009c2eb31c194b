"""Commands that change what a drawing says and shows: its colours, and letters."""

from typing import Annotated

import typer

from zeichen.cli.files import DrawingFile, OutFile, Report, read_whole_drawing, write_report, write_svg_file
from zeichen.core.errors import InvalidInputError
from zeichen.core.values import require_number


def add_colouring_commands(app: typer.Typer) -> None:
    """Add `recolour` and `letter`."""
    app.command()(recolour)
    app.command()(letter)


def recolour(
    drawing: DrawingFile,
    out: OutFile,
    pairs: Annotated[
        str, typer.Option("--map", help="'old=new,...', each #rrggbb, #rgb or a name such as teal.")
    ] = "",
    harmony: Annotated[
        str,
        typer.Option(help="complementary, analogous, triadic, split, tetradic or monochrome."),
    ] = "",
    seed: Annotated[int, typer.Option(help="Which palette of the harmony.")] = 0,
    words: Annotated[str, typer.Option(help="A palette in words, for example 'pale moss and honey'.")] = "",
    pick: Annotated[int, typer.Option(help="Which of the palettes that words lead to, from 1 on.")] = 1,
    report: Report = None,
) -> None:
    """Change a drawing's colours and nothing else, by pairs, by harmony or by words."""
    from zeichen.core.colour import by_map, fills, harmonised, proposals_from_words, recoloured
    from zeichen.core.formats.svg import write_svg

    if sum(map(bool, (pairs, harmony, words))) != 1:
        raise InvalidInputError("Give one of --map, --harmony and --words.")
    source, not_taken = read_whole_drawing(drawing)
    colours = list(fills(source))
    if pairs:
        change = by_map(pairs)
    elif harmony:
        change = harmonised(colours, harmony, seed=seed)
    else:
        found = proposals_from_words(colours, words)
        require_number(pick, "Pick", least=1, most=len(found.ways))
        change = found.ways[pick - 1].change
        for word in found.unknown:
            typer.echo(f"Passed over: the dictionary has no word {word}.", err=True)
    made = recoloured(source, change)
    write_svg_file(out, write_svg(made))
    write_report(report, {"map": change, "shares": fills(made), "not_taken": not_taken})
    for old, new in change.items():
        typer.echo(f"{old} -> {new}")


def letter(
    text: Annotated[str, typer.Argument(metavar="TEXT", help="What to set; \\n starts a new line.")],
    font: Annotated[str, typer.Option(help="Its name; an unknown one lists all.")],
    cap_height_mm: Annotated[
        float, typer.Option("--cap-height-mm", help="How high the capitals are, in mm.")
    ],
    out: OutFile,
    arch: Annotated[
        float | None, typer.Option(help="Degrees of a circle the line spans; below 0 it hangs.")
    ] = None,
    circle: Annotated[bool, typer.Option(help="All around a circle.")] = False,
    bulge: Annotated[float | None, typer.Option(help="How much higher the middle is, in parts.")] = None,
    wave: Annotated[float | None, typer.Option(help="How high the wave is, in cap heights.")] = None,
    tracking: Annotated[float, typer.Option(help="Added between letters, in cap heights.")] = 0.0,
    fill: Annotated[str, typer.Option(help="Colour.")] = "#24272b",
    report: Report = None,
) -> None:
    """Set letters as outlines (or single strokes) at a true size, straight or bent."""
    from zeichen.core.formats.svg import write_svg
    from zeichen.core.lettering import Bend, LetterOrder, font_named, lettered

    bends = {
        Bend.ARCH: arch,
        Bend.CIRCLE: 1.0 if circle else None,
        Bend.BULGE: bulge,
        Bend.WAVE: wave,
    }
    asked = [(bend, by) for bend, by in bends.items() if by is not None]
    if len(asked) > 1:
        raise InvalidInputError("Give one of --arch, --circle, --bulge and --wave.")
    bend, by = asked[0] if asked else (Bend.STRAIGHT, 0.0)
    order = LetterOrder(text.replace("\\n", "\n"), font, cap_height_mm, bend, by, tracking, fill)
    made = lettered(order)
    write_svg_file(out, write_svg(made, unit="mm"))
    chosen = font_named(font)
    figures = {
        "font": chosen.key,
        "width_mm": round(made.width, 3),
        "height_mm": round(made.height, 3),
        "nodes": made.node_count,
        "licence": chosen.licence().splitlines()[0],
    }
    write_report(report, figures)
    typer.echo(f"{out}: {made.width:.1f} x {made.height:.1f} mm, {made.node_count} nodes, {chosen.title}")
