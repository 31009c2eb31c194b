"""How a picture came about, as a record that travels in files: open metadata, one value.

Source: XMP (ISO 16684-1, from memory) in RDF/XML with the property DigitalSourceType of the IPTC Photo Metadata
Standard, whose values are the IPTC NewsCodes "digital source type" (from memory); in a PNG in an iTXt chunk, in an
SVG in its metadata element (SVG 2, section 5.10).
"""

import re
from enum import StrEnum

MACHINE_MADE_TERM = "trainedAlgorithmicMedia"
HAND_MADE_TERM = "digitalCreation"
_SCHEME = "http://cv.iptc.org/newscodes/digitalsourcetype/"
# Of the terms that other programs write, those in which a generator had a part, and those in which none had.
_MACHINE = frozenset(
    (MACHINE_MADE_TERM, "compositeWithTrainedAlgorithmicMedia", "compositeSynthetic", "algorithmicMedia")
)
_HAND = frozenset(
    (HAND_MADE_TERM, "digitalArt", "humanEdits", "minorHumanEdits", "digitalCapture", "negativeFilm",
     "positiveFilm", "print", "screenCapture", "composite", "compositeCapture")
)  # fmt: skip
_FOUND = re.compile(r"DigitalSourceType\W[^<]{0,200}?digitalsourcetype/([A-Za-z]+)", re.IGNORECASE)


class Origin(StrEnum):
    """Whether a picture generator had a part in the work."""

    MACHINE = "machine"
    HAND = "hand"


def record(origin: Origin) -> str:
    """Return the record of how a picture came about, as RDF/XML."""
    term = MACHINE_MADE_TERM if origin is Origin.MACHINE else HAND_MADE_TERM
    return (
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" '
        'xmlns:Iptc4xmpExt="http://iptc.org/std/Iptc4xmpExt/2008-02-29/">'
        f"<Iptc4xmpExt:DigitalSourceType>{_SCHEME}{term}</Iptc4xmpExt:DigitalSourceType>"
        "</rdf:Description></rdf:RDF>"
    )


def origin_in(metadata: str) -> Origin | None:
    """Return what metadata says of how a picture came about; None if it says nothing that is known.

    Examples
    --------
    >>> origin_in(record(Origin.MACHINE)), origin_in("<rdf:RDF/>")
    (<Origin.MACHINE: 'machine'>, None)
    """
    found = _FOUND.search(metadata)
    if found is None:
        return None
    return Origin.MACHINE if found[1] in _MACHINE else Origin.HAND if found[1] in _HAND else None
