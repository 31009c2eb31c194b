"""Content-addressed files: every file lies under the SHA-256 of its bytes and is never overwritten."""

import hashlib
import os
import tempfile
from pathlib import Path

from zeichen.core.errors import NotFoundError, OutsideError


def write_atomically(path: Path, data: bytes) -> None:
    """Write a file so that it is either whole or absent, even if the power fails.

    Raises
    ------
    OutsideError
        If the folder cannot be written to or the disk is full.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=".part-")
        try:
            with os.fdopen(handle, "wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            Path(name).chmod(0o644)
            Path(name).replace(path)
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise OutsideError(
            f"{path} could not be written: {error.strerror}. Check that the folder exists, is yours to write to, "
            "and that the disk has room."
        ) from error


class FileStore:
    """Files in a folder, found again by the hash of their content."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def put(self, data: bytes) -> str:
        """Keep bytes; returns their SHA-256 in hex."""
        digest = hashlib.sha256(data).hexdigest()
        path = self.path(digest)
        if not path.exists():
            write_atomically(path, data)
        return digest

    def get(self, digest: str) -> bytes:
        """Return the bytes of a hash; NotFoundError if they are not kept here."""
        try:
            return self.path(digest).read_bytes()
        except FileNotFoundError:
            raise NotFoundError(f"The file {digest[:12]} is missing from the data folder.") from None

    def require(self, digest: str) -> None:
        """Raise NotFoundError unless the bytes of a hash are kept here."""
        if not self.path(digest).is_file():
            raise NotFoundError(f"The file {digest[:12]} is not in the data folder.")

    def sweep(self) -> None:
        """Remove what a killed app was in the middle of writing; whole files are left alone."""
        for part in self._folder.glob("*/.part-*"):
            part.unlink(missing_ok=True)

    def path(self, digest: str) -> Path:
        """Return where the bytes of a hash lie."""
        if len(digest) != 64 or not all(c in "0123456789abcdef" for c in digest):
            raise NotFoundError("That is not the name of a stored file.")
        return self._folder / digest[:2] / digest[2:]
