"""Mend all: the safe mends, in an order that cannot undo itself, each one proved before it is kept.

A mend is kept only if its finding is gone and nothing new was found; so a second run finds nothing to do.
"""

import math
from collections.abc import Callable, Collection, Hashable
from dataclasses import dataclass
from functools import partial

from zeichen.core.errors import ZeichenError
from zeichen.core.formats.written import as_written
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.proofing.bridges import Bar
from zeichen.core.proofing.facts import Memory
from zeichen.core.proofing.findings import outline_findings, proof
from zeichen.core.proofing.kinds import Finding, How, Kind, Proof
from zeichen.core.proofing.mends import mend_noting
from zeichen.core.proofing.yardstick import Yardstick, finished_scale

# Paths are made sound first, then what lies on what, then pieces are joined and widths mended.
_JOINING = (
    Kind.OPEN_PATH,
    Kind.SELF_CROSSING,
    Kind.DUPLICATE_OUTLINE,
    Kind.GROUND,
    Kind.HIDDEN_SHAPE,
    Kind.OVERLAP,
    Kind.BORDER_GAP,
    Kind.SPECK,
    Kind.PIN_HOLE,
    Kind.COLOURS,
    Kind.NODES,
    Kind.OFF_SHEET,
    Kind.TIGHT_CORNER,
    Kind.LOOSE_PIECE,
    Kind.FINE_TIP,
    Kind.THIN_PART,
    Kind.SMALL_GAP,
)
# What still is too small, or hangs loose too far off, goes last: what can be joined has been.
_DROPPING = (Kind.SPECK, Kind.SIGNATURE, Kind.LOOSE_PIECE)
ORDER = (*_JOINING, Kind.SIGNATURE)
_WIDTHS = (Kind.TIGHT_CORNER, Kind.LOOSE_PIECE, Kind.FINE_TIP, Kind.THIN_PART, Kind.SMALL_GAP)
# Found by measuring widths, not by looking at outlines.
_BY_WIDTH = (Kind.BORDER_GAP, Kind.LOOSE_PIECE, Kind.FINE_TIP, Kind.THIN_PART, Kind.SMALL_GAP)
_MOST_AT_ONCE = 400
# So many tries of one kind may fail in a round: on busy drawings each takes a tenth of a second.
_MOST_FAILED = 16
# Mends that move no border may not take this share of the figure: something went wrong then.
_UNMOVED = 0.001
_MOVES = (How.DROP, How.OPEN, How.BLUNT, How.RELIEVE, How.BRIDGE, How.SIMPLIFY, How.MOVE_IN)
# Each mend that is kept leaves less of its kind and no more of an earlier one, so that there is an end; this many
# rounds are far more than any drawing of the open sets has needed (six).
_MOST_ROUNDS = 40
# What another mend may leave behind, and how often what mends that may be followed in turn.
_FOLLOWED = (Kind.SELF_CROSSING, Kind.SPECK, Kind.PIN_HOLE, Kind.THIN_PART)
_MOST_FOLLOWED = 3
_MOST_BROUGHT = 20
# A piece this small a part of the figure may go without asking, and all that goes may be so much of it (our own
# rule, and a promise).
MOST_OF_A_PIECE = 0.005
MOST_OF_ALL = 0.02
# What a drop takes beyond what was judged: rounding.
_DROP_SLACK = 0.0005
# Pieces this small, this far off in parts of the figure's width, are no part of it.
_STRAY_SHARE = 0.004
_STRAY_AWAY = 0.04
_BRIDGED_AWAY = 0.25

Step = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class Bridge:
    """A bar that was put in: its middle from the drawing's top left corner, what it spans, and its width, mm."""

    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float


@dataclass(frozen=True, slots=True)
class Done:
    """One thing that was mended: what, how, and what it changed."""

    finding: Finding
    how: How
    area_mm2: float
    nodes: int
    bridges: tuple[Bridge, ...] = ()


@dataclass(frozen=True, slots=True)
class Mended:
    """A mended drawing, what was done to it, and how it is judged now."""

    drawing: Drawing
    done: tuple[Done, ...]
    proof: Proof

    @property
    def changed(self) -> bool:
        """Whether anything was done."""
        return bool(self.done)


