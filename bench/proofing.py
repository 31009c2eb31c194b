"""Finding thin parts and gaps, beside shapely's opening and closing of the same area."""

from bench.timing import in_turns, line
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.geometry import drawing_area
from zeichen.core.proofing import Process, Yardstick, proof
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import Studio


def measure_proofing() -> bool:
    """Print the time of a whole proof. Nothing was promised but that it does not hold up re-tracing."""
    print(
        "Proof at 80 mm, all findings and readings (opening and closing say that something is thin, not how thin)"
    )
    for subject in ("snail", "hedgehog"):
        drawing = trace(Studio().draw(SketchOrder(subject, Look.SILHOUETTE, 41)), TraceSettings()).drawing
        yardstick = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
        area = drawing_area(drawing, tolerance=0.02)

        def morphology(area=area) -> object:
            return area.buffer(-0.7).buffer(0.7), area.buffer(0.7).buffer(-0.7)

        mine, theirs = in_turns(lambda d=drawing, y=yardstick: proof(d, y), morphology)
        line(f"  {subject}", mine, theirs, "shapely buffers", "", True)
    return True
