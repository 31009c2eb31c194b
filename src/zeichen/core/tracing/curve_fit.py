"""From one closed contour to a closed run of few cubics: corners, then the best breaks between them.

Between two corners the breaks are chosen together by dynamic programming over evenly spaced
candidates: every candidate pair that one line or one cubic joins within the tolerance is an edge,
and the cheapest chain wins (about one unit a segment, less for a straight line, a little more the
worse it fits). Joints that are not corners share one tangent.
"""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.breaks import fit_section
from zeichen.core.tracing.chain import Chain
from zeichen.core.tracing.local import (
    central_estimate,
    corner_angles,
    cumulative_length,
    gap_between,
    pick_corners,
    sharpen,
)
from zeichen.core.tracing.true_shapes import make_circle, make_ellipse, make_fillets, round_arcs
from zeichen.core.values import AnyArray, FloatArray, require_number

_WHISPER, _WHISPER_CALM = 0.02, 0.08
# How many times as far as blur explains a corner's sides may meet beyond the boundary before it is taken for
# round, and pixels added to that. Sides of true corners (open sets) meet at up to four fifths of this, sides
# of small rounds at slender ends at one and a half times and more.
_BLUNTED, _BLUNTED_PX = 4.2, 1.05
_SLENDER_DEG = 150.0
# Noise counts no further than this, and moves what is seen of a border's end by so many times itself.
_MOST_NOISE_PX = 0.12
_CARRIED = 6
# How far beyond the middle that is seen a pen's corner may be, widths.
_PEN_SHARE = 0.6
# Points on a straight edge err by no more than this: own pixels, times the noise, or of the tolerance.
_ERR, _ERR_OF_NOISE, _ERR_OF_TOLERANCE = 0.042, 1.2, 0.3
# Of the tolerance, how much a curve may move to become a true arc.
_ARC_SHARE = 0.25


@dataclass(frozen=True, slots=True)
class FitSettings:
    """How closely curves follow the boundary and what counts as a corner.

    tolerance_px: largest distance of a curve from the measured boundary.
    corner_deg: a turn sharper than this stays a corner.
    pixel_px: side of the pixels the picture truly has.
    blur_px: how soft it is, standard deviation beside those pixels' squares.
    noise_px: typical error of a single point.
    stroke_px: for the middle of a drawn line, how wide it is: its corners are felt that much further off.
    calm: for whole outlines that stand alone, handles too short to be felt make no spikes.
    """

    tolerance_px: float = 0.2
    corner_deg: float = 20.0
    pixel_px: float = 1.0
    blur_px: float = 0.0
    noise_px: float = 0.0
    stroke_px: float = 0.0
    calm: bool = False

    def __post_init__(self) -> None:
        require_number(self.tolerance_px, "Tolerance", least=0.02, most=50, unit="px", advice="Try 0.1 px.")
        require_number(self.corner_deg, "Corner angle", least=10, most=170, unit="degrees")
        require_number(self.pixel_px, "Pixel size", least=0.5, most=40, unit="px")
        require_number(self.blur_px, "Blur", least=0, most=20, unit="px")
        require_number(self.noise_px, "Noise", least=0, most=20, unit="px")

    @property
    def whisper(self) -> float:
        """What say a point has that a corner's blur moved: beside other colours less, for those moved it too."""
        return _WHISPER_CALM if self.calm else _WHISPER

    @property
    def skip_px(self) -> float:
        """Up to where a corner's blur moves the boundary."""
        return 1.2 * self.pixel_px + 1.2 * self.blur_px + 0.42 * self.stroke_px

    @property
    def quiet_px(self) -> float:
        """Up to where a point's surroundings, and so its place, feel a right-angled corner."""
        return 2.2 * self.pixel_px + 1.5 * self.blur_px + 0.5 * self.stroke_px

    @property
    def quiet_end_px(self) -> float:
        """Up to where a point feels what meets at the end of its border: lossy compression carries it further."""
        return self.quiet_px + _CARRIED * min(self.noise_px, _MOST_NOISE_PX)

    @property
    def reach_px(self) -> float:
        """How far to look on either side of a corner."""
        return (
            5.4 * self.pixel_px
            + 4.0 * self.blur_px
            + 20.0 * min(self.noise_px, _MOST_NOISE_PX)
            + 0.9 * self.stroke_px
        )

    def tip_share(self, turn_deg: float, skip: float, reach: float) -> float:
        """Return how many times as far a corner's blur moves the boundary as at a right angle.

        The sides of a tip see each other for as long as they are near each other.
        """
        inner = math.radians(max(180.0 - turn_deg, 20.0))
        return min(max(1.0, 1.0 / (math.sqrt(2.0) * math.sin(inner / 2))), max(1.0, 0.6 * reach / skip))

    def blunted_px(self, turn_deg: float) -> float:
        """Return the most by which blur alone can draw a sharp corner's boundary back from its tip.

        At half the grey, a right angle is drawn back by 0.77 and a slender one by 0.67 / tan(half its angle)
        standard deviations (derived for a Gaussian); several times as much is allowed for the fit of its sides.
        """
        sigma = math.hypot(self.blur_px, 0.29 * self.pixel_px)
        half = math.radians(max(180.0 - turn_deg, 12.0)) / 2
        return (
            _BLUNTED * max(0.77, 0.67 / math.tan(half)) * sigma
            + _BLUNTED_PX * self.pixel_px
            + 0.5 * self.stroke_px
        )

    @property
    def allowed_px(self) -> float:
        """The tolerance, or what the noise alone makes of a perfect fit if that is more."""
        return max(self.tolerance_px, 4.0 * self.noise_px)

    @property
    def straight_px(self) -> float:
        """How far points of a straight run may lie off its line: as far as they err, however coarse curves may be."""
        err = max(_ERR * self.pixel_px, _ERR_OF_NOISE * self.noise_px)
        return min(_ERR_OF_TOLERANCE * self.allowed_px, err)


