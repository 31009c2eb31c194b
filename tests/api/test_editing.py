"""Mending and editing over the API: each step is a revision, undone and brought back; nothing is lost."""

import io
import json

import ezdxf
import pytest

from samples import circle, drawing, rectangle
from zeichen.core.formats.dxf import write_dxf
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Shape


def bring_in(app, motif_id, data, name="sign.svg"):
    return app.ok("POST", f"/motifs/{motif_id}/import-drawing?name={name}", content=data)


@pytest.fixture
def sign(app):
    """A two-coloured sign with a speck, a doubled outline and a hair of a bar, brought in as SVG."""
    shapes = drawing(
        Shape("board", (rectangle(0, 0, 200, 100),), "#a14c2d"),
        Shape("twice", (rectangle(0, 0, 200, 100),), "#a14c2d"),
        Shape("dot", (circle(60, 50, 20),), "#3e7b4f"),
        Shape("speck", (circle(230, 50, 0.4),), "#3e7b4f"),
        size=(240.0, 120.0),
    )
    motif_id = app.motif(blank_width_mm=400, blank_height_mm=400)
    return bring_in(app, motif_id, write_svg(shapes).encode())["current"]


def findings(current):
    return sorted(finding["kind"] for finding in current["drawing"]["proof"]["findings"])


def test_one_finding_is_looked_at_and_mended(app, sign):
    kinds = [finding["kind"] for finding in sign["drawing"]["proof"]["findings"]]
    order = {"revision_id": sign["revision_id"], "finding": kinds.index("speck"), "how": "drop"}
    look = app.ok("POST", f"/drawings/{sign['id']}/mend/preview", json=order)
    assert look["gone"] == ["speck"] and look["findings_after"] < look["findings_before"]
    assert look["nodes_after"] < look["nodes_before"]
    assert app.ok("GET", f"/motifs/{sign['motif_id']}/drawing")["revision_id"] == sign["revision_id"]
    mended = app.ok("POST", f"/drawings/{sign['id']}/mend", json=order)
    assert "speck" not in findings(mended)
    wrong = {**order, "revision_id": mended["revision_id"], "finding": 99}
    assert app.refused("POST", f"/drawings/{sign['id']}/mend", json=wrong)[0] == 409
    late = app.refused("POST", f"/drawings/{sign['id']}/mend", json=order)
    assert late[0] == 409 and "changed elsewhere" in late[1]


def test_mend_all_is_one_step_and_says_what_it_did(app, sign):
    path = f"/drawings/{sign['id']}"
    made = app.ok("POST", f"{path}/mend-all", json={"revision_id": sign["revision_id"]})
    assert findings(made["current"]) == []
    done = {(line["kind"], line["how"]): line["count"] for line in made["done"]}
    assert done[("duplicate_outline", "keep_one")] == 1 and done[("speck", "drop")] == 1
    again = app.refused("POST", f"{path}/mend-all", json={"revision_id": made["current"]["revision_id"]})
    assert again == (409, "There is nothing to mend.")
    assert findings(app.ok("POST", f"{path}/undo")) == findings(sign)


def test_mend_all_as_a_job_keeps_one_revision_and_is_run_again_for_nothing(app, sign):
    path = f"/drawings/{sign['id']}/mend-all/job"
    started = app.ok("POST", path, json={"revision_id": sign["revision_id"]})
    ended = app.wait(started)
    assert ended["state"] == "done" and ended["result"]["done"][0]["count"] >= 1
    current = app.ok("GET", f"/motifs/{sign['motif_id']}/drawing")
    assert current["revision_id"] != sign["revision_id"] and current["can_undo"] and not findings(current)
    app.refused("POST", path, json={"revision_id": sign["revision_id"]})
    again = app.wait(app.ok("POST", path, json={"revision_id": current["revision_id"]}))
    assert again["state"] == "failed" and "nothing to mend" in again["message"].lower()


def test_edits_are_steps_and_history_brings_any_back(app, sign):
    moved = app.edit(sign, kind="transform", ids=["dot"], matrix=[1, 0, 0, 1, 30, 0])
    red = app.edit(moved, kind="recolour", change={"#3e7b4f": "#c23b2a"})
    assert {shape["fill"] for shape in red["drawing"]["shapes"]} == {"#a14c2d", "#c23b2a"}
    path = f"/drawings/{sign['id']}/revisions"
    listed = app.ok("GET", path)
    assert [each["note"] for each in listed[:3]] == ["recoloured", "moved or scaled", "brought in sign.svg"]
    assert [each["head"] for each in listed[:3]] == [True, False, False]
    app.ok("PUT", f"{path}/{moved['revision_id']}/name", json={"name": "dot at the right"})
    seen = app.ok("GET", f"{path}/{moved['revision_id']}")
    assert {shape["fill"] for shape in seen["shapes"]} == {"#a14c2d", "#3e7b4f"}
    back = app.ok("POST", f"/drawings/{sign['id']}/bring-back", json={"revision_id": moved["revision_id"]})
    assert back["note"] == "brought back dot at the right" and len(app.ok("GET", path)) == 4
    assert app.ok("POST", f"/drawings/{sign['id']}/undo")["revision_id"] == red["revision_id"]


