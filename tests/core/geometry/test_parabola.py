"""Where parabolas are lowest, beside numpy's."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.geometry.parabola import lowest_between


@given(st.floats(-3, 3), st.floats(0.1, 5), st.floats(0.2, 2), st.floats(0.2, 2))
def test_it_is_lowest_where_numpy_has_its_vertex(vertex, bow, before, after):
    at = [vertex - before, vertex + (after - before) / 3, vertex + after]
    values = [bow * (x - vertex) ** 2 + 1.0 for x in at]
    fitted = np.polyfit(at, values, 2)
    assert lowest_between(*at, *values) == pytest.approx(-fitted[1] / (2 * fitted[0]), abs=1e-6)


@given(st.floats(0.1, 5))
def test_it_is_none_of_the_places_beyond_those_looked_at(bow):
    values = [bow * (x - 9.0) ** 2 for x in (0.0, 1.0, 2.0)]
    assert lowest_between(0.0, 1.0, 2.0, *values) == 2.0
    assert lowest_between(0.0, 1.0, 2.0, *values[::-1]) == 0.0


def test_what_bends_the_other_way_or_is_unknown_says_nothing():
    assert lowest_between(0.0, 1.0, 3.0, 0.0, 1.0, 0.0) == 1.0
    assert lowest_between(0.0, 1.0, 3.0, 1.0, 0.0, float("inf")) == 1.0
