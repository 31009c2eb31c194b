"""All that is done to a spline, in one compiled function.

A compiled function holds a copy of every other one it calls. The refinement is most of what refining,
splitting and thinning out run: in one function it is compiled, kept on disk and loaded once.
"""

from typing import NamedTuple

from zeichen.core.compiled import common, counted, uncounted
from zeichen.core.fitting.node_insertion import split_worst, straighten
from zeichen.core.fitting.node_removal import remove_nodes
from zeichen.core.fitting.refinement import refine, starts_around, sweep_starts
from zeichen.core.fitting.spline_arrays import SplineArrays, up_to
from zeichen.core.fitting.spline_geometry import spread_all
from zeichen.core.values import AnyArray, BoolArray

REFINE, SPLIT, POLISH, THIN, STRAIGHTEN = range(5)
# Lines longer than this are the artist's own and never become part of a curve, px.
_LONG_LINE_PX = 12.0
_LEAST_POINTS = common(5)


class Work(NamedTuple):
    """What is done to a spline, and within which tolerance, px.

    starts, amount: to refine, where windows start (nowhere: all over) and their rounds; to split, how many points
    each part keeps. aligned: see Window.
    """

    what: int
    aligned: bool
    tolerance: float
    starts: AnyArray
    amount: int


@counted(cache=True)
def work(spline: SplineArrays, m: int, task: Work) -> int:
    """Refine, split, polish, thin out or straighten the spline in the first m entries of its arrays.

    Returns how many nodes it has.
    """
    what, aligned, tolerance, starts, amount = task
    line, corner, closed = spline.line, spline.corner, spline.closed
    if what == SPLIT:
        m = split_worst(spline, m, tolerance, amount)
    if what == THIN:
        spread_all(spline.points, spline.at, spline.first[:m], m if closed else m - 1, closed)
    steps = 1 if what == REFINE else 0 if what == SPLIT else 2 if what == STRAIGHTEN else 3
    for step in range(2 if what == THIN else 0, steps):
        segments = m if closed else m - 1
        rounds = amount
        as_it_is = what == REFINE or (what == STRAIGHTEN and step == 0)
        if as_it_is and len(starts) == 0:
            starts = sweep_starts(segments, 1, closed)
        if not as_it_is:
            if step == 0:
                _part_lines(m, line, corner, closed)
                spread_all(spline.points, spline.at, spline.first[:m], segments, closed)
                starts, rounds = sweep_starts(segments, 1, closed), 5
            elif step == 1:
                curved = ~line[:segments]
                if not straighten(spline, m, 0.6 * tolerance):
                    continue
                starts, rounds = starts_around(curved & line[:segments], closed), 4
            else:
                if what == POLISH:
                    m = split_worst(spline, m, tolerance, _LEAST_POINTS)
                m = remove_nodes(spline, m, tolerance, _LONG_LINE_PX)
                if what == POLISH:
                    straighten(spline, m, 0.5 * tolerance)
                starts, rounds = sweep_starts(m if closed else m - 1, 1, closed), 5
        refine(up_to(spline, m), starts, rounds, aligned)
    return m


@uncounted
def _part_lines(m: int, line: BoolArray, corner: BoolArray, closed: bool) -> None:
    """Make corners of the nodes where two lines meet."""
    if not closed:
        line[m - 1] = False
    for k in range(m):
        if line[k] and ((closed or k > 0) and line[(k - 1) % m]):
            corner[k] = True
