"""Regions: named areas of cells, drawn as cells are, of which rules and conditions speak."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_room
from tests.voxel_rooms import isle
from tests.walk.texts import begin, drawn, put, until
from topion.brushes import FieldBrush, Sown, ThingsBrush
from topion.brushes.region import RegionBrush
from topion.conditions import Inside
from topion.edit.names import rename_item, rename_region
from topion.edit.rooms import resize_room, set_layer
from topion.errors import BadValue, NameTaken
from topion.model.compare import differences
from topion.model.condition import When
from topion.model.edit import Edit
from topion.model.records import taken_away
from topion.render.cards import card_picture
from topion.roles import Door
from topion.scripting import open as open_project
from topion.things.rules import InZone
from topion.walk import RIGHT


@pytest.fixture
def room():
    room = small_room((12, 16))
    room.project.add_brush(RegionBrush("Nave", "zone"))
    return room


def inside(room, name="Nave"):
    return room.data.region(name).plane("inside") > 0


def test_the_first_stroke_makes_it_and_undo_takes_it_away(room):
    room.lay("Nave", box=((2, 3), (4, 6)))
    wanted = np.zeros((12, 16), bool)
    wanted[2:5, 3:7] = True
    assert (inside(room) == wanted).all()
    assert room.data.region("Nave").info.purpose == "zone"
    room.project.undo()
    assert room.data.region("Nave") is None


def test_it_is_drawn_in_none_of_the_pictures(room):
    before = room.render(1.0)
    room.lay("Nave", box=((2, 3), (4, 6)))
    assert (room.render(1.0) == before).all()
    assert [layer.info.kind for _, layer in room.data.drawn()].count("region") == 0


def test_its_cells_are_lifted_again_and_more_are_added(room):
    room.lay("Nave", box=((2, 3), (4, 6)))
    taken = room.project.data.brush("Nave").lifting()
    room.lay(taken, cells=[(2, 3)])
    room.lay("Nave", cells=[(9, 9)])
    assert not inside(room)[2, 3] and inside(room)[9, 9] and inside(room).sum() == 12


def test_it_grows_and_moves_with_the_room(room):
    room.lay("Nave", cells=[(2, 3)])
    room.project.history.apply(resize_room(room.project.data, room.name, (14, 18), (1, 2)))
    assert inside(room)[3, 5] and inside(room).sum() == 1


def test_it_is_written_and_read(room, tmp_path):
    room.lay("Nave", box=((2, 3), (4, 6)))
    room.project.save(tmp_path / "Zoned.topion")
    again = open_project(tmp_path / "Zoned.topion")
    assert not differences(room.project.data, again.data)
    assert again.room(room.name).data.region("Nave").info.purpose == "zone"
    assert (tmp_path / "Zoned.topion" / "rooms").exists()


def test_a_rule_keeps_things_in_it_or_out_of_it(room):
    project = room.project
    project.add_prefab(prefab("Inner", InZone("Nave"), footprint=("##",)))
    project.add_prefab(prefab("Outer", InZone("Nave", never=True)))
    room.lay("Nave", box=((2, 3), (4, 6)))
    assert room.verdict("Inner", 3, 4).allowed and not room.verdict("Inner", 3, 6).allowed
    refused = room.verdict("Outer", 3, 4)
    assert refused.reasons[0].told() == "must stand outside Nave, wanted outside Nave"
    assert room.verdict("Outer", 8, 8).allowed and refused.nearest is not None


def test_without_such_a_region_nothing_stands_in_it(room):
    room.project.add_prefab(prefab("Inner", InZone("Elsewhere")))
    assert not room.verdict("Inner", 3, 4).allowed
    room.project.add_prefab(prefab("Any", InZone()))
    assert room.verdict("Any", 3, 4).allowed, "a rule without a region yet refuses nothing"


def test_a_field_sows_only_in_it(room):
    project = room.project
    project.add_brush(FieldBrush("Moss", (Sown("Bush"),), spacing=1.0, density=1.0,
                                 rules=(InZone("Nave"),)))  # fmt: skip
    room.lay("Nave", box=((2, 3), (7, 9)))
    room.lay("Moss", box=((0, 0), (11, 15)))
    sown = room.sown("Moss")
    assert sown and all(inside(room)[round(t.y), round(t.x)] for t in sown)


def test_in_a_voxel_room_it_is_an_area_of_cells_in_space():
    room = isle(ground=3)
    room.project.add_brush(RegionBrush("Vault", "zone"))
    room.project.add_prefab(prefab("Inner", InZone("Vault")))
    room.lay("Vault", box=((3, 2, 2), (4, 5, 5)))
    assert room.verdict("Inner", 3, 3, 3).allowed and not room.verdict("Inner", 8, 8, 3).allowed


@settings(max_examples=20, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 15)), min_size=1, max_size=12))
def test_laying_and_lifting_the_same_cells_leaves_none(cells):
    room = small_room((12, 16))
    room.project.add_brush(RegionBrush("Nave"))
    room.lay("Nave", cells=cells)
    assert inside(room).sum() == len(set(cells))
    room.lay(room.project.data.brush("Nave").lifting(), cells=cells)
    assert not inside(room).any()


def test_a_door_opens_when_the_figure_is_in_it():
    room = drawn(*(["............"] * 4), "############")
    room.project.add_brush(RegionBrush("Porch", "trigger"))
    room.project.add_brush(ThingsBrush("Gate", "Gate"))
    room.lay("Porch", box=((0, 5), (3, 7)))
    put(room, "Gate", 3, 11, Door(), when=When("opens", (Inside("Porch"),)))
    state = until(begin(room, 3, 1), RIGHT, lambda s: s.lives[0].on)
    assert state.place()[2] == pytest.approx(4.5, abs=0.11) and state.news == ("Gate opened",)
    state = until(state, RIGHT, lambda s: not s.lives[0].on)
    assert state.news == ("Gate shut",)


def test_renamed_it_takes_its_brush_and_all_that_speaks_of_it_along(room):
    project = room.project
    project.add_prefab(prefab("Inner", InZone("Nave"), when=When("opens", (Inside("Nave"),))))
    room.lay("Nave", box=((2, 3), (4, 6)))
    for rename in (
        lambda: rename_item(project.data, "brushes", "Nave", "Crypt"),
        lambda: rename_region(project.data, "Nave", "Crypt"),
    ):
        project.history.apply(rename())
        inner = project.data.prefabs["Inner"]
        assert inner.rules == (InZone("Crypt"),) and inner.when.all_of == (Inside("Crypt"),)
        assert room.data.region("Crypt") is not None and room.data.region("Nave") is None
        assert "Crypt" in project.data.brushes and "Nave" not in project.data.brushes
        project.undo()
        assert room.data.region("Nave") is not None


def test_without_a_brush_it_is_renamed_too_but_not_to_one_that_is_there(room):
    project = room.project
    project.add_brush(RegionBrush("Crypt"))
    for name in ("Nave", "Crypt"):
        room.lay(name, cells=[(1, 1)])
    with pytest.raises(NameTaken, match="Crypt"):
        rename_region(project.data, "Nave", "Crypt")
    project.history.apply(Edit("No brush", (taken_away(project.data, ("brushes", "Nave")),)))
    with pytest.raises(NameTaken, match="region"):
        rename_region(project.data, "Nave", "Crypt")
    with pytest.raises(BadValue, match="letter"):
        rename_region(project.data, "Nave", " ")
    project.history.apply(rename_region(project.data, "Nave", "Choir"))
    assert room.data.region("Choir") is not None


def test_its_properties_are_kept_in_the_file(room, tmp_path):
    room.lay("Nave", cells=[(1, 1)])
    layer_id = room.data.id_of("Nave")
    room.project.history.apply(
        set_layer(room.project.data, room.name, layer_id, values=(("music", "slow"),))
    )
    room.project.save(tmp_path / "Church.topion")
    found = open_project(tmp_path / "Church.topion").room(room.name).data.region("Nave")
    assert found.info.values == (("music", "slow"),)


def test_its_card_shows_it_in_its_colour(room):
    data = room.project.data
    card = card_picture(data, data.brush("Nave"))
    other = card_picture(data, replace(data.brush("Nave"), colour="#1f7a6c"))
    assert card.shape == other.shape and 0 < (card != other).any(axis=2).mean() < 1
