"""Shapes made from marked slots: each part comes from where it lies on the sheet."""

from __future__ import annotations

import numpy as np
import pytest

from tests.rooms import SHEET, small_project, tile
from topion.brushes import Panel, Ramp, Run, Trail
from topion.brushes.slot_shapes import ARRANGEMENTS, arrangements_for, parts_in, shape_of_slots
from topion.brushes.slots import pattern_of
from topion.edit.shapes import put_shape
from topion.errors import BadValue
from topion.grid.boxes import Box


def sheet():
    return small_project().data.tileset(SHEET)


def made(lo, hi, n=0):
    tileset, box = sheet(), Box(lo, hi)
    return shape_of_slots(tileset, box, arrangements_for(tileset, box)[n], set())


def test_three_by_three_slots_are_a_panel_of_nine_parts_as_they_lie():
    brush = made((0, 0), (3, 3))
    assert isinstance(brush, Panel) and len(brush.parts) == 9
    assert brush.parts["nw"] == tile(0, 0) and brush.parts["mm"] == tile(1, 1)
    assert brush.parts["se"] == tile(2, 2) and brush.name == "sheet panel"


@pytest.mark.parametrize(
    ("size", "kind", "part", "at"),
    [((1, 3), Run, "end", (0, 2)), ((3, 1), Run, "bottom", (2, 0)), ((1, 4), Run, "alone", (0, 3)),
     ((4, 4), Panel, "aa", (3, 3)), ((3, 5), Panel, "aw", (0, 4)), ((1, 6), Trail, "nesw", (0, 4)),
     ((2, 3), Trail, "es", (0, 1)), ((1, 2), Run, "middle", (0, 1)), ((2, 2), Ramp, "under 2", (1, 1)),
     ((2, 1), Ramp, "fill", (1, 0)), ((1, 1), Ramp, "slope 1", (0, 0))],
)  # fmt: skip
def test_the_likeliest_arrangement_of_a_size_puts_each_part_in_its_place(size, kind, part, at):
    brush = made((0, 0), size)
    assert isinstance(brush, kind) and brush.parts[part] == tile(*at)


def test_every_arrangement_makes_a_brush_with_all_its_parts():
    tileset = sheet()
    for arrangement in ARRANGEMENTS:
        rows, columns = arrangement.shape
        box = Box((0, 0), (rows, columns))
        brush = shape_of_slots(tileset, box, arrangement, set())
        assert len(brush.parts) == len(arrangement.part_names()), arrangement.words
        assert brush.tiles_used()


def test_an_empty_slot_is_a_missing_part_that_is_named():
    tileset = sheet()  # its last row is empty
    box = Box((3, 0), (6, 3))
    brush = shape_of_slots(tileset, box, arrangements_for(tileset, box)[0], set())
    assert len(brush.parts) == 6 and "sw" not in brush.parts
    assert brush.found["sw"].found == "turned", "found by mirroring the corner above"
    empty = Box((5, 0), (6, 3))
    with pytest.raises(BadValue, match="at least one slot"):
        shape_of_slots(tileset, empty, arrangements_for(tileset, empty)[0], set())


def test_a_part_can_be_another_slot_than_the_one_where_it_lies():
    tileset, box = sheet(), Box((0, 0), (1, 3))
    run = arrangements_for(tileset, box)[0]
    brush = shape_of_slots(tileset, box, run, {"sheet run"}, {"end": tile(4, 4)})
    assert brush.parts["end"] == tile(4, 4) and brush.name == "sheet run 2"
    assert parts_in(tileset, box, run)["end"] == tile(0, 2)


def test_a_marked_block_repeats_as_a_pattern():
    project = small_project()
    project.add_brush(pattern_of(sheet(), Box((1, 1), (3, 4)), set()))
    room = project.add_room("Yard", (8, 9), 4)
    room.lay("sheet pattern", box=((1, 1), (6, 7)))
    from tests.rooms import slots

    found = np.array(slots(room))
    assert found[2][3] == "1,1" and found[3][4] == "2,2" and found[5][1] == "2,2"
    with pytest.raises(BadValue, match="all filled"):
        pattern_of(sheet(), Box((4, 0), (6, 2)), set())


def test_in_a_voxel_room_the_same_slots_make_a_shape_of_blocks():
    project = small_project()
    room = project.add_room("Deep", (6, 9, 9))
    made_of = {}
    for name, size in (("Box", (3, 3)), ("Beam", (1, 3)), ("Way", (1, 6)), ("Bank", (2, 1))):
        tileset, box = sheet(), Box((0, 0), size)
        flat = shape_of_slots(tileset, box, arrangements_for(tileset, box)[0], set())
        brush, edit = put_shape(project.data, flat.changed(name=name), deep=True)
        project.history.apply(edit)
        made_of[name] = brush
    assert made_of["Box"].parts["tnw"].slot == "sheet 0,0" and made_of["Box"].kind == "crate"
    assert project.data.blocks["sheet 0,0"].faces == (tile(0, 0),)
    assert made_of["Beam"].parts["start"].slot == "sheet 0,0", "a block that is there is used again"
    room.lay("Box", box=((0, 1, 1), (2, 4, 5)))
    room.lay("Beam", line=((4, 7, 1), (4, 7, 6)))
    assert room.material(2, 1, 1) == "Box" and room.material(4, 7, 3) == "Beam"
    for _ in range(6):
        project.undo()
    assert "Box" not in project.data.brushes and "sheet 0,0" not in project.data.blocks
