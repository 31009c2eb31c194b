"""Mend all: the safe mends, in an order that cannot undo itself, each one proved before it is kept.

A mend is kept only if its finding is gone and nothing new was found; so a second run finds nothing to do.
"""

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass
from functools import partial

from zeichen.core.errors import ZeichenError
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.proofing.facts import Memory
from zeichen.core.proofing.findings import proof
from zeichen.core.proofing.kinds import Finding, How, Kind, Proof
from zeichen.core.proofing.mends import mend
from zeichen.core.proofing.yardstick import Yardstick

# Paths are made sound first, then what lies on what, then small things; widths come when the pieces are known,
# and what hangs loose at the very end.
ORDER = (
    Kind.OPEN_PATH,
    Kind.SELF_CROSSING,
    Kind.DUPLICATE_OUTLINE,
    Kind.GROUND,
    Kind.SIGNATURE,
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
_WIDTHS = ORDER[ORDER.index(Kind.TIGHT_CORNER) :]
_MOST_ONE_BY_ONE = 60
_ROUNDS = 6
# Small things that another mend may leave behind.
_FOLLOWED = (Kind.SPECK, Kind.PIN_HOLE)
# A loose piece this small a part of the figure, or this far off in parts of the figure's width, is no part of it.
_STRAY_SHARE = 0.004
_STRAY_AWAY = 0.04
_BRIDGED_AWAY = 0.25

Step = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class Done:
    """One thing that was mended: what, how, and what it changed."""

    finding: Finding
    how: How
    area_mm2: float
    nodes: int


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
    state = _State(drawing, proof(drawing, yardstick, memory), yardstick, memory)
    kinds = [kind for kind in ORDER if only is None or kind in only]
    for number in range(_ROUNDS):
        before = len(state.done)
        for at, kind in enumerate(kinds):
            share = (number + at / len(kinds)) / _ROUNDS
            state.mend_kind(kind, partial(step, share) if step is not None else None)
        if len(state.done) == before or not state.judged.findings:
            break
    if step is not None:
        step(1.0)
    return Mended(state.drawing, tuple(state.done), state.judged)


class _State:
    def __init__(self, drawing: Drawing, judged: Proof, yardstick: Yardstick, memory: Memory) -> None:
        self.drawing = drawing
        self.judged = judged
        self.yardstick = yardstick
        self._memory = memory
        self.done: list[Done] = []
        self._tried: set[tuple[Kind, int, int, str]] = set()

    def mend_kind(self, kind: Kind, tick: Callable[[], None] | None = None) -> None:
        """Mend all findings of a kind at once; where that makes anything worse, one by one.

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
            if how is not None:
                by_how.setdefault(how, []).append(finding)
        for how, findings in by_how.items():
            if len(findings) > 1 and self._keep(findings, how):
                continue
            for finding in findings[:_MOST_ONE_BY_ONE]:
                if tick is not None:
                    tick()
                # It may have gone with one mended before.
                if any(_same(finding, each) for each in self._of(kind)):
                    self._keep([finding], how)

    def _of(self, kind: Kind) -> list[Finding]:
        return [finding for finding in self.judged.findings if finding.kind is kind]

    def _keep(self, findings: list[Finding], how: How) -> bool:
        """Try a mend; keep it if its findings are gone and none of an earlier kind has come."""
        key = (
            findings[0].kind,
            len(self.done),
            len(findings),
            f"{findings[0].x_px:.3f} {findings[0].y_px:.3f}",
        )
        if key in self._tried:
            return False
        self._tried.add(key)
        steps = [(findings, how)]
        try:
            mended = mend(self.drawing, self.yardstick, findings, how)
            judged = proof(mended, self.yardstick, self._memory)
            better = self._better(findings[0].kind, judged)
            # A bar may enclose a pin hole, a thickened crumb be a speck: what a mend brings is mended with it.
            brought = [] if better else self._brought(judged)
            for follow in brought:
                mended = mend(mended, self.yardstick, *follow)
            if brought:
                steps += brought
                judged = proof(mended, self.yardstick, self._memory)
                better = self._better(findings[0].kind, judged)
        except ZeichenError:
            return False
        # Whether a stroke becomes an area is for the maker to say.
        if not better or (self.yardstick.draws_lines and _turns_lines(self.drawing, mended)):
            return False
        area = judged.readings.area_mm2 - self.judged.readings.area_mm2
        nodes = judged.readings.nodes - self.judged.readings.nodes
        share = sum(len(found) for found, _ in steps)
        self.done.extend(
            Done(finding, done, area / share, round(nodes / share))
            for found, done in steps
            for finding in found
        )
        self.drawing, self.judged = mended, judged
        return True

    def _better(self, kind: Kind, judged: Proof) -> bool:
        """Return whether there is less of a kind, and nothing more of an earlier one."""
        before, after = _counts(self.judged), _counts(judged)
        # More nodes than needed may come of it: they are thinned out in the next round.
        earlier = [each for each in ORDER[: ORDER.index(kind)] if each is not Kind.NODES]
        if after.get(kind, 0) >= before.get(kind, 0):
            return False
        if any(after.get(each, 0) > before.get(each, 0) for each in earlier):
            return False
        # What makes paths sound or drops strays may bring a finding to light; widths must not trade one for another.
        return kind not in _WIDTHS or _total(after) < _total(before)

    def _brought(self, judged: Proof) -> list[tuple[list[Finding], How]]:
        """Return what a mend brought to light, of kinds that a mend of its own makes go, and that mend."""
        known = self.judged.findings
        new = [
            finding
            for finding in judged.findings
            if finding.kind in _FOLLOWED and not any(_same(finding, each) for each in known)
        ]
        hows = [(finding, safe_mend(finding, judged, self.yardstick)) for finding in new[:_MOST_ONE_BY_ONE]]
        return [([finding], how) for finding, how in hows if how is not None]


def _turns_lines(before: Drawing, after: Drawing) -> bool:
    drawn = {shape.id for shape in before.shapes if shape.stroke_width is not None}
    return any(shape.id in drawn and shape.stroke_width is None for shape in after.shapes)


def safe_mend(finding: Finding, judged: Proof, yardstick: Yardstick) -> How | None:
    """Return the mend that a finding can have without asking the maker, or None if there is none."""
    if not finding.sure or not finding.mends:
        return None
    if finding.kind is Kind.SPECK and judged.readings.area_mm2 == 0:
        # There is nothing but specks: the size is wrong, not the drawing.
        return None
    if finding.kind is Kind.LOOSE_PIECE:
        readings = judged.readings
        far = finding.measured / max(readings.width_mm, 1e-9)
        share = finding.size_mm2 / max(readings.area_mm2, 1e-9)
        if yardstick.limits.cut_away:
            # An island is held, however wide its opening; a crumb goes with it.
            return How.DROP if share < _STRAY_SHARE else How.BRIDGE
        if far > _BRIDGED_AWAY:
            return How.DROP if share < 5.0 * _STRAY_SHARE else None
        if share < _STRAY_SHARE or (share < 3.0 * _STRAY_SHARE and far > _STRAY_AWAY):
            return How.DROP
        return How.BRIDGE
    if finding.kind is Kind.SMALL_GAP and finding.measured < 0.1 * finding.limit:
        return How.FILL if How.FILL in finding.mends else finding.mends[0]
    return finding.mends[0]


def _total(counts: dict[Kind, int]) -> int:
    return sum(count for kind, count in counts.items() if kind is not Kind.NODES)


def _counts(judged: Proof) -> dict[Kind, int]:
    out: dict[Kind, int] = {}
    for finding in judged.findings:
        out[finding.kind] = out.get(finding.kind, 0) + 1
    return out


def _same(one: Finding, other: Finding) -> bool:
    return one.kind is other.kind and math.hypot(one.x_px - other.x_px, one.y_px - other.y_px) < 1e-3
