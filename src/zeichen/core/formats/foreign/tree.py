"""The elements of an SVG file: parsed safely, with their names, parents and links."""

import gzip
import io
import re
import zlib
from typing import Any
from xml.etree.ElementTree import ParseError

from defusedxml import ElementTree as SafeTree
from defusedxml.common import DefusedXmlException

from zeichen.core.errors import FormatError

LARGEST_BYTES = 64 * 1024 * 1024
SVG_NAMESPACE = "http://www.w3.org/2000/svg"
_LINKS = ("href", "{http://www.w3.org/1999/xlink}href")
_ACTIVE_TAGS = {"script", "foreignobject", "iframe", "handler"}
_EVENT = re.compile(r"on[a-z]+$")
# Any element, as the XML library has it.
Element = Any


def parse_safely(raw: bytes) -> Element:
    """Return the root element of an SVG file, gzipped or not.

    Raises
    ------
    FormatError
        If the file is empty, too large, not XML, not SVG, or holds entities, scripts or links to other places:
        it is refused, not stripped, because it is not what the maker thinks it is.
    """
    if not raw.strip():
        raise FormatError("The file is empty (0 bytes). Choose the drawing again.")
    if raw[:2] == b"\x1f\x8b":
        raw = _unpacked(raw)
    if len(raw) > LARGEST_BYTES:
        raise FormatError(f"The SVG has {len(raw)} bytes, more than the {LARGEST_BYTES} Zeichen reads.")
    try:
        root = SafeTree.fromstring(raw, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise FormatError(
            "The SVG declares entities, which can pull in other files. It was not opened. "
            "Save it again as plain SVG."
        ) from error
    except (ParseError, ValueError, LookupError) as error:
        raise FormatError("This is not an SVG file: its text is not well-formed XML.") from error
    if root.tag.rsplit("}", 1)[-1].lower() != "svg":
        raise FormatError("This is not an SVG file: it is XML of another kind.")
    for node in root.iter():
        _refuse_active(node)
    return root


def name_of(node: Element) -> str:
    """Return an SVG element's name; "" for elements of other kinds and for what is no element."""
    tag = node.tag
    if not isinstance(tag, str):
        return ""
    if tag.startswith("{"):
        space, _, name = tag[1:].partition("}")
        return name if space == SVG_NAMESPACE else ""
    return tag


def link_of(node: Element) -> str:
    """Return the id an element refers to within the file, or ""."""
    for key in _LINKS:
        target = node.get(key)
        if target is not None:
            return str(target).strip()[1:] if str(target).strip().startswith("#") else ""
    return ""


class Family:
    """Which element has which id, and which is whose parent."""

    def __init__(self, root: Element) -> None:
        self.root = root
        self.by_id: dict[str, Element] = {}
        self._parent: dict[int, Element] = {}
        for node in root.iter():
            if node.get("id"):
                self.by_id.setdefault(node.get("id"), node)
            for child in node:
                self._parent[id(child)] = node

    def parent(self, node: Element) -> Element | None:
        """Return the element one is in."""
        return self._parent.get(id(node))

    def linked(self, node: Element) -> Element | None:
        """Return the element that one refers to with its link."""
        return self.by_id.get(link_of(node))


def _unpacked(raw: bytes) -> bytes:
    try:
        with gzip.open(io.BytesIO(raw)) as packed:
            return packed.read(LARGEST_BYTES + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise FormatError("The file is packed (gzip) and damaged. Save it again as plain SVG.") from error


def _refuse_active(node: Element) -> None:
    tag = str(node.tag).rsplit("}", 1)[-1].lower()
    if tag in _ACTIVE_TAGS or any(_EVENT.match(key.rsplit("}", 1)[-1].lower()) for key in node.attrib):
        raise FormatError("The SVG carries a script. It was not opened. Save it again as plain SVG.")
    if tag not in ("use", "image"):
        return
    for key, value in node.attrib.items():
        if key.rsplit("}", 1)[-1].lower() == "href" and not value.strip().startswith(("#", "data:image/")):
            raise FormatError("The SVG links to another file. Save it with everything inside it.")
