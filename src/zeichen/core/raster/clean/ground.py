"""Clean-up of ground and stray marks: what lies behind or beside the figure."""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.raster.picture import Picture
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Width of the rim that is taken for ground, as a share of the shorter side.
_RIM = 0.015
# A pixel that differs from the ground by more than this is figure.
FIGURE_OFF = 60.0
# Ground differs from its usual colour by no more than this, and from pixel to pixel by no more than that.
_SAME_GROUND = 16.0
_SMOOTH_STEP = 10.0
WHITE = 255
# A signature is at most this large a part of the figure, and lies so near the lower edge and so far aside.
_SIGNATURE_AREA = 0.02
_SIGNATURE_RIM = 0.25
_SIGNATURE_ASIDE = 0.1


@dataclass(frozen=True, slots=True)
class Ground:
    """What a picture's rim shows: its usual colour, the share of the rim that has it, and the share along
    which it hardly changes from pixel to pixel, as the light on a sheet does."""

    rgb: FloatArray
    rim_share: float
    smooth_share: float


def read_ground(picture: Picture) -> Ground:
    """Return the ground as the rim of the picture shows it."""
    height, width = picture.rgb.shape[:2]
    rim = max(2, round(_RIM * min(height, width)))
    strip = np.concatenate(
        [
            picture.rgb[:rim].reshape(-1, 3),
            picture.rgb[-rim:].reshape(-1, 3),
            picture.rgb[rim:-rim, :rim].reshape(-1, 3),
            picture.rgb[rim:-rim, -rim:].reshape(-1, 3),
        ]
    )
    # (The median of each channel by its own: along an axis of three numpy takes six times as long.)
    colour = np.array([np.median(strip[:, channel]) for channel in range(3)], np.float32)
    strip = strip.astype(np.float32)
    off = np.abs(strip - colour).max(axis=1)
    steps = np.concatenate(
        [
            np.abs(np.diff(line.astype(np.float32), axis=0)).max(axis=1)
            for line in (picture.rgb[0], picture.rgb[-1], picture.rgb[:, 0], picture.rgb[:, -1])
        ]
    )
    return Ground(
        colour.astype(np.float64),
        float((off <= _SAME_GROUND).mean()),
        float((steps <= _SMOOTH_STEP).mean()),
    )


def ground_colour(picture: Picture) -> FloatArray:
    """Return the usual colour of the picture's rim, 0-255."""
    return read_ground(picture).rgb


def off_ground(picture: Picture, ground: Ground | None = None) -> AnyArray:
    """Return how far each pixel is from the ground's colour: the largest difference of its channels.

    ground: as it was read before, if it was.
    """
    colour = np.clip(np.round((ground or read_ground(picture)).rgb), 0, 255)
    away = cv2.absdiff(picture.rgb, np.array([*colour, 0.0]))
    first, second, third = cv2.split(away)
    return np.asarray(cv2.max(cv2.max(first, second), third))


def figure_mask(picture: Picture) -> BoolArray:
    """Return which pixels clearly differ from the ground."""
    return np.asarray(off_ground(picture) > FIGURE_OFF)


