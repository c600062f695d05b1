"""Edits of blocks: their traits, faces and looks, and where they are used."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from topion.edit.library import free_name, put_block, put_tileset
from topion.edit.models import with_brush
from topion.edit.resheet import with_pictures
from topion.edit.slots import SlotUse, in_rooms, on_shelves
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.model.solid import TURN_BITS, Block, BlockLook, VoxelModel
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import picture_of

FACE_COUNTS = (1, 3, 6)
COLOURS = "Colours"  # the tile set of slots of one colour
_SIDE_PX, _COLUMNS = 16, 8


def set_block(project: Project, name: str, **changes: Any) -> Edit:
    """Give a block other traits or looks.  Raises BadValue for what a block cannot have."""
    block = project.named("blocks", name)
    edit = put_block(project, replace(block, **changes))
    what = ", ".join(field.replace("_", " ") for field in changes)
    return replace(edit, label=f"{name}: {what}") if edit else edit


def new_block(project: Project, colour: str = "#94744e") -> Edit:
    """A plain block with a brush that lays it; its name is the last word of the label."""
    name = free_name("Block", project.blocks, project.brushes)
    return with_brush(project, Block(name, colour))


def plainly(block: Block) -> dict[str, Any]:
    """What to set for a block of one colour."""
    return {"faces": (), "pattern": (), "model": None}


def faced(block: Block, count: int, first: TileRef) -> dict[str, Any]:
    """What to set for a block with so many faces, 1, 3 or 6, told from those it has.

    first : a tile for a block without any.
    """
    six = block.six_faces or (first,) * 6
    parts = {1: (six[0],), 3: (six[0], six[2], six[1]), 6: six}
    return {"faces": parts[count], "pattern": (), "model": None}


def with_face(block: Block, number: int, ref: TileRef) -> dict[str, Any]:
    """What to set for another tile on one of its faces, or of its pattern, row by row."""
    if block.pattern:
        wide = len(block.pattern[0])
        flat = [ref for row in block.pattern for ref in row]
        flat[number] = ref
        rows = (tuple(flat[at : at + wide]) for at in range(0, len(flat), wide))
        return {"pattern": tuple(rows)}
    faces = list(block.faces)
    faces[number] = ref
    return {"faces": tuple(faces)}


def with_look(block: Block, theme: str, colour: str = "", *, number: int = -1) -> dict[str, Any]:
    """What to set for another colour in a theme, of the block, or of one of its model's palette.

    theme : empty for the first.  colour : empty to look as in the first theme again.
    """
    if not theme:
        return _first_look(block, colour, number)
    themes = dict(block.themes)
    if not colour:
        themes.pop(theme, None)
        return {"themes": themes}
    look = themes.get(theme, BlockLook(block.colour))
    if number < 0 or block.model is None:
        themes[theme] = replace(look, colour=colour)
        return {"themes": themes}
    known = look.palette if len(look.palette) == len(block.model.palette) else block.model.palette
    themes[theme] = replace(look, palette=_changed(known, number, colour))
    return {"themes": themes}


def _first_look(block: Block, colour: str, number: int) -> dict[str, Any]:
    model = block.model
    if number < 0 or model is None:
        return {"colour": colour}
    palette = _changed(model.palette, number, colour)
    return {"model": VoxelModel(model.cells.copy(), palette, model.per_cell)}


def _changed(palette: tuple[str, ...], number: int, colour: str) -> tuple[str, ...]:
    return (*palette[:number], colour, *palette[number + 1 :])


def block_uses(project: Project, name: str) -> Iterator[SlotUse]:
    """Everything that lays a block, and the rooms that were read in which it shows."""
    yield from on_shelves(project, "blocks", name)
    if name in project.block_names:
        number = project.block_names.index(name) + 1
        yield from in_rooms(project, "blocks", lambda shown: shown >> TURN_BITS == number)


def coloured_face(project: Project, name: str, number: int, colour: str) -> Edit:
    """A face of one colour: a slot of that colour, in a tile set of such, laid on it."""
    scratch = project.scratch()
    edits = list(written(scratch, [_colour_slot(scratch, colour)]))
    ref = TileRef(COLOURS, colour)
    block = scratch.named("blocks", name)
    edits.append(set_block(scratch, name, **with_face(block, number, ref)))
    return joined(f"{name}: {colour} on a face", [edit for edit in edits if edit])


def _colour_slot(project: Project, colour: str) -> Edit:
    """A slot of one colour, by that name, in the tile set of such."""
    tileset = project.tilesets.get(COLOURS)
    if tileset is not None and colour in tileset.slots:
        return Edit(colour)
    side = _SIDE_PX if tileset is None else tileset.cut.tile[0]
    tile = np.full((side, side, 4), 255, np.uint8)
    tile[..., :3] = tuple(bytes.fromhex(colour[1:]))
    if tileset is not None:
        return with_pictures(project, COLOURS, {colour: tile})
    sheet = np.zeros((side, side * _COLUMNS, 4), np.uint8)
    sheet[:, :side] = tile
    new = TileSet(COLOURS, picture_of(sheet), Cut((side, side)), {colour: Slot((0, 0))})
    return put_tileset(project, new)
