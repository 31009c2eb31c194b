"""Ends that run on under other lines: cut where nothing shows them, and never so that lines come apart."""

import math

import numpy as np
import pytest
import shapely

from samples import pen
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.hidden_ends import MetAt, ended_where_met
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.trace import trace

WIDTH = 12.0
STEM = [(20.0, 140.0), (180.0, 140.0)]
Way = list[tuple[float, float]]


def walked(points: Way) -> np.ndarray:
    return np.array(shapely.segmentize(shapely.LineString(points), 1.0).coords)


def ended(ways: list[Way], drawn: list[Way], own_px: float = 40.0) -> list[np.ndarray]:
    """The points of strokes that end along some ways, of which so much is their own; drawn: what ink there is."""
    ink = np.ascontiguousarray(1.0 - pen([STEM, *drawn], width=WIDTH).grey() / 255.0)
    lines = [walked(way) for way in ways]
    strokes = [Stroke(walked(STEM), False, WIDTH)] + [Stroke(line, False, WIDTH) for line in lines]
    met = [MetAt(k, 1, line[round(own_px) :]) for k, line in enumerate(lines, 1)]
    return [stroke.points for stroke in ended_where_met(strokes, met, ink)[1:]]


# Two lines that cross 24 px above the stem, the second one running on nearly along it.
STEEP: Way = [(90.0, 60.0), (100.0, 140.0)]
FLAT: Way = [(40.0, 100.0), (96.0, 116.0), (130.0, 139.5)]
CROSSING = (96.9, 116.5)


def test_a_line_ends_on_the_first_it_meets_where_nothing_shows_that_it_ran_on():
    steep, flat = ended([STEEP, FLAT], [STEEP, [FLAT[0], FLAT[1]]])
    assert steep[-1] == pytest.approx(STEEP[-1])
    assert math.dist(flat[-1], CROSSING) < 1.5


def test_a_line_whose_ink_shows_runs_on():
    steep, flat = ended([STEEP, FLAT], [STEEP, FLAT])
    assert steep[-1] == pytest.approx(STEEP[-1]) and flat[-1] == pytest.approx(FLAT[-1])


def test_of_two_that_cross_only_one_is_cut():
    """Where the ink tells nothing, all that is lost is one of two ways to the stem."""
    steep, flat = [(90.0, 90.0), (98.0, 140.0)], [(106.0, 90.0), (98.0, 138.0)]
    crossing = [(92.0, 100.0), (99.0, 140.0)], [(105.0, 100.0), (92.0, 140.0)]
    for ways in ((steep, flat), crossing):
        for order in (1, -1):
            found = ended(list(ways)[::order], list(ways), own_px=12.0)
            runs = [shapely.LineString(points) for points in found]
            stem = shapely.LineString(STEM)
            assert shapely.distance(runs[0], runs[1]) < 0.7
            assert min(shapely.distance(run, stem) for run in runs) < 0.7


def test_what_another_line_ends_on_is_not_cut():
    third: Way = [(150.0, 60.0), (116.0, 129.8)]
    _, flat, _ = ended([STEEP, FLAT, third], [STEEP, [FLAT[0], FLAT[1]], third])
    assert flat[-1] == pytest.approx(FLAT[-1])


def test_a_single_end_and_none_are_left_alone():
    assert ended([STEEP], [STEEP])[0] == pytest.approx(walked(STEEP))
    assert ended_where_met([], [], np.zeros((9, 9))) == []


@pytest.mark.parametrize("turn", [0, 1, 2, 3])
def test_lines_that_run_together_into_one_all_hang_together(turn):
    """A fan of five on a trunk, whichever way up: no end is in the air, none runs out of the ink."""
    middle = np.array([100.3, 120.6])
    tips = [middle + 80.0 * np.array([math.cos(a), -math.sin(a)]) for a in np.radians([25, 60, 95, 130, 160])]
    spin = np.array([[0.0, -1.0], [1.0, 0.0]])
    ways = [[tip, middle + np.array([-2.0, 3.0])] for tip in tips] + [
        [middle, middle + np.array([-6.0, 70.0])]
    ]
    for _ in range(turn):
        ways = [[spin @ (p - 100.0) + 100.0 for p in way] for way in ways]
    picture = pen([[(float(x), float(y)) for x, y in way] for way in ways], width=WIDTH)
    paths = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    lines = [
        shapely.LineString(walked([tuple(p) for p in path.segments[:, 0]] + [tuple(path.segments[-1, 3])]))
        for path in paths
    ]
    assert shapely.union_all([line.buffer(0.6 * WIDTH) for line in lines]).geom_type == "Polygon"
    grown = shapely.union_all([shapely.LineString(way).buffer(0.25 * WIDTH) for way in ways])
    middles = shapely.Point(*(np.array(ways[-1][0]))).buffer(1.2 * WIDTH)
    for line in lines:
        assert shapely.difference(line, shapely.union(grown, middles)).length < 0.2 * WIDTH
