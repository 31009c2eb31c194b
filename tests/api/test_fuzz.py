"""Requests nobody thought of, made from the app's own description: none is answered with an error of ours.

A few of each kind here; ZEICHEN_FUZZ=200 tries as many.
"""

import os
from collections.abc import Iterator

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis import GenerationMode

from server import Server, serving

# The stream of events never ends; a collection's file is as large as the collection.
_LEFT_OUT = "/api/jobs/events"
EXAMPLES = int(os.environ.get("ZEICHEN_FUZZ", "4"))


@pytest.fixture(scope="module")
def server(tmp_path_factory) -> Iterator[Server]:
    with serving(tmp_path_factory.mktemp("data")) as running:
        made = running.client.post("/collections", json={"name": "Open day"}).json()["id"]
        running.client.post(f"/collections/{made}/motifs", json={"name": "snail"})
        running.client.post("/motifs/1/draw", json={"count": 1, "seed": 3})
        yield running


def test_no_request_is_answered_with_an_error_of_ours(server: Server):
    schema = schemathesis.openapi.from_url(f"{server.url}/api/openapi.json", timeout=60).exclude(
        path=_LEFT_OUT
    )
    operations = [found.ok() for found in schema.get_all_operations()]
    for operation in operations:
        _try_out(operation)
    assert len(operations) > 60
    # The app is well after all of it.
    assert server.client.get("/collections").status_code == 200


def _try_out(operation) -> None:
    both = st.one_of(operation.as_strategy(), operation.as_strategy(generation_mode=GenerationMode.NEGATIVE))

    @settings(
        max_examples=EXAMPLES, deadline=None, derandomize=True, phases=(Phase.generate,), database=None,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(both)
    def try_one(case) -> None:
        reply = case.call(timeout=60)
        assert reply.status_code < 500, f"{case.as_curl_command()}\n{reply.text}"
        if reply.status_code >= 400:
            said = reply.json()
            assert said["code"] and said["message"] and "Traceback" not in said["message"]

    try_one()
