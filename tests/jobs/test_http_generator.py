"""The generator at an address: what it is asked, how patient we are, and what is refused."""

import json
import socket
import threading
from collections.abc import Iterator

import pytest

from generator_box import GeneratorBox, generator_box, images, sends
from zeichen.core.briefing import Look, PictureFormat, SketchOrder
from zeichen.core.errors import InvalidInputError, OutsideError
from zeichen.core.formats.picture import write_png
from zeichen.jobs import http_generator
from zeichen.jobs.http_generator import HttpGenerator, HttpGeneratorSettings

ORDER = SketchOrder("snail", Look.LINE, 7, "A snail.", format=PictureFormat.PORTRAIT)


@pytest.fixture
def box() -> Iterator[GeneratorBox]:
    with generator_box() as server:
        yield server


@pytest.fixture(scope="module")
def png(snail) -> bytes:
    return write_png(snail.rgb[:64, :64])


def ask(box: GeneratorBox, **settings) -> tuple[bytes, list[float]]:
    waits: list[float] = []
    values = {"address": box.address(), "timeout_s": 1.0, **settings}
    return HttpGenerator(HttpGeneratorSettings(**values), wait=waits.append).draw_png(ORDER), waits


def test_json_goes_out_and_a_png_comes_back(box, png):
    box.answers = [sends(images(png))]
    assert ask(box) == (png, [])
    assert json.loads(box.asked[0][2]) == {"prompt": "A snail.", "size": "768x1024", "n": 1, "seed": 7}


@pytest.mark.parametrize("where", ["/pictures/1.png", "absolute"])
def test_a_picture_may_lie_at_an_address_on_the_same_host(box, png, where):
    there = box.address("/pictures/1.png") if where == "absolute" else where
    box.answers = [sends(images(there)), sends(png, kind="image/png")]
    assert ask(box)[0] == png
    assert [(method, path) for method, path, _ in box.asked] == [
        ("POST", "/draw"),
        ("GET", "/pictures/1.png"),
    ]


def test_what_is_busy_is_asked_again_after_longer_and_longer(box, png):
    box.answers = [sends(b"", 503), sends(b"", 429), sends(images(png))]
    assert ask(box) == (png, [0.5, 1.0])


def test_what_stays_busy_is_given_up(box):
    box.answers = [sends(b"", 500)]
    with pytest.raises(OutsideError, match=r"failing \(status 500\); tried 3 times"):
        ask(box)
    assert len(box.asked) == 3


def test_what_never_answers_is_given_up(box):
    released = threading.Event()
    box.answers = [lambda handler: released.wait(20)]
    try:
        with pytest.raises(OutsideError, match="did not answer within 1 s; tried 2 times"):
            ask(box, tries=2)
    finally:
        released.set()


def test_nobody_there(box):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with pytest.raises(OutsideError, match="cannot be reached"):
        ask(box, address=f"http://127.0.0.1:{port}/draw", tries=1)


@pytest.mark.parametrize(
    ("answer", "said"),
    [
        pytest.param(sends(b"", 402), "allowance is used up", id="allowance"),
        pytest.param(sends(b"who are you", 403), "status 403: who are you", id="refused"),
        pytest.param(sends(b"", 302, Location="http://example.invalid/"), "status 302", id="sent elsewhere"),
        pytest.param(sends(b"<p>", kind="text/html"), "text/html, not with JSON", id="page"),
        pytest.param(sends(b'{"images": []}'), "not with JSON that holds a list of images", id="none"),
        pytest.param(sends(b"[1]"), "not with JSON that holds a list of images", id="list"),
        pytest.param(sends(images(3)), "images are not text", id="number"),
        pytest.param(sends(images("?not base64?")), "neither base64 nor an address", id="garbage"),
        pytest.param(sends(images(b"GIF89a")), "not a PNG", id="other type"),
        pytest.param(sends(images("http://192.0.2.1/x.png")), "another host", id="another host"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_said(box, answer, said):
    box.answers = [answer]
    with pytest.raises(OutsideError, match=said):
        ask(box)
    assert len(box.asked) == 1, "asking again would not help"


def test_an_answer_without_end_is_cut_off(box, monkeypatch):
    monkeypatch.setattr(http_generator, "_MOST_BYTES", 10_000)
    box.answers = [sends(images("A" * 20_000))]
    with pytest.raises(OutsideError, match="larger than"):
        ask(box)


@pytest.mark.parametrize(
    "values",
    [{"address": "shed"}, {"address": "ftp://shed/x"}, {"timeout_s": 0}, {"tries": 0}, {"allowance": -1}],
)
def test_settings_that_cannot_work_are_refused(values):
    with pytest.raises(InvalidInputError):
        HttpGeneratorSettings(**{"address": "http://shed/x", **values})
