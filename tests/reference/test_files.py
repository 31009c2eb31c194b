"""Every file we write, opened with a reader we did not write, has its true size and its picture."""

import ctypes
import io
import subprocess
import zipfile

import ezdxf
import ezdxf.bbox
import lib3mf
import numpy as np
import pytest
import resvg_py
import trimesh
from ezdxf import units
from PIL import Image

from samples import drawing, hole, polygon, ring, star_points
from zeichen.core.formats.dxf import Entity, write_dxf
from zeichen.core.formats.eps import write_eps
from zeichen.core.formats.pdf import write_pdf
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Drawing, Shape, at_true_size
from zeichen.core.making.apparel import ApparelSettings, make_apparel
from zeichen.core.making.carve import CarveSettings, make_carve
from zeichen.core.making.relief import ReliefSettings, make_relief, relief_solid
from zeichen.core.packing import Listing, PackItem, make_pack

WIDTH_MM = 80.0
FIGURE = drawing(
    ring(60, 80, 50, 22, "ring"),
    Shape(
        "star", (polygon(*star_points(5, 60, 30, 0.4)), hole(polygon(*star_points(5, 20, 9, 0.4)))), "#7d2748"
    ),
)
PLACED = at_true_size(FIGURE, width_mm=WIDTH_MM, margin_mm=2)


def resvg_picture(draw: Drawing, width_px: int) -> np.ndarray:
    png = bytes(resvg_py.svg_to_bytes(svg_string=write_svg(draw, ground="#ffffff"), width=width_px))
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGB"), dtype=float)


def off(a: np.ndarray, b: np.ndarray) -> float:
    """Mean difference of two pictures, cut to their common size, as a share of full contrast."""
    height, width = min(a.shape[0], b.shape[0]), min(a.shape[1], b.shape[1])
    return float(np.abs(a[:height, :width] - b[:height, :width]).mean() / 255)


def test_svg_says_its_size_in_mm(tmp_path):
    """resvg renders at 96 dpi: 84 mm are 317.5 px."""
    text = write_svg(PLACED, unit="mm")
    assert f'width="{84:g}mm"' in text
    image = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=text, dpi=96))))
    assert image.width == pytest.approx(84 / 25.4 * 96, abs=1)


@pytest.mark.parametrize("writer", ["eps", "pdf"])
def test_eps_and_pdf_render_like_the_svg(writer, tmp_path):
    """Ghostscript and Poppler against resvg, at 150 dpi."""
    path = tmp_path / f"figure.{writer}"
    path.write_bytes(
        write_eps(PLACED, title="figure") if writer == "eps" else write_pdf(PLACED, title="figure")
    )
    if writer == "eps":
        out = tmp_path / "out.png"
        subprocess.run(
            ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-dEPSCrop", "-sDEVICE=png16m", "-r150",
             "-dGraphicsAlphaBits=4", f"-sOutputFile={out}", str(path)],
            check=True, timeout=60,
        )  # fmt: skip
    else:
        subprocess.run(
            ["pdftoppm", "-r", "150", "-png", "-singlefile", str(path), str(tmp_path / "out")],
            check=True,
            timeout=60,
        )
        out = tmp_path / "out.png"
    rendered = np.asarray(Image.open(out).convert("RGB"), dtype=float)
    expected = resvg_picture(PLACED, round(84 / 25.4 * 150))
    assert rendered.shape[1] == pytest.approx(84 / 25.4 * 150, abs=1.5)
    assert rendered.shape[0] == pytest.approx(PLACED.height / 25.4 * 150, abs=1.5)
    assert off(rendered, expected) < 0.006


@pytest.mark.parametrize("entity", list(Entity))
def test_dxf_is_sound_closed_and_true_to_size(entity, tmp_path):
    """ezdxf reads, audits and measures it."""
    product = make_carve(FIGURE, CarveSettings(entity), width_mm=WIDTH_MM)
    path = tmp_path / "carve.dxf"
    path.write_bytes(product.files[0].data)
    document = ezdxf.readfile(path)
    assert document.audit().errors == [] and document.units == units.MM
    entities = list(document.modelspace())
    assert len(entities) == len(FIGURE.paths)
    assert all(e.dxf.layer == "FIGURE" and e.closed for e in entities)
    box = ezdxf.bbox.extents(entities, fast=False)
    assert box.size.x == pytest.approx(WIDTH_MM, abs=0.05)
    ratio = WIDTH_MM / (FIGURE.bounds()[2] - FIGURE.bounds()[0])
    assert box.size.y == pytest.approx((FIGURE.bounds()[3] - FIGURE.bounds()[1]) * ratio, abs=0.05)


