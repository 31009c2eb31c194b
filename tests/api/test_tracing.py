"""Around the trace over the API: previews in parts, ladder, veil, doubts, recipes, a whole set."""

import asyncio
import json

import numpy as np
import pytest

from samples import rose_picture
from zeichen.core.formats.picture import write_png
from zeichen.jobs import tasks
from zeichen.jobs.workers import WorkerPool


@pytest.fixture(scope="module")
def sketch(app) -> tuple[int, int]:
    motif_id = app.motif("rosette")
    return motif_id, app.bring_in(motif_id, rose_picture(700))


def lines(app, path: str, body: dict) -> list[dict]:
    reply = app.client.post(f"/api{path}", json=body)
    assert reply.status_code == 200, reply.text
    assert reply.headers["content-type"].startswith("application/x-ndjson")
    return [json.loads(line) for line in reply.text.splitlines()]


@pytest.mark.parametrize("method", ["solid", "flats", "centreline"])
def test_a_preview_ends_with_the_full_trace_and_rough_ones_come_before(app, sketch, method):
    parts = lines(
        app, f"/sketches/{sketch[1]}/preview-parts", {"settings": {"method": method}, "client": method}
    )
    assert [part["rough"] for part in parts] in ([False], [True, False])
    drawing = parts[-1]["trace"]["drawing"]
    assert drawing["width_px"] == 700 and drawing["shapes"]
    if len(parts) == 2:
        assert parts[0]["trace"]["drawing"]["width_px"] == 700


def test_a_rough_trace_looks_like_the_full_one(app, snail, monkeypatch):
    monkeypatch.setattr("zeichen.api.routes.tracing.PATIENCE_S", 0.0)
    tiles = np.tile(snail.rgb[::2, ::2], (3, 3, 1))
    many, many_px = write_png(tiles), len(tiles)
    run, drawn_roughly = WorkerPool.run, asyncio.Event()

    async def full_one_last(pool, work, *args):
        if work is tasks.trace_picture:
            await drawn_roughly.wait()
        result = await run(pool, work, *args)
        if work is tasks.trace_rough:
            drawn_roughly.set()
        return result

    monkeypatch.setattr(WorkerPool, "run", full_one_last)
    sketch_id = app.bring_in(app.motif(), many)
    parts = lines(
        app, f"/sketches/{sketch_id}/preview-parts", {"settings": {"tolerance_px": 0.3}, "client": "r"}
    )
    assert [part["rough"] for part in parts] == [True, False]
    rough, full = (part["trace"]["drawing"]["figure_px"] for part in parts)
    # Within a pixel of the small picture it is drawn from; slender tips of figures below 80 px may overshoot more.
    near = many_px / tasks.ROUGH_PX
    assert all(rough[side] == pytest.approx(full[side], abs=near) for side in full)


def test_a_preview_of_nothing_says_what_is_wrong(app, sketch):
    (part,) = lines(
        app, f"/sketches/{sketch[1]}/preview-parts", {"settings": {"min_spot_px2": 9_000_000}, "client": "n"}
    )
    assert part["code"] == "invalid_input" and "lower the smallest spot" in part["message"]
    status, _ = app.refused("POST", "/sketches/999999/preview-parts", json={"settings": {}})
    assert status == 404


def test_a_ladder_comes_rung_by_rung_and_one_is_suggested(app, sketch):
    *rungs, end = lines(app, f"/sketches/{sketch[1]}/ladder", {"settings": {}, "client": "l"})
    assert 5 <= len(rungs) <= 7 and 0 <= end["suggested"] < len(rungs)
    assert [rung["rung"] for rung in rungs] == sorted(rung["rung"] for rung in rungs)
    assert all(rung["nodes"] > 0 and rung["off_mm"] >= 0 and rung["findings"] >= 0 for rung in rungs)
    # A rung's settings are settings: they can be traced as they are.
    assert app.trace(sketch[1], **rungs[0]["settings"])["drawing"]["shapes"]


def test_the_veil_tells_how_far_off_where(app, sketch):
    veil = app.ok("POST", f"/sketches/{sketch[1]}/veil", json={"tolerance_px": 2.0})
    off = [abs(point["off_mm"]) for point in veil["points"]]
    assert len(off) > 500 and max(off) == pytest.approx(abs(veil["largest"]["off_mm"]), abs=1e-3)
    assert 0 < veil["mean_mm"] < veil["p95_mm"] <= max(off)


