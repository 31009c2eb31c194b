"""Packs: the files that are sold or handed over, and what is said about them."""

from zeichen.core.packing.bundle import PackItem, file_stem, make_pack, motif_files
from zeichen.core.packing.listing import Listing, Origin, listing_text

__all__ = ["Listing", "Origin", "PackItem", "file_stem", "listing_text", "make_pack", "motif_files"]
