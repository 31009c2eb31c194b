"""Timing two ways of doing something in turns, so that a busy machine troubles both alike."""

import statistics
import time
from collections.abc import Callable


def in_turns(*works: Callable[[], object], rounds: int = 9) -> list[float]:
    """Return the median seconds of each piece of work over alternating rounds, after one to warm up."""
    for work in works:
        work()
    seconds: list[list[float]] = [[] for _ in works]
    for _ in range(rounds):
        for number, work in enumerate(works):
            started = time.perf_counter()
            work()
            seconds[number].append(time.perf_counter() - started)
    return [statistics.median(each) for each in seconds]


def line(name: str, ours: float, theirs: float, library: str, promise: str, kept: bool) -> None:
    """Print one measurement."""
    print(
        f"{name:<44} {ours * 1000:8.1f} ms   {library} {theirs * 1000:7.2f} ms   x{ours / theirs:7.1f}   "
        f"{promise} {'kept' if kept else 'MISSED'}"
    )
