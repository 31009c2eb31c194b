"""A 24-megapixel picture traces in under 1.5 GB, measured by the kernel (VmHWM) in a process of its own."""

from pathlib import Path

from bench.memory import PROMISED_BYTES, TRACE_CODE, large_picture, peak_bytes


def test_a_large_picture_traces_in_little_memory(tmp_path: Path):
    path = tmp_path / "large.png"
    path.write_bytes(large_picture())
    used, nodes = peak_bytes(TRACE_CODE, path)
    assert nodes > 100 and used < PROMISED_BYTES
