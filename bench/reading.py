"""Files from elsewhere that ask for too much: twice the work takes at most 2.3 times the time, and no more memory than
there is."""

import subprocess
import sys
import tempfile
from pathlib import Path

from bench.hostile import FOUND

_MOST_GROWTH, _MOST_S, _MOST_MB = 2.3, 20.0, 1500
# Reading starts with about as much, s; below it, growth cannot be told from chance.
_UNSURE_S = 0.3
_CODE = """
import resource, sys, time
from pathlib import Path
from zeichen.core.errors import ZeichenError
from zeichen.core.proofing import Process, Yardstick
from zeichen.jobs.mending import read_foreign
path = Path(sys.argv[1])
data, stick = path.read_bytes(), Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
small = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="5" height="5"/></svg>'
read_foreign(small, "a.svg", stick)
started = time.perf_counter()
try:
    made = read_foreign(data, path.name, stick)
    said = f"{len(made.data.shapes)} shapes, {len(made.data.proof.findings)} findings"
except ZeichenError as error:
    said = str(error)[:60]
print(time.perf_counter() - started, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3, said, sep="|")
"""


def measure_reading() -> bool:
    """Print time, memory and growth of reading and judging each kind of file; returns whether all are kept."""
    print(f"Files that ask for too much: growth at most x{_MOST_GROWTH}, {_MOST_S:g} s, {_MOST_MB} MB")
    kept = True
    with tempfile.TemporaryDirectory() as folder:
        for name, (draw, *sizes) in FOUND.items():
            seconds = []
            for size in sizes:
                path = Path(folder) / name
                path.write_bytes(draw(size))
                done = subprocess.run(
                    [sys.executable, "-c", _CODE, str(path)], capture_output=True, text=True, check=True
                )
                took, used_mb, said = done.stdout.strip().split("|")
                seconds.append(float(took))
                within = seconds[-1] < _MOST_S and float(used_mb) < _MOST_MB
                kept &= within
                print(f"  {name:<28} {size:>6} {seconds[-1]:6.2f} s {float(used_mb):5.0f} MB  {said}")
            growth = max(seconds[1], _UNSURE_S) / max(seconds[0], _UNSURE_S)
            kept &= growth <= _MOST_GROWTH
            print(f"  {name:<28} x{growth:.2f} {'kept' if growth <= _MOST_GROWTH else 'MISSED'}")
    return kept
