"""The commands that write the files of one process."""

from typing import Annotated

import typer

from zeichen.cli.files import (
    DrawingFile,
    OutDir,
    Report,
    WidthMm,
    read_shown,
    stem_of,
    write_product,
    write_report,
)
from zeichen.core.errors import InvalidInputError

make_app = typer.Typer(no_args_is_help=True, rich_markup_mode=None, help="Write the files of one process.")


@make_app.command("laser")
def make_laser(
    drawing: DrawingFile,
    width_mm: WidthMm,
    out_dir: OutDir,
    engrave: Annotated[bool, typer.Option(help="Engrave the dark areas.")] = True,
    cut: Annotated[
        str, typer.Option(help="none, shapes (the figure's outlines) or around (a tag).")
    ] = "around",
    spacing_mm: Annotated[float, typer.Option(help="Between engraved lines.")] = 0.1,
    kerf_mm: Annotated[float, typer.Option(help="Width of a cut.")] = 0.16,
    margin_mm: Annotated[float, typer.Option(help="Border of the tag around the figure.")] = 4.0,
    hole_mm: Annotated[float, typer.Option(help="Diameter of a hanging hole, 0 for none.")] = 0.0,
    passes: Annotated[int, typer.Option(help="Cutting passes.")] = 1,
    report: Report = None,
) -> None:
    """Write an SVG in mm and G-code: engrave first, inner cuts before outer ones."""
    from zeichen.core.making import laser
    from zeichen.standins.laser import rehearse

    if cut not in list(laser.CutLine):
        raise InvalidInputError(f"Cut must be one of {', '.join(laser.CutLine)}; got {cut}.")
    settings = laser.LaserSettings(
        engrave=engrave,
        cut=laser.CutLine(cut),
        spacing_mm=spacing_mm,
        kerf_mm=kerf_mm,
        margin_mm=margin_mm,
        hole_mm=hole_mm,
        cut_passes=passes,
    )
    source, not_taken = read_shown(drawing)
    product = laser.make_laser(source, settings, width_mm=width_mm, title=stem_of(drawing))
    figures = write_product(product, drawing, out_dir)
    write_report(report, {**figures, "not_taken": not_taken})
    rehearsal = rehearse(product.files[1].data.decode())
    typer.echo(f"rehearsal: {rehearsal.seconds / 60:.1f} min")
    for warning in rehearsal.warnings:
        typer.echo(f"warning: {warning}", err=True)


@make_app.command("carve")
def make_carve(
    drawing: DrawingFile,
    width_mm: WidthMm,
    out_dir: OutDir,
    entity: Annotated[str, typer.Option(help="spline or polyline.")] = "spline",
    report: Report = None,
) -> None:
    """Write the outlines as DXF in mm."""
    from zeichen.core.formats.dxf import Entity
    from zeichen.core.making import carve

    if entity not in list(Entity):
        raise InvalidInputError(f"Entity must be one of {', '.join(Entity)}; got {entity}.")
    source, not_taken = read_shown(drawing)
    product = carve.make_carve(source, carve.CarveSettings(Entity(entity)), width_mm=width_mm)
    write_report(report, {**write_product(product, drawing, out_dir), "not_taken": not_taken})


@make_app.command("relief")
def make_relief(
    drawing: DrawingFile,
    width_mm: WidthMm,
    out_dir: OutDir,
    base_mm: Annotated[float, typer.Option(help="Height of the base.")] = 2.0,
    raised_mm: Annotated[float, typer.Option(help="Height of the figure above it.")] = 1.0,
    layer_mm: Annotated[float, typer.Option(help="Layer height; both heights are multiples of it.")] = 0.2,
    margin_mm: Annotated[float, typer.Option(help="Base beyond the figure.")] = 3.0,
    form: Annotated[str, typer.Option(help="plate or outline.")] = "plate",
    report: Report = None,
) -> None:
    """Write a watertight STL and a two-colour 3MF."""
    from zeichen.core.making import relief

    if form not in list(relief.BaseForm):
        raise InvalidInputError(f"Form must be one of {', '.join(relief.BaseForm)}; got {form}.")
    settings = relief.ReliefSettings(
        base_mm=base_mm,
        raised_mm=raised_mm,
        layer_mm=layer_mm,
        margin_mm=margin_mm,
        form=relief.BaseForm(form),
    )
    source, not_taken = read_shown(drawing)
    product = relief.make_relief(source, settings, width_mm=width_mm, title=stem_of(drawing))
    write_report(report, {**write_product(product, drawing, out_dir), "not_taken": not_taken})


@make_app.command("apparel")
def make_apparel(
    drawing: DrawingFile,
    width_mm: WidthMm,
    out_dir: OutDir,
    top_mm: Annotated[float, typer.Option(help="Distance from the print area's top edge.")] = 40.0,
    report: Report = None,
) -> None:
    """Write a 4500 x 5400 px transparent PNG at 300 dpi."""
    from zeichen.core.making import apparel

    source, not_taken = read_shown(drawing)
    product = apparel.make_apparel(source, apparel.ApparelSettings(top_mm=top_mm), width_mm=width_mm)
    write_report(report, {**write_product(product, drawing, out_dir), "not_taken": not_taken})
