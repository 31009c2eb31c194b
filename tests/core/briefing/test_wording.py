"""The same brief always gives the same wording."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.briefing import (
    RULES,
    Detail,
    HouseStyle,
    Look,
    PictureFormat,
    SketchOrder,
    SubjectLine,
    compose_all,
    compose_wording,
    parse_subjects,
    rules_in,
)
from zeichen.core.errors import InvalidInputError

keys = [rule.key for rule in RULES]
styles = st.builds(
    HouseStyle,
    look=st.sampled_from(Look),
    line_mm=st.none() | st.floats(0.2, 5),
    detail=st.sampled_from(Detail),
    colours=st.none() | st.integers(1, 12),
    format=st.sampled_from(PictureFormat),
)


@given(st.lists(st.sampled_from(keys), unique=True), styles)
def test_rules_come_in_their_own_order_whatever_order_they_were_ticked_in(chosen, style):
    forward = compose_wording("snail", style=style, rule_keys=tuple(chosen), width_mm=80)
    assert forward == compose_wording("snail", style=style, rule_keys=tuple(reversed(chosen)), width_mm=80)
    for rule in RULES:
        assert (rule.words in forward) == (rule.key in chosen)
    assert rules_in(forward) == set(chosen)


@pytest.mark.parametrize(
    ("subject", "pose", "opening"),
    [
        ("snail", "", "A snail."),
        ("Acorn", "", "An acorn."),
        ("  watering   can ", "seen from the side", "A watering can, seen from the side."),
        ("UFO", "", "A UFO."),
        ("Cherries", "", "Cherries."),
        ("glass", "", "A glass."),
    ],
)
def test_the_opening_reads_as_a_sentence(subject, pose, opening):
    line = SubjectLine(subject, pose)
    assert compose_wording(line, style=HouseStyle(Look.LINE), rule_keys=()).startswith(opening)


def test_looks_differ():
    assert len({compose_wording("snail", style=HouseStyle(look)) for look in Look}) == len(Look)


def test_a_house_style_is_put_into_words_a_generator_understands():
    style = HouseStyle(Look.FLAT, 2.0, Detail.RICH, 3, ("#f4e9d0", "#24272b"), PictureFormat.LANDSCAPE)
    words = compose_wording(SubjectLine("snail", note="on a leaf"), style=style, rule_keys=(), width_mm=80)
    # 2 mm of 80 mm, the figure filling 0.84 of the picture: 2.1 %.
    assert words == (
        "A snail, on a leaf. Flat colour drawing in a handful of plain tones, lines about 2.1 % of the picture "
        "across, ornament drawn inside the outline, no more than 3 colours, in the colours #f4e9d0, #24272b, "
        "in landscape format."
    )
    assert "2.1 %" not in compose_wording("snail", style=style), "mm mean nothing without a finished width"
    assert "colours" not in compose_wording("snail", style=HouseStyle(Look.LINE, colours=3))


def test_a_wording_written_by_hand_stands_and_the_others_do_not_change():
    lines = parse_subjects("Snail\nTeapot").lines
    style = HouseStyle()
    plain = compose_all(lines, style=style, rule_keys=())
    edited = compose_all(lines, style=style, rule_keys=(), edits={"snail": "A very slow snail."})
    assert edited == ["A very slow snail.", plain[1]]
    assert compose_all(lines, style=style, rule_keys=(), edits={"snail": "  "}) == plain


@pytest.mark.parametrize(
    ("subject", "rules", "message"),
    [(" ", (), "subject is empty"), ("snail", ("loud",), "no rule loud. The rules are: white-ground")],
)
def test_what_cannot_be_composed_is_refused(subject, rules, message):
    with pytest.raises(InvalidInputError, match=message):
        compose_wording(subject, rule_keys=rules)


@given(st.lists(st.text(max_size=12)))
def test_subjects_are_never_empty_and_never_twice(lines):
    found = parse_subjects("\n".join(lines))
    assert all(line.subject.strip() for line in found.lines)
    assert len({line.key for line in found.lines}) == len(found.lines)
    assert {name.lower() for name in found.repeated} <= {line.key for line in found.lines}


def test_pose_note_and_switch_are_written_in_the_line():
    found = parse_subjects("Snail | facing  left | for the gate\n#  teapot |  | blue\n\nSNAIL\n | nothing")
    assert found.lines == (
        SubjectLine("Snail", "facing left", "for the gate"),
        SubjectLine("teapot", "", "blue", on=False),
    )
    assert found.repeated == ("SNAIL",)


def test_a_list_without_end_is_refused():
    with pytest.raises(InvalidInputError, match="501 subjects; at most 500"):
        parse_subjects("\n".join(f"thing {k}" for k in range(501)))


@pytest.mark.parametrize(
    ("field", "value"), [("seed", -1), ("seed", 2**32), ("size_px", 10), ("size_px", 10_000)]
)
def test_an_impossible_order_is_refused(field, value):
    with pytest.raises(InvalidInputError, match="must be"):
        SketchOrder("snail", Look.LINE, **{"seed": 1, field: value})


@pytest.mark.parametrize(
    ("values", "message"),
    [
        ({"line_mm": 0.0}, "Line weight must be at least"),
        ({"line_mm": float("nan")}, "Line weight must be"),
        ({"colours": 0}, "Number of colours must be at least 1"),
        ({"palette": ("red",)}, "must look like #1a2b3c; got red"),
        ({"palette": ("#ffffff",) * 13}, "at most 12 colours; got 13"),
    ],
)
def test_an_impossible_style_is_refused(values, message):
    with pytest.raises(InvalidInputError, match=message):
        HouseStyle(**values)
