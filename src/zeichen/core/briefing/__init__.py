"""Briefs: subjects, rules and house style, the wording composed from them, and what a generator must be."""

from zeichen.core.briefing.generator import Generator, Reach, SketchOrder, Variation
from zeichen.core.briefing.style import (
    Detail,
    HouseStyle,
    Look,
    Manner,
    PictureFormat,
    detail_of,
    manner_after,
)
from zeichen.core.briefing.subjects import SubjectLine, SubjectList, parse_subjects
from zeichen.core.briefing.wording import (
    ALL_RULES,
    RULES,
    Rule,
    compose_all,
    compose_wording,
    rules_in,
)

__all__ = [
    "ALL_RULES",
    "RULES",
    "Detail",
    "Generator",
    "HouseStyle",
    "Look",
    "Manner",
    "PictureFormat",
    "Reach",
    "Rule",
    "SketchOrder",
    "SubjectLine",
    "SubjectList",
    "Variation",
    "compose_all",
    "compose_wording",
    "detail_of",
    "manner_after",
    "parse_subjects",
    "rules_in",
]