def test_dxf_splines_are_exact():
    """A point of our curve, turned y up, lies on ezdxf's evaluation of the spline."""
    document = ezdxf.read(io.StringIO(write_dxf({"FIGURE": PLACED}).decode()))
    spline = next(e for e in document.modelspace() if e.dxftype() == "SPLINE")
    tool = spline.construction_tool()
    segments = PLACED.paths[0].segments
    for index in range(len(segments)):
        middle = np.array([1, 3, 3, 1]) / 8 @ segments[index]
        x, y, _ = tool.point(index + 0.5)
        assert (x, y) == (
            pytest.approx(middle[0], abs=1e-6),
            pytest.approx(PLACED.height - middle[1], abs=1e-6),
        )


def test_stl_is_watertight_and_in_mm():
    product = make_relief(FIGURE, ReliefSettings(), width_mm=WIDTH_MM, title="figure")
    mesh = trimesh.load(io.BytesIO(product.files[0].data), file_type="stl")
    assert mesh.is_watertight and mesh.is_volume
    size = mesh.bounds[1] - mesh.bounds[0]
    assert size[0] == pytest.approx(WIDTH_MM + 6, abs=0.01) and size[2] == pytest.approx(3)
    solid = relief_solid(FIGURE, ReliefSettings(), width_mm=WIDTH_MM)
    assert mesh.volume == pytest.approx(solid.volume_mm3, rel=1e-4)


def test_3mf_holds_two_named_coloured_solids_in_mm():
    """Read with lib3mf, the consortium's own library."""
    product = make_relief(FIGURE, ReliefSettings(), width_mm=WIDTH_MM, title="figure")
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(
        (ctypes.c_ubyte * len(product.files[1].data)).from_buffer_copy(product.files[1].data)
    )
    assert [reader.GetWarning(k) for k in range(reader.GetWarningCount())] == []
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    meshes = model.GetMeshObjects()
    seen = {}
    while meshes.MoveNext():
        mesh = meshes.GetCurrentMeshObject()
        assert mesh.IsManifoldAndOriented()
        box = mesh.GetOutbox()
        seen[mesh.GetName()] = (
            box.MinCoordinate[2],
            box.MaxCoordinate[2],
            box.MaxCoordinate[0] - box.MinCoordinate[0],
        )
    assert seen["base"] == pytest.approx((0, 2, WIDTH_MM + 6), abs=1e-2)
    assert seen["figure"] == pytest.approx((2, 3, WIDTH_MM), abs=2e-2)


def test_apparel_is_4500_by_5400_at_300_dpi_with_srgb():
    """15 x 18 in at 300 dpi (common practice / derived)."""
    product = make_apparel(FIGURE, ApparelSettings(), width_mm=240)
    image = Image.open(io.BytesIO(product.files[0].data))
    assert (image.size, image.mode) == ((4500, 5400), "RGBA")
    # pHYs holds whole px per metre: 11811 is 299.9994 dpi.
    assert image.info["dpi"] == pytest.approx((300, 300), abs=0.01) and "srgb" in image.info
    alpha = np.asarray(image)[..., 3]
    columns = np.nonzero(alpha.max(axis=0) > 127)[0]
    assert np.ptp(columns) + 1 == pytest.approx(240 / 25.4 * 300, abs=2)


def test_every_file_of_a_pack_opens_and_shows_the_figure(tmp_path):
    data = make_pack([PackItem("Figure", FIGURE, 120)], Listing("Figure"))
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        bundle.extractall(tmp_path)
    png = Image.open(tmp_path / "figure.png")
    assert png.mode == "RGBA" and png.info["dpi"] == pytest.approx((300, 300), abs=0.01)
    assert png.width == pytest.approx(120 * 1.04 / 25.4 * 300, abs=1)
    white = Image.new("RGBA", png.size, "white")
    flat = np.asarray(
        Image.alpha_composite(white, png).convert("RGB").resize((400, round(400 * png.height / png.width))),
        float,
    )
    jpeg = np.asarray(Image.open(tmp_path / "figure.jpg").convert("RGB").resize((400, flat.shape[0])), float)
    svg = resvg_py.svg_to_bytes(
        svg_string=(tmp_path / "figure.svg").read_text(), width=400, background="white", dpi=96
    )
    drawn = np.asarray(Image.open(io.BytesIO(bytes(svg))).convert("RGB"), float)
    assert off(flat, jpeg) < 0.01 and off(flat, drawn) < 0.02
    assert ezdxf.readfile(tmp_path / "figure.dxf").audit().errors == []
