"""What `make test` has no time for: twenty times as many examples of each property, and all cases that are alike."""

import os
import subprocess
import sys

_ALL_CASES = ("tests/core", "tests/standins", "tests/reference")


def measure_properties() -> bool:
    """Return whether all properties hold in all cases; prints what pytest says of those that do not."""
    print("\nProperties, 300 examples each, and all cases")
    return all([_holds("hypothesis", "tests/core"), _holds("not hypothesis", *_ALL_CASES)])


def _holds(which: str, *folders: str) -> bool:
    ran = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-m", which, *folders],
        env={**os.environ, "HYPOTHESIS_PROFILE": "thorough"},
        capture_output=True,
        text=True,
    )
    print(ran.stdout.strip().splitlines()[-1] if ran.returncode == 0 else ran.stdout)
    return ran.returncode == 0
