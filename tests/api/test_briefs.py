"""Briefs over the API: words, runs, earlier ones, references, variations, demand; generators and what they spend."""

from collections.abc import Iterator

import pytest

from generator_box import GeneratorBox, generator_box, images, sends
from zeichen.core.formats.picture import write_png
from zeichen.standins.studio import SUBJECTS

RULES = ["white-ground", "dark-figure", "margin", "even-lines", "flat-tone", "one-figure", "one-piece"]


@pytest.fixture
def collection_id(app) -> int:
    return app.collection_of(app.motif("placeholder"))


@pytest.fixture(autouse=True)
def stand_in(app) -> Iterator[None]:
    app.ok("PUT", "/workshop/generator", json={"faults": 0})
    yield
    app.ok("PUT", "/workshop/generator", json={})


def brief(subjects: str, **more) -> dict:
    return {"subjects": subjects, "look": "line", "rules": RULES, **more}


def finish(app, jobs: list[dict]) -> list[dict]:
    ended = [app.wait(job) for job in jobs]
    assert {job["state"] for job in ended} == {"done"}, ended
    return ended


def test_a_brief_makes_motifs_and_words(app, collection_id):
    body = brief("Snail | facing left | slow\nTeapot\n\nteapot\n# Owl\nspaceship", rules=["margin"])
    view = app.ok("PUT", f"/collections/{collection_id}/brief", json=body)
    assert [motif["name"] for motif in view["motifs"]] == ["Snail", "Teapot", "Owl", "Spaceship"]
    shown = app.ok("POST", f"/collections/{collection_id}/wording", json=body)
    assert [(line["subject"], line["on"], line["drawable"]) for line in shown["lines"]] == [
        ("Snail", True, True), ("Teapot", True, True), ("Owl", False, True), ("spaceship", True, False),
    ]  # fmt: skip
    assert shown["repeated"] == ["teapot"]
    assert shown["lines"][0]["wording"].startswith("A snail, facing left, slow. Bold line drawing")
    odd = next(motif["id"] for motif in view["motifs"] if motif["name"] == "Spaceship")
    status, message = app.refused("POST", f"/motifs/{odd}/draw", json={})
    assert status == 422 and "can't draw" in message


def test_a_wording_by_hand_touches_only_its_subject(app, collection_id):
    path = f"/collections/{collection_id}/wording"
    plain = app.ok("POST", path, json=brief("Snail\nOwl"))["lines"]
    edited = app.ok("POST", path, json=brief("Snail\nOwl", edits={"Snail": "Just a snail."}))["lines"]
    assert edited[0]["wording"] == "Just a snail." and edited[0]["edited"]
    assert edited[1] == plain[1]


def test_a_run_draws_what_is_on_and_is_kept(app, collection_id):
    body = brief("Mug\n# Teapot\nspaceship\nApple", style={"line_mm": 1.6, "format": "landscape"})
    app.ok("PUT", f"/collections/{collection_id}/brief", json=body)
    finish(app, app.ok("POST", f"/collections/{collection_id}/run", json={"count": 2}))
    motifs = {m["name"]: m for m in app.ok("GET", f"/collections/{collection_id}")["motifs"]}
    assert {name: m["sketch_count"] for name, m in motifs.items()} == {
        "Mug": 2, "Teapot": 0, "Spaceship": 0, "Apple": 2,
    }  # fmt: skip
    made = app.ok("GET", f"/motifs/{motifs['Mug']['id']}/sketches")
    assert {(s["width_px"], s["height_px"]) for s in made} == {(1024, 768)}
    assert all(s["machine_made"] and "stand-in studio" in s["licence"] and s["wording"] for s in made)
    # 1.6 mm at 80 mm wide, the figure filling 0.84 of the picture.
    hand = app.ok("GET", f"/sketches/{made[0]['id']}/hand")
    assert hand["line_share"] == pytest.approx(1.6 / 80 * 0.84, rel=0.1)
    app.ok("PUT", f"/collections/{collection_id}/brief", json={**body, "subjects": "Kettle\nApple"})
    finish(app, app.ok("POST", f"/collections/{collection_id}/run", json={"count": 1}))
    kept = app.ok("GET", f"/collections/{collection_id}/briefs")
    assert [each["brief"]["subjects"] for each in kept] == ["Kettle\nApple", body["subjects"]]
    assert kept[1]["brief"]["style"]["line_mm"] == 1.6


