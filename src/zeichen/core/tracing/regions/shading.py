"""A shaded picture painted anew without its shading: in calm steps, or each area in one colour.

What comes out is a flat picture with the edges of the shaded one, so all that draws flat pictures draws it.
"""

import cv2
import numpy as np

from zeichen.core.methods import AreaTone
from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.raster.shading import Shaded, like_ground
from zeichen.core.raster.smooth_areas import repainted
from zeichen.core.tracing.regions.labelling import absorb_spots, closest
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Two areas have one colour if their middles differ by less than the first (CIEDE2000), and by so much of what each
# changes by. Measured on shaded clipart with known flats.
_ONE_COLOUR, _OF_CHANGE = 6.0, 0.45
# Steps smaller than this share of the picture are no steps.
_LEAST_STEP = 2e-4
# Where the number of colours is left open: as many as bring the mean L*a*b* distance below the first, and no more than
# the second. Our own rule, from looking at shaded clipart.
_NEAR_ENOUGH, _MOST_STEPS = 3.5, 12
# How fine colours are counted for choosing steps (bits a channel), and how often the choice is bettered.
_BITS, _ROUNDS = 5, 12


def in_steps(
    shaded: Shaded, colours: int | None, palette: FloatArray | None = None
) -> tuple[AnyArray, FloatArray]:
    """Return the picture in steps of light, and its colours, the ground's last.

    Parameters
    ----------
    shaded : Shaded
    colours : int, optional
        How many the figure may have; None takes as many as show its light and shade.
    palette : (n, 3) float array, 0-255, optional
        The colours to draw with, in place of the best.

    Returns
    -------
    (height, width, 3) float32 array, 0-255, and (n, 3) float array, 0-255
    """
    areas = shaded.areas
    open_ground = shaded.ground >= 0
    plain_ground = like_ground(shaded)
    figure = (areas.number >= 0) & ~plain_ground[areas.number]
    if palette is None:
        palette = _best_colours(areas.field, figure, colours)
        if open_ground:
            palette = np.vstack([palette, shaded.middle[shaded.ground]])
    own = to_lab(palette)
    lab = cv2.cvtColor(areas.field / np.float32(255.0), cv2.COLOR_RGB2Lab)
    steps = np.ones(len(palette), bool)
    if open_ground:
        steps[int(difference(own, to_lab(shaded.middle[shaded.ground])[None]).argmin())] = len(palette) == 1
    of_step = np.nonzero(steps)[0]
    nearest = of_step[closest(lab, own[steps].astype(np.float32))[0]].astype(np.int32)
    if open_ground:
        nearest[plain_ground[areas.number] & (areas.number >= 0)] = int((~steps).argmax())
    calm = absorb_spots(
        np.where(areas.number >= 0, nearest, len(palette)).astype(np.int32), _LEAST_STEP * nearest.size
    )
    changed = (calm != nearest) & (calm < len(palette)) & (areas.number >= 0)
    nearest = np.where(changed, calm, nearest)
    target = _soft_steps(lab, nearest, palette, np.where(steps[:, None], own, np.inf), figure & ~changed)
    return _painted(shaded, target), palette


def taken_out(
    shaded: Shaded, tone: AreaTone, colours: int | None, palette: FloatArray | None = None
) -> tuple[AnyArray, FloatArray]:
    """Return the picture (height, width, 3) with each area in one colour, and its colours (k, 3); see in_steps."""
    of_area = _one_colour_groups(shaded, colours)
    tones = shaded.middle if tone is AreaTone.MIDDLE else shaded.light
    weight = shaded.size_px2
    count = int(of_area.max()) + 1 if len(of_area) else 0
    own = np.zeros((count, 3))
    for group in range(count):
        held = np.nonzero(of_area == group)[0]
        # The largest area's own colour: a mean of two would be neither.
        own[group] = np.average(tones[held], axis=0, weights=weight[held])
    if shaded.ground >= 0:
        own[of_area[shaded.ground]] = shaded.middle[shaded.ground]
    if palette is not None:
        off = np.linalg.norm(to_lab(own)[:, None] - to_lab(palette)[None], axis=2)
        of_area, own = off.argmin(axis=1)[of_area], palette
    target = own[of_area][np.maximum(shaded.areas.number, 0)].astype(np.float32)
    return _painted(shaded, target), own


def _painted(shaded: Shaded, target: AnyArray) -> AnyArray:
    areas = shaded.areas
    plain = shaded.rgb.astype(np.float32)
    return np.asarray(repainted(shaded.rgb, areas.field, areas.number, target, shaded.unexplained, plain))


def _one_colour_groups(shaded: Shaded, colours: int | None) -> AnyArray:
    """Return the group of each area; areas of a group differ by no more than shading does, or there were too many."""
    lab = to_lab(shaded.middle)
    size = shaded.size_px2
    group = np.arange(len(size))
    like = like_ground(shaded)[: len(size)]
    change = np.where(like, 0.0, shaded.change)
    middle, weight = lab.copy(), size.copy()
    if shaded.ground >= 0:
        group[like] = shaded.ground
    alive = [int(k) for k in np.unique(group)]
    wanted = None if colours is None else colours + (shaded.ground >= 0)
    while len(alive) > 1:
        at = np.array(alive)
        gap = difference(middle[at][:, None], middle[at][None])
        allowed = _ONE_COLOUR + _OF_CHANGE * np.minimum(change[at][:, None], change[at][None])
        excess = gap - allowed
        np.fill_diagonal(excess, np.inf)
        if shaded.ground >= 0:
            g = alive.index(shaded.ground)
            excess[g] = excess[:, g] = np.inf
        i, j = np.unravel_index(int(excess.argmin()), excess.shape)
        if excess[i, j] >= 0.0:
            if wanted is None or len(alive) <= wanted:
                break
            # Ward's cost, as for palettes: see core.raster.colours.
            both = weight[at][:, None] * weight[at][None] / (weight[at][:, None] + weight[at][None])
            cost = np.where(np.isfinite(excess), gap**2 * both, np.inf)
            i, j = np.unravel_index(int(cost.argmin()), cost.shape)
            if not np.isfinite(cost[i, j]):
                break
        big, small = (at[i], at[j]) if weight[at[i]] >= weight[at[j]] else (at[j], at[i])
        group[group == small] = big
        total = weight[big] + weight[small]
        middle[big] = (weight[big] * middle[big] + weight[small] * middle[small]) / total
        change[big] = max(change[big], change[small])
        weight[big] = total
        alive.remove(int(small))
    return np.unique(group, return_inverse=True)[1]


