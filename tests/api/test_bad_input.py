"""Whatever is wrong is said in a sentence, with a 4xx where it is the user's fault, and nothing is half kept."""

import io

import numpy as np
import pytest
from PIL import Image

from samples import png


def one_pixel() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (1, 1)).save(out, "PNG")
    return out.getvalue()


def bomb() -> bytes:
    """A BMP header that declares 50,000 x 50,000 px and carries nothing."""
    import struct

    return (
        b"BM"
        + struct.pack("<IHHI", 54, 0, 0, 54)
        + struct.pack("<IiiHHIIiiII", 40, 50_000, 50_000, 1, 24, 0, 0, 0, 0, 0, 0)
    )


WHOLE = png(np.random.default_rng(1).integers(0, 255, (64, 64, 3), dtype=np.uint8))


@pytest.mark.parametrize(
    ("data", "message"),
    [
        pytest.param(b"", "empty (0 bytes)", id="empty"),
        pytest.param(b"Dear diary", "not a picture Zeichen can read", id="renamed text"),
        pytest.param(WHOLE[: len(WHOLE) // 2], "damaged or cut short", id="truncated"),
        pytest.param(bomb(), "claims 50000 x 50000 px", id="bomb"),
        pytest.param(one_pixel(), "1 x 1 px, too small", id="one pixel"),
        pytest.param(b'<svg xmlns="http://www.w3.org/2000/svg"><script/></svg>', "not a picture", id="svg"),
        pytest.param(b"\x89PNG" + b"0" * 4_000_000, "larger than 3 MB", id="too large"),
    ],
)
def test_bad_pictures_leave_nothing_behind(app, data, message):
    motif_id = app.motif()
    before = _files(app)
    status, said = app.refused("POST", f"/motifs/{motif_id}/import?name=x.png", content=data)
    assert status == 422 and message in said
    assert app.ok("GET", f"/motifs/{motif_id}/sketches") == [] and _files(app) == before


@pytest.mark.parametrize(("tone", "word"), [(255, "white"), (0, "black")])
def test_a_picture_of_one_tone_can_be_kept_but_says_why_it_does_not_trace(app, tone, word):
    sketch_id = app.bring_in(app.motif(), png(np.full((64, 64, 3), tone, np.uint8)))
    assert app.ok("GET", f"/sketches/{sketch_id}/forecast")["verdict"] == "wrong-kind"
    status, said = app.refused("POST", f"/sketches/{sketch_id}/preview", json={"settings": {}})
    assert status == 422 and f"all {word}: there is no figure to trace" in said
    job = app.wait(app.ok("POST", f"/sketches/{sketch_id}/trace", json={}))
    assert job["state"] == "failed" and f"all {word}" in job["message"]


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"width_mm": 0}, "Width must be above 0 mm"),
        ({"width_mm": -5}, "Width must be above 0 mm"),
        ({"blank_height_mm": 0}, "Blank height must be above 0 mm"),
        ({"limits": {"thin_mm": 0, "gap_mm": 1, "speck_mm2": 1}}, "Thinnest part must be above 0 mm"),
        ({"name": "  "}, "needs a name"),
        ({"process": "welding"}, "Process"),
        ({"colour": "red"}, "Colour"),
    ],
)
def test_impossible_yardsticks_are_refused(app, change, message):
    body = {
        "name": "n", "process": "carve", "width_mm": 80, "blank": "", "blank_width_mm": 100, "blank_height_mm": 60,
        "limits": {"thin_mm": 0.15, "gap_mm": 0.15, "speck_mm2": 0.3}, **change,
    }  # fmt: skip
    status, said = app.refused("POST", "/yardsticks", json=body)
    assert status == 422 and message in said