def test_a_run_of_nothing_is_refused(app, collection_id):
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief("# Mug\nspaceship"))
    status, message = app.refused("POST", f"/collections/{collection_id}/run", json={})
    assert status == 422 and "Nothing to draw" in message


@pytest.mark.parametrize(
    ("style", "said"),
    [
        ({"line_mm": -1}, "Line weight must be"),
        ({"colours": 99}, "Number of colours must be"),
        ({"palette": ["reddish"]}, "must look like #1a2b3c"),
    ],
)
def test_an_impossible_style_is_refused(app, collection_id, style, said):
    for method, path in (("PUT", "brief"), ("POST", "wording")):
        status, message = app.refused(
            method, f"/collections/{collection_id}/{path}", json=brief("Mug", style=style)
        )
        assert status == 422 and said in message


@pytest.mark.parametrize("wrong", [{"look": "loud"}, {"rules": ["loud"]}, {"style": {"detail": "loud"}}])
def test_a_look_or_rule_that_there_is_not_is_refused(app, collection_id, wrong):
    body = {**brief("Mug"), **wrong}
    for method, path in (("PUT", "brief"), ("POST", "wording")):
        status, message = app.refused(method, f"/collections/{collection_id}/{path}", json=body)
        assert status == 422 and message


def test_a_set_follows_an_uploaded_picture(app, collection_id):
    from zeichen.core.briefing import Look, Manner, SketchOrder
    from zeichen.standins.studio import Studio

    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief("Owl\nPear"))
    owl, pear = (m["id"] for m in app.ok("GET", f"/collections/{collection_id}")["motifs"])
    order = SketchOrder("owl", Look.LINE, 3, manner=Manner(line_share=0.03))
    uploaded = app.bring_in(owl, write_png(Studio(faults=1).draw(order).rgb))
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief("Owl\nPear", reference_id=uploaded))
    result = app.done("POST", f"/motifs/{pear}/draw", json={"count": 1})
    wanted, got = (
        app.ok("GET", f"/sketches/{each}/hand")["line_share"] for each in (uploaded, result["sketch_ids"][0])
    )
    assert got == pytest.approx(wanted, rel=0.15)
    (drawn,) = app.ok("GET", f"/motifs/{pear}/sketches")
    assert drawn["parent_id"] == uploaded
    assert (
        app.refused("PUT", f"/collections/{collection_id}/brief", json=brief("Owl", reference_id=99_999))[0]
        == 404
    )


def test_variations_keep_what_their_parent_is(app, collection_id):
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief("Kettle"))
    (motif,) = (m["id"] for m in app.ok("GET", f"/collections/{collection_id}")["motifs"])
    parent = app.done("POST", f"/motifs/{motif}/draw", json={"count": 1, "look": "flat", "seed": 5})[
        "sketch_ids"
    ][0]
    ask = {"count": 2, "parent_id": parent, "reach": "near", "seed": 77}
    app.done("POST", f"/motifs/{motif}/draw", json=ask)
    first, *near = app.ok("GET", f"/motifs/{motif}/sketches")
    assert [(s["seed"], s["look"], s["parent_id"], s["wording"]) for s in near] == [
        (5, "flat", parent, first["wording"])
    ] * 2
    assert [s["order"]["variations"] for s in near] == [[["near", 77]], [["near", 78]]]
    assert len({s["picture_sha"] for s in (first, *near)}) == 3
    grown = app.done(
        "POST", f"/motifs/{motif}/draw", json={**ask, "count": 1, "parent_id": near[0]["id"], "reach": "far"}
    )
    last = app.ok("GET", f"/motifs/{motif}/sketches")[-1]
    assert last["id"] == grown["sketch_ids"][0]
    assert last["order"]["variations"] == [["near", 77], ["far", 77]]


def test_a_picture_nobody_generated_has_no_variations(app, collection_id, snail_png):
    motif_id = app.ok("GET", f"/collections/{collection_id}")["motifs"][0]["id"]
    own = app.bring_in(motif_id, snail_png)
    status, message = app.refused(
        "POST", f"/motifs/{motif_id}/draw", json={"parent_id": own, "reach": "near"}
    )
    assert status == 422 and "Draw in the style of this one instead" in message


