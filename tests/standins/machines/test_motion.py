"""How machines move, beside the closed formulas of motion at constant acceleration."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.standins.machines.motion import Drives, pieces_of, run
from zeichen.standins.machines.rs274 import read_program


def timed(text: str, drives: Drives):
    return run(pieces_of(read_program(text), drives), drives)


@given(st.floats(0.01, 500), st.floats(1, 400), st.floats(50, 20_000))
def test_one_move_from_rest_to_rest_is_a_trapezoid_or_a_triangle(length, speed, acceleration):
    drives = Drives(travel_mm_s=1000, acceleration_mm_s2=acceleration)
    done = timed(f"G1 X{length:.6f} F{speed * 60:.6f}", drives)
    length = float(f"{length:.6f}")
    if length >= speed**2 / acceleration:
        expected = length / speed + speed / acceleration
    else:
        expected = 2 * math.sqrt(length / acceleration)
    assert done.total_s == pytest.approx(expected, rel=1e-4)


@given(st.integers(1, 40), st.floats(1, 100), st.floats(10, 300))
def test_a_line_in_pieces_takes_as_long_as_in_one(count, length, speed):
    drives = Drives()
    whole = timed(f"G1 X{length:.6f} F{speed * 60:.6f}", drives)
    cuts = "\n".join(f"X{length * k / count:.9f}" for k in range(1, count + 1))
    pieces = timed(f"G1 X0 F{speed * 60:.6f}\n" + cuts, drives)
    assert pieces.total_s == pytest.approx(whole.total_s, rel=1e-5)


@given(st.floats(20, 170), st.floats(2, 30))
def test_a_joint_is_gone_through_with_no_more_of_a_jump_than_the_machine_takes(turn_deg, corner):
    drives = Drives(corner_speed_mm_s=corner)
    turn = math.radians(turn_deg)
    done = timed(f"G1 X100 F12000\nX{100 + 100 * math.cos(turn):.6f} Y{100 * math.sin(turn):.6f}", drives)
    through = done.speed_out[0]
    jump = 2 * through * math.sin(turn / 2)
    assert jump == pytest.approx(2 * corner, rel=1e-3)
    assert done.speed_in[0] == 0.0 and done.speed_out[-1] == 0.0


@given(
    st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=2, max_size=40), st.floats(5, 200)
)
def test_no_piece_is_run_faster_or_with_more_acceleration_than_allowed(places, speed):
    drives = Drives()
    text = "\n".join(f"G1 X{x:.4f} Y{y:.4f} F{speed * 60:.4f}" for x, y in places)
    done = timed(text, drives)
    length = done.pieces.length_mm
    slack = 1 + 1e-9
    assert (done.peak <= done.pieces.speed_mm_s * slack).all()
    gained = np.abs(done.speed_out**2 - done.speed_in**2)
    assert (gained <= 2 * drives.acceleration_mm_s2 * length * slack + 1e-9).all()
    assert np.allclose(done.speed_out[:-1], done.speed_in[1:])
    # No quicker than at full speed all the way, nor than all of it from rest to rest with this acceleration.
    assert done.total_s >= (length / done.pieces.speed_mm_s).sum() * (1 - 1e-9)


def test_a_circle_is_as_long_as_it_is_and_stays_on_it():
    drives = Drives()
    pieces = pieces_of(read_program("G0 X10 Y0\nG3 X10 Y0 I-10 J0 F600"), drives)
    ring = pieces.move == 1
    assert pieces.length_mm[ring].sum() == pytest.approx(2 * math.pi * 10, rel=1e-3)
    middles = (pieces.start[ring] + pieces.end[ring])[:, :2] / 2
    assert np.abs(np.hypot(*middles.T) - 10).max() < 0.006


def test_who_waits_stands_still():
    drives = Drives()
    straight = timed("G1 X50 F6000\nX100", drives)
    waiting = timed("G1 X50 F6000\nG4 P2\nX100", drives)
    # Braking and starting anew cost as much as at the ends: speed over acceleration.
    assert waiting.total_s == pytest.approx(
        straight.total_s + 2.0 + 100 / drives.acceleration_mm_s2, rel=1e-6
    )
    assert waiting.speed_out[0] == 0.0


def test_a_long_program_is_timed():
    rng = np.random.default_rng(5)
    places = np.cumsum(rng.normal(0, 0.3, (20_000, 2)), axis=0)
    text = "G21\nG90\nM4 S300\nG1 F6000 X0\n" + "\n".join(f"X{x:.3f}Y{y:.3f}" for x, y in places)
    done = timed(text, Drives())
    assert len(done.seconds) > 19_000 and np.isfinite(done.total_s)
