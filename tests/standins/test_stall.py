"""The stall's demand figures: invented, the same for the same day, sorted by room."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.errors import InvalidInputError
from zeichen.standins.stall import demand_for_theme


@given(st.integers(700_000, 760_000))
def test_figures_are_the_same_all_day_and_go_on_from_yesterday(day):
    today, tomorrow = (demand_for_theme("kitchen", day=d) for d in (day, day + 1))
    assert today == demand_for_theme("Kitchen!", day=day)
    after = {each.subject: each for each in tomorrow}
    for each in today:
        assert after[each.subject].history[:-1] == each.history[1:]
        assert each.views_day == each.history[-1] and each.rivals > 0 and each.price > 0
        assert (after[each.subject].rivals, after[each.subject].price) == (each.rivals, each.price)
    assert [each.gap for each in today] == sorted((each.gap for each in today), reverse=True)


def test_a_theme_of_several_words_takes_from_each_once():
    both = [each.subject for each in demand_for_theme("tools for winter", day=1)]
    assert len(both) == len(set(both)) and {"trowel", "snowflake"} <= set(both)
    assert "teapot" in [each.subject for each in demand_for_theme("an old teapot", day=1)], (
        "its own name finds it"
    )


@pytest.mark.parametrize("theme", ["submarines", "", "  "])
def test_a_theme_nobody_knows_is_said_with_those_there_are(theme):
    with pytest.raises(InvalidInputError, match="Try one of: garden, allotment"):
        demand_for_theme(theme, day=1)
