"""The compiled kernels: loaded from disk, or compiled in two processes at once where they are not there yet.

Two thirds of the compiler's time goes into fits and what stands on them. So one process fits curves to given points,
while the other does all that needs no fit; then everything is traced once, which finds nearly all there.
"""

import contextlib
import fcntl
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np

from zeichen.core.errors import OutsideError
from zeichen.core.fitting.curve_fit import fit_open, fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.local_polynomial import Stretch, polyline_of
from zeichen.core.fitting.segmentation import Between, fit_section
from zeichen.core.fitting.simplify import simplified_path
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry import bezier, drawing
from zeichen.core.geometry.meeting import crossing_pairs, meeting_segments
from zeichen.core.methods import AreaTone, Method
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.core.values import AnyArray, FloatArray

_CORE = Path(__file__).parents[1]
# As old as the kernels on disk beside it.
_STAMP = Path(__file__).parent / "__pycache__" / "kernels.ready"
# What a process is told to do.
FITS, ALL_BUT_FITS = "fits", "all-but-fits"


def warm_up() -> None:
    """Load the compiled kernels, so that the first real picture does not wait for them."""
    from zeichen.core.tracing.outlines.self_intersections import without_loops

    rgb = _sample()
    # Once more enlarged: its own pixels are found.
    for picture in (Picture(rgb), Picture(cv2.resize(rgb, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC))):
        for method in Method:
            trace(picture, TraceSettings(method=method))
    trace(Picture(_shaded_sample()), TraceSettings(method=Method.FLATS))
    # A loop, as a curve makes where it has lost its way.
    without_loops(np.array([[[0.0, 0.0], [60.0, 40.0], [-20.0, 40.0], [40.0, 0.0]]]), 50.0, closed=False)


def is_ready() -> bool:
    """Return whether all kernels were compiled after the last change of any."""
    try:
        made = _STAMP.stat().st_mtime
    except OSError:
        return False
    return all(path.stat().st_mtime <= made for path in _kernel_files())


def make_ready() -> None:
    """Compile the kernels if they are not, in two processes; waits if another process is at it.

    Raises
    ------
    OutsideError
        If a process failed.
    """
    with _alone():
        if is_ready():
            return
        # A compiled kernel does not notice that another it calls has changed.
        for path in _CORE.rglob("*.nb[ic]"):
            path.unlink(missing_ok=True)
        tasks = [
            subprocess.Popen([sys.executable, "-m", __spec__.name, part]) for part in (FITS, ALL_BUT_FITS)
        ]
        try:
            failed = [task.args for task in tasks if task.wait()]
        finally:
            for task in tasks:
                task.kill()
        if failed:
            raise OutsideError("Zeichen's tracing could not be compiled; what the compiler said is above.")
        warm_up()
        with contextlib.suppress(OSError):
            _STAMP.touch()


def share_done() -> float:
    """Return which share of the functions that are kept on disk is there, 0 to 1."""
    kept = sum(path.read_text().count("cache=True") for path in _kernel_files())
    return min(1.0, sum(1 for _ in _CORE.rglob("*.nbi")) / max(kept, 1))


@contextlib.contextmanager
def _alone() -> Iterator[None]:
    """Hold a lock that one process has at a time; none where nothing can be written."""
    try:
        _STAMP.parent.mkdir(exist_ok=True)
        lock = _STAMP.with_suffix(".lock").open("w")
    except OSError:
        yield
        return
    with lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def _kernel_files() -> list[Path]:
    return [path for path in _CORE.rglob("*.py") if "zeichen.core.compiled import" in path.read_text()]


