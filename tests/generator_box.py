"""A small picture generator on this machine, for tests: what it answers next is set from outside."""

import base64
import json
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

Answer = Callable[[BaseHTTPRequestHandler], None]


class GeneratorBox(ThreadingHTTPServer):
    """Answers with the next of some functions, the last one for ever."""

    daemon_threads = True

    def __init__(self) -> None:
        self.answers: list[Answer] = []
        self.asked: list[tuple[str, str, bytes]] = []
        super().__init__(("127.0.0.1", 0), _Handler)

    def address(self, path: str = "/draw") -> str:
        return f"http://127.0.0.1:{self.server_port}{path}"

    def orders(self) -> list[dict]:
        """What was asked for, as JSON."""
        return [json.loads(body) for method, _, body in self.asked if method == "POST"]


class _Handler(BaseHTTPRequestHandler):
    server: GeneratorBox

    def do_POST(self) -> None:
        body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
        self.server.asked.append((self.command, self.path, body))
        answers = self.server.answers
        (answers.pop(0) if len(answers) > 1 else answers[0])(self)

    do_GET = do_POST  # noqa: N815

    def log_message(self, *_: object) -> None:
        pass


def sends(data: bytes, status: int = 200, kind: str = "application/json", **headers: str) -> Answer:
    """An answer with these bytes."""

    def answer(handler: BaseHTTPRequestHandler) -> None:
        handler.send_response(status)
        handler.send_header("Content-Type", kind)
        for name, value in headers.items():
            handler.send_header(name, value)
        handler.end_headers()
        handler.wfile.write(data)

    return answer


def images(*entries: object) -> bytes:
    """The JSON of an answer; bytes are a picture, put in as base64."""
    return json.dumps(
        {"images": [base64.b64encode(e).decode() if isinstance(e, bytes) else e for e in entries]}
    ).encode()


@contextmanager
def generator_box() -> Iterator[GeneratorBox]:
    """A box that listens for as long as the block lasts."""
    server = GeneratorBox()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield server
    finally:
        server.shutdown()
        server.server_close()
