"""Ten minutes of eight clients that do what comes to their minds, with a kill now and then: nothing confirmed is lost.

ZEICHEN_SOAK_S shortens it. Clients import, trace, edit, make, cancel and hang up; what was confirmed is written down
and looked for at the end. Memory is held to what it was, and cheap reads to two seconds.
"""

import contextlib
import os
import random
import re
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from bench.hostile import broken_rules, rectangles, scribble
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.formats.picture import write_png
from zeichen.standins.studio import Studio

_CLIENTS, _CHEAP_S, _FLAT = 8, 2.0, 1.10
_LENGTH_S = float(os.environ.get("ZEICHEN_SOAK_S", "600"))
_SQUARES = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><path d="M10 10H90V90H10Z"/>'
    b'<path d="M30 30H60V60Z" fill="#c23b2a"/></svg>'
)


@dataclass
class _Day:
    """What was confirmed and measured, by all clients together."""

    uploads: list[tuple[int, str]] = field(default_factory=list)
    revisions: list[tuple[int, int]] = field(default_factory=list)
    names: dict[int, str] = field(default_factory=dict)
    cheap_s: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    memory: list[tuple[float, float]] = field(default_factory=list)
    asked: int = 0


class _App:
    """A server on a folder, killed and started again."""

    def __init__(self, folder: Path) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port: int = probe.getsockname()[1]
        self._environment = {**os.environ, "ZEICHEN_DATA": str(folder), "ZEICHEN_PORT": str(self.port)}
        self.up = threading.Event()
        self.start()

    def start(self) -> None:
        code = "from zeichen.cli import main; main()"
        self._process = subprocess.Popen(
            [sys.executable, "-c", code, "serve"], env=self._environment, stdout=subprocess.DEVNULL
        )
        while True:
            with contextlib.suppress(httpx.HTTPError):
                httpx.get(f"http://127.0.0.1:{self.port}/api/scene", timeout=5)
                break
            time.sleep(0.1)
        self.up.set()

    def end(self, how: signal.Signals) -> None:
        self.up.clear()
        self._process.send_signal(how)
        self._process.wait()

    def memory_mb(self) -> float:
        """Return what the app and its workers hold."""
        pids = [self._process.pid]
        for task in Path(f"/proc/{self._process.pid}/task").iterdir():
            pids += map(int, (task / "children").read_text().split())
        total = 0
        for pid in pids:
            with contextlib.suppress(OSError):
                found = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{pid}/status").read_text())
                total += int(found[1]) if found else 0
        return total / 1000


class _Client(threading.Thread):
    """One maker, on a motif of its own."""

    def __init__(self, app: _App, day: _Day, number: int, until: float, pictures: list[bytes]) -> None:
        super().__init__(daemon=True)
        self._app, self._day, self._until, self._pictures = app, day, until, pictures
        self._chance = random.Random(number)
        self._number = number
        self._motif = number + 1
        self._http = httpx.Client(base_url=f"http://127.0.0.1:{app.port}/api", timeout=60)

    def run(self) -> None:
        doings: list[tuple[Callable[[], None], int]] = [
            (self._read, 8), (self._bring_in, 3), (self._trace, 3), (self._edit, 6), (self._make, 1),
            (self._cancel, 1), (self._hang_up, 2), (self._hostile, 2), (self._rename, 1),
        ]  # fmt: skip
        does, weights = zip(*doings, strict=True)
        while time.monotonic() < self._until:
            self._app.up.wait()
            with contextlib.suppress(httpx.TransportError):
                self._chance.choices(does, weights)[0]()

    def _ask(self, method: str, path: str, **more: Any) -> httpx.Response:
        reply = self._http.request(method, path, **more)
        self._day.asked += 1
        if reply.status_code >= 500 and reply.status_code != 503:
            self._day.wrong.append(f"{method} {path}: {reply.status_code} {reply.text[:80]}")
        return reply

    def _read(self) -> None:
        path = self._chance.choice(["/collections/1", f"/motifs/{self._motif}/sketches", "/scene", "/jobs"])
        started = time.monotonic()
        self._ask("GET", path)
        self._day.cheap_s.append(time.monotonic() - started)

    def _bring_in(self) -> None:
        data = self._chance.choice(self._pictures) + self._chance.randbytes(8)
        reply = self._ask("POST", f"/motifs/{self._motif}/import?name=own.png", content=data)
        if reply.status_code == 202:
            self._day.uploads.append((self._motif, reply.json()["params"]["original_sha"]))

    def _trace(self) -> None:
        sketches = self._ask("GET", f"/motifs/{self._motif}/sketches").json()
        if sketches:
            chosen = self._chance.choice(sketches)["id"]
            method = self._chance.choice(["solid", "flats", "centreline"])
            self._ask("POST", f"/sketches/{chosen}/trace", json={"method": method})

    def _drawing(self) -> dict[str, Any] | None:
        reply = self._ask("GET", f"/motifs/{self._motif}/drawing")
        return reply.json() if reply.status_code == 200 else None

    def _edit(self) -> None:
        drawing = self._drawing()
        if drawing is None or drawing["drawing"] is None:
            self._ask("POST", f"/motifs/{self._motif}/import-drawing?name=s.svg", content=_SQUARES)
            return
        shapes = [shape["id"] for shape in drawing["drawing"]["shapes"]]
        operation = {
            "kind": "transform", "ids": [self._chance.choice(shapes)],
            "matrix": [1, 0, 0, 1, self._chance.uniform(-1, 1), 0.5],
        }  # fmt: skip
        body = {"revision_id": drawing["revision_id"], "operation": operation}
        reply = self._ask("POST", f"/drawings/{drawing['id']}/edit", json=body)
        if reply.status_code == 200:
            self._day.revisions.append((drawing["id"], reply.json()["revision_id"]))

    def _make(self) -> None:
        body = {"process": self._chance.choice(["laser", "carve"]), "width_mm": 60}
        self._ask("POST", f"/motifs/{self._motif}/tickets", json=body)

    def _cancel(self) -> None:
        for job in self._ask("GET", "/jobs?most=10").json():
            if job["state"] in ("queued", "running"):
                self._ask("POST", f"/jobs/{job['id']}/cancel")
                return

    def _hang_up(self) -> None:
        sketches = self._ask("GET", f"/motifs/{self._motif}/sketches").json()
        if sketches:
            path = f"/sketches/{sketches[-1]['id']}/preview"
            with contextlib.suppress(httpx.ReadTimeout):
                self._http.post(
                    path, json={"settings": {"method": "flats"}}, timeout=httpx.Timeout(5, read=0.05)
                )

    def _hostile(self) -> None:
        data = self._chance.choice(
            [scribble(2000), rectangles(3000), broken_rules(20_000), b"<svg", b"\xff" * 999]
        )
        # On a motif of its own: what is brought in takes the place of what was there.
        self._ask("POST", f"/motifs/{_CLIENTS + 1}/import-drawing?name=x.svg", content=data)

    def _rename(self) -> None:
        name = f"Motif {self._number} {self._chance.randrange(10**6)}"
        if self._ask("PATCH", f"/motifs/{self._motif}", json={"name": name}).status_code == 200:
            self._day.names[self._motif] = name