@pytest.mark.parametrize("width", ["0", "-3", "20000", "NaN", "Infinity", '"wide"', "null"])
def test_impossible_widths_are_refused_at_once(app, snail_png, width):
    motif_id = app.motif()
    app.trace(app.bring_in(motif_id, snail_png))
    body = f'{{"process": "carve", "width_mm": {width}, "settings": {{}}}}'
    status, _ = app.refused(
        "POST", f"/motifs/{motif_id}/tickets", content=body, headers={"content-type": "application/json"}
    )
    assert status == 422 and app.ok("GET", f"/motifs/{motif_id}/tickets") == []


@pytest.mark.parametrize(
    ("body", "message"),
    [
        (
            {"process": "laser", "width_mm": 500, "settings": {"cut": "none"}},
            "does not fit the 100 x 60 mm blank",
        ),
        ({"process": "apparel", "width_mm": 500}, "larger than the 381 x 457 mm print area"),
    ],
)
def test_sizes_that_cannot_be_made_fail_with_a_sentence(app, snail_png, body, message):
    motif_id = app.motif()
    app.trace(app.bring_in(motif_id, snail_png))
    job = app.wait(app.ok("POST", f"/motifs/{motif_id}/tickets", json=body))
    assert job["state"] == "failed" and message in job["message"]
    assert app.ok("GET", f"/motifs/{motif_id}/tickets") == []


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/collections/999", None, 404),
        ("GET", "/motifs/999/sketches", None, 404),
        ("GET", "/motifs/999/drawing", None, 404),
        ("POST", "/motifs/999/draw", {"look": "line"}, 404),
        ("POST", "/sketches/999/trace", {}, 404),
        ("POST", "/sketches/999/preview", {"settings": {}}, 404),
        ("GET", "/tickets/999/files/a", None, 404),
        ("GET", "/packs/999/zip", None, 404),
        ("GET", f"/pictures/{'0' * 64}.png", None, 404),
        ("GET", "/pictures/..%2f..%2fetc%2fpasswd.png", None, 404),
        ("POST", "/jobs/999/cancel", None, 404),
        ("POST", "/drawings/999/undo", None, 404),
        ("POST", "/collections", {"name": "x", "yardstick_id": 999}, 404),
        ("GET", "/collections/snail", None, 422),
        ("GET", "/nothing", None, 404),
        ("PATCH", "/scene", None, 405),
    ],
)
def test_what_is_not_there_or_makes_no_sense_has_its_status(app, method, path, body, status):
    got, message = app.refused(method, path, json=body)
    assert got == status and message


def test_impossible_flats_settings_are_refused(app, snail_png):
    sketch_id = app.bring_in(app.motif(), snail_png)
    for change, words in (
        ({"colours": 0}, "Number of colours must be at least 1"),
        ({"palette": ["red"]}, "must look like #1a2b3c"),
        ({"underlay_px": -1}, "Underlay must be at least 0"),
    ):
        status, message = app.refused(
            "POST", f"/sketches/{sketch_id}/preview", json={"settings": {"method": "flats", **change}}
        )
        assert status == 422 and words in message


def test_a_pack_needs_drawings_of_its_own_collection(app, snail_png):
    motif_id = app.motif()
    other = app.motif()
    app.trace(app.bring_in(other, snail_png))
    collections = app.ok("GET", "/collections")
    mine, theirs = collections[-2]["id"], collections[-1]["id"]
    body = {"motif_ids": [motif_id], "title": "T", "licence": ""}
    assert "no drawing yet" in app.refused("POST", f"/collections/{mine}/packs", json=body)[1]
    foreign = app.refused("POST", f"/collections/{theirs}/packs", json=body)
    assert foreign == (404, f"The collection has no motif {motif_id}.")
    untitled = {"motif_ids": [other], "title": " ", "licence": ""}
    assert "needs a title" in app.refused("POST", f"/collections/{theirs}/packs", json=untitled)[1]


def _files(app) -> set[str]:
    folder = app.client.app.state.workplace.database.folder / "files"
    return {str(path) for path in folder.rglob("*") if path.is_file()}
