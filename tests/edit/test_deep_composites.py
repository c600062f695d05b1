"""Composite prefabs of voxel rooms: blocks and things become one model, which follows its parts."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import stand
from tests.voxel_rooms import COLOURS, isle, library
from topion.brushes.marks import Marks, Place
from topion.brushes.parts import PARTS, parts_of, parts_project
from topion.edit.composites import composite_made, parts_set, scrap_of_parts
from topion.edit.picked import Picks
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.render.composed_models import composed_model
from topion.render.composites import composite_look
from topion.scripting import open as open_project

BASE = Box((3, 4, 5), (4, 6, 8))  # 1 level, 2 rows, 3 columns of stones


@pytest.fixture
def room():
    """A low wall of stones with a post on its western end."""
    room = isle(ground=3)
    room.lay("Stones", box=(BASE.lo, tuple(v - 1 for v in BASE.hi)))
    stand(room, Thing("Post", 4, 5, z=4))
    return room


def made(room, name="Beacon"):
    numbers = tuple(Pick("things", n) for n in room.data.layers["things"].things)
    picks = Picks(numbers, Area.of_box(BASE), ("blocks",))
    room.project.history.apply(
        composite_made(room.project.data, room.name, picks, name, composite_look)
    )
    return room.project.data.prefab(name)


def test_it_stands_in_its_cells_as_high_as_its_parts(room):
    beacon = made(room)
    assert beacon.footprint == ("###", "###")
    assert beacon.height == 1 + room.project.data.prefab("Post").height
    assert beacon.model.size == (beacon.height * 16, 32, 48) and beacon.model.per_cell == 16


def test_its_model_shows_its_blocks_and_its_things(room):
    model = made(room).model
    stones = {COLOURS["Stone a"], COLOURS["Stone b"]}
    assert {model.palette[n - 1] for n in np.unique(model.cells[:16])} <= stones
    assert (model.cells[:16] > 0).all()
    above = model.cells[16:]
    shown = {model.palette[n - 1] for n in np.unique(above[above > 0])}
    assert shown == {"#c02010", "#f0f0f0"}
    assert above[:4, :16, :16].any() and not above[:, 16:].any() and not above[:, :, 16:].any()


def test_a_turned_thing_is_turned_in_the_model(room):
    project = room.project.data
    box = Box((4, 0, 0), (6, 12, 14))
    straight = composed_model(project, room.data, box)
    layer = room.data.layers["things"]
    (number,) = layer.things
    stand(room, Thing("Tuft", 9, 9, z=4, lean=90.0, turn=30.0))
    leaning = composed_model(project, room.data, box)
    assert number and leaning.cells.any() and not np.array_equal(straight.cells, leaning.cells)


def test_a_stroke_on_its_parts_changes_model_and_cells_as_one_edit(room):
    before = made(room)
    project = room.project.data
    scratch = parts_project(project, scrap_of_parts(project, "Beacon"), 16)
    plan = scratch.brushes["Stones"].plan(Place(scratch, PARTS), Marks(np.array([(0, 4, 4)])))
    for record in plan.records:
        record.write(scratch)
    room.project.history.apply(parts_set(project, "Beacon", scratch, composite_look))
    after = project.prefab("Beacon")
    assert after.footprint == ("###", "###", "..#") and after.model.size[1] == 48
    room.project.undo()
    assert project.prefab("Beacon") == before


def test_its_parts_read_back_as_they_were_cut(room):
    made(room)
    project = room.project.data
    scrap = scrap_of_parts(project, "Beacon")
    scratch = parts_project(project, scrap, 16)
    again = parts_of(scratch, scratch.room(PARTS))
    assert [layer.things for layer in again.layers] == [layer.things for layer in scrap.layers]


def test_a_saved_one_opens_as_it_was(room, tmp_path):
    made(room)
    room.project.save(tmp_path / "Deep.topion")
    again = open_project(tmp_path / "Deep.topion")
    assert again.data.prefab("Beacon") == room.project.data.prefab("Beacon")


def test_one_too_wide_for_a_footprint_is_refused():
    room = library().add_room("Wide", (3, 4, 40))
    room.lay("Stones", box=((0, 0, 0), (0, 0, 36)))
    picks = Picks((), Area.of_box(Box((0, 0, 0), (1, 1, 37))), ("blocks",))
    with pytest.raises(BadValue, match="parts"):
        composite_made(room.project.data, room.name, picks, "Long", composite_look)


@settings(max_examples=15, deadline=None)
@given(st.sets(st.tuples(*(st.integers(0, 3),) * 3), min_size=1, max_size=12))
def test_every_full_cell_is_full_of_voxels_and_every_other_is_open(cells):
    room = library().add_room("Any", (4, 4, 4))
    room.lay("Stones", cells=sorted(cells))
    model = composed_model(room.project.data, room.data, room.data.box)
    full = model.cells.reshape(4, 16, 4, 16, 4, 16) > 0
    for cell in np.ndindex(4, 4, 4):
        z, y, x = cell
        assert full[z, :, y, :, x].all() == full[z, :, y, :, x].any() == (cell in cells)
