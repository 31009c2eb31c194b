"""What a drawing is for decides what the picture leaves open: shading, and places that the figure encloses."""

from dataclasses import replace

from zeichen.core.methods import Figure, Inside, Method, Shading
from zeichen.core.proofing.yardstick import Process
from zeichen.core.tracing.settings import Trace, TraceSettings

# Whether each process makes shading as steps: what is cut, carved or printed in a few solid colours has one an area.
# Common practice, no source.
_SHADING = {
    Process.LASER_ENGRAVE: Shading.STEPS,
    Process.LASER_CUT: Shading.OUT,
    Process.CARVE: Shading.OUT,
    Process.RELIEF: Shading.OUT,
    Process.APPAREL: Shading.OUT,
    Process.STENCIL: Shading.OUT,
}
# On cloth and in filament a white eye that is left open shows what lies behind it; a beam or a bit leaves the blank.
# Common practice, no source.
_INSIDE = {
    process: Inside.KEEP if process in (Process.RELIEF, Process.APPAREL) else Inside.OPEN
    for process in Process
}
_NAMES = {
    Process.LASER_ENGRAVE: "engraving",
    Process.LASER_CUT: "cutting",
    Process.CARVE: "carving",
    Process.RELIEF: "a relief",
    Process.APPAREL: "garments",
    Process.STENCIL: "a stencil",
}


def for_process(settings: TraceSettings, process: Process | None) -> TraceSettings:
    """Return settings with what is left to chance decided by what the drawing is for.

    process: None if that is not known; then the settings stay as they are.
    """
    if process is None:
        return settings
    shading = _SHADING[process] if settings.shading is Shading.AUTO else settings.shading
    inside = settings.inside
    # So many colours asked for may say more about what is enclosed: see core.tracing.regions.flats.
    if inside is Inside.AUTO and (settings.method is not Method.FLATS or settings.colours is None):
        inside = _INSIDE[process]
    return replace(settings, shading=shading, inside=inside)


def choices_said(asked: TraceSettings, made: Trace, process: Process | None) -> tuple[str, ...]:
    """Return what a trace chose by itself, each in a line.

    asked: the settings before for_process.
    """
    because = f", for {_NAMES[process]}" if process is not None else ""
    lines = []
    if made.shading is not None and asked.shading is Shading.AUTO:
        words = "taken out" if made.shading is Shading.OUT else "in steps"
        lines.append(f"Shading {words}{because}.")
    if made.figure is Figure.WHOLE and asked.figure is Figure.AUTO:
        lines.append("The whole figure: a dark level would lose much of it.")
    if made.inside and asked.inside is Inside.AUTO:
        kept = sum(place.kept for place in made.inside)
        which = "kept" if kept == len(made.inside) else "left open" if not kept else f"kept, {kept} of them"
        lines.append(f"Places inside {which}{because}.")
    return tuple(lines)
