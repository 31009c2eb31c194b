"""Where lines meet, beside numpy's solution of both."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from zeichen.core.geometry.lines import where_lines_meet

PLACES = st.tuples(st.floats(-500, 500), st.floats(-500, 500)).map(np.array)


@given(PLACES, PLACES, st.floats(0, 3.14), st.floats(0, 3.14), st.floats(0.1, 30))
def test_the_place_is_on_both_lines(place, other, turn, other_turn, size):
    """Whatever the ways' lengths."""
    assume(abs(math.sin(turn - other_turn)) > 0.05)
    way = size * np.array([math.cos(turn), math.sin(turn)])
    other_way = np.array([math.cos(other_turn), math.sin(other_turn)])
    found = where_lines_meet(place, way, other, other_way)
    along, back = np.linalg.solve(np.column_stack([way, -other_way]), other - place)
    assert found == pytest.approx(place + along * way, abs=1e-6)
    assert found == pytest.approx(other + back * other_way, abs=1e-6)
