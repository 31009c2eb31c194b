"""Fixtures shared by all tests."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import pytest
from hypothesis import HealthCheck, settings

from zeichen.core.briefing import ALL_RULES, Look, SketchOrder, compose_wording
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.standins.studio import Studio
from zeichen.store.database import Database

# Deadlines would test speed, which belongs to the bench. The same examples every time, so that a failure is a
# change of ours; HYPOTHESIS_PROFILE=explore looks for new ones. `make bench` tries more of them (thorough).
settings.register_profile(
    "zeichen",
    deadline=None,
    derandomize=True,
    max_examples=15,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.register_profile("thorough", settings.get_profile("zeichen"), max_examples=300)
settings.register_profile("explore", settings.get_profile("zeichen"), derandomize=False)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "zeichen"))


# Without the rule that all hangs together, the studio sets its parts apart.
IN_PIECES = compose_wording("snail", rule_keys=tuple(key for key in ALL_RULES if key != "one-piece"))


@pytest.fixture(scope="session")
def snail() -> Picture:
    """A drawn silhouette without accidents, in several pieces."""
    return Studio(faults=0).draw(SketchOrder("snail", Look.SILHOUETTE, 7, wording=IN_PIECES))


@pytest.fixture(scope="session")
def snail_trace(snail: Picture) -> Trace:
    """The trace of it."""
    return trace(snail, TraceSettings())


@pytest.fixture
def database(tmp_path: Path):
    """An empty, migrated data folder."""
    opened = Database(tmp_path / "data")
    yield opened
    opened.close()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Run the browser last: Playwright keeps an event loop in this thread, and no other can run beside it."""
    items.sort(key=lambda item: "e2e" in item.path.parts)
