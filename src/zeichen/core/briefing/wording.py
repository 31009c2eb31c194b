"""From subject, rules and house style to the wording for a picture generator. Same brief, same wording."""

from collections.abc import Mapping
from dataclasses import dataclass

from zeichen.core.briefing.style import Detail, HouseStyle, Look, PictureFormat
from zeichen.core.briefing.subjects import SubjectLine
from zeichen.core.errors import InvalidInputError

_LOOK_WORDS = {
    Look.SILHOUETTE: "One solid dark silhouette made of a few heavy shapes",
    Look.LINE: "Bold line drawing like a page to colour in, every line equally heavy",
    Look.FLAT: "Flat colour drawing in a handful of plain tones",
    Look.STENCIL: "Dark stencil of a few openings, every light part held by a bridge",
    Look.INK: "Brush and ink drawing, dark strokes that swell and taper",
}
_DETAIL_WORDS = {
    Detail.PLAIN: "hardly anything drawn inside the outline",
    Detail.SOME: "",
    Detail.RICH: "ornament drawn inside the outline",
}
_FORMAT_WORDS = {
    PictureFormat.SQUARE: "",
    PictureFormat.LANDSCAPE: "in landscape format",
    PictureFormat.PORTRAIT: "in portrait format",
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
ALL_RULES = tuple(rule.key for rule in RULES)
_KEYS = set(ALL_RULES)


def compose_wording(
    line: SubjectLine | str,
    *,
    style: HouseStyle | None = None,
    rule_keys: tuple[str, ...] = ALL_RULES,
    width_mm: float | None = None,
) -> str:
    """Return the wording: subject, pose and note, then look and style, then the rules in their fixed order.

    Parameters
    ----------
    line
        What to draw, or only the subject.
    width_mm : float, mm
        The finished width; without it a line weight in mm cannot be put into words and is left out.

    Raises
    ------
    InvalidInputError
        If the subject is empty or a rule is unknown.

    Examples
    --------
    >>> compose_wording("snail", rule_keys=("margin",))
    'A snail. One solid dark silhouette made of a few heavy shapes, an empty margin all round.'
    """
    asked = SubjectLine(line) if isinstance(line, str) else line
    chosen = style or HouseStyle()
    name = " ".join(asked.subject.split())
    if not name:
        raise InvalidInputError("The subject is empty. Write what to draw, for example: snail.")
    unknown = set(rule_keys) - _KEYS
    if unknown:
        raise InvalidInputError(
            f"There is no rule {', '.join(sorted(unknown))}. The rules are: {', '.join(ALL_RULES)}."
        )
    first = name[0].lower() + name[1:] if not name[:2].isupper() else name
    opening = ", ".join(filter(None, (_with_article(first), asked.pose.strip(), asked.note.strip())))
    rules = [rule.words for rule in RULES if rule.key in rule_keys]
    return f"{opening}. {', '.join([_LOOK_WORDS[chosen.look], *_style_words(chosen, width_mm), *rules])}."


def compose_all(
    lines: tuple[SubjectLine, ...],
    *,
    style: HouseStyle,
    rule_keys: tuple[str, ...],
    width_mm: float | None = None,
    edits: Mapping[str, str] | None = None,
) -> list[str]:
    """Return the wording of each line; edits, by the line's key, stand for what would be composed."""
    written = edits or {}
    return [
        written.get(line.key, "").strip()
        or compose_wording(line, style=style, rule_keys=rule_keys, width_mm=width_mm)
        for line in lines
    ]


def rules_in(wording: str) -> frozenset[str]:
    """Return the keys of the rules that a wording asks for, composed or edited by hand.

    Examples
    --------
    >>> sorted(rules_in("A snail on a blank white ground, an empty margin all round."))
    ['margin', 'white-ground']
    """
    text = " ".join(wording.lower().split())
    return frozenset(rule.key for rule in RULES if rule.words in text)


def _with_article(name: str) -> str:
    last = name.split()[-1].lower()
    if last.endswith("s") and not last.endswith(("ss", "us", "is")):
        return name[:1].upper() + name[1:]
    return f"{'An' if name[0] in 'aeiou' else 'A'} {name}"


def _style_words(style: HouseStyle, width_mm: float | None) -> list[str]:
    share = None if width_mm is None else style.line_share(width_mm=width_mm)
    flat = style.look is Look.FLAT
    colours = "colour" if style.colours == 1 else "colours"
    return [
        words
        for words in (
            "" if share is None else f"lines about {_percent(share)} of the picture across",
            _DETAIL_WORDS[style.detail],
            f"no more than {style.colours} {colours}" if flat and style.colours is not None else "",
            f"in the colours {', '.join(style.palette)}" if flat and style.palette else "",
            _FORMAT_WORDS[style.format],
        )
        if words
    ]


def _percent(share: float) -> str:
    return f"{100 * share:.1f}".rstrip("0").rstrip(".") + " %"
