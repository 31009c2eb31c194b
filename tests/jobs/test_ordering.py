"""From a brief to drawing jobs and their orders: what is said in the brief is what is drawn."""

from dataclasses import asdict

import pytest

from zeichen.core.briefing import (
    ALL_RULES,
    Detail,
    HouseStyle,
    Look,
    Manner,
    PictureFormat,
    Reach,
    SketchOrder,
    Variation,
    rules_in,
)
from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.proofing import Process, Yardstick
from zeichen.jobs.ordering import Wish, draw_params, house_style, manner_of, order_data, order_of, wordings
from zeichen.store import briefs, collections, sketches
from zeichen.store.records import Brief

SHA = "b" * 64
STYLE = {"line_mm": 2.0, "detail": "rich", "colours": 3, "palette": ["#24405c"], "format": "portrait"}
BRIEF = Brief("Snail | facing left | slow\n# Owl", "flat", ("margin",), STYLE, {"owl": "Just an owl."})


@pytest.fixture
def motifs(database) -> dict[str, int]:
    with database.write() as session:
        stick = collections.add_yardstick(
            session, "Laser", Yardstick.usual(Process.LASER_ENGRAVE, width_mm=80)
        )
        made = collections.add_collection(session, "Open day", stick)
        briefs.save_brief(session, made, BRIEF, ["Snail", "Owl", "Mug"])
        return {motif.name: motif.id for motif in collections.motifs(session, made)}


def params(database, motif_id: int, **wish) -> dict:
    with database.read() as session:
        return draw_params(session, motif_id, Wish(count=2, seed=11, **wish))


def sketch(database, motif_id: int, **columns) -> int:
    with database.write() as session:
        return sketches.add_sketch(
            session, motif_id, picture_sha=SHA, thumb_sha=SHA, width_px=9, height_px=9, source="x", **columns
        )


def test_a_stored_style_is_a_house_style_and_what_it_lacks_is_usual():
    assert house_style(BRIEF) == HouseStyle(
        Look.FLAT, 2.0, Detail.RICH, 3, ("#24405c",), PictureFormat.PORTRAIT
    )
    assert house_style(Brief("a", "line", ())) == HouseStyle(Look.LINE)
    assert house_style(None) == HouseStyle()


def test_every_line_of_a_brief_has_its_wording():
    (snail, words), (owl, by_hand) = wordings(BRIEF, width_mm=80)
    assert words.startswith("A snail, facing left, slow. Flat colour") and (owl.on, by_hand) == (
        False,
        "Just an owl.",
    )
    assert rules_in(words) == {"margin"} and snail.pose == "facing left"


def test_an_order_carries_all_of_its_brief(database, motifs):
    p = params(database, motifs["Snail"])
    first, second = order_of(p, 0), order_of(p, 1)
    assert (first.seed, second.seed) == (11, 12)
    assert (first.subject, first.look, first.pose, first.format) == (
        "Snail", Look.FLAT, "facing left", PictureFormat.PORTRAIT,
    )  # fmt: skip
    # 2 mm of 80 mm, a figure filling 0.84 of its picture.
    assert first.manner == Manner(2.0 / 80 * 0.84, None, Detail.RICH, 3, ("#24405c",))
    assert p["reference_sha"] is None


def test_a_wording_by_hand_is_used_in_its_own_look_only(database, motifs):
    assert params(database, motifs["Owl"])["wording"] == "Just an owl."
    assert params(database, motifs["Owl"], look=Look.LINE)["wording"].startswith("An owl. Bold line")


def test_a_motif_that_is_not_in_the_brief_is_worded_like_the_rest(database, motifs):
    words = params(database, motifs["Mug"])["wording"]
    assert words.startswith("A mug. Flat colour") and rules_in(words) == {"margin"}


def test_without_a_brief_all_rules_hold(database):
    with database.write() as session:
        stick = collections.add_yardstick(session, "Laser", Yardstick.usual(Process.LASER_CUT, width_mm=50))
        motif_id = collections.add_motif(session, collections.add_collection(session, "Bare", stick), "mug")
    assert rules_in(params(database, motif_id)["wording"]) == set(ALL_RULES)


def test_a_variation_is_its_parent_and_one_step(database, motifs):
    start = SketchOrder(
        "snail", Look.INK, 5, "A snail.", pose="upright", manner=Manner(0.02),
        variations=(Variation(Reach.NEAR, 1),),
    )  # fmt: skip
    parent = sketch(
        database, motifs["Snail"], seed=5, look="ink", wording="A snail.", order=order_data(start)
    )
    made = order_of(params(database, motifs["Snail"], parent_id=parent, reach=Reach.FAR), 1)
    assert made.variations == (Variation(Reach.NEAR, 1), Variation(Reach.FAR, 12))
    assert (made.subject, made.look, made.seed, made.wording, made.pose, made.manner) == (
        start.subject, start.look, start.seed, start.wording, start.pose, start.manner,
    )  # fmt: skip


def test_a_picture_without_a_seed_cannot_be_varied(database, motifs):
    own = sketch(database, motifs["Snail"])
    for parent in (own, None):
        with pytest.raises(InvalidInputError, match="start from a picture that the stand-in studio drew"):
            params(database, motifs["Snail"], parent_id=parent, reach=Reach.NEAR)


def test_a_reference_of_the_wish_goes_before_the_briefs(database, motifs):
    own, other = sketch(database, motifs["Snail"]), sketch(database, motifs["Owl"])
    with database.write() as session:
        made = collections.motif(session, motifs["Snail"]).collection_id
        briefs.save_brief(session, made, Brief("Snail\nOwl", "line", (), reference_id=own), ["Snail", "Owl"])
    assert params(database, motifs["Snail"])["reference_id"] == own
    assert params(database, motifs["Snail"], reference_id=other)["reference_id"] == other
    assert params(database, motifs["Snail"])["reference_sha"] == SHA
    with pytest.raises(NotFoundError):
        params(database, motifs["Snail"], reference_id=999)


@pytest.mark.parametrize(
    "manner", [Manner(), Manner(0.01, 0.02, Detail.PLAIN, 4, ("#ffffff", "#000000"))], ids=["bare", "full"]
)
def test_a_hand_comes_back_from_what_is_stored_of_it(manner):
    assert manner_of(asdict(manner)) == manner


def test_seeds_never_leave_their_limits(database, motifs):
    p = {**params(database, motifs["Snail"]), "seed": 2**31 - 1}
    assert order_of(p, 1).seed == 0
