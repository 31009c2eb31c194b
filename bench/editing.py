"""A thousand edits of a drawing: how much the data folder grows, and how long each takes from request to answer."""

import math
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from zeichen.api import create_app
from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.formats.picture import write_png
from zeichen.jobs.settings import Settings
from zeichen.standins.studio import Studio

_EDITS, _MOST_GROWN_MB, _MOST_S = 1000, 8.0, 0.1


def measure_editing() -> bool:
    """Print growth and times; returns whether 8 MB and, for the median edit, 100 ms are kept."""
    kept = True
    for subject, look in (("hedgehog", Look.LINE), ("snail", Look.SILHOUETTE), ("watering can", Look.FLAT)):
        with tempfile.TemporaryDirectory() as folder:
            grown_mb, seconds, size_kb = _edit(Path(folder), subject, look)
        median = statistics.median(seconds)
        mine = grown_mb < _MOST_GROWN_MB and median < _MOST_S
        kept &= mine
        print(
            f"{_EDITS} edits of a drawing of {size_kb:.0f} kB ({subject}, {look.value}): grown by {grown_mb:.1f} MB, "
            f"each {median * 1000:.0f} ms (95 of 100 under {sorted(seconds)[int(0.95 * _EDITS)] * 1000:.0f} ms)   "
            f"{'kept' if mine else 'MISSED'}"
        )
    return kept


def _edit(folder: Path, subject: str, look: Look) -> tuple[float, list[float], float]:
    picture = write_png(Studio(faults=0).draw(SketchOrder(subject, look, 41, size_px=1024)).rgb)
    settings = Settings(data=folder, workers=1)
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8417") as http:

        def ask(method: str, path: str, **more: Any) -> Any:
            reply = http.request(method, f"/api{path}", **more)
            reply.raise_for_status()
            return reply.json()

        def done(job: dict[str, Any]) -> None:
            while ask("GET", "/jobs?most=1")[0]["state"] in ("queued", "running"):
                time.sleep(0.05)

        ask("POST", "/collections", json={"name": "Open day"})
        ask("POST", "/collections/1/motifs", json={"name": subject})
        done(ask("POST", "/motifs/1/import?name=a.png", content=picture))
        method = "flats" if look is Look.FLAT else "solid"
        done(ask("POST", "/sketches/1/trace", json={"method": method}))
        current = ask("GET", "/motifs/1/drawing")
        size_kb = len(http.get("/api/motifs/1/drawing.svg").content) / 1000
        shapes = [shape["id"] for shape in current["drawing"]["shapes"]]
        before, seconds = _size_mb(folder), []
        for number in range(_EDITS):
            body = {"revision_id": current["revision_id"], "operation": _operation(number, shapes)}
            started = time.perf_counter()
            current = ask("POST", f"/drawings/{current['id']}/edit", json=body)
            seconds.append(time.perf_counter() - started)
        return _size_mb(folder) - before, seconds, size_kb


def _operation(number: int, shapes: list[str]) -> dict[str, Any]:
    """One of the things makers do most, to and fro, so that the figure stays one: move, recolour, turn, group."""
    turn, kind = divmod(number, 4)
    one, way = shapes[turn // 2 % len(shapes)], (-1) ** turn
    match kind:
        case 0:
            return {"kind": "transform", "ids": [one], "matrix": [1, 0, 0, 1, 0.37 * way, 0.11 * way]}
        case 1:
            return {"kind": "recolour", "ids": [one], "fill": f"#{number * 7919 % 0xFFFFFF:06x}"}
        case 2:
            cos, sin = math.cos(0.01 * way), math.sin(0.01 * way)
            return {"kind": "transform", "ids": [one], "matrix": [cos, sin, -sin, cos, 0, 0]}
        case _:
            return {"kind": "mark", "ids": [one], "locked": False, "group": f"g{number % 3}"}


def _size_mb(folder: Path) -> float:
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file()) / 1e6