def mend_all(
    drawing: Drawing,
    yardstick: Yardstick,
    *,
    only: Collection[Kind] | None = None,
    step: Step | None = None,
) -> Mended:
    """Return the drawing with everything mended that can be without asking.

    Parameters
    ----------
    only : kinds, optional
        Leave all others as they are.
    step : callable, optional
        Told how far it is, 0-1.

    Raises
    ------
    InvalidInputError
        If the drawing is empty.
    """
    memory = Memory()
    written = as_written(drawing)
    state = _State(written, proof(written, yardstick, memory), yardstick, memory)
    joining = [kind for kind in _JOINING if only is None or kind in only]
    dropping = [kind for kind in _DROPPING if only is None or kind in only]
    for number in range(_MOST_ROUNDS):
        before = len(state.done)
        # How many rounds there will be is not known: each goes half of the way that is left.
        start, size = 1.0 - 0.5**number, 0.5 ** (number + 1)
        for at, kind in enumerate(joining):
            share = start + size * at / max(1, len(joining))
            state.mend_kind(kind, partial(step, share) if step is not None else None)
        if len(state.done) > before and state.judged.findings:
            continue
        # Nothing more can be joined: judge anew what is to go.
        for kind in dropping:
            state.mend_kind(kind, partial(step, start + size) if step is not None else None, dropping=True)
        if not state.judged.findings or (len(state.done) == before and not state.skipped):
            break
        if len(state.done) == before:
            # Only what failed before is left: once more, with all as it is now, so that a second run does nothing.
            state.look_again()
    if step is not None:
        step(1.0)
    return Mended(state.drawing if state.done else drawing, tuple(state.done), state.judged)


def _bridge(bar: Bar, mm_per_px: float) -> Bridge:
    x, y = ((a + b) / 2.0 * mm_per_px for a, b in zip(bar.start, bar.end, strict=True))
    return Bridge(round(x, 3), round(y, 3), round(bar.length * mm_per_px, 3), round(bar.width * mm_per_px, 3))


