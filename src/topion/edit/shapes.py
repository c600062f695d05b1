"""Edits that bring a shape brush into the library, for flat rooms or for rooms of blocks."""

from __future__ import annotations

from topion.brushes.crate import Crate
from topion.brushes.panel import Panel
from topion.brushes.shape import ShapeKind
from topion.edit.library import free_name, put_block, put_brush
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.model.solid import Block, block_ref
from topion.model.tileset import TileRef


def put_shape(project: Project, brush: ShapeKind, *, deep: bool) -> tuple[ShapeKind, Edit]:
    """A new brush of tiles, and what puts it on the rack.

    deep : as one of blocks instead: each of its tiles is all six faces of a block.  A panel is a
    crate then, its parts seen from above.
    """
    if not deep:
        return brush, put_brush(project, brush)
    blocks = {ref: _block(project, ref, brush.colour) for ref in brush.parts.values()}
    parts = {key: block_ref(blocks[ref].name) for key, ref in brush.parts.items()}
    made: ShapeKind
    if isinstance(brush, Panel):
        made = Crate(brush.name, {f"t{key}": ref for key, ref in parts.items()}, brush.layer,
                     brush.colour)  # fmt: skip
    else:
        made = brush.changed(parts=parts)
    scratch = project.scratch()
    fresh = (block for block in blocks.values() if block.name not in scratch.blocks)
    edits = list(written(scratch, (put_block(scratch, block) for block in fresh)))
    last = put_brush(scratch, made)
    return made, joined(last.label, (*edits, last), brush.colour)


def _block(project: Project, ref: TileRef, colour: str) -> Block:
    """The block with that tile on all sides: one that is there, or a new one."""
    faces = (ref._replace(turn=0, mirrored=False),)
    known = next((b for b in project.blocks.values() if b.faces == faces and not b.model), None)
    name = free_name(f"{ref.tileset} {ref.slot}", project.blocks, project.brushes)
    return known or Block(name, colour, faces)
