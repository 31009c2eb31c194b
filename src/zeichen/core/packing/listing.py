"""Listing text: what a buyer reads, with licence and declaration of how the work was made."""

from dataclasses import dataclass

from zeichen.core.errors import InvalidInputError
from zeichen.core.provenance import HAND_MADE_TERM, MACHINE_MADE_TERM, Origin

USUAL_LICENCE = "Personal and small-business use, up to 500 products. Do not resell the files."


@dataclass(frozen=True, slots=True)
class Listing:
    """What is told about a pack."""

    title: str
    description: str = ""
    keywords: tuple[str, ...] = ()
    licence: str = USUAL_LICENCE
    origin: Origin = Origin.MACHINE
    generator: str = ""
    wording: str = ""
    made_on: str = ""
    sources: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.title.strip():
            raise InvalidInputError("The pack needs a title. Enter what a buyer would look for.")


def pack_origin(noted: list[Origin | None], *, told: Origin | None) -> Origin | None:
    """Return how a pack is declared: by machine as soon as one drawing is; None if a drawing's file says nothing
    and nobody told.

    noted: what each drawing's file says. told: what holds for those that say nothing.
    """
    if Origin.MACHINE in noted or (told is Origin.MACHINE and None in noted):
        return Origin.MACHINE
    return told if None in noted else Origin.HAND


def listing_text(listing: Listing, *, file_lines: list[str]) -> str:
    """Return the listing as plain text with a fixed order of sections."""
    sections = [listing.title.strip(), ""]
    if listing.description.strip():
        sections += [listing.description.strip(), ""]
    if listing.keywords:
        sections += ["Keywords", ", ".join(listing.keywords), ""]
    sections += [
        "Files",
        *file_lines,
        "",
        "Licence",
        listing.licence,
        "",
        "How it was made",
        *declaration(listing),
    ]
    if listing.sources:
        sections += ["", "Where the sketches came from", *listing.sources]
    return "\n".join(sections) + "\n"


def declaration(listing: Listing) -> list[str]:
    """Return the lines that declare whether a picture generator was used."""
    if listing.origin is Origin.HAND:
        return [
            "Drawn by hand and turned into outlines with Zeichen. No picture generator was used.",
            f"Digital source type (IPTC): {HAND_MADE_TERM}",
        ]
    lines = [
        "AI disclosure: the sketch was made with a picture generator, then traced, checked and mended "
        "with Zeichen.",
        f"Digital source type (IPTC): {MACHINE_MADE_TERM}",
    ]
    for label, value in (
        ("Generator", listing.generator),
        ("Wording", listing.wording),
        ("Date", listing.made_on),
    ):
        if value:
            lines.append(f"{label}: {value}")
    return lines
