"""Boundary points moved to where the edge truly runs, by fitting the edge's profile to the grey around.

Interpolating between two pixels takes the edge for a ramp of one pixel and is off by up to 0.08 px,
always to the same side of a corner or a small disc. Here all pixels near a point speak: the offset
of a slightly bent edge is fitted to them by least squares, which is unbiased and averages noise.
"""

import math
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.parabola import lowest_between
from zeichen.core.raster.ink import Ink
from zeichen.core.tracing.edges.contour_normals import normals, telling
from zeichen.core.tracing.edges.edge_spread import BLURS_PX, PER_PX, SLANTS, EdgeSpread, edge_spread
from zeichen.core.tracing.edges.effective_resolution import TWO_TONES, in_fewer_pixels
from zeichen.core.tracing.edges.local_contrast import plainly_other, tones_beside, with_gaps_bridged
from zeichen.core.tracing.edges.marching_squares import Contours
from zeichen.core.values import AnyArray, BoolArray, FloatArray, value_below

# Points looked at when the picture's blur is estimated.
_PROBES = 96
# And when its noise is.
_NOISE_PROBES = 400
# A point that moves by less has settled.
_SETTLED_PX = 6e-3
# Nor does it move by more at once, nor oftener than this.
_MOST_STEP_PX = 0.4
_TRIES = 3
# Fewer do for the picture's blur, which is looked for from that number of those tried on.
_GLANCES, _USUAL_BLUR = 2, 1
# Between those tried it is told to this step, px; between the least of them it makes no difference.
_BLUR_STEP_PX, _LEAST_REFINED = 0.02, 4
# A point that would move further than this is not on a plain edge; it stays.
_FURTHEST_PX = 0.8
# As soft as edges are taken for that no blur explains, px.
_USUAL_BLUR_PX = 0.65
# Points that leave more, so many of a contour, may lie between other tones than the picture's two.
_OTHER_TONES = 0.05
_MANY = 0.1


@dataclass(frozen=True, slots=True)
class EdgePoints:
    """The contours on the true edge.

    contours: in the order found; where they are gently bent every second point may be left out.
    pixel_px: side of the pixels the picture truly has; more than 1 where it was enlarged.
    blur_px: the picture's blur beside those.
    noise_px: typical error of a single point, from how badly the profile fits.
    unexplained: for each point the RMS of grey, as a share of the contrast, that a plain edge leaves.
    stands_for: for how many points as they were found each of these stands.
    ink: the picture's own pixels, and what they say of the ink.
    """

    contours: Contours
    pixel_px: float
    blur_px: float
    noise_px: float
    unexplained: FloatArray
    stands_for: FloatArray
    ink: Ink


