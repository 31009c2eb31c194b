"""A state of a drawing comes back byte by byte, whatever it was told by, in few bytes."""

import dataclasses

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import blob, circle, drawing
from zeichen.core.formats.svg import write_svg
from zeichen.store.differences import decoded, encoded
from zeichen.store.files import FileStore

FIGURE = drawing(*(blob(k, 100 + 20 * k, 120, count=60) for k in range(8)), circle(30, 30, 9))
SVG = write_svg(FIGURE).encode()


def moved(x: float, y: float, turn_rad: float = 0.0) -> bytes:
    cos, sin = np.cos(turn_rad), np.sin(turn_rad)
    turn = np.array([[cos, sin], [-sin, cos]])
    return write_svg(FIGURE.moved(lambda at: at @ turn + [x, y], width=200, height=200)).encode()


@settings(max_examples=200)
@given(st.binary(max_size=400) | st.text(max_size=400).map(str.encode), st.none() | st.just(SVG))
def test_any_bytes_come_back(data, base):
    assert decoded(encoded(data, base), base) == data


@settings(max_examples=100)
@given(st.lists(st.sampled_from(["0", "-0", "007", "1.50", "1.5", "-2.0001", "9" * 14, "1e5", ".5", "#00ff1a", "a\0b",
                                 "\n", " ", "12.34567", "<path"]), max_size=30).map("".join))  # fmt: skip
def test_numbers_written_otherwise_come_back_as_they_were(text):
    assert decoded(encoded(text.encode(), SVG), SVG) == text.encode()


# So many are kept, and what a thousand take is reckoned from them.
STATES = 100


def test_a_thousand_states_take_less_than_eight_megabytes(tmp_path):
    """Shape by shape moved, turned and recoloured on and on, so that each state is further from the first."""
    files, chance = FileStore(tmp_path), np.random.default_rng(5)
    figure, like, before = FIGURE, None, len(SVG)
    for _ in range(STATES):
        k = int(chance.integers(len(figure.shapes)))
        change = chance.normal(0, 0.01, (2, 2)) + np.eye(2)
        shift = chance.normal(0, 2, 2)
        paths = tuple(p.moved(lambda at, m=change, s=shift: at @ m + s) for p in figure.shapes[k].paths)
        fill = f"#{int(chance.integers(0xFFFFFF)):06x}"
        shapes = list(figure.shapes)
        shapes[k] = dataclasses.replace(shapes[k], paths=paths, fill=fill)
        figure = dataclasses.replace(figure, shapes=tuple(shapes))
        state = write_svg(figure).encode()
        like = files.put_state(state, like=like)
        assert files.get(like) == state
    size = sum(each for _, each in files.all())
    assert 1000 / STATES * size < 8_000_000 < 1000 * before


def test_a_change_takes_a_few_bytes_for_what_changed():
    recoloured = SVG.replace(b"#24272b", b"#c23b2a", 1)
    without = write_svg(dataclasses.replace(FIGURE, shapes=FIGURE.shapes[1:])).encode()
    for state, share in (
        (recoloured, 0.1),
        (without, 0.02),
        (moved(3.17, -2.4), 0.02),
        (moved(0, 0, 0.3), 0.3),
    ):
        small = encoded(state, SVG)
        assert decoded(small, SVG) == state and len(small) < share * len(SVG), (len(small), len(SVG))
    assert len(encoded(SVG)) < 0.4 * len(SVG)
