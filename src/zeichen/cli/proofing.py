"""Commands that judge a drawing at its finished size and mend it."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from zeichen.cli.files import (
    DrawingFile,
    OutFile,
    Report,
    WidthMm,
    comma_list,
    name_of,
    read_whole_drawing,
    require_svg_name,
    write_report,
    write_svg_file,
)
from zeichen.core.errors import InvalidInputError, ZeichenError
from zeichen.core.proofing.yardstick import Process

if TYPE_CHECKING:
    from zeichen.core.proofing import Finding, Kind, Proof

FOUND = 3
ProcessOption = Annotated[Process, typer.Option("--process", help="What will make it.")]


def add_proofing_commands(app: typer.Typer) -> None:
    """Add `check` and `mend`."""
    app.command()(check)
    app.command()(mend)


def check(
    drawings: Annotated[
        list[Path], typer.Argument(metavar="DRAWING...", help="SVG or DXF files; - for standard input.")
    ],
    process: ProcessOption,
    width_mm: WidthMm,
    report: Report = None,
) -> None:
    """Judge drawings at their finished size: exit code 0 if all are cut-ready, 3 if something was found.

    Of several files each is said by name; one that cannot be read does not keep the others from being judged.
    """
    from zeichen.core.proofing import Yardstick, proof

    yardstick = Yardstick.usual(process, width_mm=width_mm)
    figures: list[dict[str, Any]] = []
    unreadable: list[str] = []
    found = False
    for drawing in drawings:
        try:
            whole, not_taken = read_whole_drawing(drawing)
            result = proof(whole.shown(), yardstick)
        except ZeichenError as error:
            if len(drawings) == 1:
                raise
            unreadable.append(str(error))
            continue
        if len(drawings) > 1:
            typer.echo(f"{name_of(drawing)}:")
        found = _say(result, not_taken) or found
        named = {"file": name_of(drawing)} if len(drawings) > 1 else {}
        figures.append(
            {**named, "process": process.value, "width_mm": width_mm, **_judged(result, not_taken)}
        )
    if len(drawings) == 1:
        write_report(report, figures[0])
    else:
        write_report(report, {"drawings": figures, "not_read": unreadable})
    if unreadable:
        raise InvalidInputError("Not judged: " + " / ".join(unreadable))
    if found:
        raise typer.Exit(FOUND)


def mend(
    drawing: DrawingFile,
    process: ProcessOption,
    width_mm: WidthMm,
    out: OutFile,
    only: Annotated[
        str, typer.Option(help="Mend these kinds alone, separated by commas; all that are safe otherwise.")
    ] = "",
    report: Report = None,
) -> None:
    """Mend what can be without asking: exit code 0 if the result is cut-ready, 3 if findings remain."""
    from zeichen.core.formats.svg import write_svg
    from zeichen.core.proofing import Yardstick, mend_all

    require_svg_name(out)
    kinds = _kinds(only)
    yardstick = Yardstick.usual(process, width_mm=width_mm)
    whole, not_taken = read_whole_drawing(drawing)
    with typer.progressbar(length=100, label="Mending", file=_errors()) as bar:
        result = mend_all(
            whole.shown(),
            yardstick,
            only=kinds,
            step=lambda share: bar.update(max(0, round(100 * share) - bar.pos)),
        )
    write_svg_file(out, write_svg(result.drawing.with_hidden_of(whole)))
    write_report(
        report,
        {
            "process": process.value,
            "width_mm": width_mm,
            "done": [
                {
                    **_finding(done.finding),
                    "how": done.how.value,
                    "area_change_mm2": round(done.area_mm2, 4),
                    "node_change": done.nodes,
                    "bridges": [asdict(bridge) for bridge in done.bridges],
                }
                for done in result.done
            ],
            **_judged(result.proof, not_taken),
        },
    )
    typer.echo(f"{out}: {len(result.done)} mended")
    if _say(result.proof, not_taken):
        raise typer.Exit(FOUND)


def _errors() -> Any:
    import sys

    return sys.stderr


def _kinds(only: str) -> "tuple[Kind, ...] | None":
    from zeichen.core.proofing import Kind

    names = [name.replace("-", "_") for name in comma_list(only)]
    known = {kind.value for kind in Kind}
    unknown = [name for name in names if name not in known]
    if unknown:
        raise InvalidInputError(f"There is no finding {unknown[0]}. Known are: {', '.join(sorted(known))}.")
    return tuple(Kind(name) for name in names) or None


def _judged(result: "Proof", not_taken: list[str]) -> dict[str, Any]:
    return {
        "cut_ready": result.cut_ready and not not_taken,
        "not_taken": not_taken,
        "findings": [_finding(finding) for finding in result.findings],
        "readings": {
            "height_mm": round(result.readings.height_mm, 3),
            "shapes": result.readings.shapes,
            "paths": result.readings.paths,
            "closed_paths": result.readings.closed_paths,
            "nodes": result.readings.nodes,
            "pieces": result.readings.pieces,
            "thinnest_mm": result.readings.thinnest_mm,
            "smallest_gap_mm": result.readings.smallest_gap_mm,
        },
    }


def _finding(finding: "Finding") -> dict[str, Any]:
    return {
        "kind": finding.kind.value,
        "x_mm": round(finding.x_mm, 3),
        "y_mm": round(finding.y_mm, 3),
        "measured": finding.measured,
        "limit": finding.limit,
        "unit": finding.unit,
        "shape": finding.shape,
        "sure": finding.sure,
        "mends": [how.value for how in finding.mends],
    }


def _say(result: "Proof", not_taken: list[str]) -> bool:
    """Say what was found; returns whether anything stands in the way."""
    for f in result.findings:
        typer.echo(
            f"{f.kind.value.replace('_', ' ')} at {f.x_mm:.2f}, {f.y_mm:.2f} mm: {f.measured:g} {f.unit}, "
            f"limit {f.limit:g} {f.unit} ({f.shape})"
        )
    if not result.cut_ready:
        typer.echo(f"{len(result.findings)} to mend")
    else:
        typer.echo("cut-ready, but for what was not taken of the file" if not_taken else "cut-ready")
    return bool(not_taken) or not result.cut_ready