def test_doubts_are_places(app, sketch):
    assert isinstance(app.ok("GET", f"/sketches/{sketch[1]}/doubts"), list)


def test_recipes_are_kept_replaced_and_forgotten(app):
    made = app.ok("POST", "/recipes", json={"name": " Birch  tags ", "settings": {"tolerance_px": 0.7}})
    assert made["name"] == "Birch tags" and made["settings"]["tolerance_px"] == 0.7
    again = app.ok("POST", "/recipes", json={"name": "birch tags", "settings": {"tolerance_px": 0.9}})
    assert again["id"] == made["id"]
    assert [r["settings"]["tolerance_px"] for r in app.ok("GET", "/recipes")] == [0.9]
    status, message = app.refused("POST", "/recipes", json={"name": "  ", "settings": {}})
    assert status == 422 and "needs a name" in message
    status, message = app.refused("POST", "/recipes", json={"name": "x", "settings": {"tolerance_px": 0}})
    assert status == 422 and "Tolerance" in message
    app.ok("DELETE", f"/recipes/{made['id']}")
    assert app.ok("GET", "/recipes") == []
    assert app.refused("DELETE", f"/recipes/{made['id']}")[0] == 404


def test_one_recipe_traces_the_whole_set(app, sketch):
    collection = next(
        each["id"]
        for each in app.ok("GET", "/collections")
        if any(m["id"] == sketch[0] for m in app.ok("GET", f"/collections/{each['id']}")["motifs"])
    )
    jobs = app.ok("POST", f"/collections/{collection}/trace-all", json={"settings": {"tolerance_px": 0.5}})
    assert [app.wait(job)["state"] for job in jobs] == ["done"]
    assert app.ok("GET", f"/motifs/{sketch[0]}/drawing")["settings"]["tolerance_px"] == 0.5
    empty = app.motif("nothing yet")
    other = next(
        each["id"]
        for each in app.ok("GET", "/collections")
        if any(m["id"] == empty for m in app.ok("GET", f"/collections/{each['id']}")["motifs"])
    )
    status, message = app.refused("POST", f"/collections/{other}/trace-all", json={"settings": {}})
    assert status == 422 and "kept sketch" in message


def test_a_sets_colours_are_found_together(app, sketch):
    app.ok("PATCH", f"/sketches/{sketch[1]}", json={"kept": True})
    collection = next(
        each["id"]
        for each in app.ok("GET", "/collections")
        if any(m["id"] == sketch[0] for m in app.ok("GET", f"/collections/{each['id']}")["motifs"])
    )
    colours = app.ok("GET", f"/collections/{collection}/palette")
    assert colours and all(len(colour) == 7 and colour.startswith("#") for colour in colours)
    drawn = app.trace(sketch[1], method="flats", palette=colours)["drawing"]["shapes"]
    assert {shape["fill"] for shape in drawn} <= set(colours)
    status, message = app.refused("GET", f"/collections/{collection}/palette?colours=99")
    assert status == 422 and "Number of colours" in message


def test_a_preview_says_what_was_chosen_and_turns_places_inside(app):
    """On the first yardstick, for engraving, places inside stay open; a cut-out petal's heart is one."""
    canvas = np.full((300, 300, 3), 255, np.uint8)
    canvas[60:240, 60:240], canvas[120:180, 120:180] = (200, 60, 40), 255
    canvas[60:240, 60:100] = (40, 90, 200)
    sketch_id = app.bring_in(app.motif("petal"), write_png(canvas))
    path = f"/sketches/{sketch_id}/preview-parts"

    def made(**settings) -> dict:
        settings = {"method": "flats", **settings}
        return lines(app, path, {"settings": settings, "client": "inside"})[-1]["trace"]

    plain = made()
    assert [place["kept"] for place in plain["inside"]] == [False]
    assert plain["chosen"] == ["Places inside left open, for engraving."]
    at = {key: plain["inside"][0][key] for key in ("x_px", "y_px")}
    turned = made(turned_inside=[at])
    assert [place["kept"] for place in turned["inside"]] == [True]
    assert len(turned["drawing"]["shapes"]) == len(plain["drawing"]["shapes"]) + 1
    assert made(method="solid", figure="whole")["figure"] == "whole"
    status, _ = app.refused("POST", path, json={"settings": {"inside": "sideways"}, "client": ""})
    assert status == 422
