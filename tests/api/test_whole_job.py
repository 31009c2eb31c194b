"""The whole job over the API, and what each step says when it is asked for something impossible."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from samples import png, rose_picture


def test_from_subject_to_pack(app):
    motif_id = app.motif("teapot")
    drawn = app.done("POST", f"/motifs/{motif_id}/draw", json={"look": "silhouette", "count": 2, "seed": 46})
    sketches = app.ok("GET", f"/motifs/{motif_id}/sketches")
    assert [sketch["id"] for sketch in sketches] == drawn["sketch_ids"]
    assert [sketch["seed"] for sketch in sketches] == [46, 47] and sketches[0]["wording"].startswith(
        "A teapot."
    )
    forecast = app.ok("GET", f"/sketches/{sketches[0]['id']}/forecast")
    assert forecast["verdict"] == "traces-well"
    drawing = app.trace(sketches[0]["id"], tolerance_px=0.5)
    assert drawing["drawing"]["proof"]["findings"] == []
    assert drawing["drawing"]["proof"]["readings"]["width_mm"] == pytest.approx(80)
    for process, count in (("laser", 2), ("carve", 1), ("relief", 2), ("apparel", 1)):
        body = {"process": process, "width_mm": 70, "settings": {"cut": "none"} if process == "laser" else {}}
        app.done("POST", f"/motifs/{motif_id}/tickets", json=body)
        ticket = app.ok("GET", f"/motifs/{motif_id}/tickets")[0]
        assert (ticket["process"], len(ticket["files"])) == (process, count)
        for made in ticket["files"]:
            reply = app.client.get(f"/api/tickets/{ticket['id']}/files/{made['name']}")
            assert (
                len(reply.content) == made["size_bytes"]
                and "attachment" in reply.headers["content-disposition"]
            )
    view = app.ok("GET", f"/collections/{app.collection_of(motif_id)}")
    result = app.done(
        "POST",
        f"/collections/{view['collection']['id']}/packs",
        json={"motif_ids": [motif_id], "title": "Tea", "licence": "Mine"},
    )
    with zipfile.ZipFile(io.BytesIO(app.client.get(f"/api/packs/{result['pack_id']}/zip").content)) as bundle:
        listing = bundle.read("listing.txt").decode()
    assert "trainedAlgorithmicMedia" in listing and "A teapot." in listing and "Mine" in listing


def test_own_pictures_are_not_declared_unless_the_maker_says_so(app):
    motif_id = app.motif("rosette")
    app.trace(app.bring_in(motif_id, rose_picture()))
    collection_id = app.collection_of(motif_id)
    # Nobody said how it came about: asked before anything is packed.
    unsaid = {"motif_ids": [motif_id], "title": "Rose", "licence": "Mine"}
    code, message = app.refused("POST", f"/collections/{collection_id}/packs", json=unsaid)[:2]
    assert code == 422 and "picture generator" in str(message)
    for declared in (False, True):
        body = {"motif_ids": [motif_id], "title": "Rose", "licence": "Mine", "machine_made": declared}
        app.done("POST", f"/collections/{collection_id}/packs", json=body)
        assert app.ok("GET", f"/collections/{collection_id}/packs")[0]["listing"]["origin"] == (
            "machine" if declared else "hand"
        )


def test_mending_is_one_step_and_undo_brings_it_back(app, snail_png):
    spotted = np.asarray(Image.open(io.BytesIO(snail_png))).copy()
    spotted[60:64, 60:64] = 0
    spotted[80:83, 900:903] = 0
    drawing = app.trace(app.bring_in(app.motif(), png(spotted)), min_spot_px2=2)
    specks = [f for f in drawing["drawing"]["proof"]["findings"] if f["kind"] == "speck"]
    assert len(specks) == 2
    path = f"/drawings/{drawing['id']}"
    drop = {"revision_id": drawing["revision_id"], "only": ["speck", "pin_hole"]}
    clean = app.ok("POST", f"{path}/mend-all", json=drop)["current"]
    assert (
        not [f for f in clean["drawing"]["proof"]["findings"] if f["kind"] == "speck"] and clean["can_undo"]
    )
    back = app.ok("POST", f"{path}/undo")
    assert back["drawing"] == drawing["drawing"] and back["can_redo"]
    assert app.ok("POST", f"{path}/redo")["revision_id"] == clean["revision_id"]
    stale = app.refused("POST", f"{path}/mend-all", json=drop)
    assert stale[0] == 409 and "changed elsewhere" in stale[1]
    shape = clean["drawing"]["shapes"][-1]["id"]
    fewer = app.edit(clean, kind="delete", ids=[shape])
    assert shape not in {each["id"] for each in fewer["drawing"]["shapes"]}
    operation = {"kind": "delete", "ids": [shape]}
    body = {"revision_id": fewer["revision_id"], "operation": operation}
    gone = app.refused("POST", f"{path}/edit", json=body)
    assert gone == (404, f"The drawing has no shape {shape}.")


def test_changing_the_yardstick_changes_every_reading(app, snail_png):
    motif_id = app.motif()
    before = app.trace(app.bring_in(motif_id, snail_png))["drawing"]["proof"]["readings"]["width_mm"]
    stick = app.ok("GET", f"/collections/{app.collection_of(motif_id)}")["yardstick"]
    body = {"name": "Half", **stick["yardstick"], "width_mm": before / 2}
    app.ok("PUT", f"/yardsticks/{stick['id']}", json=body)
    after = app.ok("GET", f"/motifs/{motif_id}/drawing")["drawing"]["proof"]["readings"]
    assert after["width_mm"] == pytest.approx(before / 2)
    (verdict,) = app.ok("GET", f"/collections/{app.collection_of(motif_id)}/verdicts")
    assert verdict["motif_id"] == motif_id


def test_a_preview_follows_its_settings_and_keeps_nothing(app, snail_png):
    motif_id = app.motif()
    sketch_id = app.bring_in(motif_id, snail_png)
    coarse, fine = (
        app.ok(
            "POST", f"/sketches/{sketch_id}/preview", json={"settings": {"tolerance_px": t}, "client": "me"}
        )
        for t in (3.0, 0.1)
    )
    assert coarse["drawing"]["proof"]["readings"]["nodes"] < fine["drawing"]["proof"]["readings"]["nodes"]
    assert coarse["mean_px"] > fine["mean_px"]
    assert app.refused("GET", f"/motifs/{motif_id}/drawing")[0] == 404


def test_a_relief_can_be_seen(app, snail_png):
    motif_id = app.motif()
    app.trace(app.bring_in(motif_id, snail_png))
    result = app.done(
        "POST", f"/motifs/{motif_id}/tickets", json={"process": "relief", "width_mm": 50, "settings": {}}
    )
    parts = app.ok("GET", f"/tickets/{result['ticket_id']}/solid")["parts"]
    assert {part["name"] for part in parts} == {"base", "figure"}


def test_jobs_can_be_cleared_and_what_they_made_stays(app, snail_png):
    motif_id = app.motif()
    app.bring_in(motif_id, snail_png)
    app.ok("DELETE", "/jobs/finished")
    assert app.ok("GET", "/jobs") == [] and len(app.ok("GET", f"/motifs/{motif_id}/sketches")) == 1
