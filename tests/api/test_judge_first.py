"""A change that cannot be judged is not kept, and a drawing that cannot be shown takes nothing else with it."""

import pytest

from samples import svg_file

LETTERS = {"kind": "letter", "text": "Open", "font": "lilita-one", "cap_height_mm": 8, "x": 0, "y": 0}
SQUARE = svg_file('<path d="M10 10H90V90H10Z"/><path d="M30 30H40V40Z" fill="#c23b2a"/>')


@pytest.fixture
def current(app):
    motif_id = app.motif()
    app.ok("POST", f"/motifs/{motif_id}/import-drawing?name=square.svg", content=SQUARE)
    return app.ok("GET", f"/motifs/{motif_id}/drawing")


def bad_changes(ids: list[str]) -> list[tuple[dict, str]]:
    line = [[10, 10], [1e200, 10], [1e200, 1e200]]
    row = [[[0, 0], [1, 0], [2, 0], [1e20, 0]], [[1e20, 0], [2, 5], [1, 5], [0, 0]]]
    return [
        ({**LETTERS, "y": 1e20}, "Y is 1e+20, which no drawing can hold"),
        ({**LETTERS, "y": 1e8}, "mm across. A drawing is at most 100 m"),
        ({**LETTERS, "cap_height_mm": 1e300}, "ap height"),
        ({"kind": "patch", "line": line, "how": "join"}, "Line is 1e+200"),
        ({"kind": "transform", "ids": ids[:1], "matrix": [1e12, 0, 0, 1, 0, 0]}, "Matrix is 1e+12"),
        ({"kind": "transform", "ids": ids[:1], "matrix": [1, 0, 0, 1, 1e8, 0]}, "at most 100 m"),
        ({"kind": "transform", "ids": ids[1:2], "matrix": [4e-5, 0, 0, 4e-5, 0, 0]}, "least 1 µm"),
        ({"kind": "new-form", "form": "box", "box": [5, 5, 1e-300, 1e-300]}, "least 1 µm"),
        ({"kind": "new-form", "form": "box", "box": [5, 5, 1e308, 10]}, "Box is 1e+308"),
        ({"kind": "redraw", "shape": ids[0], "path": 0, "segments": row}, "Segments is 1e+20"),
        ({"kind": "grow", "ids": ids[:1], "distance_mm": 1e30}, "istance"),
        ({"kind": "mark", "ids": ids, "hidden": True}, "would hide everything"),
    ]


@pytest.mark.parametrize("number", range(12))
def test_a_change_that_ends_in_an_error_leaves_the_drawing_as_it_was(app, current, number):
    ids = [shape["id"] for shape in current["drawing"]["shapes"]]
    operation, words = bad_changes(ids)[number]
    body = {"revision_id": current["revision_id"], "operation": operation}
    status, said = app.refused("POST", f"/drawings/{current['id']}/edit", json=body)
    assert status == (409 if "hide" in said else 422) and words in said, said
    after = app.ok("GET", f"/motifs/{current['motif_id']}/drawing")
    assert after == current and len(app.ok("GET", f"/drawings/{current['id']}/revisions")) == 1


@pytest.mark.parametrize(
    ("file", "words"),
    [
        (svg_file('<path d="M0 0L1e308 0L5 5Z"/>'), "no drawing is as large as that"),
        (svg_file('<path d="M0 0L1e20 0L5 5Z"/>'), "no drawing is as large as that"),
        (svg_file('<path d="M0 0L1e7 0L5 5Z"/>'), "at most 100 m"),
        (b'<svg xmlns="http://www.w3.org/2000/svg" width="1e-6" height="90"><path d="M0 0H9V9Z"/></svg>', "page"),
        (svg_file('<path d="M0 0H1e-300V1e-300Z"/>'), "1 µm"),
        (svg_file('<path d="M0 0H1e-6V1e-6Z"/>'), "1 µm"),
        (svg_file('<path d="M0 0H9V9" stroke="red" fill="none" stroke-width="1e30"/>'), "Line width"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_judged_is_not_brought_in(app, current, file, words):
    status, said = app.refused(
        "POST", f"/motifs/{current['motif_id']}/import-drawing?name=x.svg", content=file
    )
    assert status == 422 and words in said, said
    assert app.ok("GET", f"/motifs/{current['motif_id']}/drawing") == current


def test_one_bad_drawing_never_takes_the_collections_verdicts_with_it(app, current):
    """As an older version kept it: a revision whose letters lie at y = 1e20."""
    collection_id = app.collection_of(current["motif_id"])
    other = app.ok("POST", f"/collections/{collection_id}/motifs", json={"name": "other"})["motifs"][-1]["id"]
    app.ok("POST", f"/motifs/{other}/import-drawing?name=square.svg", content=SQUARE)
    place = app.client.app.state.workplace
    sha = place.database.files.put(svg_file('<path id="a" fill="#24272b" d="M0 0L1e20 0L5 5Z"/>'))
    from zeichen.store import drawings

    with place.database.write() as session:
        drawings.add_revision(
            session, current["id"], base_revision_id=current["revision_id"], svg_sha=sha, note="set letters"
        )
    bad, good = app.ok("GET", f"/collections/{collection_id}/verdicts")
    assert bad["finding_count"] is None and "no drawing is as large" in bad["problem"]
    assert good["finding_count"] is not None and good["problem"] == ""
    shown = app.ok("GET", f"/motifs/{current['motif_id']}/drawing")
    assert shown["drawing"] is None and shown["can_undo"] and "no drawing is as large" in shown["problem"]
    back = app.ok("POST", f"/drawings/{current['id']}/undo")
    assert back["drawing"] == current["drawing"] and back["problem"] == ""