def test_points_are_given_whole_and_redrawn(app, sign):
    (dot,) = app.ok("GET", f"/drawings/{sign['id']}/shapes/dot/points")
    assert dot["closed"] and len(dot["segments"]) == 4
    dot["segments"][0][0][0] += 3
    dot["segments"][3][3][0] += 3
    made = app.edit(sign, kind="redraw", shape="dot", path=0, segments=dot["segments"])
    (now,) = app.ok("GET", f"/drawings/{made['id']}/shapes/dot/points")
    assert now["segments"][0][0] == pytest.approx(dot["segments"][0][0], abs=1e-3)
    assert len(now["segments"]) == 4
    assert app.refused("GET", f"/drawings/{sign['id']}/shapes/nobody/points")[0] == 404


@pytest.mark.parametrize(
    ("operation", "status", "words"),
    [
        ({"kind": "transform", "ids": ["dot"], "matrix": [0, 0, 0, 0, 0, 0]}, 422, "squash"),
        ({"kind": "combine", "ids": ["dot"], "how": "join"}, 422, "at least two"),
        ({"kind": "delete", "ids": ["nobody"]}, 404, "no shape nobody"),
        ({"kind": "grow", "ids": ["dot"], "distance_mm": 1e9}, 422, "Distance"),
        ({"kind": "letter", "text": "", "font": "oswald", "cap_height_mm": 5, "x": 0, "y": 0}, 422, "empty"),
        ({"kind": "explode"}, 422, ""),
    ],
)
def test_what_cannot_be_done_is_said_and_nothing_changes(app, sign, operation, status, words):
    body = {"revision_id": sign["revision_id"], "operation": operation}
    got, message = app.refused("POST", f"/drawings/{sign['id']}/edit", json=body)
    assert (got, words in message) == (status, True), message
    assert app.ok("GET", f"/motifs/{sign['motif_id']}/drawing")["revision_id"] == sign["revision_id"]


def test_colours_palettes_and_variants(app, sign):
    path = f"/drawings/{sign['id']}"
    swatches = app.ok("GET", f"{path}/swatches?ground=%23ffffff")
    assert [swatch["colour"] for swatch in swatches] == ["#a14c2d", "#3e7b4f"]
    assert sum(swatch["share"] for swatch in swatches) == pytest.approx(1)
    found = app.ok("POST", f"{path}/palette", json={"words": "moss and honey, please"})
    assert found["unknown"] == ["please"] and len(found["ways"]) > 3
    by_words = found["ways"][0]["change"]
    assert set(by_words) == {"#a14c2d", "#3e7b4f"}
    triads = app.ok("POST", f"{path}/palette", json={"harmony": "triadic", "seed": 2})["ways"]
    assert len({tuple(way["change"].values()) for way in triads}) == len(triads) == 6
    triad = triads[0]["change"]
    for name, change in (("garden", by_words), ("loud", triad)):
        body = {"revision_id": sign["revision_id"], "name": name, "change": change}
        app.ok("POST", f"{path}/variants", json=body)
    kept = app.ok("GET", f"{path}/variants")
    assert [variant["name"] for variant in kept] == ["garden", "loud"]
    taken = app.ok("POST", f"{path}/variants/{kept[1]['id']}/take", json={"revision_id": sign["revision_id"]})
    assert {shape["fill"] for shape in taken["drawing"]["shapes"]} == set(triad.values())
    file = app.client.get(f"/api/variants/{kept[0]['id']}.svg")
    assert by_words["#3e7b4f"] in file.text
    app.ok("DELETE", f"/variants/{kept[0]['id']}")
    assert [variant["name"] for variant in app.ok("GET", f"{path}/variants")] == ["loud"]
    assert app.refused("POST", f"{path}/palette", json={"words": "glorp"})[0] == 422


def test_letters_stay_text_until_reshaped(app, sign):
    order = {"kind": "letter", "text": "Row", "font": "oswald", "cap_height_mm": 4, "x": 100, "y": 60}
    made = app.edit(sign, **order)
    letters = made["drawing"]["shapes"][-1]
    assert json.loads(letters["letters"])["text"] == "Row"
    anew = app.edit(made, **{**order, "text": "Plot", "replaces": letters["id"]})
    assert json.loads(anew["drawing"]["shapes"][-1]["letters"])["text"] == "Plot"
    grown = app.edit(anew, kind="grow", ids=[letters["id"]], distance_mm=0.1)
    assert grown["drawing"]["shapes"][-1]["letters"] == ""
    fonts = app.ok("GET", "/fonts")
    assert len(fonts) >= 12 and sum(font["stencil"] for font in fonts) == 2
    shown = [font["licence"] + font["holder"] for font in fonts]
    texts = [app.ok("GET", f"/fonts/{font['key']}/licence")["text"] for font in fonts]
    assert all("License" in each or "Hershey" in each for each in shown)
    assert all(len(text) > 3000 for text in texts[:-1])
    # No real address stands on a screen.
    assert not any(mark in text for text in (*shown, *texts) for mark in ("@", "://", "www."))