def _best_colours(field: AnyArray, where: BoolArray, count: int | None) -> FloatArray:
    """Return at most so many colours (n, 3) for the pixels of a picture, those by which they are off least.

    count: None for as many as keep them near enough.

    Y. Linde, A. Buzo and R. M. Gray, "An algorithm for vector quantizer design", IEEE Transactions on Communications 28
    (1980); the group that is off most is parted first, along the way it is longest.
    """
    pixels = field[where]
    if not len(pixels):
        return np.zeros((0, 3))
    cells = np.clip(pixels, 0, 255).astype(np.uint8) >> (8 - _BITS)
    key = (cells[:, 0].astype(np.int64) << 2 * _BITS) | (cells[:, 1].astype(np.int64) << _BITS) | cells[:, 2]
    weight = np.bincount(key, minlength=1 << 3 * _BITS).astype(np.float64)
    used = np.nonzero(weight)[0]
    sums = np.stack([np.bincount(key, pixels[:, ch], minlength=len(weight))[used] for ch in range(3)], axis=1)
    weight = weight[used]
    rgb: FloatArray = sums / weight[:, None]
    lab = to_lab(rgb)
    group = np.zeros(len(used), np.int64)
    centres = np.average(lab, axis=0, weights=weight)[None]
    while len(centres) < min(count or _MOST_STEPS, len(used)):
        square = ((lab - centres[group]) ** 2).sum(axis=1)
        if count is None and np.average(np.sqrt(square), weights=weight) < _NEAR_ENOUGH:
            break
        off = square * weight
        most = int(np.bincount(group, off, minlength=len(centres)).argmax())
        if off[group == most].sum() <= 0.0:
            break
        held = group == most
        away = lab[held] - centres[most]
        longest = np.linalg.eigh((away * weight[held, None]).T @ away)[1][:, 2]
        step = longest * np.sqrt(np.average((away @ longest) ** 2, weights=weight[held]))
        centres = np.vstack([centres, centres[most] + step])
        centres[most] -= step
        for _ in range(_ROUNDS):
            group = ((lab[:, None] - centres[None]) ** 2).sum(axis=2).argmin(axis=1)
            held_by = np.bincount(group, weight, minlength=len(centres))
            moved = (
                np.stack(
                    [np.bincount(group, weight * lab[:, ch], minlength=len(centres)) for ch in range(3)],
                    axis=1,
                )
                / np.maximum(held_by, 1e-9)[:, None]
            )
            moved[held_by == 0] = centres[held_by == 0]
            if np.allclose(moved, centres, atol=1e-3):
                break
            centres = moved
    out = np.stack(
        [np.bincount(group, weight * rgb[:, ch], minlength=len(centres)) for ch in range(3)], axis=1
    )
    held_by = np.bincount(group, weight, minlength=len(centres))
    return np.asarray(out[held_by > 0] / held_by[held_by > 0, None])


def _soft_steps(
    lab: AnyArray, nearest: AnyArray, palette: FloatArray, own: FloatArray, where: BoolArray
) -> AnyArray:
    """Return each pixel's colour: its step's, mixed with the next step's where the border runs through it.

    lab: (height, width, 3), the smoothed colour; own: (steps, 3), the steps' own in L*a*b*.
    """
    target = palette[nearest].astype(np.float32)
    border = np.zeros_like(where)
    border[:, 1:] |= nearest[:, 1:] != nearest[:, :-1]
    border[1:] |= nearest[1:] != nearest[:-1]
    near = cv2.dilate(border.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    rows, columns = np.nonzero(near & where)
    if not len(rows):
        return target
    first = nearest[rows, columns]
    away = ((lab[rows, columns][:, None] - own[None]) ** 2).sum(axis=2)
    away[np.arange(len(first)), first] = np.inf
    other = away.argmin(axis=1)
    told = np.isfinite(own[first]).all(axis=1) & np.isfinite(own[other]).all(axis=1)
    rows, columns, first, other = rows[told], columns[told], first[told], other[told]
    towards = own[other] - own[first]
    square = np.maximum((towards**2).sum(axis=1), 1e-9)
    # How far along from one step's colour to the other's, and by how much that grows a px.
    along = ((lab[rows, columns] - own[first]) * towards).sum(axis=1) / square
    height, width = nearest.shape
    up, down = np.maximum(rows - 1, 0), np.minimum(rows + 1, height - 1)
    left, right = np.maximum(columns - 1, 0), np.minimum(columns + 1, width - 1)
    grow_y = ((lab[down, columns] - lab[up, columns]) * towards).sum(axis=1) / square / 2.0
    grow_x = ((lab[rows, right] - lab[rows, left]) * towards).sum(axis=1) / square / 2.0
    share = np.clip(0.5 + (along - 0.5) / np.maximum(np.hypot(grow_x, grow_y), 1e-6), 0.0, 0.5)
    target[rows, columns] += (share[:, None] * (palette[other] - palette[first])).astype(np.float32)
    return target
