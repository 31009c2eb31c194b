"""The whole job in the browser, from an empty collection to files that other programs open."""

import ctypes
import io
import re
import subprocess
import zipfile
from pathlib import Path

import ezdxf
import ezdxf.bbox
import lib3mf
import numpy as np
import pytest
import resvg_py
import svgelements
import trimesh
from PIL import Image
from playwright.sync_api import Page, expect

from e2e_steps import bring_in, choose_stage, download, make, new_collection, take_to_proof
from samples import rose_picture
from zeichen.standins.laser import rehearse


@pytest.mark.parametrize("source", ["drawn", "brought in"])
def test_from_an_empty_collection_to_every_file(page: Page, tmp_path: Path, source: str):
    new_collection(page, f"Market stall, {source}")
    if source == "drawn":
        motif = "Teapot"
        page.get_by_label("Subjects").fill("Teapot\nSnail")
        expect(page.get_by_role("region", name="Wording")).to_contain_text(
            "A teapot. One solid dark silhouette"
        )
        page.get_by_role("button", name="Draw the sketches").click()
        sheet = page.get_by_role("region", name="Sketches of Teapot")
        expect(sheet.get_by_role("button", name=re.compile("^Sketch"))).to_have_count(4, timeout=60_000)
    else:
        motif = "Rosette"
        page.get_by_label("Subjects").fill("Rosette")
        page.get_by_label("Subjects").blur()
        expect(
            page.get_by_role("navigation", name="Motifs").get_by_role("button", name=re.compile(motif))
        ).to_be_visible()
        choose_stage(page, "Sketch")
        bring_in(page, "rosette.png", rose_picture())
        sheet = page.get_by_role("region", name=f"Sketches of {motif}")
        expect(sheet.get_by_role("button", name=re.compile("^Sketch"))).to_have_count(1, timeout=60_000)
    width_mm = take_to_proof(page, sheet)

    svg, gcode = make(page, "Laser", tmp_path)
    _check_laser(svg, gcode, width_mm)
    (dxf,) = make(page, "Carve", tmp_path)
    _check_carve(dxf, width_mm)
    stl, mf = make(page, "Relief", tmp_path)
    _check_relief(stl, mf, width_mm)
    (png,) = make(page, "Apparel", tmp_path)
    _check_apparel(png, width_mm)

    choose_stage(page, "Pack")
    page.get_by_label("Title").fill("Market stall set")
    page.get_by_role("button", name="Write the pack").click()
    if source == "brought in":
        # Nothing in the picture's file says how it came about: that is asked before anything is packed.
        expect(
            page.get_by_role("alert").filter(has_text="Say whether a picture generator was used")
        ).to_be_visible()
        page.get_by_role("radio", name="drawn by hand").click()
        page.get_by_role("button", name="Write the pack").click()
    link = page.get_by_role("link", name="Market stall set")
    expect(link).to_be_visible(timeout=60_000)
    _check_pack(download(page, link.click, tmp_path), motif.lower(), declared=source == "drawn")


def _check_laser(svg: Path, gcode: Path, width_mm: float) -> None:
    text = svg.read_text()
    assert '<g id="engrave">' in text
    image = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=text, dpi=288, background="white"))))
    dark = np.nonzero(np.asarray(image.convert("L")) < 128)
    assert (np.ptp(dark[1]) + 1) / 288 * 25.4 == pytest.approx(width_mm, abs=0.6)
    document = svgelements.SVG.parse(io.StringIO(text))
    x0, _, x1, _ = svgelements.Group.union_bbox(
        [e for e in document.elements() if isinstance(e, svgelements.Path)]
    )
    assert (x1 - x0) / 96 * 25.4 == pytest.approx(width_mm, abs=0.05)
    run = rehearse(gcode.read_text())
    assert run.bounds_mm[2] - run.bounds_mm[0] == pytest.approx(width_mm, abs=0.2)
    assert (run.bounds_mm[0] + run.bounds_mm[2]) / 2 == pytest.approx(50, abs=0.1)


def _check_carve(dxf: Path, width_mm: float) -> None:
    document = ezdxf.readfile(dxf)
    assert document.audit().errors == []
    entities = list(document.modelspace())
    assert entities and all(entity.closed for entity in entities)
    assert ezdxf.bbox.extents(entities).size.x == pytest.approx(width_mm, abs=0.05)


def _check_relief(stl: Path, mf: Path, width_mm: float) -> None:
    mesh = trimesh.load(stl)
    assert mesh.is_watertight
    assert mesh.extents[0] == pytest.approx(width_mm + 6, abs=0.02) and mesh.extents[2] == pytest.approx(3)
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    data = mf.read_bytes()
    reader.ReadFromBuffer((ctypes.c_ubyte * len(data)).from_buffer_copy(data))
    assert model.GetMeshObjects().Count() == 2


def _check_apparel(png: Path, width_mm: float) -> None:
    image = Image.open(png)
    assert (image.size, image.mode) == ((4500, 5400), "RGBA") and image.info["dpi"][0] == pytest.approx(
        300, abs=0.01
    )
    columns = np.nonzero(np.asarray(image)[..., 3].max(axis=0) > 127)[0]
    assert (np.ptp(columns) + 1) / 300 * 25.4 == pytest.approx(width_mm, abs=0.2)


def _check_pack(path: Path, stem: str, *, declared: bool) -> None:
    folder = path.parent / "pack"
    with zipfile.ZipFile(path) as bundle:
        assert bundle.testzip() is None
        bundle.extractall(folder)
    listing = (folder / "listing.txt").read_text()
    assert ("trainedAlgorithmicMedia" in listing) is declared
    svg = bytes(
        resvg_py.svg_to_bytes(
            svg_string=(folder / f"{stem}.svg").read_text(), width=600, background="white", dpi=96
        )
    )
    expected = np.asarray(Image.open(io.BytesIO(svg)).convert("L"), float)
    for name, command in (
        (
            f"{stem}.eps",
            ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-dEPSCrop", "-sDEVICE=png16m", "-r72"],
        ),
        (f"{stem}.pdf", ["pdftoppm", "-r", "72", "-png", "-singlefile"]),
    ):
        out = folder / f"{name}.png"
        words = (
            [*command, f"-sOutputFile={out}", str(folder / name)]
            if "gs" in command
            else [*command, str(folder / name), str(out.with_suffix(""))]
        )
        subprocess.run(words, check=True, timeout=60)
        seen = np.asarray(
            Image.open(out).convert("L").resize(expected.shape[::-1], Image.Resampling.LANCZOS), float
        )
        assert np.abs(seen - expected).mean() < 6
    assert (
        Image.open(folder / f"{stem}.png").mode == "RGBA"
        and Image.open(folder / f"{stem}.jpg").format == "JPEG"
    )
    assert ezdxf.readfile(folder / f"{stem}.dxf").audit().errors == []
