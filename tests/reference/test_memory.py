"""Large pictures in little memory, measured by the kernel (VmHWM) in a process of its own."""

from pathlib import Path

import pytest
from bench.memory import (
    PROMISED_ANY_BYTES,
    PROMISED_BYTES,
    TRACE_CODE,
    huge_pictures,
    large_picture,
    peak_bytes,
)

from samples import is_thorough


# The other methods take a minute more: make bench.
@pytest.mark.parametrize("method", ["flats"])
def test_24_megapixels_trace_in_what_is_promised(tmp_path: Path, method: str):
    path = tmp_path / "large.png"
    path.write_bytes(large_picture())
    used, nodes = peak_bytes(TRACE_CODE, path, method)
    assert nodes > 100 and used < PROMISED_BYTES[method], f"{used / 1e6:.0f} MB"


@pytest.mark.skipif(not is_thorough(), reason="takes a quarter of a minute: make bench")
def test_100_megapixels_are_read_in_what_is_promised(tmp_path: Path):
    path = tmp_path / "huge.png"
    path.write_bytes(huge_pictures()["see-through"])
    used, _ = peak_bytes(TRACE_CODE, path)
    assert used < PROMISED_ANY_BYTES, f"{used / 1e6:.0f} MB"
