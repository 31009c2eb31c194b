"""Commands that look after what was kept: back up, restore, check, sweep, hand a collection to a friend."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from zeichen.core.errors import InvalidInputError, NotFoundError, OutsideError

if TYPE_CHECKING:
    from zeichen.store.database import Database

FOUND = 3
BackupFile = Annotated[Path, typer.Argument(metavar="FILE.zip")]


def add_keeping_commands(app: typer.Typer) -> None:
    """Add `backup`, `restore`, `check-data`, `tidy`, `hand-out` and `take-in`."""
    for name, command in (
        ("backup", backup),
        ("restore", restore_backup),
        ("check-data", check_folder),
        ("tidy", tidy),
        ("hand-out", hand_out),
        ("take-in", take_in),
    ):
        app.command(name)(command)


def backup(target: BackupFile) -> None:
    """Write the whole data folder into one ZIP file; the app may be running meanwhile."""
    from zeichen.store.backup import back_up

    made = back_up(_folder(), target)
    typer.echo(f"{target}: {made.file_count} files and the database, {_size(made.size_bytes)}")


def restore_backup(
    source: BackupFile,
    into: Annotated[
        Path | None, typer.Option("--into", help="New folder; as a rule the data folder itself.")
    ] = None,
) -> None:
    """Lay a backup out as a new data folder; what is there already is never touched."""
    from zeichen.store.backup import restore

    folder = into or _folder()
    health = restore(source, folder)
    typer.echo(f"{folder}: {health.file_count} files and the database, {_size(health.size_bytes)}")
    _tell(health.problems)


def check_folder() -> None:
    """Hold every file of the data folder against its hash, and the database against its rules and the files."""
    from zeichen.store.upkeep import check_data

    database = open_data()
    try:
        health = check_data(database)
    finally:
        database.close()
    typer.echo(
        f"{health.file_count} files, {_size(health.size_bytes)}: {len(health.problems) or 'no'} problems"
    )
    _tell(health.problems)


def tidy(
    remove: Annotated[
        bool, typer.Option("--remove", help="Remove them for good; the app must not be running.")
    ] = False,
) -> None:
    """Say which files of the data folder nothing points to any more, and with --remove remove them."""
    from zeichen.store.database import FolderLock
    from zeichen.store.upkeep import remove_unused, unused_files

    database = open_data()
    try:
        if remove:
            with FolderLock(database.folder):
                gone = remove_unused(database)
            typer.echo(f"Removed {len(gone.digests)} files, {_size(gone.size_bytes)}.")
            return
        unused = unused_files(database)
    finally:
        database.close()
    for digest in unused.digests:
        typer.echo(digest)
    more = " Remove them with: zeichen tidy --remove" if unused.digests else ""
    typer.echo(
        f"Nothing points to {len(unused.digests)} files; {_size(unused.size_bytes)} would be freed.{more}"
    )


def hand_out(
    name: Annotated[str, typer.Argument(metavar="COLLECTION", help="Its name or number.")],
    out: Annotated[Path, typer.Option("--out", help="File to write.")],
) -> None:
    """Write one collection with all that was made in it into a single file."""
    from zeichen.store import collections
    from zeichen.store.exchange import write_collection
    from zeichen.store.files import placing

    database = open_data()
    try:
        with database.read() as session:
            known = collections.collections(session)
        chosen = next((each for each in known if name in (each.name, str(each.id))), None)
        if chosen is None:
            listed = ", ".join(each.name for each in known) or "none"
            raise NotFoundError(f"There is no collection {name}. There are: {listed}.")
        with placing(out) as part:
            write_collection(database, chosen.id, part)
    finally:
        database.close()
    typer.echo(f"{out}: {chosen.name}, {_size(out.stat().st_size)}")


def take_in(source: BackupFile) -> None:
    """Take in a collection that was written with hand-out; nothing that is there is changed."""
    from zeichen.store import collections
    from zeichen.store.exchange import read_collection

    if not source.is_file():
        raise InvalidInputError(f"There is no file {source}. Check the name.")
    database = open_data(new=True)
    try:
        collection_id = read_collection(database, source)
        with database.read() as session:
            made = collections.collection(session, collection_id)
            count = len(collections.motifs(session, collection_id))
    finally:
        database.close()
    typer.echo(f"{made.name}: {count} motifs")


def _folder() -> Path:
    from zeichen.jobs.settings import read_settings

    return read_settings().data


def open_data(*, new: bool = False) -> "Database":
    from zeichen.store.database import DATABASE_NAME, Database

    folder = _folder()
    if not new and not (folder / DATABASE_NAME).is_file():
        raise OutsideError(f"There is no data in {folder}. Name the folder by ZEICHEN_DATA.")
    return Database(folder)


def _tell(problems: tuple[str, ...]) -> None:
    for line in problems:
        typer.echo(line)
    if problems:
        raise typer.Exit(FOUND)


def _size(size_bytes: int) -> str:
    return f"{size_bytes / 1e6:.1f} MB"