def _sample() -> AnyArray:
    """Return a small picture, (height, width, 3) uint8, of all that the methods tell apart."""
    rgb = np.full((64, 260, 3), 255, dtype=np.uint8)
    rgb[10:30, 10:50] = (200, 60, 40)
    rgb[30:54, 10:50] = 0
    rgb[30:34, 50:60] = 0
    # A speck, for what takes specks out.
    rgb[56:58, 4:6] = 0
    # Lines that cross, one that ends on another, and a tip nearer to its rim than a pen comes.
    rgb[28:32, 70:130] = rgb[6:58, 98:102] = rgb[10:28, 80:84] = 0
    for row in range(40):
        half = 1 + row // 8
        for middle in (165 - row // 2, 165 + row // 2):
            rgb[12 + row, middle - half : middle + half] = 0
    # The same ornament twice.
    for left in (200, 230):
        rgb[20:40, left : left + 12] = rgb[34:40, left + 12 : left + 20] = 0
    return rgb


def _shaded_sample() -> AnyArray:
    """Return a disc in a light that falls off, for what tells shading from colour."""
    y, x = np.mgrid[0:160, 0:160]
    light = np.where((x - 80) ** 2 + (y - 80) ** 2 < 3600, 60 + x // 2, 255).astype(np.uint8)
    return np.stack([light, light // 2 + 60, light], axis=2)


def _ring(corners: int, radius: float) -> FloatArray:
    """Return points, (n, 2), along a star of so many tips, or a circle if there are none; a little uneven."""
    turn = np.linspace(0.0, 2 * np.pi, 400, endpoint=False)
    reach = radius * (1.0 + (0.3 * np.abs(np.cos(corners * turn / 2)) if corners else 0.0))
    reach = reach + 0.05 * np.cos(37 * turn)
    return 100.0 + np.stack([reach * np.cos(turn), reach * np.sin(turn)], axis=1)


def _fit() -> None:
    """Fit curves to points, as all methods do."""
    settings = FitSettings(tolerance_px=0.2, noise_px=0.03, aligned=True)
    # What lies between corners first: the other process begins with those.
    points = np.ascontiguousarray(_ring(0, 60.0)[:60])
    weight = np.ones(len(points))
    between = Between(0, len(points) - 1, points[0], points[-1], False)
    room = Spline(points, weight, closed=False, room=len(points) + 8)
    fit_section(polyline_of(points, False), weight, between, settings.spans, room.arrays(), 0)
    for corners in (0, 5):
        spline = fit_spline(_ring(corners, 60.0), settings)
        spline.thin(0.2)
        spline.refine(near=[0])
        spline.smooth_spikes(1.0)
        spline.start_over(spline.outliers(0.01, 0.01)[:1] or [0], 0.2)
        simplified_path(drawing.Path(spline.curves()), tolerance=0.5)
    fit_open(_ring(5, 60.0)[:300], settings, down_weighted=False)
    fit_open(_ring(5, 60.0)[:300], settings)


def _all_but_fit() -> None:
    """Find edges, colours, lines and equal outlines, none of which needs a fitted curve."""
    from zeichen.core.fitting.corner_search import corner_angles, pick_corners, sharpen
    from zeichen.core.raster.colours import find_palette
    from zeichen.core.raster.enlarged import before_enlarging
    from zeichen.core.raster.ink import Ink
    from zeichen.core.raster.levels import edge_level
    from zeichen.core.raster.shading import read_shading
    from zeichen.core.tracing.corners.corner_fit import fit_corner
    from zeichen.core.tracing.corners.corner_refinement import corner_moves
    from zeichen.core.tracing.edges.marching_squares import find_contours
    from zeichen.core.tracing.edges.subpixel_edges import settle
    from zeichen.core.tracing.regions.labelling import label_pixels, regions_of
    from zeichen.core.tracing.regions.planar_map import map_of
    from zeichen.core.tracing.regions.shading import taken_out
    from zeichen.core.tracing.strokes.medial_graph import skeleton_edges
    from zeichen.core.tracing.strokes.rim_tracking import follow, rims_along
    from zeichen.core.tracing.strokes.uncovered_ink import dashes
    from zeichen.core.tracing.symmetry.repeated_outlines import draw_repeated_alike

    polyline, stretch = polyline_of(_ring(5, 60.0), True), Stretch(1.2, 5.4)
    pick_corners(polyline, corner_angles(polyline, stretch, 0.08), 20.0, 3.8)
    sharpen(polyline, 0, stretch, 3.0)
    rgb = _sample()
    grey = np.ascontiguousarray(rgb[..., 1])
    edge_level(grey)
    find_palette(rgb)
    square = bezier.line_segments(np.array([[10.0, 10], [50, 10], [50, 30], [10, 30], [10, 10]]))
    corner_moves([square], [np.arange(4)], Ink(grey, 0.0, 255.0), blur=0.4, flatten=0.02)
    loops: list[FloatArray] = []
    seen: tuple[AnyArray, ...] = grey, grey.astype(np.float64)
    for values in seen:
        edge = settle(
            values, find_contours(values, level=128, invert=False), ink=0.0, paper=255.0, level=128.5
        )
        loops = [edge.contours[k] for k in range(len(edge.contours.starts) - 1)]
    paths = [drawing.Path(bezier.line_segments(np.vstack([loop[::3], loop[:1]]))) for loop in loops]
    meeting_segments(paths, tolerance=0.1)
    crossing_pairs(loops[0])
    draw_repeated_alike(paths, loops, tolerance_px=0.5, noise_px=0.05)
    fit_corner(np.zeros((25, 25)), _ring(5, 5.0)[:37] - 88.0, 18, 4.0, np.array([0.2, 0.6, 0.2]), 3.0)
    palette = np.array([[255, 255, 255], [200, 60, 40], [0, 0, 0]], np.float64)
    map_of(regions_of(label_pixels(rgb, palette, min_spot_px2=16.0))[0])
    before_enlarging(cv2.resize(grey, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC), (2,))
    taken_out(read_shading(_shaded_sample()), AreaTone.MIDDLE, None)
    skeleton_edges(grey < 128)
    ink, line = (grey < 128).astype(np.float64), np.stack([np.arange(72.0, 92.0), np.full(20, 30.0)], axis=1)
    rims_along(ink, line, np.tile([0.0, 1.0], (20, 1)), 9.0)
    follow(ink, line, 4.0, 30.0, 10.0)
    dash = np.zeros((16, 24))
    dash[6:10, 4:16] = 1.0
    dashes(dash, dash > 0.5, 4.0)


_PARTS: dict[str, Callable[[], None]] = {FITS: _fit, ALL_BUT_FITS: _all_but_fit}

if __name__ == "__main__":
    if sys.argv[1:]:
        _PARTS[sys.argv[1]]()
    else:
        # What it started ends with it.
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
        make_ready()
