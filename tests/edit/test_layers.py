"""Layers: attached, moved, duplicated, merged, in groups."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import tinted_room
from tests.rooms import drawn, small_room
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.edit.layers import (
    attach,
    duplicate_layer,
    group_layers,
    groups_of,
    layer_below,
    merge_down,
    move_contents,
    moving_along,
    show_layer,
)
from topion.errors import BadValue
from topion.scripting import RoomHandle

SIGNS = {"Mud": "m", "Water": "~", "Stones": "#"}


def layered() -> RoomHandle:
    """Mud below, water and stones painted on a layer above, things and a field."""
    room = small_room((8, 10))
    room.add_layer("Cover", "tiles", above="Ground")
    room.lay("Water", box=((1, 1), (3, 3)), layer="Cover")
    room.lay("Stones", box=((5, 5), (6, 7)), layer="Cover")
    room.lay("Lamp", cells=[(4, 4), (2, 8)])
    room.lay("Reeds", box=((4, 1), (7, 3)))
    return room


def do(room: RoomHandle, plan, *args, **named) -> None:
    room.project.history.apply(plan(room.project.data, room.name, *args, **named))


def layer_id(room: RoomHandle, name: str) -> str:
    return room.data.id_of(name)


def test_what_is_attached_moves_along_with_the_contents():
    room = layered()
    do(room, attach, layer_id(room, "Things"), layer_id(room, "Cover"))
    before = {n: (t.y, t.x) for n, t in room.data.layer(layer_id(room, "Things")).things.items()}
    do(room, move_contents, layer_id(room, "Cover"), (1, 1))
    assert drawn(room, SIGNS, "Cover")[2] == "..~~~....."
    after = {n: (t.y, t.x) for n, t in room.data.layer(layer_id(room, "Things")).things.items()}
    assert after == {n: (y + 1, x + 1) for n, (y, x) in before.items()}
    assert drawn(room, SIGNS)[0] == "m" * 10


def test_a_field_that_is_attached_moves_with_its_density_and_seeds_nothing_new():
    room = layered()
    field = next(i for i, _ in room.data.bottom_up("field"))
    do(room, attach, field, layer_id(room, "Cover"))
    density = room.data.layers[field].plane("density").copy()
    do(room, move_contents, layer_id(room, "Cover"), (0, 2))
    moved = room.data.layers[field].plane("density")
    assert np.array_equal(moved[:, 2:], density[:, :-2])
    room.project.undo()
    assert np.array_equal(room.data.layers[field].plane("density"), density)


def test_an_offset_carries_what_is_attached():
    room = layered()
    do(room, attach, layer_id(room, "Things"), layer_id(room, "Cover"))
    room.set_layer("Cover", offset=(0.5, -0.25))
    assert room.data.layer(layer_id(room, "Things")).info.offset == (0.5, -0.25)


def test_layers_of_cells_and_rings_cannot_be_attached():
    room = layered()
    room.add_layer("More", "things")
    with pytest.raises(BadValue, match="a field or a layer of things"):
        do(room, attach, layer_id(room, "Cover"), layer_id(room, "Ground"))
    do(room, attach, layer_id(room, "More"), layer_id(room, "Things"))
    with pytest.raises(BadValue, match="not itself"):
        do(room, attach, layer_id(room, "Things"), layer_id(room, "More"))
    assert moving_along(room.data, layer_id(room, "Things")) == [
        layer_id(room, "Things"), layer_id(room, "More")
    ]  # fmt: skip


def test_taking_a_layer_away_lets_go_of_what_was_attached():
    room = layered()
    do(room, attach, layer_id(room, "Things"), layer_id(room, "Cover"))
    room.remove_layer("Cover")
    assert room.data.layer(layer_id(room, "Things")).info.attached == ""
    room.project.undo()
    assert room.data.layer(layer_id(room, "Things")).info.attached == layer_id(room, "Cover")


def test_a_locked_layer_stays_where_it_is():
    room = layered()
    room.set_layer("Cover", locked=True)
    edit = move_contents(room.project.data, room.name, layer_id(room, "Cover"), (1, 0))
    assert not edit
    assert edit.refused == ("layer Cover is locked",)


@settings(max_examples=25, deadline=None)
@given(st.integers(-9, 9), st.integers(-9, 9))
def test_moving_contents_is_undone_whole(dy, dx):
    room = layered()
    before, at = room.render(), room.project.history.at
    do(room, move_contents, layer_id(room, "Cover"), (dy, dx))
    room.project.history.jump(at)
    assert np.array_equal(room.render(), before)


# --- duplicated ---------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["Cover", "Things"])
def test_a_copy_holds_the_same_under_numbers_of_its_own(name):
    room = layered()
    do(room, duplicate_layer, layer_id(room, name))
    old = room.data.layer(layer_id(room, name))
    new = room.data.layer(layer_id(room, f"{name} copy"))
    for plane in old.planes:
        assert np.array_equal(old.plane(plane), new.plane(plane))
    assert list(old.things.values()) == list(new.things.values())
    assert not set(old.things) & set(new.things)
    order = list(room.data.order)
    assert order.index(layer_id(room, f"{name} copy")) == order.index(layer_id(room, name)) + 1


def test_a_copy_of_pieces_shows_the_same_and_is_undone_whole():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (6, 8)))
    before = room.render()
    cells_id = room.data.cell_layers()[-1][0]
    do(room, duplicate_layer, cells_id)
    assert np.array_equal(room.render(), before)
    room.project.undo()
    assert len(room.data.cell_layers()) == 1


# --- merged -------------------------------------------------------------------------------


def test_merging_down_keeps_the_materials_that_were_seen():
    room = layered()
    do(room, merge_down, layer_id(room, "Cover"))
    assert "Cover" not in [layer.info.name for layer in room.data.layers.values()]
    assert drawn(room, SIGNS)[2] == "m~~~mmmmmm"
    assert drawn(room, SIGNS)[5] == "mmmmm###mm"
    room.project.undo()
    assert drawn(room, SIGNS, "Cover")[2] == ".~~~......"
    assert drawn(room, SIGNS)[2] == "m" * 10


def test_things_of_two_layers_come_into_one_with_their_numbers():
    room = layered()
    room.add_layer("More", "things")
    room.lay("Bush", cells=[(7, 9)], layer="More")
    numbers = {n for layer in room.data.layers.values() for n in layer.things}
    do(room, merge_down, layer_id(room, "More"))
    assert set(room.data.layer(layer_id(room, "Things")).things) == numbers
    room.project.undo()
    assert len(room.data.layer(layer_id(room, "More")).things) == 1


def test_pieces_come_to_lie_over_those_below_and_look_the_same():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (6, 8)))
    room.add_layer("Upper", "tiles")
    upper = layer_id(room, "Upper")
    room.project.history.apply(merge_free(room, upper, ((4, 5), (9, 12))))
    before = room.render()
    do(room, merge_down, upper)
    after = room.render()
    for top, left, bottom, right in ((2, 2, 7, 9), (4, 5, 10, 13)):  # what lies round is woven anew
        part = np.s_[top * 4 : bottom * 4, left * 4 : right * 4]
        assert np.array_equal(after[part], before[part])


def merge_free(room: RoomHandle, layer: str, box):
    """A shed laid on a layer, whatever its home is."""
    from topion.brushes.gestures import Gesture
    from topion.brushes.marks import Place

    brush = room.project.data.brush("Wall").at_home(room.data.layers[layer].info.name)
    marks = Gesture("box").marks(np.array(box, float), None)
    return brush.plan(Place(room.project.data, room.name, layer), marks)


def test_tint_maps_are_merged_part_by_part():
    room = tinted_room()
    room.add_tint_map("Upper")
    from topion.brushes import TintBrush

    room.lay(TintBrush("Rust", 4), box=((0, 0), (11, 15)))
    upper = room.data.info.tint
    do(room, merge_down, upper)
    layer = room.data.layer(layer_id(room, "Evening"))
    assert (layer.plane("fore") == 4).all()
    assert layer.plane("back")[2, 2] == 2  # what the upper left as it was


def test_what_cannot_be_merged_says_why():
    room = layered()
    with pytest.raises(BadValue, match="nothing"):
        do(room, merge_down, layer_id(room, "Ground"))
    room.set_layer("Ground", locked=True)
    with pytest.raises(BadValue, match="locked"):
        do(room, merge_down, layer_id(room, "Cover"))
    room.set_layer("Ground", locked=False)
    room.set_layer("Cover", offset=(0.5, 0.0))
    with pytest.raises(BadValue, match="offset"):
        do(room, merge_down, layer_id(room, "Cover"))


def test_the_layer_below_is_the_next_of_its_kind():
    room = layered()
    assert layer_below(room.data, layer_id(room, "Cover")) == layer_id(room, "Ground")
    assert layer_below(room.data, layer_id(room, "Things")) == ""


def test_blocks_are_moved_copied_and_merged_too():
    room = isle()
    before = room.render(0.5)
    blocks = room.data.cell_layers()[0][0]
    do(room, duplicate_layer, blocks)
    do(room, merge_down, room.data.cell_layers()[-1][0])
    assert np.array_equal(room.render(0.5), before)
    do(room, move_contents, blocks, (1, 0, 0))
    assert room.material(3, 5, 5) == "Ground"
    assert room.material(0, 5, 5) == ""


# --- groups -------------------------------------------------------------------------------


def test_layers_of_a_group_are_shown_and_hidden_together():
    room = layered()
    ids = [layer_id(room, name) for name in ("Cover", "Things")]
    do(room, group_layers, ids, "Upstairs")
    assert groups_of(room.data) == {"Upstairs": ids}
    do(room, show_layer, ids[0], False)
    assert [room.data.layer(i).info.shown for i in ids] == [False, False]
    room.project.undo()
    assert [room.data.layer(i).info.shown for i in ids] == [True, True]
    do(room, group_layers, ids[:1], "")
    do(room, show_layer, ids[1], False)
    assert [room.data.layer(i).info.shown for i in ids] == [True, False]
