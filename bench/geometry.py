"""Booleans on curves and findings of large drawings, beside shapely on finely flattened ones."""

import itertools

import numpy as np

from bench.timing import in_turns, line
from zeichen.core.editing.arranging import transformed
from zeichen.core.geometry import Drawing, Path, Shape, shape_area
from zeichen.core.geometry.overlay import Region, united
from zeichen.core.proofing import Process, Yardstick, proof
from zeichen.core.proofing.facts import Memory

_BOOLEAN_MS, _FINDINGS_S, _EDIT_MS = 200.0, 1.0, 300.0


def measure_geometry() -> bool:
    """Print the time of joining two drawings of 2,000 nodes, and of the findings of one of 5,000."""
    print("Two drawings of 2,000 nodes joined (promised: under 200 ms)")
    first, second = _petals(50, 40, 0), _petals(50, 40, 40)
    fine = [shape_area(Shape("a", region.paths), tolerance=0.001) for region in (first, second)]
    ours, theirs = in_turns(lambda: united([first, second]), lambda: fine[0].union(fine[1]), rounds=5)
    kept = ours * 1000 < _BOOLEAN_MS
    line("  curves kept", ours, theirs, "shapely, flattened", f"< {_BOOLEAN_MS:.0f} ms", kept)
    truth = fine[0].union(fine[1]).area
    off = abs(sum(path.area for path in united([first, second])) / truth - 1)
    print(f"  area off by {100 * off:.5f} % (promised: under 0.01 %) {'kept' if off < 1e-4 else 'MISSED'}")
    print("Findings of a drawing of 5,000 nodes (promised: under 1 s, 0.3 s after a local edit)")
    shapes = tuple(
        Shape(f"s{k}", (path,))
        for k, path in enumerate((*_petals(63, 40, 0).paths, *_petals(62, 40, 1000).paths))
    )
    drawing = Drawing(1100.0, 1700.0, shapes)
    yardstick = Yardstick.usual(Process.LASER_ENGRAVE, width_mm=300)
    # As in the app: what the proof before found out is known, and each time the shape is somewhere else.
    memory = Memory()
    proof(drawing, yardstick, memory)
    moved = (transformed(drawing, ["s7"], (1, 0, 0, 1, 0.1 * k, 0)) for k in itertools.count(1))
    whole, after, area = in_turns(
        lambda: proof(drawing, yardstick),
        lambda: proof(next(moved), yardstick, memory),
        lambda: [shape_area(shape, tolerance=0.002) for shape in drawing.shapes],
        rounds=3,
    )
    line("  whole", whole, area, "areas alone", f"< {_FINDINGS_S:.0f} s", whole < _FINDINGS_S)
    line(
        "  after a shape was moved",
        after,
        area,
        "areas alone",
        f"< {_EDIT_MS:.0f} ms",
        after * 1000 < _EDIT_MS,
    )
    return kept and off < 1e-4 and whole < _FINDINGS_S and after * 1000 < _EDIT_MS


def _petals(count: int, nodes: int, shift: float) -> Region:
    """Return wavy rings on a lattice, some nodes each."""
    paths = []
    for k in range(count):
        rng = np.random.default_rng(k + int(shift))
        x, y = (
            100.0 * (k % 10) + 50 + shift % 100,
            100.0 * (k // 10) + 50 + (shift % 100) * 0.75 + shift // 100 * 80,
        )
        angle = np.linspace(0, 2 * np.pi, nodes, endpoint=False)
        radius = 35 * (1 + 0.1 * rng.standard_normal(nodes).clip(-2, 2))
        points = np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1)
        handle = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 6
        after = np.roll(points, -1, axis=0)
        paths.append(
            Path(np.stack([points, points + handle, after - np.roll(handle, -1, axis=0), after], axis=1))
        )
    return Region(tuple(paths))