def fit_contour(points: FloatArray, settings: FitSettings) -> Path:
    """Return the closed Bézier path along a closed contour; see fit_chain."""
    return Path(fit_chain(points, settings).curves())


def fit_chain(points: FloatArray, settings: FitSettings) -> Chain:
    """Return a closed chain of lines and cubics along a closed contour.

    Parameters
    ----------
    points : (n, 2) float array, px
        At least three points, the last not repeating the first.
    settings : FitSettings
    """
    points = np.ascontiguousarray(points, dtype=np.float64)
    tolerance = settings.allowed_px
    n = len(points)
    length = cumulative_length(points)
    # On outlines hardly longer than the window, both sides would see the same points.
    reach = min(settings.reach_px, max(2.2, length[-1] / 6))
    skip = min(settings.skip_px, reach / 3)
    angles = corner_angles(points, length, skip, reach, max(0.08, 1.5 * settings.noise_px), True)
    at = np.nonzero(pick_corners(angles, length, settings.corner_deg, reach * 0.7, True))[0]
    smooth = len(at) == 0
    chain = Chain(points, np.ones(n), closed=True, room=n + 8, calm=settings.calm)
    vertices = np.empty((len(at), 2))
    if not smooth:
        at, vertices = _sharp(points, length, at, angles, settings, skip, reach)
        smooth = len(at) == 0
    if smooth:
        at, vertices = np.array([_most_bent(points, reach)]), np.empty((1, 2))
    scratch = np.zeros(4)
    if smooth:
        central_estimate(points, length, int(at[0]), reach, True, scratch)
        vertices[0] = scratch[:2]
    else:
        for begin, end in zip(at, [*at[1:], at[0] + n], strict=True):
            hush(
                points,
                length,
                int(begin),
                int(end),
                settings.quiet_px,
                settings.quiet_px,
                float(angles[begin]),
                float(angles[end % n]),
                settings.whisper,
                chain.weight,
            )
    arrays = (chain.node, chain.first, chain.line, chain.angle, chain.handle)
    for k in range(len(at)):
        first, last = int(at[k]), int(at[(k + 1) % len(at)])
        if last <= first:
            last += n
        chain.corner[chain.count] = not smooth
        chain.count = fit_section(
            points,
            chain.weight,
            length,
            first,
            last,
            vertices[k],
            vertices[(k + 1) % len(at)],
            smooth,
            skip,
            reach,
            tolerance,
            settings.straight_px,
            True,
            *arrays,
            chain.count,
        )
    chain.polish(tolerance)
    make_fillets(chain, 0.5 * tolerance)
    round_arcs(chain, _ARC_SHARE * tolerance)
    if smooth:
        within = max(0.05, 3.0 * settings.noise_px, 0.25 * tolerance)
        _ = make_circle(chain, within) or make_ellipse(chain, within)
    return chain


