"""From subject, rules and look to the wording for a picture generator. Same brief, same wording."""

from dataclasses import dataclass

from zeichen.core.briefing.generator import Look
from zeichen.core.errors import InvalidInputError

_LOOK_WORDS = {
    Look.SILHOUETTE: "One solid dark silhouette made of a few heavy shapes",
    Look.LINE: "Bold line drawing like a page to colour in, every line equally heavy",
    Look.FLAT: "Flat colour drawing in a handful of plain tones",
}


@dataclass(frozen=True, slots=True)
class Rule:
    """A sentence that can be switched on and off: its key, how it is shown, what it adds to the wording."""

    key: str
    sentence: str
    words: str


RULES = (
    Rule("white-ground", "Blank white ground", "on a blank white ground"),
    Rule("dark-figure", "Dark figure", "the figure dark"),
    Rule("margin", "An empty margin all round", "an empty margin all round"),
    Rule("even-lines", "Heavy even lines", "heavy even lines"),
    Rule("flat-tone", "Flat tone, nothing shaded", "flat tone with nothing shaded"),
    Rule("one-figure", "One figure, no letters", "a single figure, no letters"),
    Rule("one-piece", "All in one piece", "all parts joined in one piece"),
)
_KEYS = {rule.key for rule in RULES}


def parse_subjects(text: str) -> list[str]:
    """Return the subjects of a list, one a line, blank lines and repeats left out.

    Examples
    --------
    >>> parse_subjects("Snail\\n\\n watering can \\nsnail")
    ['Snail', 'watering can']
    """
    seen: dict[str, str] = {}
    for line in text.splitlines():
        subject = " ".join(line.split())
        if subject:
            seen.setdefault(subject.lower(), subject)
    return list(seen.values())


def compose_wording(subject: str, *, look: Look, rule_keys: tuple[str, ...], pose: str = "") -> str:
    """Return the wording: subject and pose, then look, then the rules in their fixed order.

    Raises
    ------
    InvalidInputError
        If the subject is empty or a rule is unknown.

    Examples
    --------
    >>> compose_wording("snail", look=Look.SILHOUETTE, rule_keys=("margin",))
    'A snail. One solid dark silhouette made of a few heavy shapes, an empty margin all round.'
    """
    name = " ".join(subject.split())
    if not name:
        raise InvalidInputError("The subject is empty. Write what to draw, for example: snail.")
    unknown = set(rule_keys) - _KEYS
    if unknown:
        raise InvalidInputError(
            f"There is no rule {', '.join(sorted(unknown))}. The rules are: "
            f"{', '.join(rule.key for rule in RULES)}."
        )
    first = name[0].lower() + name[1:] if not name[:2].isupper() else name
    article = "An" if first[0] in "aeiou" else "A"
    opening = f"{article} {first}" + (f", {pose.strip()}" if pose.strip() else "")
    words = [rule.words for rule in RULES if rule.key in rule_keys]
    return f"{opening}. {', '.join([_LOOK_WORDS[look], *words])}."