class _State:
    def __init__(self, drawing: Drawing, judged: Proof, yardstick: Yardstick, memory: Memory) -> None:
        self.drawing = drawing
        self.judged = judged
        self.yardstick = yardstick
        self._memory = memory
        self.done: list[Done] = []
        self._figure_mm2 = judged.readings.area_mm2
        self._dropped_mm2 = 0.0
        self._tried: set[Hashable] = set()
        self.skipped = False
        self._failed = 0

    def mend_kind(
        self, kind: Kind, tick: Callable[[], None] | None = None, *, dropping: bool = False
    ) -> None:
        """Mend all findings of a kind at once; where that makes anything worse, one by one.

        dropping: only what takes something away is done, otherwise only what does not.

        tick: called before each thing that takes long; what it raises stops the work.
        """
        if tick is not None:
            tick()
        found = self._of(kind)
        if not found:
            return
        by_how: dict[How, list[Finding]] = {}
        for finding in found:
            how = safe_mend(finding, self.judged, self.yardstick)
            if how is not None and (how is How.DROP and kind in _DROPPING) == dropping:
                by_how.setdefault(how, []).append(finding)
        if dropping and not self._may_go(found):
            return
        for how, findings in by_how.items():
            self._failed = 0
            self._keep_parts(findings[:_MOST_AT_ONCE], how, tick)

    def _keep_parts(self, findings: list[Finding], how: How, tick: Callable[[], None] | None) -> None:
        """Mend findings together, or where that makes anything worse, each half of them on its own."""
        if tick is not None:
            tick()
        # Some may have gone with others mended before.
        known = self._of(findings[0].kind)
        findings = [finding for finding in findings if any(_same(finding, each) for each in known)]
        if not findings or self._failed >= _MOST_FAILED or self._keep(findings, how):
            return
        self._failed += 1
        if len(findings) == 1:
            return
        half = len(findings) // 2
        self._keep_parts(findings[:half], how, tick)
        self._keep_parts(findings[half:], how, tick)

    def _of(self, kind: Kind) -> list[Finding]:
        return [finding for finding in self.judged.findings if finding.kind is kind]

    def _keep(self, findings: list[Finding], how: How) -> bool:
        """Try a mend; keep it if its findings are gone and none of an earlier kind has come."""
        key = (how, *(self._situation(finding) for finding in findings))
        if key in self._tried:
            self.skipped = True
            return False
        self._tried.add(key)
        steps = [(findings, how)]
        bridges: dict[int, tuple[Bar, ...]] = {}
        try:
            changed, bars = mend_noting(self.drawing, self.yardstick, findings, how)
            mended = as_written(changed, self.drawing)
            bridges.update((id(finding), made) for finding, made in zip(findings, bars, strict=True))
            judged = self._judged(mended, findings[0].kind)
            better = self._better(findings[0].kind, judged)
            # A bar may enclose a pin hole, a thickened crumb be a speck, an edge rounded to the file's digits touch
            # another: what a mend brings is mended with it.
            for _ in range(_MOST_FOLLOWED):
                brought = [] if better else self._brought(judged)
                if not brought:
                    break
                for found, follow in brought:
                    changed, bars = mend_noting(mended, self.yardstick, found, follow)
                    mended = as_written(changed, mended)
                    bridges.update((id(each), made) for each, made in zip(found, bars, strict=True))
                steps += brought
                judged = self._judged(mended, findings[0].kind)
                better = self._better(findings[0].kind, judged)
        except ZeichenError:
            return False
        # Whether a stroke becomes an area is for the maker to say.
        if not better or (self.yardstick.draws_lines and _turns_lines(self.drawing, mended)):
            return False
        # At the size the figure had: with a stray mark gone it is made larger.
        before = finished_scale(self.drawing, self.yardstick).mm_per_px
        after = finished_scale(mended, self.yardstick).mm_per_px
        area = judged.readings.area_mm2 * (before / after) ** 2 - self.judged.readings.area_mm2
        if area < -_UNMOVED * self._figure_mm2 and how not in _MOVES:
            return False
        dropped = [finding for finding in findings if how is How.DROP and finding.kind in _DROPPING]
        if dropped and not self._may_drop(dropped, abs(area)):
            return False
        nodes = judged.readings.nodes - self.judged.readings.nodes
        share = sum(len(found) for found, _ in steps)
        self.done.extend(
            Done(
                finding,
                done,
                area / share,
                round(nodes / share),
                tuple(_bridge(bar, before) for bar in bridges.get(id(finding), ())),
            )
            for found, done in steps
            for finding in found
        )
        self.drawing, self.judged = mended, judged
        return True

    def _judged(self, mended: Drawing, kind: Kind) -> Proof:
        """Return how a mended drawing is judged; where its outlines alone are worse, its widths are not measured."""
        found = outline_findings(mended, self.yardstick, self._memory)
        if found is not None:
            glance = Proof(found, self.judged.readings)
            if not self._better(kind, glance, glance=True):
                return glance
        return proof(mended, self.yardstick, self._memory)

    def _situation(self, finding: Finding) -> Hashable:
        """Return what tells whether a mend that failed would fail again: the finding, and the shapes it is about."""
        shapes = [shape for shape in self.drawing.shapes if shape.id in (finding.shape, finding.other)]
        outlines = tuple(path.segments.tobytes() for shape in shapes for path in shape.paths)
        return finding.kind, round(finding.x_px, 3), round(finding.y_px, 3), hash(outlines)

    def look_again(self) -> None:
        """Forget what failed: what lies around it may be other than it was."""
        self._tried.clear()
        self.skipped = False

    def _may_go(self, findings: list[Finding]) -> bool:
        """Return whether all that a kind of finding would take away may go without asking."""
        taken = sum(
            _size_mm2(finding)
            for finding in findings
            if finding.kind is not Kind.SIGNATURE
            and safe_mend(finding, self.judged, self.yardstick) is How.DROP
        )
        return self._dropped_mm2 + taken <= MOST_OF_ALL * self._figure_mm2

    def _may_drop(self, findings: list[Finding], taken_mm2: float) -> bool:
        """Return whether a drop took what was judged and no more, and not more than may go without asking."""
        judged_mm2 = sum(_size_mm2(finding) for finding in findings)
        if self._dropped_mm2 + taken_mm2 > MOST_OF_ALL * self._figure_mm2:
            return False
        if taken_mm2 > 1.1 * judged_mm2 + _DROP_SLACK * self._figure_mm2:
            return False
        self._dropped_mm2 += taken_mm2
        return True

    def _better(self, kind: Kind, judged: Proof, *, glance: bool = False) -> bool:
        """Return whether there is less of a kind, and nothing more of an earlier one.

        glance: widths have not been measured, and what they would show is not known.
        """
        before, after = _counts(self.judged), _counts(judged)
        # More nodes than needed may come of it: they are thinned out in the next round.
        earlier = [each for each in ORDER[: ORDER.index(kind)] if each is not Kind.NODES]
        if not (glance and kind in _BY_WIDTH) and after.get(kind, 0) >= before.get(kind, 0):
            return False
        if any(after.get(each, 0) > before.get(each, 0) for each in earlier):
            return False
        # What makes paths sound or drops strays may bring a finding to light; widths must not trade one for another.
        return glance or kind not in _WIDTHS or _total(after) < _total(before)

    def _brought(self, judged: Proof) -> list[tuple[list[Finding], How]]:
        """Return what a mend brought to light, of kinds that a mend of its own makes go, and that mend."""
        known = self.judged.findings
        new = [
            finding
            for finding in judged.findings
            if finding.kind in _FOLLOWED and not any(_same(finding, each) for each in known)
        ]
        if len(new) > _MOST_BROUGHT:
            # It made things worse all over: there is no end to following that.
            return []
        hows = [(finding, safe_mend(finding, judged, self.yardstick)) for finding in new]
        return [([finding], how) for finding, how in hows if how is not None]


