"""File names: letters of all scripts, safe on the three big systems, none of them twice."""

import re
import unicodedata

# Names that Windows keeps for devices, whatever their ending ("Naming Files, Paths, and Namespaces", Microsoft Learn;
# from memory).
_RESERVED = re.compile(r"(?:con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])", re.IGNORECASE)
# 255 bytes are a name's limit on Linux, 255 UTF-16 units on Windows and macOS; endings and numbers need some.
_MOST_BYTES = 180
_USUAL = "motif"


def file_stem(name: str) -> str:
    """Return a name, less its ending, that any file system takes: letters and digits of any script, and hyphens.

    In one form (NFC), so that it is the same name on every system; small letters, because some systems tell no others
    apart.

    Examples
    --------
    >>> file_stem("Watering can!"), file_stem("Käfer Nº 3"), file_stem("じょうろ"), file_stem("CON")
    ('watering-can', 'käfer-nº-3', 'じょうろ', 'con-')
    """
    folded = unicodedata.normalize("NFC", unicodedata.normalize("NFC", name).lower())
    kept = "".join(sign if _belongs(sign) else "-" for sign in folded)
    stem = _cut(re.sub("-{2,}", "-", kept).strip("-"))
    if not any(sign.isalnum() for sign in stem):
        return _USUAL
    return f"{stem}-" if _RESERVED.fullmatch(stem) else stem


def file_stems(names: list[str]) -> list[str]:
    """Return a name for each of some, equal ones with numbers behind them.

    Examples
    --------
    >>> file_stems(["Snail", "snail!", "Snail 2"])
    ['snail', 'snail-2', 'snail-2-2']
    """
    taken: set[str] = set()
    out = []
    for stem in map(file_stem, names):
        free, number = stem, 2
        while free in taken:
            free, number = f"{stem.rstrip('-')}-{number}", number + 1
        taken.add(free)
        out.append(free)
    return out


def _belongs(sign: str) -> bool:
    # Marks are parts of letters in many scripts.
    return sign.isalnum() or unicodedata.category(sign) in ("Mn", "Mc")


def _cut(stem: str) -> str:
    """Return as much of a name as fits, without half a letter at its end."""
    if len(stem.encode()) <= _MOST_BYTES:
        return stem
    cut = stem.encode()[:_MOST_BYTES].decode(errors="ignore")
    return cut.rstrip("-")
