"""A whole data folder as one ZIP file, and back.

The database is copied by SQLite's own backup (a consistent state, whatever is being written meanwhile); files are
copied after it, and since they are never changed or removed while an app runs, all that the copy points to is there.
"""

import json
import os
import re
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from zeichen import __version__
from zeichen.core.errors import FormatError, OutsideError
from zeichen.store.database import DATABASE_NAME, Database
from zeichen.store.upkeep import Health, check_data

_KIND = "zeichen-backup"
_MANIFEST = "backup.json"
_FILE = re.compile(r"files/[0-9a-f]{2}/[0-9a-f]{62}(?:\.z)?")
_SPARE_BYTES = 50_000_000


@dataclass(frozen=True, slots=True)
class BackedUp:
    """What went into a backup."""

    file_count: int
    size_bytes: int


def back_up(folder: Path, target: Path) -> BackedUp:
    """Write a data folder into a ZIP file; the app may be running.

    Raises
    ------
    OutsideError
        If there is no data folder, or the target cannot be written.
    """
    source = folder / DATABASE_NAME
    if not source.is_file():
        raise OutsideError(
            f"There is no data in {folder}: {DATABASE_NAME} is missing. Name the folder by ZEICHEN_DATA."
        )
    if target.exists():
        raise OutsideError(f"{target} is there already. Choose another name; nothing is overwritten.")
    part = target.with_name(f".{target.name}.part")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=target.parent, prefix=".zeichen-") as scratch:
            copy = Path(scratch) / DATABASE_NAME
            with closing(sqlite3.connect(source)) as live, closing(sqlite3.connect(copy)) as still:
                live.backup(still)
            count = _pack(folder, copy, part)
        part.replace(target)
    except (OSError, sqlite3.Error) as error:
        part.unlink(missing_ok=True)
        raise OutsideError(f"The backup could not be written to {target}: {error}.") from error
    return BackedUp(count, target.stat().st_size)


def _pack(folder: Path, database: Path, part: Path) -> int:
    paths = sorted(path for path in (folder / "files").glob("??/*") if not path.name.startswith("."))
    with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as bundle:
        manifest = {"kind": _KIND, "version": __version__, "made": datetime.now(UTC).isoformat()}
        bundle.writestr(_MANIFEST, json.dumps(manifest))
        bundle.write(database, DATABASE_NAME, zipfile.ZIP_DEFLATED)
        for path in paths:
            bundle.write(path, path.relative_to(folder).as_posix())
    with part.open("rb") as written:
        os.fsync(written.fileno())
    return len(paths)


def restore(source: Path, folder: Path) -> Health:
    """Lay a backup out as a new data folder, checked; what is there already is never touched.

    Raises
    ------
    FormatError
        If the file is no backup of Zeichen, is damaged, or holds what it should not.
    OutsideError
        If the folder holds something, there is no room for it, or it cannot be written to.
    """
    if folder.exists() and any(folder.iterdir()):
        raise OutsideError(
            f"{folder} is not empty. Restore into a new folder with --into; nothing is overwritten."
        )
    try:
        with zipfile.ZipFile(source) as bundle:
            names = _require_backup(bundle, source, folder)
            folder.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.TemporaryDirectory(dir=folder.parent, prefix=".zeichen-") as scratch:
                laid_out = Path(scratch) / "data"
                for name in names:
                    bundle.extract(name, laid_out)
                (laid_out / "files").mkdir(exist_ok=True)
                health = _checked(laid_out, source)
                if folder.exists():
                    folder.rmdir()
                shutil.move(laid_out, folder)
    except FileNotFoundError:
        raise OutsideError(f"There is no file {source}. Check the name.") from None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, ValueError) as error:
        if isinstance(error, FormatError):
            raise
        raise FormatError(f"{source} is damaged or no backup of Zeichen: {error}.") from error
    except OSError as error:
        raise OutsideError(f"The backup could not be laid out in {folder}: {error.strerror}.") from error
    return health


def _require_backup(bundle: zipfile.ZipFile, source: Path, folder: Path) -> list[str]:
    known = {_MANIFEST, DATABASE_NAME}
    names = [entry.filename for entry in bundle.infolist()]
    if not known <= set(names) or json.loads(bundle.read(_MANIFEST)).get("kind") != _KIND:
        raise FormatError(f"{source} is no backup of Zeichen: it holds no data folder.")
    strange = [name for name in names if name not in known and not _FILE.fullmatch(name)]
    if strange or len(set(names)) != len(names):
        what = strange[0] if strange else "the same file twice"
        raise FormatError(f"{source} holds what no backup of Zeichen does: {what}. It was not opened.")
    needed = sum(entry.file_size for entry in bundle.infolist())
    room = shutil.disk_usage(_existing(folder)).free
    if needed + _SPARE_BYTES > room:
        raise OutsideError(
            f"The backup needs {needed / 1e6:.0f} MB, but the disk of {folder} has {room / 1e6:.0f} MB left."
        )
    return [name for name in names if name != _MANIFEST]


def _existing(folder: Path) -> Path:
    return next(path for path in (folder, *folder.absolute().parents) if path.exists())


def _checked(laid_out: Path, source: Path) -> Health:
    try:
        database = Database(laid_out)
    except OutsideError as error:
        raise FormatError(f"The database in {source} cannot be used: {error}") from error
    try:
        return check_data(database)
    finally:
        database.close()
