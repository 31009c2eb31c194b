"""The same brief always gives the same wording."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.briefing import RULES, Look, SketchOrder, compose_wording, parse_subjects
from zeichen.core.errors import InvalidInputError

keys = [rule.key for rule in RULES]


@given(st.lists(st.sampled_from(keys), unique=True), st.sampled_from(list(Look)))
def test_rules_come_in_their_own_order_whatever_order_they_were_ticked_in(chosen, look):
    forward = compose_wording("snail", look=look, rule_keys=tuple(chosen))
    assert forward == compose_wording("snail", look=look, rule_keys=tuple(reversed(chosen)))
    for rule in RULES:
        assert (rule.words in forward) == (rule.key in chosen)


@pytest.mark.parametrize(
    ("subject", "pose", "opening"),
    [
        ("snail", "", "A snail."),
        ("Acorn", "", "An acorn."),
        ("  watering   can ", "seen from the side", "A watering can, seen from the side."),
        ("UFO", "", "A UFO."),
    ],
)
def test_the_opening_reads_as_a_sentence(subject, pose, opening):
    assert compose_wording(subject, look=Look.LINE, rule_keys=(), pose=pose).startswith(opening)


def test_looks_differ():
    assert len({compose_wording("snail", look=look, rule_keys=()) for look in Look}) == len(Look)


@pytest.mark.parametrize(
    ("subject", "rules", "message"),
    [(" ", (), "subject is empty"), ("snail", ("loud",), "no rule loud. The rules are: white-ground")],
)
def test_what_cannot_be_composed_is_refused(subject, rules, message):
    with pytest.raises(InvalidInputError, match=message):
        compose_wording(subject, look=Look.LINE, rule_keys=rules)


@given(st.lists(st.text(max_size=12)))
def test_subjects_are_never_empty_and_never_twice(lines):
    subjects = parse_subjects("\n".join(lines))
    assert all(subject.strip() for subject in subjects)
    assert len({subject.lower() for subject in subjects}) == len(subjects)


@pytest.mark.parametrize(
    ("field", "value"), [("seed", -1), ("seed", 2**32), ("size_px", 10), ("size_px", 10_000)]
)
def test_an_impossible_order_is_refused(field, value):
    with pytest.raises(InvalidInputError, match="must be"):
        SketchOrder("snail", Look.LINE, **{"seed": 1, field: value})
