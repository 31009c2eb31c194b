"""Reliefs: watertight, heights in layers, one origin, mass by volume."""

import dataclasses
import math

import pytest
import trimesh
from hypothesis import given
from shapely.geometry import Polygon

from samples import circle, drawing, examples, rectangle, ring, star_drawings
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import Shape
from zeichen.core.geometry.mesh import Mesh
from zeichen.core.making.relief import BaseForm, ReliefSettings, make_relief, relief_parts, relief_solid


def as_trimesh(mesh: Mesh) -> trimesh.Trimesh:
    return trimesh.Trimesh(mesh.vertices_mm, mesh.triangles, process=False)


@examples(10)
@given(star_drawings())
def test_solids_are_watertight_and_hold_what_their_outlines_say(draw):
    """trimesh is the reference for watertightness and volume."""
    for form in BaseForm:
        chosen = ReliefSettings(form=form)
        solid = relief_solid(draw, chosen, width_mm=60)
        reference = as_trimesh(solid)
        assert reference.is_watertight and reference.is_winding_consistent
        assert solid.volume_mm3 == pytest.approx(reference.volume, rel=1e-6)
        parts = relief_parts(draw, chosen, width_mm=60)
        assert solid.volume_mm3 == pytest.approx(sum(part.mesh.volume_mm3 for part in parts), rel=1e-4)
        assert all(as_trimesh(part.mesh).is_watertight for part in parts)


def test_base_and_figure_share_one_origin_and_one_face():
    base, figure = relief_parts(drawing(circle(100, 100, 80)), ReliefSettings(), width_mm=60)
    assert base.mesh.vertices_mm[:, 2].min() == 0
    assert base.mesh.vertices_mm[:, 2].max() == figure.mesh.vertices_mm[:, 2].min() == 2
    low, high = base.mesh.vertices_mm.min(axis=0), base.mesh.vertices_mm.max(axis=0)
    assert low[:2] == pytest.approx([0, 0], abs=1e-3) and high[:2] == pytest.approx([66, 66], abs=1e-2)


def test_a_one_mm_part_on_a_two_mm_base_has_its_middle_at_two_and_a_half():
    """Derived: 2 + 1 / 2."""
    _, figure = relief_parts(drawing(rectangle(0, 0, 100, 50)), ReliefSettings(), width_mm=50)
    assert as_trimesh(figure.mesh).center_mass[2] == pytest.approx(2.5)


def test_an_outline_base_follows_the_figure_and_bridges_loose_pieces():
    chosen = ReliefSettings(form=BaseForm.OUTLINE)
    plate = relief_parts(drawing(circle(100, 100, 80)), ReliefSettings(), width_mm=60)[0]
    outline = relief_parts(drawing(circle(100, 100, 80)), chosen, width_mm=60)[0]
    assert outline.mesh.volume_mm3 < plate.mesh.volume_mm3
    two = relief_parts(drawing(circle(40, 100, 20), circle(160, 100, 20)), chosen, width_mm=60)[0]
    assert len(as_trimesh(two.mesh).split(only_watertight=True)) == 1


def test_touching_corners_still_give_a_solid():
    checker = drawing(rectangle(0, 0, 50, 50), rectangle(50, 50, 50, 50))
    assert as_trimesh(relief_solid(checker, ReliefSettings(), width_mm=40)).is_watertight


def test_a_hole_goes_down_to_the_base():
    solid = relief_solid(drawing(ring(100, 100, 80, 40)), ReliefSettings(), width_mm=60)

    def loops(height_mm: float) -> list[float]:
        cut = as_trimesh(solid).section(plane_origin=[0, 0, height_mm], plane_normal=[0, 0, 1])
        return sorted(Polygon(loop[:, :2]).area for loop in cut.discrete)

    assert loops(2.5) == [pytest.approx(math.pi * 15**2, rel=0.01), pytest.approx(math.pi * 30**2, rel=0.01)]
    assert len(loops(1.0)) == 1


@pytest.mark.parametrize(("base_mm", "advice"), [(2.1, "Try 2 or 2.2 mm"), (0.1, "Try 0.2 or 0.4 mm")])
def test_heights_are_multiples_of_the_layer(base_mm, advice):
    with pytest.raises(
        InvalidInputError, match=f"multiple of the 0.2 mm layer height; got {base_mm:g} mm. {advice}"
    ):
        ReliefSettings(base_mm=base_mm)


@pytest.mark.parametrize("height_mm", [0.2, 0.6, 3.0, 5.6])
def test_honest_multiples_pass_in_spite_of_binary_fractions(height_mm):
    assert ReliefSettings(base_mm=height_mm, layer_mm=0.2).base_mm == height_mm
    assert dataclasses.replace(ReliefSettings(), layer_mm=0.1, raised_mm=0.3).raised_mm == 0.3


def test_layers_and_changes_are_counted():
    readings = {
        r.label: r.value
        for r in make_relief(drawing(circle(100, 100, 80)), ReliefSettings(), width_mm=60, title="t").readings
    }
    assert readings["Layers"] == 15  # 3 mm at 0.2 mm (derived)
    assert readings["Colour changes"] == 1  # common practice, no source: colours - 1 when each height has one


def test_a_figure_that_vanishes_is_refused():
    white = drawing(Shape("w", (rectangle(0, 0, 50, 50),), "#ffffff"))
    with pytest.raises(InvalidInputError, match="nothing to raise"):
        relief_solid(white, ReliefSettings(), width_mm=20)
