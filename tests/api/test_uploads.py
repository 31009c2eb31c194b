"""What was brought in and confirmed is the maker's, whatever becomes of the job that makes it ready."""

import asyncio

import pytest

from zeichen.store import jobs, sketches, uploads


def database(app):
    return app.client.app.state.workplace.database


def interrupted_import(app, motif_id: int, data: bytes, name: str) -> dict:
    """An upload whose job was interrupted, as a killed app leaves it; the upload."""
    with database(app).write() as session:
        sha = database(app).files.put(data)
        kept = uploads.add_upload(session, motif_id, file_name=name, sha=sha, size_bytes=len(data))
        params = {"motif_id": motif_id, "upload_id": kept, "original_sha": sha, "file_name": name}
        jobs.change_job(
            session, jobs.add_job(session, "import", f"Bring in {name}", params), state="interrupted"
        )
    return app.ok("GET", f"/motifs/{motif_id}/uploads")[-1]


@pytest.fixture
def brief(app):
    return {"subjects": "teapot", "look": "line", "rules": []}


def test_an_upload_that_became_a_sketch_waits_no_more(app, snail_png):
    motif_id = app.motif()
    sketch_id = app.bring_in(motif_id, snail_png, "Käfer 1.png")
    assert app.ok("GET", f"/motifs/{motif_id}/uploads") == []
    with database(app).read() as session:
        original = sketches.sketch(session, sketch_id).original_sha
        kept = uploads.upload(session, 1)
    assert (kept.sketch_id, kept.sha, kept.file_name) == (sketch_id, original, "Käfer 1.png")
    reply = app.client.get(f"/api/uploads/{kept.id}/file")
    assert reply.content == snail_png and "K%C3%A4fer" in reply.headers["content-disposition"]


def test_a_brief_saved_while_pictures_are_on_their_way_keeps_their_motif(app, snail_png, brief):
    motif_id = app.motif()
    collection_id = app.collection_of(motif_id)
    waiting = interrupted_import(app, motif_id, snail_png, "own.png")
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief)
    names = [motif["name"] for motif in app.ok("GET", f"/collections/{collection_id}")["motifs"]]
    assert names == ["Teapot", "Snail"]
    app.ok("DELETE", "/jobs/finished")
    assert app.ok("GET", f"/motifs/{motif_id}/uploads") == [waiting]
    made = app.done("POST", f"/uploads/{waiting['id']}/prepare")
    assert len(made["sketch_ids"]) == 1 and app.ok("GET", f"/motifs/{motif_id}/uploads") == []
    assert app.refused("POST", f"/uploads/{waiting['id']}/prepare")[0] == 409


def test_a_motif_that_is_being_drawn_stays_when_its_subject_is_taken_out(app, brief):
    motif_id = app.motif()
    collection_id = app.collection_of(motif_id)
    with database(app).write() as session:
        job = jobs.add_job(session, "draw", "Draw snail", {"motif_id": motif_id})
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief)
    assert len(app.ok("GET", f"/collections/{collection_id}")["motifs"]) == 2
    with database(app).write() as session:
        jobs.change_job(session, job, state="cancelled")
    app.ok("PUT", f"/collections/{collection_id}/brief", json=brief)
    assert len(app.ok("GET", f"/collections/{collection_id}")["motifs"]) == 1


def test_all_that_was_not_done_stays_in_reach_and_runs_again_at_once(app, snail_png):
    motif_id = app.motif()
    waiting = [interrupted_import(app, motif_id, snail_png + bytes([k]), f"{k}.png") for k in range(70)]
    listed = app.ok("GET", "/jobs")
    older = app.ok("GET", f"/jobs?before={listed[-1]['id']}")
    assert len(listed) == 60 and listed[-1]["id"] > older[0]["id"] and len(older) >= 10
    app.ok("DELETE", "/jobs/finished")
    undone = app.ok("GET", "/jobs/undone")
    assert len(undone) >= 70 and {job["state"] for job in undone} <= {"failed", "interrupted"}
    started = app.ok("POST", "/jobs/undone/again")
    assert len(started) == len(undone)
    place = app.client.app.state.workplace
    last = app.client.portal.call(asyncio.wait_for, place.runner.wait(started[-1]["id"]), 120)
    assert last.state == "done", last.message
    assert app.ok("GET", f"/motifs/{motif_id}/uploads") == []
    assert len(app.ok("GET", f"/motifs/{motif_id}/sketches")) == len(waiting)
    again = app.ok("GET", "/jobs/undone")
    assert not {job["id"] for job in again} & {job["id"] for job in undone}


