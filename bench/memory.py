"""Memory of working on large pictures, beside merely decoding them with Pillow."""

import io
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from zeichen.core.briefing import Look, SketchOrder
from zeichen.standins.studio import Studio

# What is promised of 24 megapixels by each method, and of any picture however large.
PROMISED_BYTES = {"solid": 600_000_000, "flats": 1_500_000_000, "centreline": 1_500_000_000}
PROMISED_ANY_BYTES = 1_500_000_000
TRACE_CODE = """
import re, sys
from pathlib import Path
from zeichen.core.formats.picture import read_picture
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
picture = read_picture(Path(sys.argv[1]).read_bytes())
nodes = 0
if len(sys.argv) > 2:
    nodes = trace(picture, TraceSettings(tolerance_px=1.0, method=Method(sys.argv[2]))).drawing.node_count
print(int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024, nodes)
"""
_DECODE_CODE = """
import re, sys
from pathlib import Path
import numpy as np
from PIL import Image
Image.MAX_IMAGE_PIXELS = None
np.asarray(Image.open(sys.argv[1]).convert("RGB"))
print(int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024, 0)
"""


def large_picture() -> bytes:
    """A sketch on 6000 x 4000 px, as PNG."""
    drawn = Studio().draw(SketchOrder("hedgehog", Look.SILHOUETTE, 41, size_px=4000)).rgb
    sheet = np.full((4000, 6000, 3), 250, np.uint8)
    sheet[:, 1000:5000] = drawn
    return _png(Image.fromarray(sheet), compress_level=1)


def huge_pictures() -> dict[str, bytes]:
    """Squares on 10,000 x 10,000 px, a few hundred kilobytes each: grey, colours, see-through, 16 bits."""
    grey = np.full((10_000, 10_000), 255, np.uint8)
    grey[2000:8000, 2000:8000] = 0
    colours = Image.fromarray(grey).convert("RGB")
    return {
        "grey": _png(Image.fromarray(grey)),
        "colours": _png(colours),
        "see-through": _png(colours.convert("RGBA")),
        "16 bits": _png(Image.fromarray(grey.astype(np.uint16) * 257)),
    }


def _png(image: Image.Image, **options: int) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG", **options)
    return out.getvalue()


def peak_bytes(code: str, picture: Path, *words: str) -> tuple[int, int]:
    """Return the highest resident memory of a process of its own, and the nodes it printed."""
    done = subprocess.run(
        [sys.executable, "-c", code, str(picture), *words], capture_output=True, text=True, check=True
    )
    memory, nodes = done.stdout.split()
    return int(memory), int(nodes)


def measure_memory() -> bool:
    """Print the peaks of tracing 24 and reading 100 megapixels; returns whether the promises hold."""
    kept = True
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        path.write_bytes(large_picture())
        decoded, _ = peak_bytes(_DECODE_CODE, path)
        for method, promised in PROMISED_BYTES.items():
            used, nodes = peak_bytes(TRACE_CODE, path, method)
            kept &= used < promised
            print(
                f"Peak memory of tracing 24 megapixels, {method} ({nodes} nodes): {used / 1e6:.0f} MB, decoding alone "
                f"with Pillow {decoded / 1e6:.0f} MB, x{used / decoded:.1f}   under {promised / 1e6:.0f} MB "
                f"{'kept' if used < promised else 'MISSED'}"
            )
        for name, data in huge_pictures().items():
            path.write_bytes(data)
            decoded, _ = peak_bytes(_DECODE_CODE, path)
            used, _ = peak_bytes(TRACE_CODE, path, "flats")
            kept &= used < PROMISED_ANY_BYTES
            print(
                f"Peak memory of tracing 100 megapixels, {name}, {len(data) / 1e3:.0f} kB: {used / 1e6:.0f} MB, "
                f"decoding alone with Pillow {decoded / 1e6:.0f} MB   under {PROMISED_ANY_BYTES / 1e6:.0f} MB "
                f"{'kept' if used < PROMISED_ANY_BYTES else 'MISSED'}"
            )
    return kept
