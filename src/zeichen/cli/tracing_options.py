"""What the command that traces can be told."""

from pathlib import Path
from typing import Annotated

import typer

from zeichen.core.methods import AreaTone, Borders, Figure, Inside, MethodOrAuto, Shading, Strokes
from zeichen.core.proofing.yardstick import Process

ImagesOption = Annotated[list[Path], typer.Argument(metavar="IMAGE...")]
OutOption = Annotated[Path | None, typer.Option("--out", help="File to write, for one picture.")]
OutDirOption = Annotated[
    Path | None, typer.Option("--out-dir", help="Folder for the drawings, for any number of pictures.")
]
ExecutorOption = Annotated[
    str, typer.Option(help="Where a batch runs: local (two processes) or dask://HOST:PORT.")
]
MethodOption = Annotated[
    MethodOrAuto, typer.Option(help="How to trace; auto: as the picture wants, and says why.")
]
ProcessOption = Annotated[Process | None, typer.Option(help="What will make it; for what is auto.")]
LevelOption = Annotated[str, typer.Option(help="auto, or the lightest grey that counts as dark, 0-255.")]
ColoursOption = Annotated[str, typer.Option(help="auto, or how many colours (flats).")]
MinSpotPxOption = Annotated[
    float, typer.Option("--min-spot-px", help="Drop spots smaller than this area, px².")
]
TolerancePxOption = Annotated[
    float, typer.Option("--tolerance-px", help="How far curves may leave the picture's edge.")
]
InvertOption = Annotated[bool, typer.Option(help="Trace light on dark.")]
EvenLightOption = Annotated[
    bool, typer.Option("--even-light", help="Even out the light of a photo or scan first.")
]
KeepGroundOption = Annotated[bool, typer.Option("--keep-ground", help="Draw the ground too (flats).")]
BordersOption = Annotated[Borders, typer.Option(help="How areas of different colours meet (flats).")]
UnderlayMmOption = Annotated[
    float,
    typer.Option("--underlay-mm", help="How far an underlaid colour reaches under its neighbours, in mm."),
]
WidthMmOption = Annotated[
    float | None, typer.Option("--width-mm", help="The figure's finished width; for --underlay-mm.")
]
PaletteOption = Annotated[
    str, typer.Option(help="The colours to draw with (flats), for example '#f4e9d0,#24272b'.")
]
SamePaletteOption = Annotated[
    bool, typer.Option("--same-palette", help="Draw all pictures with the same colours (flats).")
]
ShadingOption = Annotated[
    Shading, typer.Option(help="Light and shade (flats): in steps, taken out, or as --process wants.")
]
ToneOption = Annotated[AreaTone, typer.Option(help="The colour of an area whose shading is taken out.")]
FigureOption = Annotated[
    Figure,
    typer.Option(help="What is dark (solid): what is darker than the level, or all that is not ground."),
]
InsideOption = Annotated[
    Inside,
    typer.Option(help="Enclosed places of the ground's colour: keep, leave open, or as --process wants."),
]
StrokesOption = Annotated[
    Strokes,
    typer.Option(help="Drawn lines (centreline): single strokes, or the outlines of what they cover."),
]
