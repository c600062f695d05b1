"""Faces of blocks that go on through a pattern by their place in the room."""

from __future__ import annotations

import numpy as np
import pytest

from tests.rooms import SHEET, small_project, tile
from topion.brushes import Mosaic
from topion.brushes.slots import block_of
from topion.errors import BadValue
from topion.formats.gltf import faces_by_material
from topion.grid.boxes import Box
from topion.grid.orient import PICTURE_RIGHT, PICTURE_UP
from topion.model.solid import Block, block_ref
from topion.render.faces import face_book
from topion.render.volume import mesh_box
from topion.scripting import open as open_project
from topion.weaving.rules import Variant

PATTERN = tuple(tuple(tile(y, x) for x in range(3)) for y in (1, 2))


def room_of_blocks():
    project = small_project()
    project.add_block(Block("Wall", pattern=PATTERN))
    project.add_block(Block("Plain", "#808080"))
    for name in ("Wall", "Plain"):
        project.add_brush(Mosaic(name, (Variant(block_ref(name)),)))
    room = project.add_room("Deep", (9, 10, 11))
    room.lay("Plain", box=((0, 0, 0), (0, 9, 10)))
    room.lay("Wall", box=((1, 2, 3), (5, 8, 9)))
    return room


@pytest.mark.parametrize("box", [Box((0, 0, 0), (9, 10, 11)), Box((2, 3, 4), (6, 9, 8))])
def test_each_face_shows_the_part_of_the_pattern_at_its_place(box):
    room = room_of_blocks()
    book = face_book(room.project.data)
    layer = room.data.layers["blocks"]
    quads = mesh_box(room.project.data, layer, box)
    first = int(book.faces[room.project.data.block_names.index("Wall") + 1 << 5, 0])
    seen = set()
    for face, cell, size, look in zip(
        quads.faces, quads.cells, quads.sizes, quads.looks, strict=True
    ):
        if look < first or look >= first + 6:
            continue
        assert size.tolist() == [1, 1], "no two neighbours of this pattern look alike"
        at = cell.astype(int) + np.array(box.lo)
        right = int(at @ PICTURE_RIGHT[face])
        down = -int(at @ PICTURE_UP[face])
        # seen from outside, what lies right of a face shows the next column, below it the next row
        row, column = (down + _start(face, "down")) % 2, (right + _start(face, "right")) % 3
        seen.add((int(face), row, column, int(look - first)))
    shown = {(face, row, column): look for face, row, column, look in seen}
    assert len(shown) == len(seen), "one place shows one part"
    for (_, row, column), look in shown.items():
        assert look == row * 3 + column


def _start(face: int, way: str) -> int:
    """Sides whose pictures run against an axis begin one cell on."""
    against = PICTURE_RIGHT[face] if way == "right" else -PICTURE_UP[face]
    return -1 if against.sum() < 0 else 0


def test_a_block_of_marked_slots_repeats_over_its_faces(tmp_path):
    project = small_project()
    block = block_of(project.data.tileset(SHEET), Box((1, 0), (3, 4)), set())
    assert len(block.pattern) == 2 and len(block.pattern[0]) == 4 and not block.faces
    project.add_block(block)
    again = open_project(project.save(tmp_path / "A.topion"))
    assert again.data.blocks[block.name] == block


def test_a_pattern_stands_instead_of_faces():
    with pytest.raises(BadValue, match="instead of faces"):
        Block("B", faces=(tile(0, 0),), pattern=PATTERN)
    with pytest.raises(BadValue, match="same length"):
        Block("B", pattern=((tile(0, 0),), ()))


def test_patterns_are_in_exported_meshes_too():
    room = room_of_blocks()
    project = room.project.data
    number = project.material_id("Wall")
    faces = faces_by_material(project, room.data)[number]
    quads = mesh_box(project, room.data.layers["blocks"], room.data.box)
    book = face_book(project)
    first = int(book.faces[project.block_names.index("Wall") + 1 << 5, 0])
    mine = (quads.looks >= first) & (quads.looks < first + 6)
    assert np.array_equal(np.unique(faces.layers), np.unique(book.layers[quads.looks[mine]]))
    assert len(np.unique(faces.layers)) == 6
