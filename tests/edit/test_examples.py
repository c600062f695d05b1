"""Examples to learn from: areas of rooms and pictures made elsewhere."""

import numpy as np
import pytest

from topion.demo.brinehollow import ROOM, brinehollow
from topion.edit.examples import (
    given_groups,
    groups_in,
    learned_by_cells,
    learned_by_tiles,
    patch_of_area,
    patch_of_picture,
)
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.render.scene import render_room


@pytest.fixture(scope="module")
def demo():
    return brinehollow()


@pytest.fixture(scope="module")
def patch(demo):
    room = demo.data.room(ROOM)
    layer_id = room.id_of("Ground")
    return patch_of_area(demo.data, room, layer_id, Area.of_box(room.box))


def test_an_area_of_the_demo_is_learned_cell_by_cell(demo, patch):
    names = dict(given_groups(patch, demo.data))
    assert "Mud" in names and "Water" in names
    learned = learned_by_cells(patch, demo.data, "Mud")
    assert learned.cells > 1000
    assert learned.reproduced >= 0.995 * learned.cells
    assert len(learned.book.rules) <= 47


def test_a_rim_round_the_area_tells_its_cells_apart(demo):
    room = demo.data.room(ROOM)
    box = Box((6, 6), (20, 30))
    patch = patch_of_area(demo.data, room, room.id_of("Ground"), Area.of_box(box))
    assert patch.tile.shape == (18, 28) and patch.first == (4, 4)
    assert patch.asked.sum() <= box.size
    learned = learned_by_cells(patch, demo.data, "Mud")
    assert learned.reproduced >= 0.99 * learned.cells


def test_a_picture_of_a_room_is_taken_for_the_slots_of_its_tile_set(demo):
    data = demo.data
    room = data.room(ROOM)
    room_only_ground = room.frozen()
    room_only_ground.order = (room.id_of("Ground"),)
    rgba = render_room(data, room_only_ground)
    patch, made = patch_of_picture(rgba, (16, 16), "yard", data.tilesets)
    assert patch.tile.shape == room.info.size
    if made is None:
        assert {ref.tileset for ref in patch.refs} <= set(data.tilesets)
    else:
        assert made.name == "yard"


def test_materials_are_proposed_as_they_were_painted(demo, patch):
    """Every tile of mud, with all its rims, comes into one group; of water none does."""
    painted = {name: set(group.refs) for name, group in given_groups(patch, demo.data)}
    for group in groups_in(patch):
        mud = len(set(group.refs) & painted["Mud"])
        assert mud in (0, len(painted["Mud"])), group.refs
        assert mud == 0 or set(group.refs) == painted["Mud"]


def checker():
    """Two tiles in turn, and one alone on the right of its row."""
    rng = np.random.default_rng(2)
    tiles = rng.integers(1, 255, (3, 8, 8, 4), np.uint8)
    tiles[..., 3] = 255
    cells = np.indices((6, 6)).sum(axis=0) % 2
    cells[2, 5] = 2
    rows = [np.concatenate([tiles[n] for n in row], axis=1) for row in cells]
    return np.concatenate(rows), cells


def test_tiles_of_a_picture_come_into_a_tile_set_of_their_own_each_once():
    rgba, cells = checker()
    patch, made = patch_of_picture(rgba, (8, 8), "drawn", {})
    assert made is not None and len(list(made.filled_slots())) == 3
    assert (patch.tile == cells).all()
    assert [ref.slot for ref in patch.refs] == ["0,0", "0,1", "0,2"]
    again, known = patch_of_picture(rgba, (8, 8), "again", {"drawn": made})
    assert known is None and again.refs == patch.refs


def test_groups_can_be_given_other_names_and_are_learned_so():
    rgba, cells = checker()
    patch, _ = patch_of_picture(rgba, (8, 8), "drawn", {})
    a = patch.refs[0]
    learned = learned_by_tiles(patch, {a: "Sand"}, "Sand")
    assert learned.cells == learned.reproduced == (cells == 0).sum()
    (rule,) = learned.book.rules
    assert [v.tile for v in rule.variants] == [a]
    assert sum(group.cells for group in groups_in(patch)) == cells.size


def test_pictures_that_cannot_be_cut_are_told_why():
    with pytest.raises(BadValue, match="whole tiles"):
        patch_of_picture(np.zeros((4, 4, 4), np.uint8), (8, 8), "tiny", {})
    noise = np.random.default_rng(0).integers(1, 255, (100, 100, 4), np.uint8)
    with pytest.raises(BadValue, match="tile size"):
        patch_of_picture(noise, (1, 1), "noise", {})


def test_an_area_without_tiles_is_told(demo):
    room = demo.data.room(ROOM)
    layer_id = next(
        i for i, la in room.bottom_up("tiles") if not la.plane("material")[:2, :2].any()
    )
    with pytest.raises(BadValue, match="with tiles"):
        patch_of_area(demo.data, room, layer_id, Area.of_box(Box((0, 0), (2, 2))))
