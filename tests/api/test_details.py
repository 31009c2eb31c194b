"""Smaller promises of the API, each on its own."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from samples import rose_picture
from zeichen.core.briefing import RULES
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.proofing import Process
from zeichen.standins.studio import SUBJECTS


def test_the_scene_tells_the_screens_what_there_is(app):
    scene = app.ok("GET", "/scene")
    assert scene["subjects"] == list(SUBJECTS) and scene["looks"] == [
        "silhouette", "line", "flat", "stencil", "ink",
    ]  # fmt: skip
    assert [rule["key"] for rule in scene["rules"]] == [rule.key for rule in RULES]
    assert {each["process"]: each["limits"]["thin_mm"] for each in scene["processes"]}["laser-cut"] == 1.5
    assert len(scene["processes"]) == len(Process) and scene["licence"]


def test_a_sketch_is_kept_and_set_aside(app, snail_png):
    motif_id = app.motif()
    sketch_id = app.bring_in(motif_id, snail_png, "snail.png")
    (sketch,) = app.ok("GET", f"/motifs/{motif_id}/sketches")
    assert (sketch["source"], sketch["file_name"], sketch["kept"]) == ("upload", "snail.png", True)
    assert app.ok("PATCH", f"/sketches/{sketch_id}", json={"kept": False})["kept"] is False
    assert app.refused("PATCH", f"/sketches/{sketch_id}", json={"kept": "perhaps"})[0] == 422


def test_the_picture_that_came_in_is_kept_as_it_was(app, snail_png):
    motif_id = app.motif()
    app.bring_in(motif_id, snail_png)
    (sketch,) = app.ok("GET", f"/motifs/{motif_id}/sketches")
    files = app.client.app.state.workplace.database.files
    assert files.get(sketch["original_sha"]) == snail_png


def test_pictures_may_be_kept_forever_by_the_browser(app, snail_png):
    motif_id = app.motif()
    app.bring_in(motif_id, snail_png)
    (sketch,) = app.ok("GET", f"/motifs/{motif_id}/sketches")
    reply = app.client.get(f"/api/pictures/{sketch['thumb_sha']}.png")
    assert reply.headers["content-type"] == "image/png" and "immutable" in reply.headers["cache-control"]


def test_the_drawing_downloads_as_what_is_on_the_screen(app, snail_png):
    motif_id = app.motif("Garden snail")
    shown = app.trace(app.bring_in(motif_id, snail_png))["drawing"]
    reply = app.client.get(f"/api/motifs/{motif_id}/drawing.svg")
    assert 'filename="garden-snail.svg"' in reply.headers["content-disposition"]
    drawing = read_svg(reply.content)
    assert [shape.id for shape in drawing.shapes] == [shape["id"] for shape in shown["shapes"]]
    assert drawing.node_count == shown["proof"]["readings"]["nodes"]


def test_tracing_another_sketch_keeps_the_last_drawing_behind_undo(app, snail_png):
    motif_id = app.motif()
    first = app.trace(app.bring_in(motif_id, snail_png))
    second = app.trace(app.bring_in(motif_id, rose_picture()))
    assert second["id"] == first["id"] and second["sketch_id"] != first["sketch_id"]
    back = app.ok("POST", f"/drawings/{first['id']}/undo")
    assert (back["revision_id"], back["sketch_id"], back["picture_sha"]) == (
        first["revision_id"],
        first["sketch_id"],
        first["picture_sha"],
    )


def test_of_many_previews_of_one_client_the_newest_is_answered(app):
    sketch_id = app.bring_in(app.motif(), rose_picture(900))

    def ask(level: int):
        body = {"settings": {"level": level}, "client": "me"}
        return app.client.post(f"/api/sketches/{sketch_id}/preview", json=body)

    with ThreadPoolExecutor(8) as crowd:
        replies = list(crowd.map(ask, range(100, 108)))
    answered = [reply.json()["level"] for reply in replies if reply.status_code == 200]
    dropped = [reply for reply in replies if reply.status_code == 409]
    assert answered and len(answered) + len(dropped) == 8
    assert all(reply.json()["code"] == "superseded" for reply in dropped)


def test_other_clients_are_not_dropped(app):
    sketch_id = app.bring_in(app.motif(), rose_picture(500))

    def ask(client: str):
        return app.client.post(
            f"/api/sketches/{sketch_id}/preview", json={"settings": {}, "client": client}
        ).status_code

    with ThreadPoolExecutor(4) as crowd:
        assert list(crowd.map(ask, "abcd")) == [200] * 4


def test_a_ticket_remembers_which_revision_it_was_made_from(app, snail_png):
    motif_id = app.motif()
    drawing = app.trace(app.bring_in(motif_id, snail_png))
    app.done("POST", f"/motifs/{motif_id}/tickets", json={"process": "carve", "width_mm": 40, "settings": {}})
    shape = drawing["drawing"]["shapes"][-1]["id"]
    changed = app.edit(drawing, kind="delete", ids=[shape])
    (ticket,) = app.ok("GET", f"/motifs/{motif_id}/tickets")
    assert ticket["revision_id"] == drawing["revision_id"] != changed["revision_id"]


def test_only_reliefs_have_a_solid(app, snail_png):
    motif_id = app.motif()
    app.trace(app.bring_in(motif_id, snail_png))
    made = app.done(
        "POST", f"/motifs/{motif_id}/tickets", json={"process": "carve", "width_mm": 40, "settings": {}}
    )
    status, message = app.refused("GET", f"/tickets/{made['ticket_id']}/solid")
    assert status == 404 and "Only relief tickets" in message


def test_a_done_job_cannot_be_cancelled_but_run_again(app, snail_png):
    motif_id = app.motif()
    app.bring_in(motif_id, snail_png)
    job = app.ok("GET", "/jobs")[0]
    assert app.refused("POST", f"/jobs/{job['id']}/cancel")[0] == 409
    again = app.wait(app.ok("POST", f"/jobs/{job['id']}/again"))
    assert again["state"] == "done" and again["id"] != job["id"]
    # What is a sketch already does not become another one.
    assert len(app.ok("GET", f"/motifs/{motif_id}/sketches")) == 1


@pytest.mark.parametrize("count", [0, 13, -1])
def test_a_run_draws_a_handful_at_most(app, count):
    status, message = app.refused(
        "POST", f"/motifs/{app.motif()}/draw", json={"look": "line", "count": count}
    )
    assert status == 422 and message.startswith("Count")