def _turns_lines(before: Drawing, after: Drawing) -> bool:
    drawn = {shape.id for shape in before.shapes if shape.stroke_width is not None}
    return any(shape.id in drawn and shape.stroke_width is None for shape in after.shapes)


def safe_mend(finding: Finding, judged: Proof, yardstick: Yardstick) -> How | None:
    """Return the mend that a finding can have without asking the maker, or None if there is none."""
    if not finding.sure or not finding.mends:
        return None
    whole = max(judged.readings.area_mm2, 1e-9)
    if finding.kind is Kind.SPECK and (
        judged.readings.area_mm2 == 0
        or (How.DROP in finding.mends[:1] and finding.measured > MOST_OF_A_PIECE * whole)
    ):
        # There is nothing but specks, or this one is much of the figure: the size is wrong, not the drawing.
        return None
    if finding.kind is Kind.SIGNATURE:
        return finding.mends[0]
    if finding.kind is Kind.LOOSE_PIECE:
        readings = judged.readings
        far = finding.measured / max(readings.width_mm, 1e-9)
        share = finding.size_mm2 / max(readings.area_mm2, 1e-9)
        if yardstick.limits.cut_away:
            # An island is held, however wide its opening; a crumb goes with it.
            crumb = finding.size_mm2 < yardstick.limits.speck_mm2 and share < _STRAY_SHARE
            return How.DROP if crumb else How.BRIDGE
        if far > _BRIDGED_AWAY:
            return How.DROP if share < MOST_OF_A_PIECE else None
        if share < _STRAY_SHARE and far > _STRAY_AWAY:
            return How.DROP
        return How.BRIDGE
    if finding.kind is Kind.SMALL_GAP and finding.measured < 0.1 * finding.limit:
        return How.FILL if How.FILL in finding.mends else finding.mends[0]
    return finding.mends[0]


def _size_mm2(finding: Finding) -> float:
    """Return how much of the figure a finding is about."""
    if finding.kind is Kind.SIGNATURE:
        low, high = finding.trail_px
        return finding.measured**2 * (high.y - low.y) / max(high.x - low.x, 1e-9)
    return finding.size_mm2 if finding.kind is Kind.LOOSE_PIECE else finding.measured


def _total(counts: dict[Kind, int]) -> int:
    return sum(count for kind, count in counts.items() if kind is not Kind.NODES)


def _counts(judged: Proof) -> dict[Kind, int]:
    out: dict[Kind, int] = {}
    for finding in judged.findings:
        out[finding.kind] = out.get(finding.kind, 0) + 1
    return out


def _same(one: Finding, other: Finding) -> bool:
    return one.kind is other.kind and math.hypot(one.x_px - other.x_px, one.y_px - other.y_px) < 1e-3