def without_ground(picture: Picture, *, tolerance: float, holes: bool) -> Picture:
    """Return the picture with its ground made white.

    Ground is what is joined to the rim through pixels that differ little from the ground's colour; soft
    edges fade to white by as much ground as they hold.

    Parameters
    ----------
    tolerance : float
        How far ground may be from its usual colour, 0-255.
    holes : bool
        Whether ground that shows through the figure goes, too.
    """
    colour = ground_colour(picture)
    off = off_ground(picture)
    plain = (off <= tolerance).astype(np.uint8)
    if holes:
        ground = plain > 0
    else:
        count, labels = cv2.connectedComponents(plain, connectivity=4)
        at_rim = np.zeros(count, dtype=bool)
        for line in (labels[0], labels[-1], labels[:, 0], labels[:, -1]):
            at_rim[line] = True
        at_rim[0] = False
        ground = at_rim[labels]
    # Mixed pixels beside the ground hold the less of it the further they are from its colour.
    beside = (cv2.dilate(ground.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0) & ~ground
    reach = max(2.0 * tolerance, 48.0)
    share = np.clip(1.0 - (off[beside] - tolerance) / reach, 0.0, 1.0)
    out = picture.rgb.copy()
    mixed = out[beside] + share[:, None] * (WHITE - colour)
    out[beside] = np.clip(np.round(mixed), 0, 255).astype(np.uint8)
    out[ground] = WHITE
    return Picture(out)


def without_specks(picture: Picture, *, area_px2: float) -> Picture:
    """Return the picture without marks and pin holes smaller than an area; each gets the colour around it."""
    rgb = picture.rgb.copy()
    for dark in (True, False):
        mask = figure_mask(Picture(rgb))
        sought = mask if dark else ~mask
        spots = _small(sought, area_px2)
        if spots.any():
            rgb = _filled(rgb, spots)
    return Picture(rgb)


def without_box(picture: Picture, *, x_min: float, y_min: float, x_max: float, y_max: float) -> Picture:
    """Return the picture with a box (shares of width and height) wiped out by the ground's colour."""
    rgb = picture.rgb.copy()
    x0, x1 = int(x_min * picture.width_px), int(np.ceil(x_max * picture.width_px))
    y0, y1 = int(y_min * picture.height_px), int(np.ceil(y_max * picture.height_px))
    rgb[max(0, y0) : y1, max(0, x0) : x1] = np.clip(np.round(ground_colour(picture)), 0, 255).astype(np.uint8)
    return Picture(rgb)


def painted(picture: Picture, original: Picture, *, path: FloatArray, width: float, restore: bool) -> Picture:
    """Return the picture with a brush stroke of ground over it, or of the original where something was lost.

    Parameters
    ----------
    path : (n, 2) float array
        Shares of width and height.
    width : float
        Of the brush, as a share of the picture's longer side.
    restore : bool
        False rubs out. The original must have the picture's size to be restored from.
    """
    stroke = np.zeros(picture.rgb.shape[:2], np.uint8)
    size = np.array([picture.width_px, picture.height_px])
    places = np.round(path * size * 16.0).astype(np.int32).reshape(-1, 1, 2)
    thick = max(1, round(width * max(picture.width_px, picture.height_px)))
    if len(places) == 1:
        centre = (int(places[0, 0, 0]), int(places[0, 0, 1]))
        cv2.circle(stroke, centre, thick * 8, 255, -1, cv2.LINE_AA, 4)
    else:
        cv2.polylines(stroke, [places], False, 255, thick, cv2.LINE_AA, 4)
    share = (stroke.astype(np.float32) / 255.0)[..., None]
    paint = np.broadcast_to(ground_colour(picture), picture.rgb.shape)
    if restore and original.rgb.shape == picture.rgb.shape:
        paint = original.rgb.astype(np.float64)
    elif restore:
        return picture
    out = picture.rgb * (1.0 - share) + paint * share
    return Picture(np.clip(np.round(out), 0, 255).astype(np.uint8))


def find_signature(mask: AnyArray) -> tuple[float, float, float, float] | None:
    """Return the box (x_min, y_min, x_max, y_max as shares) of a small mark in a lower corner, away from the figure.

    Parameters
    ----------
    mask : (height, width) array
        True where there is figure.
    """
    # Where it lies, not its outline, is asked for: half the size will do.
    mask = mask[: mask.shape[0] // 2 * 2, : mask.shape[1] // 2 * 2]
    inked = mask.view(np.uint8) if mask.dtype == np.bool_ else (mask > 0).astype(np.uint8)
    counts = inked[::2, ::2] + inked[1::2, ::2] + inked[::2, 1::2] + inked[1::2, 1::2]
    height, width = counts.shape
    side = max(height, width)
    # Marks that belong together, such as letters, are one.
    reach = max(3, side // 60)
    # No kernel reaches further than the picture does; of a strip a million pixels long it would be a gigabyte.
    kernel = np.ones((min(reach, 2 * height + 1), min(reach, 2 * width + 1)), np.uint8)
    joined = cv2.dilate((counts > 0).view(np.uint8), kernel)
    count, labels, stats, centres = cv2.connectedComponentsWithStats(joined, connectivity=8)
    if count < 3:
        return None
    own = np.bincount(labels.reshape(-1), weights=counts.reshape(-1), minlength=count)
    own[0] = 0.0
    main = int(own.argmax())
    best: tuple[float, int] | None = None
    for k in range(1, count):
        if k == main or own[k] > _SIGNATURE_AREA * own[main] or own[k] < 6:
            continue
        w, h = float(stats[k, cv2.CC_STAT_WIDTH]), float(stats[k, cv2.CC_STAT_HEIGHT])
        x, y = centres[k] / (width, height)
        in_corner = y > 1.0 - _SIGNATURE_RIM and abs(x - 0.5) > _SIGNATURE_ASIDE
        # Writing is wider than high, and no speck.
        if in_corner and w > 0.03 * side and w > 1.4 * h:
            best = max(best, (own[k], k)) if best else (own[k], k)
    if best is None:
        return None
    x, y, w, h = (float(v) for v in stats[best[1], :4])
    return x / width, y / height, (x + w) / width, (y + h) / height


def _small(mask: AnyArray, area_px2: float) -> BoolArray:
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    small = stats[:, cv2.CC_STAT_AREA] < area_px2
    small[0] = False
    return np.asarray(small[labels])


def _filled(rgb: AnyArray, spots: BoolArray) -> AnyArray:
    """Return the picture with spots and their soft rims filled from around them."""
    wide = cv2.dilate(spots.astype(np.uint8), np.ones((5, 5), np.uint8))
    return np.asarray(cv2.inpaint(rgb, wide, 3, cv2.INPAINT_TELEA), dtype=np.uint8)
