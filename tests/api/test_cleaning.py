"""Forecasts and clean-up over the API: the picture itself stays, what follows sees the cleaned one."""

import io

import numpy as np
import pytest
from PIL import Image

from samples import png


def spotted() -> bytes:
    sheet = np.full((1000, 1000, 3), 250, np.uint8)
    sheet[250:750, 200:800] = 25
    sheet[75:80, 500:505] = 25
    return png(sheet)


@pytest.fixture
def sketch(app, request) -> dict:
    motif_id = app.motif(request.node.name[:60])
    sketch_id = app.bring_in(motif_id, spotted())
    (found,) = [each for each in app.ok("GET", f"/motifs/{motif_id}/sketches") if each["id"] == sketch_id]
    return found


def picture(app, sha: str) -> np.ndarray:
    return np.array(Image.open(io.BytesIO(app.client.get(f"/api/pictures/{sha}.png").content)).convert("L"))


def clean(app, sketch: dict, steps: list) -> dict:
    return app.ok("PUT", f"/sketches/{sketch['id']}/cleaning", json={"steps": steps})


def test_what_the_forecast_suggests_cures_what_it_found(app, sketch):
    found = app.ok("GET", f"/sketches/{sketch['id']}/forecast")
    assert found["verdict"] == "needs-clean-up" and found["readings"]["specks"] == 1
    (reason,) = found["reasons"]
    assert reason["cure"] == found["suggested"][0] and reason["unit"] == "" and reason["measured"] == 1
    after = clean(app, sketch, found["suggested"])
    assert after["clean_steps"] == found["suggested"] and after["raw_sha"] == sketch["picture_sha"]
    assert picture(app, after["picture_sha"])[77, 502] > 200
    assert app.ok("GET", f"/sketches/{sketch['id']}/forecast")["verdict"] == "traces-well"


def test_no_step_is_ever_final(app, sketch):
    steps = [
        {"kind": "invert", "on": True},
        {"kind": "crop", "on": True, "x_min": 0.1, "y_min": 0.1, "x_max": 0.6, "y_max": 0.9},
    ]
    changed = clean(app, sketch, steps)
    assert (changed["width_px"], changed["height_px"]) == (500, 800)
    off = clean(app, sketch, [{**step, "on": False} for step in steps])
    assert [step["on"] for step in off["clean_steps"]] == [False, False]
    again = clean(app, sketch, [])
    for state in (off, again):
        assert (picture(app, state["picture_sha"]) == picture(app, sketch["picture_sha"])).all()
        assert (state["width_px"], state["height_px"]) == (1000, 1000)


def test_the_trace_follows_the_cleaned_picture_and_the_drawing_keeps_the_one_it_came_from(app, sketch):
    before = clean(app, sketch, [{"kind": "despeckle", "area_px2": 60}])
    app.trace(sketch["id"])
    drawing = app.ok("GET", f"/motifs/{sketch['motif_id']}/drawing")
    assert drawing["picture_sha"] == before["picture_sha"] and len(drawing["drawing"]["shapes"]) == 1
    clean(app, sketch, [{"kind": "crop", "x_max": 0.5}])
    assert app.ok("GET", f"/motifs/{sketch['motif_id']}/drawing")["picture_sha"] == before["picture_sha"]


@pytest.mark.parametrize(
    ("steps", "words"),
    [
        ([{"kind": "magic"}], "there is no magic"),
        ([{"kind": "crop", "x_min": 0.5, "x_max": 0.5}], "box is empty"),
        ([{"kind": "crop", "x_max": 0.005}], "Leave at least"),
        ([{"kind": "page-flat"}], "No page was found"),
        ([{"kind": "turn", "angle_deg": "a lot"}], "wrong name or kind"),
    ],
)
def test_steps_that_cannot_be_are_refused_and_nothing_changes(app, sketch, steps, words):
    status, message = app.refused("PUT", f"/sketches/{sketch['id']}/cleaning", json={"steps": steps})
    assert status == 400 or status == 422
    assert words in message
    (now,) = [s for s in app.ok("GET", f"/motifs/{sketch['motif_id']}/sketches") if s["id"] == sketch["id"]]
    assert now["picture_sha"] == sketch["picture_sha"] and now["clean_steps"] == []


def test_a_look_at_steps_is_a_small_picture_and_keeps_nothing(app):
    wide = app.bring_in(app.motif(), png(np.full((1500, 3000, 3), (200, 30, 30), np.uint8)))
    reply = app.client.post(f"/api/sketches/{wide}/cleaning/preview", json={"steps": [{"kind": "invert"}]})
    assert reply.headers["content-type"] == "image/png"
    with Image.open(io.BytesIO(reply.content)) as image:
        assert image.size == (1280, 640) and image.getpixel((600, 300)) == (55, 225, 225)
    assert app.ok("GET", f"/sketches/{wide}")["clean_steps"] == []
    status, message = app.refused(
        "POST", f"/sketches/{wide}/cleaning/preview", json={"steps": [{"kind": "magic"}]}
    )
    assert status == 422 and "there is no magic" in message


def test_steps_with_a_name_and_the_same_for_all_kept_sketches(app, sketch):
    steps = [{"kind": "despeckle", "on": True, "area_px2": 60.0}]
    kept = app.ok("POST", "/chains", json={"name": " pencil  ", "steps": steps})
    assert kept["name"] == "pencil" and kept["steps"] == steps
    other = app.ok("POST", "/chains", json={"name": "Pencil", "steps": [{"kind": "invert"}]})
    assert other["id"] == kept["id"], "a name is one chain"
    assert [chain["steps"][0]["kind"] for chain in app.ok("GET", "/chains")] == ["invert"]
    for body, words in (
        ({"name": " ", "steps": steps}, "need a name"),
        ({"name": "x", "steps": []}, "no steps to keep"),
        ({"name": "x", "steps": [{"kind": "magic"}]}, "there is no magic"),
    ):
        assert words in app.refused("POST", "/chains", json=body)[1]
    app.client.delete(f"/api/chains/{kept['id']}").raise_for_status()
    assert app.ok("GET", "/chains") == []

    motif = sketch["motif_id"]
    collection = app.collection_of(motif)
    aside = app.bring_in(motif, png(np.full((60, 60, 3), 255, np.uint8)), "aside.png")
    app.client.patch(f"/api/sketches/{aside}", json={"kept": False}).raise_for_status()
    done = app.done("POST", f"/collections/{collection}/clean-all", json={"steps": [{"kind": "invert"}]})
    assert sketch["id"] in done["sketch_ids"] and aside not in done["sketch_ids"]
    assert app.ok("GET", f"/sketches/{sketch['id']}")["clean_steps"] == [{"kind": "invert", "on": True}]
    assert app.ok("GET", f"/sketches/{aside}")["clean_steps"] == []
