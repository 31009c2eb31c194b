"""A real server, killed in the middle of work: what was confirmed is there, and the work can be run again."""

import json
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from samples import blots_picture
from server import Server, free_port, serving


@pytest.fixture(scope="module")
def large_png() -> bytes:
    return blots_picture()


def motif(server: Server) -> int:
    limits = {"thin_mm": 0.15, "gap_mm": 0.15, "speck_mm2": 0.3}
    body = {
        "name": "Laser",
        "process": "laser-engrave",
        "width_mm": 80,
        "blank": "",
        "blank_width_mm": 100,
        "blank_height_mm": 60,
        "limits": limits,
    }
    stick = server.client.post("/yardsticks", json=body).json()["id"]
    made = server.client.post("/collections", json={"name": "Set", "yardstick_id": stick}).json()["id"]
    return server.client.post(f"/collections/{made}/motifs", json={"name": "Blots"}).json()["motifs"][0]["id"]


def job(server: Server, job_id: int) -> dict:
    return next(each for each in server.client.get("/jobs").json() if each["id"] == job_id)


def until(server: Server, job_id: int, *states: str) -> dict:
    for _ in range(2400):
        found = job(server, job_id)
        if found["state"] in states:
            return found
        time.sleep(0.05)
    raise AssertionError(found)


def test_killed_during_an_import_and_during_a_trace(tmp_path: Path, large_png: bytes):
    with serving(tmp_path) as server:
        motif_id = motif(server)
        reply = server.client.post(f"/motifs/{motif_id}/import?name=blots.png", content=large_png)
        assert reply.status_code == 202
        import_id = reply.json()["id"]
        until(server, import_id, "running")
        workers = server.children()
        server.kill()
    assert workers
    _gone(workers)

    with serving(tmp_path) as server:
        left = job(server, import_id)
        assert left["state"] == "interrupted" and "run it again" in left["message"]
        assert server.client.get(f"/motifs/{motif_id}/sketches").json() == []
        again = server.client.post(f"/jobs/{import_id}/again").json()["id"]
        sketch_id = until(server, again, "done")["result"]["sketch_ids"][0]
        settings = {"min_spot_px2": 4, "tolerance_px": 0.3}
        trace_id = server.client.post(f"/sketches/{sketch_id}/trace", json=settings).json()["id"]
        while job(server, trace_id)["progress"] == 0:
            time.sleep(0.02)
        server.kill()

    with serving(tmp_path) as server:
        assert job(server, trace_id)["state"] == "interrupted"
        (sketch,) = server.client.get(f"/motifs/{motif_id}/sketches").json()
        assert (sketch["id"], sketch["width_px"]) == (sketch_id, 1700)
        assert server.client.get(f"/pictures/{sketch['picture_sha']}.png").status_code == 200
        assert server.client.get(f"/motifs/{motif_id}/drawing").status_code == 404
        again = server.client.post(f"/jobs/{trace_id}/again").json()["id"]
        until(server, again, "running")
        _stays_awake(server, sketch_id)
        until(server, again, "done")
        assert server.client.get(f"/motifs/{motif_id}/drawing").json()["drawing"]["shapes"]
    assert not list(tmp_path.rglob(".part-*"))


def _stays_awake(server: Server, sketch_id: int) -> None:
    """While a long trace and a long preview run, small requests are answered first: the event loop is never held."""
    finished = threading.Event()

    def preview() -> None:
        server.client.post(f"/sketches/{sketch_id}/preview", json={"settings": {"min_spot_px2": 4}})
        finished.set()

    thread = threading.Thread(target=preview)
    thread.start()
    for _ in range(10):
        assert server.client.get("/scene").status_code == 200
    assert not finished.is_set()
    thread.join()


def _gone(pids: list[int]) -> None:
    """Workers watch their parent and end with it."""
    for _ in range(200):
        if not any(Path(f"/proc/{pid}").exists() and "Z" not in _state(pid) for pid in pids):
            return
        time.sleep(0.05)
    raise AssertionError(f"Workers {pids} outlived their app.")


def _state(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/stat").read_text().split(")")[1].split()[0]
    except FileNotFoundError:
        return "Z"


def test_changes_of_jobs_are_streamed(tmp_path: Path):
    with serving(tmp_path) as server:
        motif_id = motif(server)
        body = {"look": "line", "count": 2, "seed": 5}
        seen: list[tuple[str, str, float]] = []
        with server.client.stream("GET", "/jobs/events") as stream:
            lines = stream.iter_lines()
            assert next(lines) == "event: hello"
            server.client.post(f"/collections/{1}/motifs", json={"name": "snail"})
            snail = server.client.get("/collections/1").json()["motifs"][1]["id"]
            assert snail != motif_id
            started = server.client.post(f"/motifs/{snail}/draw", json=body).json()
            for line in lines:
                if line.startswith("data:") and "state" in line:
                    event = json.loads(line[5:])
                    seen.append((event["state"], event["message"], event["progress"]))
                    if event["state"] == "done":
                        break
        states = [state for state, _, _ in seen]
        assert states[0] == "queued" and states[-1] == "done" and "running" in states
        assert ("running", "2 of 2", 0.5) in seen and event["id"] == started["id"]


def test_a_taken_port_and_a_folder_in_use_are_said(tmp_path: Path):
    with serving(tmp_path) as server:
        for data, port, words in (
            (tmp_path / "other", server.port, "is taken"),
            (tmp_path, free_port(), "in use by another running"),
        ):
            environment = {**os.environ, "ZEICHEN_DATA": str(data), "ZEICHEN_PORT": str(port)}
            command = [sys.executable, "-c", "from zeichen.cli import main; main()", "serve"]
            refused = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=60)
            assert refused.returncode == 2 and words in refused.stderr and refused.stderr.count("\n") == 1


def test_only_this_machine_is_served(tmp_path: Path):
    """The listening sockets of the server, from the kernel's own table: all on 127.0.0.1."""
    with serving(tmp_path) as server:
        port = f"{server.port:04X}"
        listening = [
            line.split()[1]
            for table in ("tcp", "tcp6")
            if Path(f"/proc/net/{table}").exists()
            for line in Path(f"/proc/net/{table}").read_text().splitlines()[1:]
            if line.split()[1].endswith(f":{port}") and line.split()[3] == "0A"
        ]
        assert listening == [f"0100007F:{port}"]
