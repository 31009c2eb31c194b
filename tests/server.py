"""A real server in a process of its own, that can be killed."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """`zeichen serve` (or `demo`) on a free port."""

    def __init__(
        self,
        data: Path,
        *,
        command: str = "serve",
        port: int | None = None,
        settings: dict[str, str] | None = None,
    ) -> None:
        self.port = port or free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        environment = {
            **os.environ,
            "ZEICHEN_DATA": str(data),
            "ZEICHEN_PORT": str(self.port),
            "ZEICHEN_WORKERS": "1",
            **(settings or {}),
        }
        code = "from zeichen.cli import main; main()"
        self.process = subprocess.Popen(
            [sys.executable, "-c", code, command],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        self.client = httpx.Client(base_url=f"{self.url}/api", timeout=120)
        self._wait()

    def _wait(self) -> None:
        for _ in range(1200):
            if self.process.poll() is not None:
                raise AssertionError(self.process.stdout.read())
            try:
                self.client.get("/scene").raise_for_status()
                return
            except httpx.TransportError:
                time.sleep(0.1)
        raise AssertionError("The server did not answer.")

    def children(self) -> list[int]:
        tasks = Path(f"/proc/{self.process.pid}/task")
        return [int(pid) for task in tasks.iterdir() for pid in (task / "children").read_text().split()]

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(timeout=20)
        except subprocess.TimeoutExpired:
            self.process.kill()


@contextmanager
def serving(data: Path, **options) -> Iterator[Server]:
    server = Server(data, **options)
    try:
        yield server
    finally:
        server.client.close()
        if server.process.poll() is None:
            server.stop()
