"""Content-addressed files: every file lies under the SHA-256 of its bytes and is never overwritten.

States of drawings may lie there in fewer bytes, as `NAME.z`: one byte 1, the hash of the state they are told by (zeros
for none), and what `differences` makes of them. Whatever is read is held against its name.
"""

import hashlib
import os
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zeichen.core.errors import DamagedError, NotFoundError, OutsideError
from zeichen.store.differences import decoded, encoded

_ENDING = ".z"
_VERSION = b"\1"
_NO_BASE = bytes(32)
# A state told by another is worth it if it takes less than this share of one that stands alone.
_WORTH_SHARE = 0.5
_ADVICE = "Bring back an earlier state, or restore a backup."


def write_atomically(path: Path, data: bytes) -> None:
    """Write a file so that it is either whole or absent, even if the power fails.

    Raises
    ------
    OutsideError
        If the folder cannot be written to or the disk is full.
    """
    with placing(path) as part:
        part.write_bytes(data)


@contextmanager
def placing(path: Path) -> Iterator[Path]:
    """Give a file to write beside a path, which takes its place once it is written whole.

    Raises
    ------
    OutsideError
        If the folder cannot be written to or the disk is full.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=".part-")
        part = Path(name)
        try:
            yield part
            os.fsync(handle)
            part.chmod(0o644)
            part.replace(path)
        except BaseException:
            part.unlink(missing_ok=True)
            raise
        finally:
            os.close(handle)
    except OSError as error:
        raise OutsideError(
            f"{path} could not be written: {error.strerror}. Check that the folder exists, is yours to write to, "
            "and that the disk has room."
        ) from error


def read_stored(path: Path) -> bytes:
    """Return the bytes that lie under a path of a file store.

    Raises
    ------
    NotFoundError
        If there is no such file.
    DamagedError
        If what lies there is not what was kept, or cannot be read.
    """
    digest = path.parent.name + path.name
    try:
        data = path.read_bytes() if path.is_file() else _told(path)
    except FileNotFoundError:
        raise NotFoundError(f"The file {digest[:12]} is missing from the data folder. {_ADVICE}") from None
    except OSError as error:
        raise DamagedError(f"The file {digest[:12]} cannot be read: {error.strerror}. {_ADVICE}") from error
    except (ValueError, zlib.error, IndexError) as error:
        raise _damaged(digest) from error
    if hashlib.sha256(data).hexdigest() != digest:
        raise _damaged(digest)
    return data


def _told(path: Path) -> bytes:
    """Return a state that lies in fewer bytes."""
    raw = path.with_name(path.name + _ENDING).read_bytes()
    if raw[:1] != _VERSION:
        raise ValueError("not a state of this version")
    base = _base_of(raw)
    return decoded(raw[33:], None if base is None else read_stored(_placed(path.parent.parent, base)))


def _base_of(raw: bytes) -> str | None:
    return None if raw[1:33] == _NO_BASE else raw[1:33].hex()


def _placed(folder: Path, digest: str) -> Path:
    return folder / digest[:2] / digest[2:]


def _damaged(digest: str) -> DamagedError:
    return DamagedError(f"The file {digest[:12]} in the data folder is damaged. {_ADVICE}")


class FileStore:
    """Files in a folder, found again by the hash of their content."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def put(self, data: bytes) -> str:
        """Keep bytes; returns their SHA-256 in hex."""
        digest = hashlib.sha256(data).hexdigest()
        if not self.has(digest):
            write_atomically(self.path(digest), data)
        return digest

    def put_state(self, data: bytes, *, like: str | None = None) -> str:
        """Keep a state of a drawing in few bytes, told by another state where that is worth it; returns its hash.

        A state is told by one that stands alone, so that reading it never takes more than two files.
        """
        digest = hashlib.sha256(data).hexdigest()
        if self.has(digest):
            return digest
        alone = encoded(data)
        kept = _VERSION + _NO_BASE + alone
        base = None if like is None else self._alone(like)
        if base is not None:
            try:
                told = encoded(data, self.get(base))
            except (NotFoundError, DamagedError):
                told = alone
            if len(told) < _WORTH_SHARE * len(alone):
                kept = _VERSION + bytes.fromhex(base) + told
        path = self.path(digest)
        write_atomically(path.with_name(path.name + _ENDING), kept)
        return digest

    def get(self, digest: str) -> bytes:
        """Return the bytes of a hash; NotFoundError if they are not kept here, DamagedError if they have changed."""
        return read_stored(self.path(digest))

    def has(self, digest: str) -> bool:
        """Whether the bytes of a hash are kept here."""
        path = self.path(digest)
        return path.is_file() or path.with_name(path.name + _ENDING).is_file()

    def require(self, digest: str) -> None:
        """Raise NotFoundError unless the bytes of a hash are kept here."""
        if not self.has(digest):
            raise NotFoundError(f"The file {digest[:12]} is not in the data folder.")

    def base_of(self, digest: str) -> str | None:
        """Return the hash of the state that another is told by; None if it stands alone."""
        path = self.path(digest)
        if path.is_file():
            return None
        try:
            return _base_of(path.with_name(path.name + _ENDING).read_bytes()[:33].ljust(33, b"\0"))
        except FileNotFoundError:
            return None

    def _alone(self, digest: str) -> str:
        return self.base_of(digest) or digest

    def all(self) -> Iterator[tuple[str, int]]:
        """Yield the hash and size on disk, bytes, of every file."""
        for path in sorted(self._folder.glob("??/*")):
            digest = path.parent.name + path.name.removesuffix(_ENDING)
            if len(digest) == 64 and path.is_file():
                yield digest, path.stat().st_size

    def remove(self, digest: str) -> None:
        """Remove a file for good: only what nothing points to, by the maker's own word."""
        path = self.path(digest)
        path.unlink(missing_ok=True)
        path.with_name(path.name + _ENDING).unlink(missing_ok=True)

    def sweep(self) -> None:
        """Remove what a killed app was in the middle of writing; whole files are left alone."""
        for part in (*self._folder.glob("*/.part-*"), *self._folder.parent.glob(".part-*")):
            part.unlink(missing_ok=True)

    def path(self, digest: str) -> Path:
        """Return where the bytes of a hash lie."""
        if len(digest) != 64 or not all(c in "0123456789abcdef" for c in digest):
            raise NotFoundError("That is not the name of a stored file.")
        return _placed(self._folder, digest)
