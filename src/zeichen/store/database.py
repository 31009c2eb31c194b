"""The SQLite database: opening, migrating, one writer at a time."""

import fcntl
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError, IntegrityError
from sqlalchemy.orm import Session, sessionmaker

from zeichen.core.errors import NotFoundError, OutsideError
from zeichen.store.files import FileStore

BUSY_TIMEOUT_S = 5
DATABASE_NAME = "zeichen.sqlite"
# The log beside the database is folded in when it reaches so many pages of 4 kB: a maker's folder stays small.
_LOG_PAGES = 250


class Database:
    """A data folder: zeichen.sqlite and the files beside it.

    Raises
    ------
    OutsideError
        If the folder cannot be made, written to, or its database is locked or damaged.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        _require_writable(folder)
        self.files = FileStore(folder / "files")
        self.engine = make_engine(folder / DATABASE_NAME)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        self._writing = threading.RLock()
        try:
            with telling(folder):
                migrate(self.engine)
        except BaseException:
            self.engine.dispose()
            raise

    @contextmanager
    def read(self) -> Iterator[Session]:
        """Open a session for reading."""
        with telling(self.folder), self._sessions() as session:
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """Open a session for writing, one at a time; everything in it is kept or nothing is."""
        with telling(self.folder), self._writing, self._sessions.begin() as session:
            yield session

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()


class FolderLock:
    """Holds a data folder for one running app; the system lets go of it even if the app is killed.

    Raises
    ------
    OutsideError
        If another app holds the folder, or it cannot be written to.
    """

    def __init__(self, folder: Path) -> None:
        _require_writable(folder)
        self._file = (folder / ".lock").open("a+")
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            self._file.close()
            raise OutsideError(
                f"The data folder {folder} is in use by another running Zeichen. Stop that one, or choose another "
                "folder with ZEICHEN_DATA."
            ) from error

    def __enter__(self) -> "FolderLock":
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()


def make_engine(path: Path) -> Engine:
    """Return an engine with write-ahead log, foreign keys and a busy timeout."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_TIMEOUT_S})

    @event.listens_for(engine, "connect")
    def _set_up(connection: sqlite3.Connection, _record: Any) -> None:
        for pragma in (
            "journal_mode=WAL",
            "foreign_keys=ON",
            f"busy_timeout={BUSY_TIMEOUT_S * 1000}",
            "synchronous=FULL",
            f"wal_autocheckpoint={_LOG_PAGES}",
        ):
            connection.execute(f"PRAGMA {pragma}")

    return engine


def migrate(engine: Engine, version: str = "head") -> None:
    """Bring the tables to the newest version, or up to an older one."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        try:
            command.upgrade(config, version)
        except CommandError as error:
            raise OutsideError(
                "The database was written by a newer version of Zeichen than this one. Nothing was changed. "
                "Start that newer version, or choose another folder with ZEICHEN_DATA."
            ) from error


@contextmanager
def telling(folder: Path) -> Iterator[None]:
    """Turn SQLite's complaints into one clear error; a number it cannot hold is no row's."""
    try:
        yield
    except OverflowError as error:
        raise NotFoundError("There is nothing with a number as large as that. Reload the page.") from error
    except IntegrityError:
        raise  # A broken rule of the tables is a fault of ours, not of the file.
    except DatabaseError as error:
        reason = str(error.orig)
        advice = (
            "Another program holds it. Close that program and try again."
            if "locked" in reason
            else "Check that the folder is yours to write to, that the disk has room, and that the file is whole."
        )
        raise OutsideError(f"The database in {folder} could not be used: {reason}. {advice}") from error


def _require_writable(folder: Path) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / ".writable"
        probe.write_bytes(b"")
        probe.unlink()
    except OSError as error:
        raise OutsideError(
            f"The data folder {folder} cannot be written to: {error.strerror}. "
            "Change its permissions, or choose another with ZEICHEN_DATA."
        ) from error