def _most_bent(points: FloatArray, reach: float) -> int:
    """Return the point of a closed contour where it turns most from so many px before to as many after."""
    pace = max(1, min(round(1.4 * reach), len(points) // 4))
    come, go = points - np.roll(points, pace, axis=0), np.roll(points, -pace, axis=0) - points
    cross = come[:, 0] * go[:, 1] - come[:, 1] * go[:, 0]
    return int(np.argmax(np.abs(np.arctan2(cross, (come * go).sum(axis=1)))))


def _sharp(
    points: FloatArray,
    length: FloatArray,
    at: AnyArray,
    angles: FloatArray,
    settings: FitSettings,
    skip: float,
    reach: float,
) -> tuple[AnyArray, FloatArray]:
    """Return those corners that blur alone may have rounded, and where they truly are; the others are round."""
    kept, vertices = [], []
    for i in at.tolist():
        wide = skip * settings.tip_share(angles[i], skip, reach)
        x, y, off, turn = sharpen(points, length, i, wide, reach + wide - skip, 2.0 * wide + 0.5, True)
        # How slender a slender tip is, its sides tell better from further off.
        if off <= settings.blunted_px(max(angles[i], turn) if angles[i] > _SLENDER_DEG else angles[i]):
            kept.append(i)
            vertices.append((x, y))
    return np.array(kept, dtype=at.dtype), np.array(vertices).reshape(-1, 2)


def fit_open(
    points: FloatArray,
    settings: FitSettings,
    *,
    pinned: tuple[bool, bool] = (True, True),
    hushed: bool = True,
) -> Chain:
    """Return an open chain along an open polyline, from its first to its last point.

    Parameters
    ----------
    points : (n, 2) float array, px
        The ends are where the chain starts and ends.
    settings : FitSettings
    pinned : (bool, bool)
        Whether the chain must keep its start and its end.
    hushed : bool
        Points near the ends are moved by what meets there and have little say.
    """
    points = np.ascontiguousarray(points, dtype=np.float64)
    tolerance = settings.allowed_px
    n = len(points)
    length = cumulative_length(points)
    length[n] = length[n - 1]
    chain = Chain(points, np.ones(n), closed=False, room=n + 8)
    reach = min(settings.reach_px, max(2.2, length[-1] / 4))
    skip = min(settings.skip_px, reach / 3)
    angles = corner_angles(points, length, skip, reach, max(0.08, 1.5 * settings.noise_px), False)
    inside = (length[:n] > reach * 0.7) & (length[:n] < length[-1] - reach * 0.7)
    angles[~inside] = 0.0
    at = np.nonzero(pick_corners(angles, length, settings.corner_deg, reach * 0.7, False))[0]
    at = np.concatenate([[0], at, [n - 1]])
    # The ends are as sharp as right angles: other edges meet there.
    angles[0] = angles[-1] = 90.0 if hushed else 180.0
    vertices = points[at].copy()
    for k, i in enumerate(at[1:-1].tolist(), 1):
        wide = skip * settings.tip_share(angles[i], skip, reach)
        furthest = 2.0 * wide + 0.5
        if settings.stroke_px:
            # The pen's own ink is around its corner: what the sides meet at further off is no corner.
            furthest = min(furthest, _PEN_SHARE * settings.stroke_px + 0.5)
        x, y, off, _ = sharpen(points, length, i, wide, reach + wide - skip, furthest, False)
        vertices[k] = (x, y) if off <= furthest else points[i]
    quiet_end = settings.quiet_end_px if hushed else settings.quiet_px
    for k in range(len(at) - 1):
        ends = (hushed or k > 0, hushed or k < len(at) - 2)
        if any(ends):
            hush(
                points,
                length,
                at[k],
                at[k + 1],
                quiet_end if k == 0 else settings.quiet_px,
                quiet_end if k == len(at) - 2 else settings.quiet_px,
                angles[at[k]],
                angles[at[k + 1]],
                settings.whisper,
                chain.weight,
            )
    arrays = (chain.node, chain.first, chain.line, chain.angle, chain.handle)
    for k in range(len(at) - 1):
        chain.corner[chain.count] = True
        chain.count = fit_section(
            points,
            chain.weight,
            length,
            int(at[k]),
            int(at[k + 1]),
            vertices[k],
            vertices[k + 1],
            False,
            skip,
            reach,
            tolerance,
            settings.straight_px,
            False,
            *arrays,
            chain.count,
        )
    m = chain.count
    chain.node[m] = vertices[-1]
    chain.first[m] = n
    chain.corner[m] = True
    chain.pinned[0], chain.pinned[m] = pinned
    chain.count = m + 1
    chain.polish(tolerance)
    make_fillets(chain, 0.5 * tolerance)
    round_arcs(chain, _ARC_SHARE * tolerance)
    return chain


@njit(cache=True, error_model="numpy")
def hush(
    points: FloatArray,
    length: FloatArray,
    first: int,
    last: int,
    quiet_first: float,
    quiet_last: float,
    turn_first_deg: float,
    turn_last_deg: float,
    whisper: float,
    weight: FloatArray,
) -> None:
    """Take most of their say from the points of a run between two corners which the corners' blur has moved.

    What is left keeps a curve from leaving them altogether on its way to the corner. At a sharp tip
    both edges see each other for longer. A short run keeps its middle.
    """
    n = len(points)
    run = gap_between(length, first, last, n) if last - first < n else length[n]
    for end in range(2):
        turn = turn_first_deg if end == 0 else turn_last_deg
        quiet = quiet_first if end == 0 else quiet_last
        inner = math.radians(180.0 - min(turn, 165.0))
        near = min(quiet / max(math.sin(min(inner, math.pi / 2)), 0.3), 0.3 * run)
        for k in range(last - first + 1):
            i = first + k if end == 0 else last - k
            away = gap_between(length, first, i, n) if end == 0 else gap_between(length, i, last, n)
            if k and away > near:
                break
            weight[i % n] = min(weight[i % n], 0.0 if away < 0.4 * near else whisper)
