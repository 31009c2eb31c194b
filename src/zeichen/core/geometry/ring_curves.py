"""From the rings of faces back to the curves they came from: each edge's piece of curve, pieces put together."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely import STRtree

from zeichen.core.geometry import bezier
from zeichen.core.values import AnyArray, BoolArray, FloatArray

_NEWTON_ROUNDS = 12


@dataclass(frozen=True, slots=True)
class Chords:
    """The polylines of all paths: pieces from start to end, their segment, parameters and region."""

    segments: FloatArray
    start: FloatArray
    end: FloatArray
    segment: AnyArray
    t0: FloatArray
    t1: FloatArray
    region: AnyArray
    grid: float


@dataclass(frozen=True, slots=True)
class Pieces:
    """Pieces of segments around rings, each drawn from t0 to t1 (backwards where t1 is smaller)."""

    ring: AnyArray
    segment: AnyArray
    t0: FloatArray
    t1: FloatArray

    def chosen(self, keep: AnyArray) -> "Pieces":
        return Pieces(self.ring[keep], self.segment[keep], self.t0[keep], self.t1[keep])


class ChordIndex:
    """Finds the chord that an edge of a face lies on."""

    def __init__(self, chords: Chords) -> None:
        self._chords = chords
        both = np.concatenate([chords.start, chords.end])
        self._corners, number = np.unique(_keys(both, chords.grid), return_inverse=True)
        count = len(chords.start)
        a, b = number[:count], number[count:]
        keys = np.minimum(a, b) * len(self._corners) + np.maximum(a, b)
        self._order = np.argsort(keys, kind="stable")
        self._sorted = keys[self._order]
        self._starts = a

    @cached_property
    def _tree(self) -> STRtree:
        return STRtree(shapely.linestrings(np.stack([self._chords.start, self._chords.end], axis=1)))

    def pieces(self, one: FloatArray, other: FloatArray, ring: AnyArray) -> Pieces:
        """Return the piece of curve of each edge of some rings, given by its ends."""
        chords = self._chords
        count = len(self._corners)
        a, known_a = self._corner(one)
        b, known_b = self._corner(other)
        edge = np.minimum(a, b) * count + np.maximum(a, b)
        found = np.minimum(np.searchsorted(self._sorted, edge), len(self._sorted) - 1)
        whole = known_a & known_b & (self._sorted[found] == edge)
        chord = self._order[found]
        missing = np.nonzero(~whole)[0]
        if len(missing):
            middles = shapely.points((one[missing] + other[missing]) / 2.0)
            chord[missing] = self._tree.nearest(middles)
        forward = np.where(
            whole,
            self._starts[chord] == a,
            ((chords.end[chord] - chords.start[chord]) * (other - one)).sum(axis=1) > 0,
        )
        share0 = self._share(chord, one)
        share1 = self._share(chord, other)
        share0 = np.where(whole, np.where(forward, 0.0, 1.0), share0)
        share1 = np.where(whole, np.where(forward, 1.0, 0.0), share1)
        t0, t1 = chords.t0[chord], chords.t1[chord]
        first, last = t0 + share0 * (t1 - t0), t0 + share1 * (t1 - t0)
        return Pieces(ring, chords.segment[chord], first, last)

    def _corner(self, places: FloatArray) -> tuple[AnyArray, BoolArray]:
        keys = _keys(places, self._chords.grid)
        at = np.minimum(np.searchsorted(self._corners, keys), len(self._corners) - 1)
        return at, self._corners[at] == keys

    def _share(self, chord: AnyArray, places: FloatArray) -> FloatArray:
        way = self._chords.end[chord] - self._chords.start[chord]
        along = ((places - self._chords.start[chord]) * way).sum(axis=1) / (way**2).sum(axis=1)
        return np.asarray(np.clip(along, 0.0, 1.0))


def _keys(points: FloatArray, grid: float) -> AnyArray:
    """Return one whole number for each place on the grid."""
    cells = np.round(points / grid).astype(np.int64)
    return np.asarray((cells[:, 0] << 32) ^ (cells[:, 1] & 0xFFFFFFFF))


def _neighbours(ring: AnyArray) -> tuple[AnyArray, AnyArray]:
    """Return which row comes before and after each, around rings given by equal neighbouring numbers."""
    index = np.arange(len(ring))
    head = np.concatenate([[True], ring[1:] != ring[:-1]])
    tail = np.concatenate([head[1:], [True]])
    first, last = np.nonzero(head)[0], np.nonzero(tail)[0]
    before, after = index - 1, index + 1
    before[first], after[last] = last, first
    return before, after


def joined_runs(pieces: Pieces) -> Pieces:
    """Return the pieces around each ring with those put together that go on along one segment."""
    pieces = pieces.chosen(pieces.t0 != pieces.t1)
    if not len(pieces.ring):
        return pieces
    segment, t0, t1 = pieces.segment, pieces.t0, pieces.t1
    before, after = _neighbours(pieces.ring)
    goes_on = (
        (segment == segment[before])
        & ((t1 > t0) == (t1[before] > t0[before]))
        & (np.abs(t1[before] - t0) < 1e-9)
    )
    # A ring that is one whole segment starts somewhere all the same.
    begins = ~goes_on
    heads = np.nonzero(np.concatenate([[True], pieces.ring[1:] != pieces.ring[:-1]]))[0]
    any_begin = np.logical_or.reduceat(begins, heads)
    begins[heads[~any_begin]] = True
    ends = begins[after]
    first, last = np.nonzero(begins)[0], np.nonzero(ends)[0]
    # A run over a ring's last row ends in its first rows.
    order = np.arange(len(first))
    owner = pieces.ring[first]
    wraps = last[order] < first
    if wraps.any() or len(last) != len(first):
        heads_of = np.concatenate([[True], owner[1:] != owner[:-1]])
        shifted = np.where(
            wraps[np.nonzero(heads_of)[0]][np.cumsum(heads_of) - 1], _neighbours(owner)[1], order
        )
        last = last[shifted]
    return Pieces(owner, segment[first], t0[first], t1[last])


def cut_out(segments: FloatArray, runs: Pieces, grid: float) -> tuple[FloatArray, AnyArray]:
    """Return the segments of all rings, each run's end brought to the next one's start, and their rings."""
    number, t0, t1 = runs.segment, runs.t0.copy(), runs.t1.copy()
    before, following = _neighbours(runs.ring)
    curves = segments[number]
    inner0 = (t0 != 0.0) & (t0 != 1.0)
    inner1 = (t1 != 0.0) & (t1 != 1.0)
    meet = inner1 | inner0[following]
    # Two runs of one segment meet where it was cut: there is nothing to find.
    meet &= (number != number[following]) | (np.abs(t1 - t0[following]) > 1e-9)
    if meet.any():
        k = np.nonzero(meet)[0]
        ta, tb = _crossings(curves[k], curves[following[k]], t1[k], t0[following[k]])
        t1[k], t0[following[k]] = ta, tb
    out = _between(curves, t0, t1)
    joints = (out[:, 3] + out[following, 0]) / 2.0
    # An end of a source stays where it is.
    whole_end = ~((t1 != 0.0) & (t1 != 1.0))
    joints[whole_end] = out[whole_end, 3]
    starts = joints[before]
    out[:, 2] += joints - out[:, 3]
    out[:, 1] += starts - out[:, 0]
    out[:, 3], out[:, 0] = joints, starts
    # A run no longer than the rounding is a joint.
    keep = np.abs(np.diff(out, axis=1)).max(axis=(1, 2)) >= 16.0 * grid
    out, ring = out[keep], runs.ring[keep]
    if len(out) and not keep.all():
        out[:, 0] = out[_neighbours(ring)[0], 3]
    return out, ring


def _crossings(a: FloatArray, b: FloatArray, ta: FloatArray, tb: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return where pairs of cubics cross, from guesses near by (Newton); a guess stays where that fails."""
    sa, sb = ta.copy(), tb.copy()
    for _ in range(_NEWTON_ROUNDS):
        off = bezier.point_of_each(b, sb) - bezier.point_of_each(a, sa)
        da, db = bezier.slope_of_each(a, sa), bezier.slope_of_each(b, sb)
        turn = da[:, 0] * db[:, 1] - da[:, 1] * db[:, 0]
        flat = np.abs(turn) < 1e-9 * np.hypot(*da.T) * np.hypot(*db.T) + 1e-300
        turn = np.where(flat, 1.0, turn)
        step_a = np.where(flat, 0.0, (off[:, 0] * db[:, 1] - off[:, 1] * db[:, 0]) / turn)
        step_b = np.where(flat, 0.0, (off[:, 0] * da[:, 1] - off[:, 1] * da[:, 0]) / turn)
        sa, sb = np.clip(sa + step_a, 0.0, 1.0), np.clip(sb + step_b, 0.0, 1.0)
    before = np.hypot(*(bezier.point_of_each(a, ta) - bezier.point_of_each(b, tb)).T)
    after = np.hypot(*(bezier.point_of_each(a, sa) - bezier.point_of_each(b, sb)).T)
    moved = np.hypot(*(bezier.point_of_each(a, sa) - bezier.point_of_each(a, ta)).T)
    span = np.hypot(*(a[:, 3] - a[:, 0]).T) + np.hypot(*(b[:, 3] - b[:, 0]).T)
    good = (after <= before) & (moved <= 0.1 * span)
    return np.where(good, sa, ta), np.where(good, sb, tb)


def _between(curves: FloatArray, t0: FloatArray, t1: FloatArray) -> FloatArray:
    """Return the part of each cubic from t0 to t1, drawn that way (blossoming)."""

    def blossom(r: FloatArray, s: FloatArray, t: FloatArray) -> FloatArray:
        r, s, t = r[:, None], s[:, None], t[:, None]
        p01 = curves[:, 0] + r * (curves[:, 1] - curves[:, 0])
        p12 = curves[:, 1] + r * (curves[:, 2] - curves[:, 1])
        p23 = curves[:, 2] + r * (curves[:, 3] - curves[:, 2])
        p012, p123 = p01 + s * (p12 - p01), p12 + s * (p23 - p12)
        return np.asarray(p012 + t * (p123 - p012))

    out = np.stack(
        [blossom(t0, t0, t0), blossom(t0, t0, t1), blossom(t0, t1, t1), blossom(t1, t1, t1)], axis=1
    )
    same, back = (t0 == 0.0) & (t1 == 1.0), (t0 == 1.0) & (t1 == 0.0)
    out[same], out[back] = curves[same], curves[back][:, ::-1]
    return np.ascontiguousarray(out)
