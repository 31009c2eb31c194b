"""The list of subjects as a maker writes it: one a line, with pose and note behind bars if wanted.

Snail | facing left | for the gate
# Teapot                             (switched off)
"""

import unicodedata
from dataclasses import dataclass

from zeichen.core.errors import InvalidInputError

OFF = "#"
_MOST_SUBJECTS = 500


@dataclass(frozen=True, slots=True)
class SubjectLine:
    """One subject: what to draw, its pose or angle, a note for the picture, and whether it is drawn at all."""

    subject: str
    pose: str = ""
    note: str = ""
    on: bool = True

    @property
    def key(self) -> str:
        """What makes it the same subject as another, however it is written."""
        return self.subject.lower()


@dataclass(frozen=True, slots=True)
class SubjectList:
    """Subjects in order, and those that were there more than once."""

    lines: tuple[SubjectLine, ...]
    repeated: tuple[str, ...]


def parse_subjects(text: str) -> SubjectList:
    """Return the subjects of a list; blank lines are left out, of repeats the first counts.

    Raises
    ------
    InvalidInputError
        If there are more than 500.

    Examples
    --------
    >>> found = parse_subjects("Snail | facing left\\n\\n# watering can \\nsnail")
    >>> found.lines
    (SubjectLine(subject='Snail', pose='facing left', note='', on=True), \
SubjectLine(subject='watering can', pose='', note='', on=False))
    >>> found.repeated
    ('snail',)
    """
    seen: dict[str, SubjectLine] = {}
    repeated: list[str] = []
    # Motifs are named in one form (NFC); some systems paste letters and their marks apart.
    for raw in unicodedata.normalize("NFC", text).splitlines():
        written = raw.strip()
        on = not written.startswith(OFF)
        parts = [" ".join(part.split()) for part in written.lstrip(OFF).split("|")]
        if not parts[0]:
            continue
        line = SubjectLine(
            parts[0], parts[1] if len(parts) > 1 else "", ", ".join(filter(None, parts[2:])), on
        )
        if line.key in seen:
            repeated.append(line.subject)
        else:
            seen[line.key] = line
    if len(seen) > _MOST_SUBJECTS:
        raise InvalidInputError(
            f"The list has {len(seen)} subjects; at most {_MOST_SUBJECTS} fit. Make two collections of it."
        )
    return SubjectList(tuple(seen.values()), tuple(repeated))


def renamed_subject(text: str, old: str, new: str) -> str:
    """Return the list with one subject called otherwise; its pose, note and mark, and all other lines, stay.

    Raises
    ------
    InvalidInputError
        If the new name would be read as something else: it begins with # or holds a bar.

    Examples
    --------
    >>> renamed_subject("# Snail | facing left\\nTeapot", "snail", "Garden snail")
    '# Garden snail | facing left\\nTeapot'
    """
    if new.startswith(OFF) or "|" in new:
        raise InvalidInputError("A subject begins with no # and holds no bar |. Choose another name.")
    lines = []
    for raw in unicodedata.normalize("NFC", text).splitlines():
        start = len(raw) - len(raw.lstrip().lstrip(OFF).lstrip())
        subject, bar, rest = raw[start:].partition("|")
        same = " ".join(subject.split()).lower() == unicodedata.normalize("NFC", old).lower()
        lines.append(f"{raw[:start]}{new}{' |' if bar else ''}{rest}" if same else raw)
    return "\n".join(lines)
