"""Composite prefabs: made of what is picked, drawn from their parts, and changed with them."""

import numpy as np
import pytest

from tests.rooms import SIDE, small_project, stand
from topion import scripting
from topion.brushes import Stamp
from topion.brushes.marks import Marks, Place
from topion.brushes.parts import PARTS, parts_of, parts_project
from topion.edit.composites import composite_made, parts_set, scrap_of_parts
from topion.edit.names import needed_by, rename_item
from topion.edit.picked import Picks
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.render.composites import composite_look


@pytest.fixture
def room():
    """Two cells of mud with a lamp on them, and a bush."""
    room = small_project().add_room("Yard", (12, 16), SIDE)
    room.lay("Mud", box=((4, 5), (5, 7)))
    stand(room, Thing("Lamp", 4, 5))
    return room


def picks(room):
    layer = room.data.id_of("Things")
    cells = tuple(k for k, la in room.data.layers.items() if la.info.kind == "tiles")
    numbers = tuple(Pick(layer, n) for n in room.data.layers[layer].things)
    return Picks(numbers, Area.of_box(Box((4, 5), (5, 7))), cells)


def made(room, name="Mast"):
    edit = composite_made(room.project.data, room.name, picks(room), name, composite_look)
    room.project.history.apply(edit)
    return room.project.data.prefab(name)


def scratch_of(room, name="Mast"):
    project = room.project.data
    return parts_project(project, scrap_of_parts(project, name), SIDE)


def paint(scratch, brush, *cells):
    for record in (
        scratch.brushes[brush]
        .plan(Place(scratch, PARTS, scratch.room(PARTS).order[0]), Marks(np.array(cells)))
        .records
    ):
        record.write(scratch)


def test_a_composite_stands_where_its_cells_and_things_do(room):
    mast = made(room)
    assert mast.footprint == ("##",)
    assert mast.picture.size_px[1] == 2 * SIDE
    assert mast.parts == "Mast parts"
    assert {"Mast", "Mast parts"} <= set(room.project.data.brushes)
    cards = {name for bay in room.project.data.bays for name in bay.brushes}
    assert {"Mast", "Mast parts"} <= cards
    room.project.undo()
    assert "Mast" not in room.project.data.prefabs
    assert "Mast parts" not in room.project.data.brushes


def test_parts_laid_and_cut_again_are_the_same_parts(room):
    made(room)
    scratch = scratch_of(room)
    before = scrap_of_parts(room.project.data, "Mast")
    again = parts_of(scratch, scratch.room(PARTS))
    assert again.size == before.size
    assert [layer.things for layer in again.layers] == [layer.things for layer in before.layers]
    assert not parts_set(room.project.data, "Mast", scratch, composite_look).records


def test_its_things_look_as_its_parts_do(room):
    before = made(room)
    scratch = scratch_of(room)
    paint(scratch, "Mud", (2, 4), (1, 3))
    edit = parts_set(room.project.data, "Mast", scratch, composite_look)
    room.project.history.apply(edit)
    after = room.project.data.prefab("Mast")
    assert after.footprint == (".#.", "###")
    assert after.picture != before.picture
    assert scrap_of_parts(room.project.data, "Mast").size == (2, 3)
    room.project.undo()
    assert room.project.data.prefab("Mast") == before


def test_the_anchor_is_at_the_foot_of_the_middle_cell(room):
    mast = made(room)
    height, _ = mast.picture.size_px
    assert mast.anchor_px == (height, SIDE // 2)


def test_a_prefab_cannot_be_part_of_itself(room):
    made(room)
    scratch = scratch_of(room)
    paint(scratch, "Mast", (1, 1))
    with pytest.raises(BadValue, match="other things than itself"):
        parts_set(room.project.data, "Mast", scratch, composite_look)


def test_what_cannot_be_a_composite_is_told(room):
    project = room.project.data
    with pytest.raises(BadValue, match="a name that no prefab or brush has"):
        composite_made(project, room.name, picks(room), "Lamp", composite_look)
    with pytest.raises(BadValue, match="cells or things"):
        composite_made(project, room.name, Picks(), "None", composite_look)


def test_parts_read_back_as_they_were_written(room, tmp_path):
    mast = made(room)
    room.project.save(tmp_path / "It.topion")
    again = scripting.open(tmp_path / "It.topion").data
    assert again.prefab("Mast") == mast
    assert isinstance(again.brushes["Mast parts"], Stamp)


def test_its_parts_follow_another_name_and_go_along(room):
    made(room)
    project = room.project
    project.history.apply(rename_item(project.data, "brushes", "Mast parts", "Mast and lamp"))
    assert project.data.prefab("Mast").parts == "Mast and lamp"
    needed = needed_by(project.data, project.data.prefab("Mast"))
    assert {("brushes", "Mast and lamp"), ("prefabs", "Lamp")} <= set(needed)


def test_parts_that_are_missing_are_told(room):
    made(room)
    project = room.project.data
    del project.brushes["Mast parts"]
    with pytest.raises(BadValue, match="the parts of Mast"):
        scrap_of_parts(project, "Mast")