def settle(
    grey: AnyArray, contours: Contours, *, ink: float, paper: float, level: float, sparse: bool = True
) -> EdgePoints:
    """Return contours with every point moved along its normal onto the edge.

    Parameters
    ----------
    grey : (height, width) uint8 array
    contours : Contours
        As found at that level, px.
    ink, paper : float
        Grey on either side of the edges.
    level : float
        Grey the boundary is wanted at; half-way between ink and paper is the edge itself.
    sparse : bool
        Leave out every second point where the contours are gently bent.
    """
    points, starts = contours.points, contours.starts
    if not len(points):
        return EdgePoints(contours, 1.0, 0.0, 0.0, np.zeros(0), np.zeros(0), Ink(grey, ink, paper))
    edges = Edges(
        np.ascontiguousarray(grey)[:, :, None],
        np.empty((0, 0), np.int32),
        np.array([[ink], [paper]], dtype=np.float64),
        starts,
        np.ones(len(starts) - 1, np.bool_),
        np.zeros(len(points), np.int64),
        np.ones(len(points), np.int64),
    )
    blur, unexplained = edges.estimate_blur(points)
    fewer = in_fewer_pixels(grey, blur, unexplained, abs(paper - ink))
    if fewer is not None:
        own, factor = fewer
        inner = settle(
            own, Contours(points / factor, starts), ink=ink, paper=paper, level=level, sparse=False
        )
        moved = _not_far(points, inner.contours.points * factor)
        return EdgePoints(
            Contours(moved, starts),
            inner.pixel_px * factor,
            inner.blur_px * factor,
            inner.noise_px * factor,
            inner.unexplained,
            inner.stands_for,
            inner.ink,
        )
    if unexplained > TWO_TONES:
        # In a picture of several tones no blur explains the edges, and the softest is as good as any.
        blur = min(blur, _USUAL_BLUR_PX)
    kept, stands_for = np.arange(len(points)), np.ones(len(points))
    if sparse:
        kept, starts, stands_for = telling(points, starts)
    moved, left, normal = edges.settled_at(kept, points, blur)
    tones = np.array([[float(ink), float(paper)]])
    if len(asked := _doubtful(left, starts)):
        found = with_gaps_bridged(tones_beside(grey, moved[asked], normal[asked], blur))
        other = plainly_other(found, ink, paper)
        asked, found = asked[other], found[other]
        again, rest, _ = edges.between(found, kept[asked]).settled_at(kept[asked], points, blur)
        rest *= (found[:, 0] - found[:, 1]) / (ink - paper)
        better = rest < np.maximum(left[asked], _OTHER_TONES)
        asked = asked[better]
        moved[asked], left[asked] = again[better], rest[better]
        tones = np.repeat(tones, len(kept), axis=0)
        tones[asked] = found[better]
    if abs((level - paper) / (ink - paper) - 0.5) > 0.02:
        share = np.clip((level - tones[:, 1]) / (tones[:, 0] - tones[:, 1]), 0.1, 0.9)
        normal, _, _ = normals(moved, starts, edges.closed, 2.0 + 1.5 * blur, np.arange(len(moved)))
        moved = moved + normal * _level_shift(edge_spread(blur), share)[:, None]
    noise = replace(edges, starts=starts).noise(moved)
    return EdgePoints(Contours(moved, starts), 1.0, blur, noise, left, stands_for, Ink(grey, ink, paper))


