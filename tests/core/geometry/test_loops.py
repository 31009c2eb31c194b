"""Counting round a loop, beside Python's own remainder."""

from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.geometry.loops import around


@given(st.integers(-(10**6), 10**6), st.integers(1, 5000))
def test_around_is_the_remainder(i, n):
    assert around(i, n) == i % n
