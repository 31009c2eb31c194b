"""Memory of tracing a 24-megapixel picture, beside merely decoding it with Pillow."""

import io
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from zeichen.core.briefing import Look, SketchOrder
from zeichen.standins.studio import Studio

PROMISED_BYTES = 1_500_000_000
TRACE_CODE = """
import re, sys
from pathlib import Path
from zeichen.core.formats.picture import read_picture
from zeichen.core.tracing import TraceSettings, trace
result = trace(read_picture(Path(sys.argv[1]).read_bytes()), TraceSettings(tolerance_px=1.0))
print(int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024, result.drawing.node_count)
"""
_DECODE_CODE = """
import re, sys
from pathlib import Path
import numpy as np
from PIL import Image
np.asarray(Image.open(sys.argv[1]).convert("RGB"))
print(int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024, 0)
"""


def large_picture() -> bytes:
    """A sketch on 6000 x 4000 px, as PNG."""
    drawn = Studio().draw(SketchOrder("hedgehog", Look.SILHOUETTE, 41, size_px=4000)).rgb
    sheet = np.full((4000, 6000, 3), 250, np.uint8)
    sheet[:, 1000:5000] = drawn
    out = io.BytesIO()
    Image.fromarray(sheet).save(out, "PNG", compress_level=1)
    return out.getvalue()


def peak_bytes(code: str, picture: Path) -> tuple[int, int]:
    """Return the highest resident memory of a process of its own, and the nodes it printed."""
    done = subprocess.run(
        [sys.executable, "-c", code, str(picture)], capture_output=True, text=True, check=True
    )
    memory, nodes = done.stdout.split()
    return int(memory), int(nodes)


def measure_memory() -> bool:
    """Print the peak of tracing 24 megapixels; returns whether 1.5 GB hold."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        path.write_bytes(large_picture())
        traced, nodes = peak_bytes(TRACE_CODE, path)
        decoded, _ = peak_bytes(_DECODE_CODE, path)
    kept = traced < PROMISED_BYTES
    print(
        f"Peak memory of tracing 24 megapixels ({nodes} nodes): {traced / 1e6:.0f} MB, "
        f"decoding alone with Pillow {decoded / 1e6:.0f} MB, x{traced / decoded:.1f}   "
        f"under 1500 MB {'kept' if kept else 'MISSED'}"
    )
    return kept
