"""How much of some lines is drawn once, as the bench counts it: against lines laid on each other on purpose."""

import numpy as np
import pytest
from bench.truth import _share_on_none

LINE = np.array([[0.0, 0.0], [100.0, 0.0]])
ARC = 50.0 * np.column_stack([np.cos(np.linspace(0, 3, 200)), np.sin(np.linspace(0, 3, 200))])


@pytest.mark.parametrize(
    ("lines", "share"),
    [
        ([LINE], 1.0),
        ([ARC], 1.0),
        ([LINE, LINE], 0.5),
        ([ARC, ARC[::-1]], 0.5),
        ([LINE, np.add(LINE, [0.0, 3.0])], 1.0),
        ([LINE, np.add(LINE, [60.0, 0.0])], 0.8),
        # There and back, and across.
        ([np.array([[0.0, 0.0], [100.0, 0.0], [0.0, 0.0]])], 0.5),
        ([LINE, np.array([[50.0, -50.0], [50.0, 50.0]])], 1.0),
    ],
)
def test_what_lies_on_a_line_drawn_before_counts_once(lines, share):
    assert _share_on_none(lines) == pytest.approx(share, abs=0.02)
