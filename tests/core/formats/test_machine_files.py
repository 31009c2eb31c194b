"""G-code, EPS, PDF, DXF and STL as text and bytes: what their standards ask for."""

import io
import re
import struct

import ezdxf
import numpy as np
import pytest

from samples import circle, drawing, hole, rectangle
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.dxf import Entity, write_coloured_dxf, write_dxf
from zeichen.core.formats.eps import rgb_shares, write_eps
from zeichen.core.formats.gcode import GcodeWriter
from zeichen.core.formats.pdf import write_pdf
from zeichen.core.formats.render import render_drawing
from zeichen.core.formats.stl import write_stl
from zeichen.core.formats.threemf import write_3mf
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import line_segments, reverse
from zeichen.core.geometry.mesh import Mesh, Part

RING = drawing(Shape("r", (circle(20, 20, 15), hole(circle(20, 20, 6))), "#c23b2a"), size=(40, 40))
_FACES = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
CUBE = Mesh(
    np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float),
    np.array([[face[0], face[k], face[k + 1]] for face in _FACES for k in (1, 2)]),
)


def test_modal_words_are_written_once():
    out = GcodeWriter(title="t")
    out.travel(1, 2)
    for x in (3, 4, 5):
        out.burn(x, 2, feed_mm_min=600, power_percent=50)
    text = out.text()
    assert len(re.findall(r"\bG1\b", text)) == 1 and text.count("S500") == 1 and text.count("F600") == 1
    assert text.splitlines()[-4:] == ["M5", "S0", "G0 X0 Y0", "M2"]


def test_comments_cannot_break_out():
    text = GcodeWriter(title="Snail) M3 S1000 (ü\n").text()
    assert text.splitlines()[0] == "(Snail  M3 S1000    )"


def test_coordinates_are_thousandths_of_a_mm():
    out = GcodeWriter(title="t")
    out.travel(1.23456, -0.00001)
    assert "X1.235 Y0" in out.text()


def test_eps_declares_its_box_and_stays_inside_its_own_state():
    text = write_eps(RING, title="Ring").decode("ascii")
    points = 40 * 72 / 25.4
    assert text.startswith("%!PS") and "%%BoundingBox: 0 0 114 114" in text
    assert float(re.search(r"%%HiResBoundingBox: 0 0 ([\d.]+)", text)[1]) == pytest.approx(points, abs=1e-3)
    assert text.count("gsave") == text.count("grestore") == 1 and text.rstrip().endswith("%%EOF")
    assert "eofill" in text and text.count("closepath") == 2 and text.count("curveto") == 8
    assert max(len(line) for line in text.splitlines()) < 255


def test_titles_are_ascii_in_eps():
    assert b"%%Title: Schn?cke" in write_eps(RING, title="Schnücke")


def test_drawn_lines_are_stroked_in_eps_and_pdf():
    line = drawing(
        Shape("l", (Path(line_segments(np.array([[1.0, 1], [30, 30]])), closed=False),), stroke_width=2)
    )
    assert b"2 setlinewidth" in write_eps(line, title="l") and b"fill" not in write_eps(
        line, title="l"
    ).replace(b"eofill", b"fill")
    assert write_pdf(line, title="l").startswith(b"%PDF-1")


def test_the_same_drawing_has_the_same_bytes_in_every_format():
    for write in (
        lambda: write_eps(RING, title="r"), lambda: write_pdf(RING, title="r"), lambda: write_dxf({"A": RING}),
        lambda: write_stl(CUBE, title="c"),
    ):  # fmt: skip
        assert write() == write()


@pytest.mark.parametrize("entity", list(Entity))
def test_straight_outlines_are_polylines_whatever_was_asked(entity):
    document = ezdxf.read(
        io.StringIO(write_dxf({"A": drawing(rectangle(1, 1, 9, 5))}, entity=entity).decode())
    )
    (outline,) = document.modelspace()
    assert outline.dxftype() == "LWPOLYLINE" and outline.closed and len(outline) == 4