def test_a_failed_job_is_let_go_of_one_by_one(app, snail_png):
    interrupted_import(app, app.motif(), snail_png, "own.png")
    (job,) = app.ok("GET", "/jobs/undone")[-1:]
    app.ok("DELETE", f"/jobs/{job['id']}")
    assert job["id"] not in [each["id"] for each in app.ok("GET", "/jobs/undone")]
    assert app.refused("DELETE", f"/jobs/{job['id']}")[0] == 404


def test_names_are_changed_wherever_they_are_shown(app, brief):
    motif_id = app.motif()
    collection_id = app.collection_of(motif_id)
    text = "# Snail | facing left | for the gate\nteapot"
    app.ok("PUT", f"/collections/{collection_id}/brief", json={**brief, "subjects": text})
    assert (
        app.ok("PATCH", f"/motifs/{motif_id}", json={"name": " mühlen-schnecke "})["name"]
        == "Mühlen-schnecke"
    )
    view = app.ok("GET", f"/collections/{collection_id}")
    assert view["brief"]["subjects"] == "# Mühlen-schnecke | facing left | for the gate\nteapot"
    app.ok(
        "PUT", f"/collections/{collection_id}/brief", json={**brief, "subjects": view["brief"]["subjects"]}
    )
    names = [motif["name"] for motif in app.ok("GET", f"/collections/{collection_id}")["motifs"]]
    assert names == ["Mühlen-schnecke", "Teapot"]
    assert app.refused("PATCH", f"/motifs/{motif_id}", json={"name": "TEAPOT"})[0] == 409
    assert app.refused("PATCH", f"/motifs/{motif_id}", json={"name": " \n"})[0] == 422
    assert app.refused("PATCH", f"/motifs/{motif_id}", json={"name": "#a|b"})[0] == 422
    renamed = app.ok("PATCH", f"/collections/{collection_id}", json={"name": "Offener  Garten 緑"})
    assert renamed["name"] == "Offener Garten 緑"
    other = app.collection_of(app.motif())
    assert app.refused("PATCH", f"/collections/{other}", json={"name": "Offener Garten 緑"})[0] == 409


def test_a_subject_pasted_with_its_marks_apart_is_one_motif_however_often_it_is_kept(app, brief):
    """As some systems paste it: ä as a and its two dots."""
    collection_id = app.collection_of(app.motif("teapot"))
    for _ in range(3):
        app.ok(
            "PUT", f"/collections/{collection_id}/brief", json={**brief, "subjects": "Ka\u0308fer\nteapot"}
        )
    names = [motif["name"] for motif in app.ok("GET", f"/collections/{collection_id}")["motifs"]]
    assert names == ["K\u00e4fer", "Teapot"]


def test_files_find_their_motifs_by_name(app):
    collection_id = app.collection_of(app.motif("tea pot"))
    path = f"/collections/{collection_id}/file-motifs"
    names = ["Tea-Pot (2).png", "rain_barrel.jpg", "Rain barrel copy.jpg"]
    looked = app.ok("POST", path, json={"file_names": names})
    assert [each["name"] for each in looked] == ["Tea pot", "Rain barrel", "Rain barrel"]
    assert [each["motif_id"] is None for each in looked] == [False, True, True]
    before = len(app.ok("GET", f"/collections/{collection_id}")["motifs"])
    made = app.ok("POST", path, json={"file_names": names, "create": True})
    assert made[1]["motif_id"] == made[2]["motif_id"] is not None
    assert len(app.ok("GET", f"/collections/{collection_id}")["motifs"]) == before + 1
    assert app.refused("POST", path, json={"file_names": []})[0] == 422
    assert app.refused("POST", "/collections/999/file-motifs", json={"file_names": ["a.png"]})[0] == 404
