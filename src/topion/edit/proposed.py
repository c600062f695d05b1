"""A sheet with the brushes it is likely made for, as one Edit."""

from __future__ import annotations

from topion.brushes.proposing import proposed_brushes
from topion.edit.library import put_brush, put_tileset
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.model.tileset import TileSet


def sheet_with_brushes(project: Project, tileset: TileSet) -> tuple[Edit, list[str]]:
    """The Edit, and the names of the brushes.  Raises NameTaken for a tile set that is there."""
    scratch = project.scratch()
    edits = list(written(scratch, [put_tileset(scratch, tileset)]))
    brushes, names = put_proposed(scratch, tileset)
    return joined(f"Bring in {tileset.name}", [*edits, brushes]), names


def put_proposed(project: Project, tileset: TileSet) -> tuple[Edit, list[str]]:
    """The brushes alone, of a tile set that is in the project."""
    scratch = project.scratch()
    found = proposed_brushes(tileset, {*scratch.brushes, *scratch.materials})
    edits = list(written(scratch, (put_brush(scratch, brush, bay) for bay, brush in found)))
    return joined(f"Brushes of {tileset.name}", edits), [brush.name for _, brush in found]


def told_of(project: Project, names: list[str]) -> str:
    """What was proposed, in words: `2 weaves, 3 mosaics`."""
    kinds = [project.brushes[name].kind for name in names]
    counts = {kind: kinds.count(kind) for kind in dict.fromkeys(kinds)}
    return ", ".join(f"{count} {kind}{'s' * (count != 1)}" for kind, count in counts.items())
