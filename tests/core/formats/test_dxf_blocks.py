"""DXF files as ezdxf draws them: blocks in blocks and in arrays, clips, layers and colours, hatches, wide lines."""

import io
import math
from itertools import pairwise

import ezdxf
import pytest
from ezdxf import bbox, xclip
from ezdxf.disassemble import recursive_decompose
from ezdxf.math import Vec2
from ezdxf.path import make_path

from zeichen.core.errors import FormatError, TooMuchError
from zeichen.core.formats.dxf_reading import read_foreign_dxf
from zeichen.core.geometry import drawing_area

# Ten units a millimetre.
MM2 = 100.0


def dxf(build) -> bytes:
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    build(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def reference_areas(data: bytes) -> list[float]:
    """Areas of the closed paths that ezdxf's own disassembly gives, flattened by it."""
    document = ezdxf.read(io.StringIO(data.decode()))
    areas = []
    for entity in recursive_decompose(document.modelspace()):
        points = [(p.x, p.y) for p in make_path(entity).flattening(1e-4)]
        if math.dist(points[0], points[-1]) < 1e-6:
            pairs = pairwise(points)
            areas.append(abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs)) / 2)
    return sorted(areas)


def test_blocks_in_blocks_and_in_arrays_have_the_areas_ezdxf_gives_them():
    def build(space, document):
        inner = document.blocks.new("inner")
        inner.add_circle((0, 0), 2)
        inner.add_ellipse((6, 0), (3, 1), 0.4)
        outer = document.blocks.new("outer")
        outer.add_blockref("inner", (3, 3), dxfattribs={"xscale": 1.5, "yscale": 0.5, "rotation": 30})
        outer.add_lwpolyline([(0, 0, 0.4), (10, 0, 0), (10, 8, -0.3), (0, 8, 0)], format="xyb", close=True)
        space.add_blockref(
            "outer",
            (20, 5),
            dxfattribs={"row_count": 2, "column_count": 3, "row_spacing": 20, "column_spacing": 30},
        )
        space.add_blockref("outer", (0, 100), dxfattribs={"xscale": -1, "rotation": 10})
        space.add_spline([(0, 60), (10, 70), (20, 55), (5, 50)]).closed = False

    data = dxf(build)
    draw, missing, _ = read_foreign_dxf(data)
    ours = sorted(abs(path.area) / MM2 for path in draw.paths if path.closed)
    expected = reference_areas(data)
    assert missing == [] and len(expected) == 21
    assert ours == pytest.approx(expected, rel=1e-3)


def test_the_whole_is_as_large_as_ezdxf_says():
    def build(space, document):
        document.blocks.new("b").add_arc((0, 0), 9, 20, 290)
        space.add_blockref("b", (5, 5), dxfattribs={"column_count": 4, "column_spacing": 25})

    data = dxf(build)
    draw, *_ = read_foreign_dxf(data)
    low, high = bbox.extents(ezdxf.read(io.StringIO(data.decode())).modelspace()).rect_vertices()[::2]
    x0, y0, x1, y1 = draw.bounds()
    assert (x1 - x0, y1 - y0) == pytest.approx((10 * (high.x - low.x), 10 * (high.y - low.y)), rel=1e-3)


def test_a_clipped_block_is_cut_at_its_clip():
    def build(space, document):
        document.blocks.new("b").add_line((0, 0), (100, 0))
        insert = space.add_blockref("b", (0, 10))
        xclip.XClip(insert).set_block_clipping_path([Vec2(20, -5), Vec2(60, 5)])
        space.add_circle((0, 50), 1)

    draw, *_ = read_foreign_dxf(dxf(build))
    (line,) = [shape for shape in draw.shapes if shape.stroke_width is not None]
    x0, _, x1, _ = line.bounds()
    assert x1 - x0 == pytest.approx(400, rel=1e-3)


def test_layers_and_colours_are_kept_and_what_is_switched_off_stays_out():
    def build(space, document):
        document.layers.add("cut", color=1)
        document.layers.add("off", color=3).off()
        document.layers.add("frozen", color=3).freeze()
        space.add_circle((0, 0), 5, dxfattribs={"layer": "cut"})
        space.add_circle((20, 0), 5, dxfattribs={"layer": "cut", "true_color": 0x1234AB})
        space.add_circle((40, 0), 5, dxfattribs={"layer": "off"})
        space.add_circle((60, 0), 5, dxfattribs={"layer": "frozen"})
        space.add_circle((80, 0), 5, dxfattribs={"layer": "cut", "invisible": 1})
        space.add_circle((90, 0), 5)

    draw, missing, _ = read_foreign_dxf(dxf(build))
    assert missing == []
    assert [(shape.id, shape.fill) for shape in draw.shapes] == [
        ("cut", "#ff0000"), ("cut-2", "#1234ab"), ("0", "#000000"),
    ]  # fmt: skip


def test_hatches_wide_lines_and_what_lies_twice_on_one_place():
    def build(space, document):
        hatch = space.add_hatch(color=1)
        hatch.paths.add_polyline_path([(0, 0), (10, 0), (10, 10), (0, 10)], is_closed=True)
        hatch.paths.add_polyline_path([(3, 3), (7, 3), (7, 7), (3, 7)], is_closed=True, flags=16)
        space.add_lwpolyline([(20, 0, 2, 2), (40, 0, 2, 2)], format="xyse")
        for _ in range(2):
            space.add_circle((60, 5), 5)
        space.add_line((80, 0), (80, 9))
        space.add_line((80, 9), (80, 0))

    draw, missing, _ = read_foreign_dxf(dxf(build))
    assert missing == ["2 × line drawn twice on one place: taken once"]
    filled = drawing_area(draw, tolerance=1e-3).area / MM2
    pen = 9 * 0.3 + math.pi * 0.15**2
    assert filled == pytest.approx(100 - 16 + 2 * 20 + math.pi * 25 + pen, rel=1e-3)


def test_text_points_and_pictures_are_named():
    def build(space, document):
        space.add_circle((0, 0), 5)
        space.add_text("North", height=4).set_placement((3, 8))
        space.add_mtext("two\\Plines", dxfattribs={"char_height": 2})
        space.add_point((1, 1))

    _, missing, texts = read_foreign_dxf(dxf(build))
    assert [text.content for text in texts] == ["North", "two lines"] and texts[0].size == pytest.approx(40)
    assert any("point" in line for line in missing) and any("“North”" in line for line in missing)


def test_blocks_without_end_and_too_many_copies_are_told():
    def endless(space, document):
        block = document.blocks.new("b")
        block.add_line((0, 0), (1, 1))
        block.add_blockref("b", (1, 1))
        space.add_blockref("b", (0, 0))

    with pytest.raises(FormatError, match="within itself"):
        read_foreign_dxf(dxf(endless))

    def many(space, document):
        document.blocks.new("b").add_line((0, 0), (1, 1))
        space.add_blockref(
            "b", (0, 0), dxfattribs={"row_count": 30000, "column_count": 30000, "row_spacing": 2}
        )

    with pytest.raises(TooMuchError, match="copies of its blocks"):
        read_foreign_dxf(dxf(many))