def test_where_a_picture_came_from_is_noted_and_follows_it(app, snail_png):
    import io
    import zipfile

    motif_id = app.motif("Snail")
    own = app.bring_in(motif_id, snail_png, "garden.png")
    assert app.ok("GET", f"/motifs/{motif_id}/sketches")[0]["machine_made"] is False
    noted = app.ok(
        "PUT", f"/sketches/{own}/origin", json={"machine_made": True, "licence": "bought, 50 copies"}
    )
    assert noted["machine_made"] and noted["licence"] == "bought, 50 copies"
    app.trace(own)
    collection_id = app.ok("GET", "/collections")[-1]["id"]
    body = {"motif_ids": [motif_id], "title": "One snail", "licence": "Yours", "width_mm": 60}
    pack = app.done("POST", f"/collections/{collection_id}/packs", json=body)
    reply = app.client.get(f"/api/packs/{pack['pack_id']}/zip")
    text = zipfile.ZipFile(io.BytesIO(reply.content)).read("listing.txt").decode()
    assert "AI disclosure" in text
    assert "garden.png: machine-made" in text and "bought, 50 copies" in text


def test_demand_proposes_and_is_the_same_all_day(app):
    rows = app.ok("GET", "/stall/demand?theme=tea%20in%20the%20garden")
    assert rows == app.ok("GET", "/stall/demand?theme=tea%20in%20the%20garden")
    assert {"teapot", "trowel"} <= {row["subject"] for row in rows}
    assert [row["gap"] for row in rows] == sorted((row["gap"] for row in rows), reverse=True)
    for row in rows:
        assert row["drawable"] == (row["subject"] in SUBJECTS) and row["history"][-1] == row["views_day"]
    status, message = app.refused("GET", "/stall/demand?theme=submarines")
    assert status == 422 and "Try one of: garden" in message


@pytest.fixture
def box() -> Iterator[GeneratorBox]:
    with generator_box() as server:
        yield server


def test_an_address_asks_before_it_spends_and_counts(app, collection_id, box, snail_png):
    setup = {
        "kind": "http", "address": box.address(), "name": "shed box",
        "licence": "ours", "allowance": 3, "tries": 2, "timeout_s": 5,
    }  # fmt: skip
    app.ok("PUT", "/workshop/generator", json=setup)
    # A generator of its own draws anything, known to the stand-in or not.
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief("Spaceship"))
    status, message = app.refused("POST", f"/collections/{collection_id}/run", json={"count": 2})
    assert status == 409 and "shed box would be asked for 2 pictures" in message and box.asked == []
    box.answers = [
        sends(images(snail_png)),
        sends(b"busy", 503),
        sends(images(snail_png)),
        sends(b"<p>", kind="text/html"),
    ]
    finish(app, app.ok("POST", f"/collections/{collection_id}/run", json={"count": 2, "confirmed": True}))
    assert [(each["n"], each["size"]) for each in box.orders()] == [(1, "1024x1024")] * 3
    assert box.orders()[0]["prompt"].startswith("A spaceship. Bold line drawing")
    motif_id = app.ok("GET", f"/collections/{collection_id}")["motifs"][0]["id"]
    made = app.ok("GET", f"/motifs/{motif_id}/sketches")
    assert [(s["generator"], s["licence"]) for s in made] == [("shed box", "ours")] * 2
    assert app.ok("GET", "/workshop/generator")["allowance"] == 1
    status, message = app.refused(
        "POST", f"/collections/{collection_id}/run", json={"count": 2, "confirmed": True}
    )
    assert status == 409 and "its allowance has 1 left" in message
    failed = app.wait(app.ok("POST", f"/motifs/{motif_id}/draw", json={"count": 1, "confirmed": True}))
    assert failed["state"] == "failed" and "not with JSON" in failed["message"]
    assert len(app.ok("GET", f"/motifs/{motif_id}/sketches")) == 2, "what was drawn before is kept"


def test_an_address_that_is_none_is_refused(app):
    status, message = app.refused("PUT", "/workshop/generator", json={"kind": "http", "address": "shed"})
    assert status == 422 and "Write it like http://" in message
    assert app.ok("GET", "/workshop/generator")["kind"] == "studio"
