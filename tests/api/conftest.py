"""The app on a data folder of its own, spoken to over ASGI."""

import time
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from zeichen.api import create_app
from zeichen.core.formats.picture import write_png
from zeichen.jobs.settings import Settings

HERE = "http://127.0.0.1:8417"


class App:
    """A client with the few steps that many tests take."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def ok(self, method: str, path: str, **options):
        reply = self.client.request(method, f"/api{path}", **options)
        assert reply.is_success, reply.text
        return reply.json() if reply.content else None

    def refused(self, method: str, path: str, **options) -> tuple[int, str]:
        reply = self.client.request(method, f"/api{path}", **options)
        assert reply.status_code >= 400, reply.text
        return reply.status_code, reply.json()["message"]

    def wait(self, job: dict) -> dict:
        for _ in range(600):
            found = next(each for each in self.ok("GET", "/jobs") if each["id"] == job["id"])
            if found["state"] not in ("queued", "running"):
                return found
            time.sleep(0.05)
        raise AssertionError(f"{job['label']} did not end")

    def done(self, method: str, path: str, **options) -> dict:
        job = self.wait(self.ok(method, path, **options))
        assert job["state"] == "done", job["message"]
        return job["result"]

    def motif(self, name: str = "snail", **yardstick) -> int:
        body = {
            "name": f"Laser {time.monotonic_ns()}", "process": "laser-engrave", "width_mm": 80, "blank": "slate",
            "blank_width_mm": 100, "blank_height_mm": 60,
            "limits": {"thin_mm": 0.15, "gap_mm": 0.15, "speck_mm2": 0.33}, **yardstick,
        }  # fmt: skip
        stick = self.ok("POST", "/yardsticks", json=body)
        made = self.ok("POST", "/collections", json={"name": body["name"], "yardstick_id": stick["id"]})
        view = self.ok("POST", f"/collections/{made['id']}/motifs", json={"name": name})
        return view["motifs"][0]["id"]

    def collection_of(self, motif_id: int) -> int:
        for each in self.ok("GET", "/collections"):
            motifs = self.ok("GET", f"/collections/{each['id']}")["motifs"]
            if motif_id in [motif["id"] for motif in motifs]:
                return each["id"]
        raise AssertionError(motif_id)

    def bring_in(self, motif_id: int, data: bytes, name: str = "own.png") -> int:
        return self.done("POST", f"/motifs/{motif_id}/import?name={name}", content=data)["sketch_ids"][0]

    def trace(self, sketch_id: int, **settings) -> dict:
        result = self.done("POST", f"/sketches/{sketch_id}/trace", json=settings)
        return self.ok("GET", f"/motifs/{result['motif_id']}/drawing")

    def edit(self, current: dict, **operation) -> dict:
        body = {"revision_id": current["revision_id"], "operation": operation}
        return self.ok("POST", f"/drawings/{current['id']}/edit", json=body)


@pytest.fixture(scope="module")
def app(tmp_path_factory) -> Iterator[App]:
    settings = Settings(data=tmp_path_factory.mktemp("data"), largest_upload_mb=3, workers=1)
    with TestClient(create_app(settings), base_url=HERE) as client:
        yield App(client)


@pytest.fixture(scope="session")
def snail_png(snail) -> bytes:
    return write_png(snail.rgb)
