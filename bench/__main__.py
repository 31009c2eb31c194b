"""Prints every figure; exits with 1 if one that was promised is missed."""

import sys

from bench.canvas import measure_canvas
from bench.editing import measure_editing
from bench.forecasts import measure_forecasts
from bench.foreign import measure_foreign
from bench.geometry import measure_geometry
from bench.growth import measure_growth
from bench.memory import measure_memory
from bench.mending import measure_mending
from bench.methods import measure_methods
from bench.proofing import measure_proofing
from bench.properties import measure_properties
from bench.reading import measure_reading
from bench.real import measure_real
from bench.soak import measure_soak
from bench.tracing import measure_tracing
from bench.truth import measure_truth


def main() -> int:
    """Run all measurements and return how the process should exit."""
    measures = (
        measure_truth,
        measure_methods,
        measure_growth,
        measure_reading,
        measure_foreign,
        measure_tracing,
        measure_real,
        measure_proofing,
        measure_geometry,
        measure_mending,
        measure_forecasts,
        measure_memory,
        measure_canvas,
        measure_editing,
        measure_soak,
        measure_properties,
    )
    kept = [measure() for measure in measures]
    return 0 if all(kept) else 1


if __name__ == "__main__":
    sys.exit(main())
