"""What a picture's file name says about its motif."""

import re

_FOLDERS = re.compile(r"[\\/]")
_ENDING = re.compile(r"\.[A-Za-z0-9]{1,5}$")
_APART = re.compile(r"[_\-.\s]+")
# Copies and exports of one picture: "(2)", "copy", "copy 3".
_COPY = re.compile(r"(?i)\s*(\(\d+\)|\bcopy(\s*\d+)?)$")
_LONGEST = 120


def motif_name(file_name: str) -> str:
    """Return a motif's name: without folder and ending, words apart, the first letter large.

    Examples
    --------
    >>> motif_name("scans/tea_pot-final.PNG")
    'Tea pot final'
    >>> motif_name("Snail (2).jpg")
    'Snail'
    """
    stem = _ENDING.sub("", _FOLDERS.split(file_name)[-1])
    words = _APART.sub(" ", stem).strip()
    name = _COPY.sub("", words).strip() or words or "Motif"
    return (name[:1].upper() + name[1:])[:_LONGEST].rstrip()
