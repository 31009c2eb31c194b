"""Prints every figure; exits with 1 if one that was promised is missed."""

import sys

from bench.canvas import measure_canvas
from bench.memory import measure_memory
from bench.proofing import measure_proofing
from bench.tracing import measure_tracing


def main() -> int:
    """Run all measurements and return how the process should exit."""
    kept = [measure_tracing(), measure_proofing(), measure_memory(), measure_canvas()]
    return 0 if all(kept) else 1


if __name__ == "__main__":
    sys.exit(main())
