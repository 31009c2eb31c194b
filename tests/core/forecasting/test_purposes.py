"""What a drawing is for decides shading and places inside; what was chosen is said."""

import pytest
from tests.core.tracing.regions.test_flats import painted, plum
from tests.core.tracing.regions.test_shading import lit

from zeichen.core.forecasting.purposes import choices_said, for_process
from zeichen.core.methods import Inside, Method, Shading
from zeichen.core.proofing.yardstick import Process
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

FLATS = TraceSettings(method=Method.FLATS)


@pytest.mark.parametrize("process", list(Process))
def test_what_is_left_to_chance_is_decided_and_nothing_else(process):
    found = for_process(FLATS, process)
    assert found.shading is (Shading.STEPS if process is Process.LASER_ENGRAVE else Shading.OUT)
    assert found.inside is (Inside.KEEP if process in (Process.RELIEF, Process.APPAREL) else Inside.OPEN)
    asked = TraceSettings(method=Method.FLATS, shading=Shading.STEPS, inside=Inside.KEEP)
    assert for_process(asked, process) == asked


def test_without_a_process_nothing_is_decided():
    assert for_process(FLATS, None) == FLATS


def test_what_was_chosen_is_said_with_the_reason():
    picture = lit(painted(plum, 400), from_deg=0, strength=1.2)
    made = trace(picture, for_process(FLATS, Process.APPAREL))
    assert choices_said(FLATS, made, Process.APPAREL) == (
        "Shading taken out, for garments.",
        "Places inside kept, for garments.",
    )
    asked = TraceSettings(method=Method.FLATS, shading=Shading.OUT, inside=Inside.OPEN)
    assert choices_said(asked, trace(picture, asked), Process.APPAREL) == ()
