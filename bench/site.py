"""A running app that holds one drawing of many nodes and one of four."""

import math
import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np

from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Drawing, Shape
from zeichen.core.geometry import Path as BezierPath
from zeichen.core.geometry.bezier import circle_segments, line_segments
from zeichen.core.proofing import Process, Yardstick, usual_limits
from zeichen.store import collections, drawings
from zeichen.store.database import Database


@contextmanager
def serving_with_drawing(folder: Path, *, nodes: int) -> Iterator[tuple[str, int]]:
    """Serve a data folder whose first motif has a drawing of about so many nodes; yields address and count."""
    figure = many_flowers(nodes)
    database = Database(folder)
    with database.write() as session:
        stick = collections.add_yardstick(
            session, "Bench", Yardstick(Process.CARVE, 400, "", 500, 500, usual_limits(Process.CARVE))
        )
        collection_id = collections.add_collection(session, "Bench", stick)
        for drawing in (
            figure,
            Drawing(100, 100, (Shape("s1", (BezierPath(circle_segments((50, 50), radius=40)),)),)),
        ):
            motif_id = collections.add_motif(session, collection_id, f"motif {drawing.node_count}")
            sha = database.files.put(write_svg(drawing).encode())
            drawings.add_drawing(session, motif_id, svg_sha=sha, tracing_id=None, note="bench")
    database.close()
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = {**os.environ, "ZEICHEN_DATA": str(folder), "ZEICHEN_PORT": str(port)}
    server = subprocess.Popen([sys.executable, "-c", "from zeichen.cli import main; main()", "serve"], env=environment,
                              stdout=subprocess.DEVNULL)  # fmt: skip
    try:
        for _ in range(400):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/api/scene").read()
                break
            except OSError:
                time.sleep(0.1)
        yield f"http://127.0.0.1:{port}", figure.node_count
    finally:
        server.terminate()
        server.wait()


def many_flowers(nodes: int) -> Drawing:
    """Return a meadow: flowers of 40 curves each, beside each other, as many as it takes."""
    per_flower, shapes = 40, []
    across = math.ceil(math.sqrt(nodes / per_flower))
    for number in range(math.ceil(nodes / per_flower)):
        centre = np.array([20 + 40 * (number % across), 20 + 40 * (number // across)], dtype=float)
        angle = np.linspace(0, 2 * math.pi, per_flower + 1)
        radius = 11 + 5 * np.cos(5 * angle)
        points = centre + radius[:, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)
        segments = line_segments(points)
        segments[:, 1:3] += 0.4
        shapes.append(Shape(f"s{number}", (BezierPath(segments),)))
    return Drawing(40.0 * across, 40.0 * across, tuple(shapes))