def test_a_polyline_stays_within_its_tolerance():
    few = write_dxf({"A": RING}, entity=Entity.POLYLINE, tolerance_mm=0.5)
    many = write_dxf({"A": RING}, entity=Entity.POLYLINE, tolerance_mm=0.005)
    assert len(many) > len(few)


def test_a_coloured_dxf_has_a_layer_a_colour_and_shared_borders_once():
    """Two tiles side by side around a disc: ezdxf reads layers, colours, and each line once."""
    left = rectangle(0, 0, 10, 10)
    # Around the right tile the other way, so that the shared side runs from the same end.
    right = Path(line_segments(np.array([[10, 10], [10, 0], [20, 0], [20, 10], [10, 10]], float)))
    disc = circle(5, 5, 3)
    shapes = (
        Shape("a", (left, Path(reverse(disc.segments))), "#a14c2d"),
        Shape("b", (disc,), "#F4D35E"),
        Shape("c", (right,), "#3e7b4f"),
        Shape("d", (circle(40, 5, 4),), "#3e7b4f"),
    )
    document = ezdxf.read(io.StringIO(write_coloured_dxf(Drawing(50, 10, shapes)).decode()))
    colours = {layer.dxf.name: layer.rgb for layer in document.layers if layer.dxf.name.startswith("colour-")}
    assert colours == {"colour-a14c2d": (0xA1, 0x4C, 0x2D), "colour-3e7b4f": (0x3E, 0x7B, 0x4F),
                       "colour-f4d35e": (0xF4, 0xD3, 0x5E)}  # fmt: skip
    by_layer: dict[str, list] = {}
    for entity in document.modelspace():
        by_layer.setdefault(entity.dxf.layer, []).append(entity)
    assert [len(by_layer[name]) for name in ("colour-a14c2d", "colour-3e7b4f")] == [2, 2]
    # The disc's rim came with the hole around it, so nothing is left of it.
    assert "colour-f4d35e" not in by_layer
    rest = next(entity for entity in by_layer["colour-3e7b4f"] if entity.dxftype() == "LWPOLYLINE")
    assert not rest.closed
    total = sum(np.hypot(*np.diff([p[:2] for p in rest.get_points()], axis=0).T))
    # Three sides of a tile: the fourth is its neighbour's.
    assert total == pytest.approx(30)
    assert next(e for e in by_layer["colour-3e7b4f"] if e.dxftype() == "SPLINE").closed


def test_stl_is_binary_with_outward_normals():
    data = write_stl(CUBE, title="solid cube")
    assert not data.startswith(b"solid") and len(data) == 84 + 50 * 12
    (count,) = struct.unpack("<I", data[80:84])
    assert count == 12
    for k in range(12):
        nx, ny, nz, *corners = struct.unpack("<12f", data[84 + 50 * k : 84 + 50 * k + 48])
        middle = np.array(corners).reshape(3, 3).mean(axis=0) - 0.5
        assert np.dot([nx, ny, nz], middle) > 0 and np.hypot(np.hypot(nx, ny), nz) == pytest.approx(1)
    assert CUBE.volume_mm3 == pytest.approx(1)


def test_3mf_is_a_package_with_a_model():
    import zipfile

    with zipfile.ZipFile(io.BytesIO(write_3mf([Part("cube", "#c23b2a", CUBE)], title="cube"))) as package:
        model = package.read("3D/3dmodel.model").decode()
    assert 'unit="millimeter"' in model and "#C23B2A" in model.upper() and model.count("<triangle ") == 12


@pytest.mark.parametrize("width_px", [0, -5, 20_000])
def test_pictures_of_impossible_sizes_are_refused(width_px):
    with pytest.raises(InvalidInputError, match="Choose a smaller size"):
        render_drawing(RING, width_px=width_px)


def test_a_rendered_ground_is_opaque_and_none_is_clear():
    assert render_drawing(RING, width_px=40, ground="#ffffff")[0, 0].tolist() == [255, 255, 255, 255]
    assert render_drawing(RING, width_px=40)[0, 0, 3] == 0
    middle = render_drawing(RING, width_px=40)[20, 10]
    assert middle.tolist() == [0xC2, 0x3B, 0x2A, 255]
    assert rgb_shares("#00ff00") == (0, 1, 0)