@dataclass(frozen=True, slots=True)
class Edges:
    """Boundaries between flat colours, and the picture they are seen in.

    picture: (height, width, channels); labels: (height, width) index of each pixel's colour, or empty
    to let every pixel speak; palette: (colours, channels).
    starts, closed: where each boundary starts in the list of points, and whether it is a loop.
    right, left: for each point the colours on either side of the direction of travel.
    """

    picture: AnyArray
    labels: AnyArray
    palette: FloatArray
    starts: AnyArray
    closed: BoolArray
    right: AnyArray
    left: AnyArray

    def settled(self, points: FloatArray, blur: float, *, rounds: int) -> tuple[FloatArray, FloatArray]:
        """Return the points (n, 2), px, moved onto the edge, and the RMS that each leaves unexplained, (n,).

        In a second round the edge's bend is seen from nearer by.
        """
        moved, left = points, np.zeros(len(points))
        every = np.arange(len(points))
        for number in range(rounds):
            window = 2.0 + 1.5 * blur
            normal, curvature, _ = normals(moved, self.starts, self.closed, window, every)
            if number == 0:
                curvature = np.zeros_like(curvature)
            # The first round is there for the directions in the next.
            tries = _TRIES if number == rounds - 1 else 1
            moved, left = self._settled(moved, every, normal, curvature, blur, tries)
            moved = _not_far(points, moved)
        return moved, left

    def between(self, tones: FloatArray, numbers: AnyArray) -> "Edges":
        """Return the same with tones (n, 2) of their own, inwards and outwards, beside some of the points."""
        right, left = np.zeros((2, len(self.right)), np.int64)
        right[numbers] = np.arange(0, 2 * len(tones), 2)
        left[numbers] = right[numbers] + 1
        return replace(self, palette=np.ascontiguousarray(tones.reshape(-1, 1)), right=right, left=left)

    def settled_at(
        self, kept: AnyArray, points: FloatArray, blur: float
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return some of the points, given by number, moved in one round, what each leaves unexplained, their normals.

        All points (n, 2) tell the directions: not settled yet, from further around than in two rounds.
        """
        normal, curvature, _ = normals(points, self.starts, self.closed, 3.0 + 1.5 * blur, kept)
        moved, left = self._settled(points[kept], kept, normal, curvature, blur, _TRIES)
        return moved, left, normal

    def _settled(
        self,
        points: FloatArray,
        numbers: AnyArray,
        normal: FloatArray,
        curvature: FloatArray,
        blur: float,
        tries: int,
    ) -> tuple[FloatArray, FloatArray]:
        profile = edge_spread(blur)
        along = _Along(points, normal, curvature, self.right[numbers], self.left[numbers])
        shape = _Shape(profile.share, profile.slope, profile.reach_px, blur)
        moved, left = _settle(self.picture, self.labels, self.palette, along, shape, tries)
        return moved, left

    def estimate_blur(self, points: FloatArray) -> tuple[float, float]:
        """Return the blur (px) whose profile leaves the least unexplained at the median point, and how much."""
        some = np.arange(0, len(points), max(1, len(points) // _PROBES))
        normal, curvature, _ = normals(points, self.starts, self.closed, 3.0, some)

        left: dict[float, float] = {}

        def unexplained(blur: float) -> float:
            if blur not in left:
                left[blur] = value_below(
                    self._settled(points[some], some, normal, curvature, blur, _GLANCES)[1], 0.5
                )
            return left[blur]

        # Most pictures are about that soft; from there on upwards while it helps, or one downwards.
        best, worse = _USUAL_BLUR, 0
        for number in range(best + 1, len(BLURS_PX)):
            if unexplained(BLURS_PX[number]) < unexplained(BLURS_PX[best]):
                best, worse = number, 0
            else:
                worse += 1
                if worse == 2 or best == _USUAL_BLUR:
                    break
        if best == _USUAL_BLUR and unexplained(BLURS_PX[best - 1]) < unexplained(BLURS_PX[best]):
            best -= 1
        if _LEAST_REFINED < best < len(BLURS_PX) - 1:
            beside = BLURS_PX[best - 1 : best + 2]
            between = lowest_between(*beside, *(unexplained(blur) ** 2 for blur in beside))
            unexplained(round(between / _BLUR_STEP_PX) * _BLUR_STEP_PX)
        return min(left.items(), key=lambda each: each[1])

    def noise(self, points: FloatArray) -> float:
        """Return the typical error of a point (n, 2), from how far each lies off those around it, px."""
        some = np.arange(0, len(points), max(1, len(points) // _NOISE_PROBES))
        return 1.6 * value_below(np.abs(normals(points, self.starts, self.closed, 4.0, some)[2]), 0.5)


def _doubtful(left: FloatArray, starts: AnyArray) -> AnyArray:
    """Return the numbers of the points of those contours of which many leave much unexplained."""
    which: AnyArray = np.nonzero(_in_doubt(left, starts))[0]
    return which


@counted(cache=True)
def _in_doubt(left: FloatArray, starts: AnyArray) -> BoolArray:
    out = np.zeros(len(left), np.bool_)
    for loop in range(len(starts) - 1):
        many = 0
        for k in range(starts[loop], starts[loop + 1]):
            many += left[k] > _OTHER_TONES
        if many > _MANY * (starts[loop + 1] - starts[loop]):
            for k in range(starts[loop], starts[loop + 1]):
                out[k] = True
    return out


def _not_far(points: FloatArray, moved: FloatArray) -> FloatArray:
    off = np.abs(moved - points)
    near = (off[:, 0] < _FURTHEST_PX) & (off[:, 1] < _FURTHEST_PX)
    return np.where(near[:, None], moved, points)


def _level_shift(profile: EdgeSpread, share: FloatArray) -> FloatArray:
    """Return how far inside the edge the ink's share has a value (negative: outside), px."""
    row = profile.share[SLANTS // 2]
    return np.interp(share, row, np.arange(len(row)) / PER_PX - profile.reach_px)


class _Along(NamedTuple):
    """Points (n, 2) px of an edge, its normal (n, 2) and curvature (n,) there, the colours right and left of each."""

    points: FloatArray
    normal: FloatArray
    curvature: FloatArray
    right: AnyArray
    left: AnyArray


class _Shape(NamedTuple):
    """What an edge looks like across; see EdgeSpread."""

    share: FloatArray
    slope: FloatArray
    reach_px: float
    blur_px: float


@counted(cache=True)
def _settle(
    padded: AnyArray, labels: AnyArray, palette: FloatArray, along_edge: _Along, shape: _Shape, tries: int
) -> tuple[FloatArray, FloatArray]:
    """Return points moved onto the edge between their two colours, and what each leaves unexplained."""
    points, normal, curvature, right, left_of = along_edge
    share, slope, reach, blur = shape
    height, width = padded.shape[0], padded.shape[1]
    out = points.copy()
    left = np.ones(len(points))
    rows = share.shape[0] - 1
    columns = share.shape[1]
    channels = padded.shape[2]
    pick = labels.shape[0] > 0
    scale = np.empty(channels)
    along = 1.3 + 0.9 * blur
    across = 0.5 + 2.0 * blur
    spread = 1.0 / 12.0 + blur * blur
    box = math.ceil(max(along, across + 0.3))
    away, seen, weight = np.empty((3, (2 * box + 1) ** 2))
    limit = 1.0 / (2.0 * along)
    fade = 0.8 / (along * along)
    for k in range(len(points)):
        nx, ny = normal[k, 0], normal[k, 1]
        if nx == 0.0 and ny == 0.0:
            continue
        a, b = right[k], left_of[k]
        square_contrast = 0.0
        for ch in range(channels):
            scale[ch] = palette[a, ch] - palette[b, ch]
            square_contrast += scale[ch] * scale[ch]
        if square_contrast <= 0.0:
            continue
        base = 0.0
        for ch in range(channels):
            scale[ch] /= square_contrast
            base += palette[b, ch] * scale[ch]
        big, small = max(abs(nx), abs(ny)), min(abs(nx), abs(ny))
        row = int(_share_of_eighth(small / big) * rows + 0.5)
        bend = max(-limit, min(limit, curvature[k]))
        px, py = points[k, 0], points[k, 1]
        c0, r0 = math.floor(px), math.floor(py)
        shift = 0.0
        rest = 1.0
        wide = across + 0.5 * (big + small)
        used = 0
        for r in range(np.uint64(max(0, r0 - box)), np.uint64(max(0, min(height, r0 + box + 1)))):
            for c in range(np.uint64(max(0, c0 - box)), np.uint64(max(0, min(width, c0 + box + 1)))):
                dx, dy = c + 0.5 - px, r + 0.5 - py
                t = -dx * ny + dy * nx
                d = dx * nx + dy * ny - 0.5 * bend * (t * t + spread)
                if abs(t) > along or abs(d) > wide + _MOST_STEP_PX:
                    continue
                if pick and labels[r, c] != a and labels[r, c] != b:
                    continue
                value = float(padded[r, c, 0]) * scale[0] - base
                for ch in range(1, channels):
                    value += float(padded[r, c, ch]) * scale[ch]
                away[used], seen[used], weight[used] = d, value, 1.0 - t * t * fade
                used += 1
        for _ in range(tries):
            top = bottom = 0.0
            square = weights = 0.0
            for i in range(used):
                d = away[i] - shift
                if abs(d) > wide:
                    continue
                at = (d + reach) * PER_PX
                if at <= 0.0 or at >= columns - 1:
                    f = 0.0 if at <= 0.0 else 1.0
                    g = 0.0
                else:
                    low = np.uint64(at)
                    q = at - low
                    after = low + np.uint64(1)
                    f = share[row, low] + q * (share[row, after] - share[row, low])
                    g = slope[row, low] + q * (slope[row, after] - slope[row, low])
                off = seen[i] - f
                w = weight[i]
                top -= w * g * off
                bottom += w * g * g
                square += w * off * off
                weights += w
            if bottom < 0.05:
                break
            rest = math.sqrt(square / weights)
            step = top / bottom
            shift += max(-_MOST_STEP_PX, min(_MOST_STEP_PX, step))
            if abs(step) < _SETTLED_PX:
                break
        left[k] = rest
        if abs(shift * nx) < _FURTHEST_PX and abs(shift * ny) < _FURTHEST_PX:
            out[k, 0] = px + shift * nx
            out[k, 1] = py + shift * ny
    return out, left


@uncounted
def _share_of_eighth(slant: float) -> float:
    """Return the angle whose tangent is a slant of 0 to 1, as a share of 45 degrees, to half a percent."""
    return slant + 0.3476 * slant * (1.0 - slant)
