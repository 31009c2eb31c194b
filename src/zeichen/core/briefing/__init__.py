"""Briefs: subjects, rules and looks, the wording composed from them, and what a generator must be."""

from zeichen.core.briefing.generator import Generator, Look, SketchOrder
from zeichen.core.briefing.wording import RULES, Rule, compose_wording, parse_subjects

__all__ = ["RULES", "Generator", "Look", "Rule", "SketchOrder", "compose_wording", "parse_subjects"]