def test_hidden_shapes_are_neither_judged_nor_made(app, sign):
    hidden = app.edit(sign, kind="mark", ids=["speck", "twice"], hidden=True)
    assert not {"speck", "duplicate_outline"} & set(findings(hidden))
    assert [shape["hidden"] for shape in hidden["drawing"]["shapes"]] == [False, True, False, True]
    mended = app.ok("POST", f"/drawings/{sign['id']}/mend-all", json={"revision_id": hidden["revision_id"]})[
        "current"
    ]
    assert {"speck", "twice"} <= {shape["id"] for shape in mended["drawing"]["shapes"]}


def test_a_dxf_becomes_the_drawing_and_the_old_one_is_a_revision(app, sign):
    data = write_dxf({"cut": drawing(circle(50, 50, 30))})
    made = bring_in(app, sign["motif_id"], data, "round.dxf")
    assert made["not_taken"] == [] and len(made["current"]["drawing"]["shapes"]) == 1
    assert app.ok("POST", f"/drawings/{sign['id']}/undo")["revision_id"] == sign["revision_id"]
    document = ezdxf.new("R2010")
    document.modelspace().add_text("only words")
    out = io.StringIO()
    document.write(out)
    for name, data in (("words.dxf", out.getvalue().encode()), ("a.svg", b"<svg"), ("b.pdf", b"%PDF-1.7")):
        assert (
            app.refused("POST", f"/motifs/{sign['motif_id']}/import-drawing?name={name}", content=data)[0]
            == 422
        )


TEXT_AND_MASK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="60"><mask id="m"><rect width="9" height="9"/></mask>'
    '<rect x="10" y="10" width="80" height="20" mask="url(#m)"/>'
    '<text x="10" y="50" font-size="12">Tea &amp; Jam</text></svg>'
)


def test_what_was_not_taken_stays_beside_the_drawing_until_it_is_seen_to(app, sign):
    made = bring_in(app, sign["motif_id"], TEXT_AND_MASK.encode(), "tea.svg")
    assert len(made["not_taken"]) == 2 and "Tea & Jam" in made["not_taken"][1]
    kept = made["current"]["brought_in"]
    assert kept["name"] == "tea.svg" and kept["not_taken"] == made["not_taken"]
    (text,) = kept["texts"]
    assert (text["content"], text["x"], text["y"], text["size"]) == ("Tea & Jam", 10, 50, 12)
    letters = {
        "kind": "letter", "text": text["content"], "font": "lilita-one", "cap_height_mm": 6, "x": 30, "y": 46,
        "bend": "straight", "bend_by": 0, "tracking": 0, "fill": "#24272b", "replaces": "", "clears": None,
    }  # fmt: skip
    edited = app.edit(made["current"], **letters)
    assert edited["brought_in"] == kept and any(shape["letters"] for shape in edited["drawing"]["shapes"])
    app.ok("DELETE", f"/drawings/{sign['id']}/not-taken")
    assert app.ok("GET", f"/motifs/{sign['motif_id']}/drawing")["brought_in"] is None


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("photo.svg", b"\xff\xd8\xff\xe0" + b"x" * 99, "is a JPEG, not a drawing"),
        ("plan.dxf", b"%PDF-1.7", "is a PDF, not a drawing"),
        ("b.svg", b"AC1032" + b"x" * 99, "is a DWG, not a drawing"),
        ("c.svg", b"<!DOCTYPE html><html></html>", "is a web page, not a drawing"),
        ("d.txt", b"hello", "neither an SVG nor a DXF"),
    ],
)
def test_a_wrong_kind_is_told_by_what_is_in_it(app, sign, name, data, says):
    status, words = app.refused(
        "POST", f"/motifs/{sign['motif_id']}/import-drawing?name={name}", content=data
    )
    assert status == 422 and name in words and says in words


def test_a_wrong_ending_does_not_matter(app, sign):
    data = write_dxf({"cut": drawing(circle(50, 50, 30))})
    assert bring_in(app, sign["motif_id"], data, "round.svg")["not_taken"] == []
    assert len(bring_in(app, sign["motif_id"], TEXT_AND_MASK.encode(), "tea.dxf")["not_taken"]) == 2


def test_the_veil_is_lifted_off_an_earlier_state_and_needs_something_to_lie_on(app, sign):
    path = f"/drawings/{sign['id']}"
    status, words = app.refused("GET", f"{path}/veil")
    assert status == 409 and "came without a sketch" in words
    order = {"revision_id": sign["revision_id"], "operation": {"kind": "delete", "ids": ["dot"]}}
    app.ok("POST", f"{path}/edit", json=order)
    veil = app.ok("GET", f"{path}/veil?revision={sign['revision_id']}")
    # The dot's nearest outline is the board's, 30 to 70 units away; the sign is 80 mm wide.
    assert veil["largest"]["off_mm"] > 0 and veil["p95_mm"] > 1
    same = app.ok("GET", f"{path}/veil?revision={sign['revision_id'] + 1}")
    assert same["p95_mm"] < 1e-3
