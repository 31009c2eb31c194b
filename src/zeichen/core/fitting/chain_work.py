"""All that is done to a chain, in one compiled function.

A compiled function holds a copy of every other one it calls. The joint fit is most of what refining,
splitting and thinning out run: in one function it is compiled, kept on disk and loaded once.
"""

from zeichen.core.compiled import common, counted, uncounted
from zeichen.core.fitting.chain_edit import split_worst, straighten
from zeichen.core.fitting.chain_geometry import spread_all
from zeichen.core.fitting.joint_fit import refine, starts_around, sweep_starts
from zeichen.core.fitting.thin_out import thin_out
from zeichen.core.values import AnyArray, BoolArray, FloatArray

REFINE, SPLIT, POLISH, THIN, STRAIGHTEN = range(5)
# Lines longer than this are the artist's own and never become part of a curve, px.
_LONG_LINE_PX = 12.0
_LEAST_POINTS = common(5)


@counted(cache=True)
def work(
    what: int,
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    m: int,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    corner: BoolArray,
    pinned: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
    calm: bool,
    tolerance: float,
    starts: AnyArray,
    amount: int,
) -> int:
    """Refine, split, polish, thin out or straighten the chain in the first m entries of its arrays.

    Returns how many nodes it has.

    starts, amount: to refine, where windows start (nowhere: all over) and their rounds; to split, how many points
    each part keeps.
    """
    if what == SPLIT:
        m = split_worst(
            q, w, u, m, node, first, line, corner, pinned, angle, handle, closed, tolerance, amount
        )
    if what == THIN:
        spread_all(q, u, first[:m], m if closed else m - 1, closed)
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
                spread_all(q, u, first[:m], segments, closed)
                starts, rounds = sweep_starts(segments, 1, closed), 5
            elif step == 1:
                curved = ~line[:segments]
                if not straighten(q, w, m, node, first, line, corner, angle, handle, closed, 0.6 * tolerance):
                    continue
                starts, rounds = starts_around(curved & line[:segments], closed), 4
            else:
                if what == POLISH:
                    m = split_worst(
                        q, w, u, m, node, first, line, corner, pinned, angle, handle, closed, tolerance, _LEAST_POINTS
                    )  # fmt: skip
                m = thin_out(
                    q, w, u, m, node, first, line, corner, pinned, angle, handle, closed, tolerance, _LONG_LINE_PX
                )  # fmt: skip
                if what == POLISH:
                    straighten(q, w, m, node, first, line, corner, angle, handle, closed, 0.5 * tolerance)
                starts, rounds = sweep_starts(m if closed else m - 1, 1, closed), 5
        refine(
            q,
            w,
            u,
            node[:m],
            first[:m],
            line[:m],
            corner[:m],
            pinned[:m],
            angle[:m],
            handle[:m],
            closed,
            starts,
            rounds,
            calm,
        )
    return m


@uncounted
def _part_lines(m: int, line: BoolArray, corner: BoolArray, closed: bool) -> None:
    """Make corners of the nodes where two lines meet."""
    if not closed:
        line[m - 1] = False
    for k in range(m):
        if line[k] and ((closed or k > 0) and line[(k - 1) % m]):
            corner[k] = True
