"""Ramps whose head lacks the tile that joins it to the level ground."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.brushes.kind import all_brushes
from topion.brushes.shape import ShapeKind
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS
from topion.model.tileset import TileRef
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.weaving.looms import made_of
from topion.weaving.settle import shown_tiles


class RampHeads(RoomCheck):
    """One finding a ramp whose joining tile lies beyond its room or under something else."""

    name: ClassVar[str] = "ramp head"
    about: ClassVar[str] = "ramps without the tile that joins their head to the ground"

    def stamp(self, project: Project) -> object:
        brushes = tuple(b for b in all_brushes(project).values() if isinstance(b, ShapeKind))
        return brushes, made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        brushes = all_brushes(project)
        for layer_id, layer in room.cell_layers():
            shown = None
            for number, piece in layer.pieces.items():
                brush = brushes.get(piece.brush)
                if not isinstance(brush, ShapeKind):
                    continue
                for cell, wanted in brush.joints(piece):
                    if shown is None:
                        shown = shown_tiles(project, layer)
                    inside = all(0 <= v < n for v, n in zip(cell, shown.shape, strict=True))
                    if inside and int(shown[cell]) == _number_of(project, wanted):
                        continue
                    why = "something else lies on it" if inside else "it lies beyond the room"
                    near = tuple(min(max(0, v), n - 1)
                                 for v, n in zip(cell, room.info.size, strict=True))  # fmt: skip
                    yield Finding(self.name, f"{piece.brush} lacks the tile at its head: {why}",
                                  room.info.name, layer_id, near, piece=number)  # fmt: skip
                    break


def _number_of(project: Project, tile: TileRef) -> int:
    """By which it stands in the cells of a layer; 0 for none."""
    if tile.is_block:
        known = tile.slot in project.block_names
        return (project.block_names.index(tile.slot) + 1 << TURN_BITS) + tile.turn if known else 0
    return project.tiles.index(tile) + 1 if tile in project.tiles else 0
