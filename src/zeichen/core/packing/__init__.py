"""Packs: the files that are sold or handed over, and what is said about them."""

from zeichen.core.packing.bundle import PackItem, make_pack, motif_files
from zeichen.core.packing.listing import Listing, Origin, listing_text
from zeichen.core.packing.naming import file_stem, file_stems

__all__ = [
    "Listing",
    "Origin",
    "PackItem",
    "file_stem",
    "file_stems",
    "listing_text",
    "make_pack",
    "motif_files",
]
