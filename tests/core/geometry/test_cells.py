"""Pieces sorted into cells: none is lost, and near ones share a cell."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.geometry.cells import MOST_CELLS, cell_of, cell_size, into_cells


def pieces(seed, count, spread):
    rng = np.random.default_rng(seed)
    start = rng.uniform(-spread, spread, (count, 2))
    return start, start + rng.normal(0, spread / 10, (count, 2))


@examples(18)
@given(st.integers(0, 2**32 - 1), st.integers(1, 60), st.floats(0.1, 500.0))
def test_every_piece_is_in_all_cells_of_its_box_and_in_no_other(seed, count, spread):
    start, end = pieces(seed, count, spread)
    low, cell = cell_size(start, end)
    columns, rows, first, held = into_cells(start, end, low, cell)
    assert first[0] == 0 and first[-1] == len(held) and (np.diff(first) >= 0).all()
    assert 1 <= columns <= MOST_CELLS + 1 and 1 <= rows <= MOST_CELLS + 1
    for row in range(rows):
        for column in range(columns):
            at = row * columns + column
            expected = {
                k
                for k in range(count)
                if cell_of(min(start[k, 0], end[k, 0]), low[0], cell, columns)
                <= column
                <= cell_of(max(start[k, 0], end[k, 0]), low[0], cell, columns)
                and cell_of(min(start[k, 1], end[k, 1]), low[1], cell, rows)
                <= row
                <= cell_of(max(start[k, 1], end[k, 1]), low[1], cell, rows)
            }
            assert set(held[first[at] : first[at + 1]].tolist()) == expected


def test_places_outside_belong_to_the_first_and_last_cell():
    assert [cell_of(x, 0.0, 1.0, 4) for x in (-9.0, 0.0, 2.5, 4.0, 99.0)] == [0, 0, 2, 3, 3]


def test_pieces_without_length_need_a_cell_too():
    point = np.array([[3.0, 4.0]])
    low, cell = cell_size(point, point)
    columns, rows, first, held = into_cells(point, point, low, cell)
    assert (columns, rows) == (1, 1) and held.tolist() == [0] and first.tolist() == [0, 1]
