"""The command that brings pictures into a collection."""

from pathlib import Path
from typing import Annotated

import typer

from zeichen.cli.files import progress, read_file
from zeichen.cli.keeping import open_data
from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.provenance import Origin


def add_bringing_command(app: typer.Typer) -> None:
    """Add the command to an app."""
    app.command("bring")(_bring)


def _bring(
    pictures: Annotated[list[Path], typer.Argument(metavar="PICTURE...")],
    collection: Annotated[str, typer.Option(help="Its name; a new one is started if there is none.")],
    motif: Annotated[
        str, typer.Option(help="Bring all in as sketches of this motif; otherwise each is one of its own.")
    ] = "",
) -> None:
    """Bring pictures into a collection: a motif each, named after the file, or sketches of the motif of that name."""
    from zeichen.jobs.tasks import prepare_file
    from zeichen.store import collections, sketches

    database = open_data(new=True)
    failed: list[str] = []
    count = again = 0
    motifs: set[int] = set()
    try:
        with database.write() as session:
            known = {each.name.casefold(): each.id for each in collections.collections(session)}
            chosen = known.get(collection.casefold()) or collections.add_collection(session, collection, None)
        with progress("Bringing in") as report:
            for number, path in enumerate(pictures):
                report(number / len(pictures))
                try:
                    data = read_file(path)
                    made = prepare_file(data)
                except InvalidInputError as error:
                    failed.append(str(error) if str(path) in str(error) else f"{path}: {error}")
                    continue
                original, picture, thumb = (database.files.put(each) for each in (data, made.png, made.thumb))
                with database.write() as session:
                    found = collections.motifs_of_files(session, chosen, [motif or path.name], create=True)[0]
                    if found.motif_id is None:
                        raise NotFoundError(f"There is no motif {found.name}.")
                    motifs.add(found.motif_id)
                    if any(
                        each.original_sha == original for each in sketches.sketches(session, found.motif_id)
                    ):
                        again += 1
                        continue
                    sketches.add_sketch(
                        session,
                        found.motif_id,
                        picture_sha=picture,
                        thumb_sha=thumb,
                        width_px=made.width_px,
                        height_px=made.height_px,
                        source="upload",
                        file_name=path.name,
                        original_sha=original,
                        machine_made=made.origin is Origin.MACHINE,
                        kept=True,
                    )
                    count += 1
    finally:
        database.close()
    there = f", {again} there already" if again else ""
    typer.echo(f"{collection}: {count} pictures brought in for {len(motifs)} motifs{there}")
    if failed:
        raise InvalidInputError("Not brought in: " + " / ".join(failed))
