"""Starting the server on this machine only."""

import contextlib
import signal
import socket

import uvicorn

from zeichen.api.app import create_app
from zeichen.core.errors import OutsideError
from zeichen.jobs.settings import read_settings
from zeichen.store.database import Database, FolderLock

HOST = "127.0.0.1"
_PATIENCE_S = 2


def serve(*, with_demo: bool = False) -> None:
    """Serve until interrupted; with_demo sets out the shipped scenario in a new data folder.

    Raises
    ------
    OutsideError
        If the port is taken, or the data folder is in use or cannot be written to.
    """
    settings = read_settings()
    _require_free_port(settings.port)
    with FolderLock(settings.data):
        # What is wrong with the data is said before the server starts, which would tell it with a traceback.
        Database(settings.data).close()
        app = create_app(settings, with_demo=with_demo)
        config = uvicorn.Config(
            app,
            host=HOST,
            port=settings.port,
            log_level="warning",
            access_log=False,
            server_header=False,
            timeout_graceful_shutdown=_PATIENCE_S,
        )
        print(
            f"Zeichen is at http://{HOST}:{settings.port}  (data in {settings.data}; stop with Ctrl+C)",
            flush=True,
        )
        # uvicorn stops in good order and then sends itself the signal once more, which would end the process
        # before it has cleared up after its workers.
        signal.signal(signal.SIGTERM, lambda *_: None)
        with contextlib.suppress(KeyboardInterrupt):
            uvicorn.Server(config).run()


def _require_free_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise OutsideError(
                f"Port {port} on {HOST} is taken: {error.strerror}. Stop the other program, or choose another "
                "port with ZEICHEN_PORT."
            ) from error
