"""3MF (through lib3mf, the consortium's own library): named parts with colours on one build plate.

Source: 3MF Core Specification 1.3 (model, resources, base materials, build).
"""

import ctypes

import lib3mf
import numpy as np

from zeichen.core.geometry.mesh import Part


def write_3mf(parts: list[Part], *, title: str) -> bytes:
    """Return a 3MF package: one mesh object a part, all with the same origin, each with its colour."""
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    model.GetMetaDataGroup().AddMetaData("", "Title", title, "xs:string", True)
    model.GetMetaDataGroup().AddMetaData("", "Application", "Zeichen", "xs:string", True)
    materials = model.AddBaseMaterialGroup()
    for part in parts:
        red, green, blue = (int(part.colour[k : k + 2], 16) for k in (1, 3, 5))
        material = materials.AddMaterial(part.name, wrapper.RGBAToColor(red, green, blue, 255))
        mesh = model.AddMeshObject()
        mesh.SetName(part.name)
        mesh.SetGeometry(_positions(part), _triangles(part))
        mesh.SetObjectLevelProperty(materials.GetResourceID(), material)
        model.AddBuildItem(mesh, wrapper.GetIdentityTransform())
    buffer = model.QueryWriter("3mf").WriteToBuffer()
    return bytes(buffer)


def _positions(part: Part) -> list[lib3mf.Position]:
    triple = ctypes.c_float * 3
    return [lib3mf.Position(triple(*row)) for row in part.mesh.vertices_mm.astype(np.float32).tolist()]


def _triangles(part: Part) -> list[lib3mf.Triangle]:
    triple = ctypes.c_uint32 * 3
    return [lib3mf.Triangle(triple(*row)) for row in part.mesh.triangles.tolist()]
