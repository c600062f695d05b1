"""A brush of each kind as a project would have it, for pictures of what kinds lay."""

from __future__ import annotations

from itertools import islice

from topion.brushes import CurveBrush, FieldBrush, Sown, Stamp, TintBrush
from topion.brushes.curve import CurvePart
from topion.brushes.kind import BrushKind, all_brushes
from topion.brushes.region import RegionBrush
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.render.samples import is_solid

_NAME = "Example"


def example_of(project: Project, kind: str, *, deep: bool) -> BrushKind | None:
    """The first brush of a kind that belongs to voxel rooms, or to flat ones; else a plain one of
    what the library has.  None where it has nothing for it."""
    for brush in all_brushes(project).values():
        if brush.kind == kind and is_solid(project, brush, flat=not deep) == deep:
            return brush
    return None if deep else _plain(project, kind)


def _plain(project: Project, kind: str) -> BrushKind | None:
    sizes = {name: known.picture.rgba.size for name, known in project.prefabs.items()}
    prefab = min(sizes, key=sizes.__getitem__, default="")
    if kind == "field" and prefab:
        return FieldBrush(_NAME, (Sown(prefab),), spacing=1.2)
    if kind == "curve" and prefab:
        return CurveBrush(_NAME, (CurvePart(prefab),))
    if kind == "region":
        return RegionBrush(_NAME)
    if kind == "tint" and len(project.palette) > 1:
        return TintBrush(_NAME, 1, 2)
    if kind == "stamp":
        return _first_tiles(project)
    return None


def _first_tiles(project: Project) -> Stamp | None:
    """The first two rows of two slots of a sheet."""
    for tileset in project.tilesets.values():
        refs = [TileRef(tileset.name, name) for name in islice(tileset.filled_slots(), 4)]
        if len(refs) == 4:
            return Stamp(_NAME, (tuple(refs[:2]), tuple(refs[2:])))
    return None
