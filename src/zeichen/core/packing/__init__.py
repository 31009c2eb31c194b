"""Packs: the files that are sold or handed over, and what is said about them."""

from zeichen.core.packing.bundle import PackItem, make_pack, motif_files
from zeichen.core.packing.listing import Listing, listing_text, pack_origin
from zeichen.core.packing.naming import file_stem, file_stems
from zeichen.core.provenance import Origin

__all__ = [
    "Listing",
    "Origin",
    "PackItem",
    "file_stem",
    "file_stems",
    "listing_text",
    "make_pack",
    "motif_files",
    "pack_origin",
]