def measure_soak() -> bool:
    """Print what ten minutes brought; returns whether nothing was lost, memory was flat and cheap reads were quick."""
    looks = (Look.LINE, Look.FLAT, Look.SILHOUETTE)
    pictures = [write_png(Studio().draw(SketchOrder("snail", look, 5, size_px=640)).rgb) for look in looks]
    with tempfile.TemporaryDirectory() as folder:
        app, day = _App(Path(folder)), _Day()
        try:
            _set_up(app)
            kills = _soak(app, day, pictures)
            lost = _lost(app, day)
        finally:
            app.end(signal.SIGTERM)
        checked = subprocess.run(
            [sys.executable, "-c", "from zeichen.cli import main; main()", "check-data"],
            env={**os.environ, "ZEICHEN_DATA": folder}, capture_output=True, text=True, check=False,
        )  # fmt: skip
    growth, slowest = _growth(day), max(day.cheap_s)
    confirmed = len(day.uploads) + len(day.revisions) + len(day.names)
    kept = not lost and not day.wrong and checked.returncode == 0 and growth <= _FLAT and slowest < _CHEAP_S
    print(
        f"Soak of {_LENGTH_S:g} s: {day.asked} requests of {_CLIENTS} clients, {kills} kills, {confirmed} confirmed "
        f"writes, {len(lost)} lost, {len(day.wrong)} answers of 5xx; memory x{growth:.2f}; cheap reads median "
        f"{statistics.median(day.cheap_s) * 1000:.0f} ms, slowest {slowest:.2f} s; {checked.stdout.splitlines()[0]}   "
        f"{'kept' if kept else 'MISSED'}"
    )
    for line in (*lost, *day.wrong)[:10]:
        print(f"  {line}")
    return kept


def _set_up(app: _App) -> None:
    with httpx.Client(base_url=f"http://127.0.0.1:{app.port}/api", timeout=60) as http:
        http.post("/collections", json={"name": "Open day"}).raise_for_status()
        for number in range(_CLIENTS + 1):
            http.post("/collections/1/motifs", json={"name": f"motif {number}"}).raise_for_status()


def _soak(app: _App, day: _Day, pictures: list[bytes]) -> int:
    """Let the clients loose; kills only in the first half, memory is watched in the second."""
    started = time.monotonic()
    clients = [_Client(app, day, k, started + _LENGTH_S, pictures) for k in range(_CLIENTS)]
    for client in clients:
        client.start()
    kills = 0
    while (passed := time.monotonic() - started) < _LENGTH_S:
        time.sleep(1.0)
        if passed < _LENGTH_S / 2 and passed > (kills + 1) * _LENGTH_S / 8:
            app.end(signal.SIGKILL)
            app.start()
            kills += 1
        elif passed > _LENGTH_S * 0.6:
            day.memory.append((passed, app.memory_mb()))
    for client in clients:
        client.join(90)
    return kills


def _growth(day: _Day) -> float:
    """Return the memory of the last part of the time by that of the first, medians."""
    third = max(1, len(day.memory) // 3)
    first, last = day.memory[:third], day.memory[-third:]
    return statistics.median(mb for _, mb in last) / statistics.median(mb for _, mb in first)


def _lost(app: _App, day: _Day) -> list[str]:
    """Return what was confirmed and is not there."""
    lost = []
    with httpx.Client(base_url=f"http://127.0.0.1:{app.port}/api", timeout=60) as http:
        for motif in range(1, _CLIENTS + 1):
            there = {each["sha"] for each in http.get(f"/motifs/{motif}/uploads").json()}
            there |= {each["original_sha"] for each in http.get(f"/motifs/{motif}/sketches").json()}
            lost += [
                f"upload {sha[:12]} of motif {motif}"
                for own, sha in day.uploads
                if own == motif and sha not in there
            ]
        kept: dict[int, set[int]] = {}
        for drawing, revision in day.revisions:
            if drawing not in kept:
                kept[drawing] = {each["id"] for each in http.get(f"/drawings/{drawing}/revisions").json()}
            if revision not in kept[drawing]:
                lost.append(f"state {revision} of drawing {drawing}")
        named = {each["id"]: each["name"] for each in http.get("/collections/1").json()["motifs"]}
        lost += [f"the name {name}" for motif, name in day.names.items() if named[motif] != name]
    return lost
