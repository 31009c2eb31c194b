"""The properties that the tests state, on six times as many examples as `make test` has time for."""

import os
import subprocess
import sys


def measure_properties() -> bool:
    """Return whether all properties hold; prints what pytest says of those that do not."""
    ran = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-m", "hypothesis", "tests/core"],
        env={**os.environ, "HYPOTHESIS_PROFILE": "thorough"},
        capture_output=True,
        text=True,
    )
    print("\nProperties, 300 examples each")
    print(ran.stdout.strip().splitlines()[-1] if ran.returncode == 0 else ran.stdout)
    return ran.returncode == 0
