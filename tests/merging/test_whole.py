"""Two who work in copies of one project, put together."""

from __future__ import annotations

import random
from contextlib import suppress
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.both_kinds import both_kinds
from tests.merging.pairs import (
    Pair,
    drawn_apart,
    held,
    lay_all,
    merged,
    merged_room,
    onto,
    painted,
    quick,
    without_numbers,
)
from tests.rooms import tile
from tests.strategies import CELL_BRUSHES, THING_BRUSHES
from tests.trust.randoms import take
from topion.brushes import Mosaic, TintBrush
from topion.edit.history import History
from topion.edit.rooms import change_things, move_layer, set_room
from topion.errors import TopionError
from topion.merging.naming import project_of
from topion.merging.trees import FilesTree, tree_in_memory
from topion.merging.whole import merged_trees
from topion.model.compare import differences
from topion.model.conflict import CellsConflict, EntryConflict, SettingConflict
from topion.model.layer import LayerInfo
from topion.scripting import ProjectHandle
from topion.weaving.rules import Variant

BOXES = st.tuples(st.integers(0, 10), st.integers(0, 14), st.integers(0, 3), st.integers(0, 3))
STROKES = st.lists(
    st.tuples(st.sampled_from((*CELL_BRUSHES, *THING_BRUSHES, "Reeds", "Lift")), BOXES), max_size=4
)


@settings(deadline=None, max_examples=1000)
@given(STROKES, STROKES)
def test_what_two_painted_apart_is_what_one_then_the_other_paints(ours, theirs):
    base, mine, yours = quick([]), quick(ours), quick(theirs, shift=20)
    room, conflicts = merged_room(base, mine, yours)
    assert conflicts == ()
    lay_all(mine.room, theirs, 20)
    assert held(room) == held(mine.room.data)


@settings(deadline=None, max_examples=20)
@given(STROKES, STROKES)
def test_so_is_a_project_that_is_written_and_read_back(ours, theirs):
    pair = drawn_apart(ours, theirs)
    found = merged(pair)
    assert found.conflicts == ()
    lay_all(pair.ours, theirs, 20)
    assert held(found.project.room("Yard")) == held(pair.ours.data)


@settings(deadline=None, max_examples=40)
@given(STROKES, STROKES)
def test_what_both_painted_is_there_or_named(ours, theirs):
    pair = Pair(painted([]), painted(ours), painted(theirs))
    found = merged(pair)
    room = found.project.room("Yard")
    sides = [h.data.layers["ground"].plane("material") for h in (pair.base, pair.ours, pair.theirs)]
    both = (sides[0] != sides[1]) & (sides[0] != sides[2]) & (sides[1] != sides[2])
    kept = [c for c in room.conflicts if isinstance(c, CellsConflict) and c.plane == "material"]
    assert sum(one.count for one in kept) == both.sum()
    again = merged_trees(*[tree_in_memory(found.project)] * 3)
    assert differences(project_of(again.files), found.project) == []


def grown(seed: int, who: str, steps: int) -> ProjectHandle:
    """A project after random edits of every kind; all of one seed begin alike."""
    handle = both_kinds()
    handle.history, handle.data.id = History(handle.data), "randoms"
    for chance, many in (
        (random.Random(f"base {seed}"), 3),
        (random.Random(f"{who} {seed}"), steps),
    ):
        for _ in range(many):
            with suppress(TopionError):
                take(handle, chance)
    return handle


@pytest.mark.parametrize("seed", [*range(8), 132, 166, 345])
def test_any_two_lives_of_a_project_can_be_put_together(seed):
    base, ours, theirs = (tree_in_memory(grown(seed, who, steps).data)
                          for who, steps in (("", 0), ("ours", 6), ("theirs", 6)))  # fmt: skip
    project = project_of(merged_trees(base, ours, theirs).files)
    assert all(room.order for room in project.rooms.values() if room.layers)
    for one, other, want in ((base, theirs, theirs), (ours, base, ours), (ours, ours, ours)):
        found = merged_trees(base, one, other)
        assert not found.conflicts
        assert differences(project_of(found.files), project_of(want)) == []


# --- by example ---------------------------------------------------------------------------


def three() -> Pair:
    return Pair(painted([]), painted([]), painted([]))


def moss(seed: int) -> Mosaic:
    return Mosaic(f"Moss {seed}", (Variant(tile(4, seed)),), seed=seed)


def test_both_may_add_brushes_and_paint_with_them():
    pair = three()
    for number, handle in enumerate((pair.ours, pair.theirs), 1):
        handle.project.add_brush(moss(number))
        handle.lay(f"Moss {number}", cells=[(1, number)])
    found = merged(pair)
    ground = found.project.room("Yard").layers["ground"]
    names = [found.project.material_name(int(v)) for v in ground.plane("material")[1, :4]]
    assert names == ["Mud", "Moss 1", "Moss 2", "Mud"] and found.conflicts == ()
    bay = next(bay for bay in found.project.bays if "Moss 1" in bay.brushes)
    assert bay.brushes[-2:] == ("Moss 1", "Moss 2")


def test_things_that_both_numbered_alike_are_two_things():
    pair = three()
    pair.ours.lay("Bush", cells=[(2, 2)])
    pair.theirs.lay("Bush", cells=[(2, 20), (9, 9)])
    found = merged(pair)
    things = found.project.room("Yard").layers["things"].things
    assert sorted((t.y, t.x) for t in things.values()) == [(2, 2), (2, 20), (9, 9)]
    assert without_numbers(found.project) == without_numbers(onto(pair))


def test_the_same_thing_laid_by_both_is_one():
    pair = three()
    for handle in (pair.ours, pair.theirs):
        handle.lay("Bush", cells=[(2, 2)])
    assert len(merged(pair).project.room("Yard").layers["things"].things) == 1


def moved(handle, number, **values):
    thing = handle.data.layers["things"].things[number]
    handle.project.history.apply(
        change_things(
            handle.project.data, "Yard", "things", {number: replace(thing, **values)}, "Move"
        )
    )


def with_bush() -> Pair:
    pair = three()
    for handle in (pair.base, pair.ours, pair.theirs):
        handle.lay("Bush", cells=[(2, 2)])
    return pair


def test_one_moves_a_thing_while_the_other_one_turns_it():
    pair = with_bush()
    moved(pair.ours, 1, x=8.0)
    moved(pair.theirs, 1, turn=90.0)
    found = merged(pair)
    thing = found.project.room("Yard").layers["things"].things[1]
    assert (thing.x, thing.turn) == (8.0, 90.0) and found.conflicts == ()


def test_a_thing_moved_by_both_stays_where_ours_put_it_and_is_named():
    pair = with_bush()
    moved(pair.ours, 1, x=8.0)
    moved(pair.theirs, 1, y=9.0)
    room = merged(pair).project.room("Yard")
    (conflict,) = room.conflicts
    assert isinstance(conflict, EntryConflict) and conflict.told() == "the place of thing 1"
    assert room.layers["things"].things[1].x == 8.0 and conflict.values["y"] == 9.0


def test_a_thing_that_one_took_away_while_the_other_moved_it_stays_and_is_named():
    pair = with_bush()
    pair.ours.lift(cells=[(2, 2)])
    moved(pair.theirs, 1, x=8.0)
    room = merged(pair).project.room("Yard")
    (conflict,) = (c for c in room.conflicts if isinstance(c, EntryConflict))
    assert conflict.gone and conflict.side == "ours"
    assert room.layers["things"].things[1].x == 8.0


def test_one_lets_the_room_grow_while_the_other_paints_in_it():
    pair = with_bush()
    pair.ours.resize((20, 46), (4, 3))
    pair.theirs.lay("Stones", cells=[(0, 0)])
    pair.theirs.lay("Lamp", cells=[(5, 5)])
    found = merged(pair)
    room = found.project.room("Yard")
    assert room.info.size == (20, 46) and found.conflicts == ()
    material = room.layers["ground"].plane("material")
    assert found.project.material_name(int(material[4, 3])) == "Stones"
    places = {(t.prefab, t.y, t.x) for t in room.layers["things"].things.values()}
    assert places == {("Bush", 6, 5), ("Lamp", 9, 8)}


def test_both_let_the_room_grow_each_its_own_way():
    pair = three()
    pair.ours.resize((16, 40), (2, 0))
    pair.theirs.resize((14, 45))
    found = merged(pair)
    assert found.project.room("Yard").info.size == (16, 45) and found.conflicts == ()


def test_one_renames_a_brush_while_the_other_lays_it_in_a_new_layer():
    pair = three()
    pair.ours.project.rename("brushes", "Stones", "Pebbles")
    pair.theirs.add_layer("More", "tiles")
    pair.theirs.lay("Stones", cells=[(1, 1)], layer="More")
    found = merged(pair)
    assert found.project.materials.count("Pebbles") == 1 and "Stones" not in found.project.brushes
    more = found.project.room("Yard").layers["more"].plane("material")
    assert found.project.material_name(int(more[1, 1])) == "Pebbles"


def test_one_renames_a_prefab_while_the_other_changes_it():
    pair = three()
    pair.ours.project.rename("prefabs", "Bush", "Shrub")
    bush = pair.theirs.project.data.prefab("Bush")
    pair.theirs.project.add_prefab(replace(bush, height=3))
    pair.theirs.lay("Bush", cells=[(1, 1)])
    found = merged(pair)
    assert found.project.prefabs["Shrub"].height == 3 and "Bush" not in found.project.prefabs
    assert [t.prefab for t in found.project.room("Yard").layers["things"].things.values()] == [
        "Shrub"
    ]
    assert found.conflicts == ()


def test_a_room_that_one_took_away_while_the_other_painted_in_it_stays_and_is_named():
    pair = three()
    pair.ours.project.remove_room("Yard")
    pair.theirs.lay("Stones", cells=[(1, 1)])
    found = merged(pair)
    room = found.project.room("Yard")
    assert room.conflicts == (SettingConflict("", gone=True, side="ours"),)
    assert (
        found.project.material_name(int(room.layers["ground"].plane("material")[1, 1])) == "Stones"
    )


def test_a_layer_that_one_took_away_while_the_other_painted_in_it_stays_and_is_named():
    pair = three()
    pair.theirs.remove_layer("Ground")
    pair.ours.lay("Stones", cells=[(1, 1)])
    room = merged(pair).project.room("Yard")
    assert "ground" in room.layers and room.conflicts == (
        SettingConflict("ground", gone=True, side="theirs"),
    )


def test_what_nobody_painted_in_goes_quietly():
    pair = three()
    pair.theirs.remove_layer("Ground")
    pair.ours.lay("Bush", cells=[(1, 1)])
    room = merged(pair).project.room("Yard")
    assert "ground" not in room.layers and room.conflicts == ()


def test_settings_that_both_set_otherwise_are_named():
    pair = three()
    for handle, colour, notes in ((pair.ours, "#111111", ""), (pair.theirs, "#222222", "wet")):
        handle.project.history.apply(
            set_room(handle.project.data, "Yard", backdrop=colour, notes=notes)
        )
    room = merged(pair).project.room("Yard")
    assert room.info.backdrop == "#111111" and room.info.notes == "wet"
    (conflict,) = room.conflicts
    assert conflict == SettingConflict("", values={"backdrop": "#222222"})


def test_colours_that_both_numbered_alike_are_two_colours():
    pair = three()
    for handle, name, cell in ((pair.ours, "Red", (0, 0)), (pair.theirs, "Blue", (0, 1))):
        number = handle.project.add_tint(name, "#aa0000" if name == "Red" else "#0000aa")
        handle.add_tint_map("Night")
        handle.project.add_brush(TintBrush(f"Paint {name}", fore=number))
        handle.lay(f"Paint {name}", cells=[cell], layer="Night")
    found = merged(pair)
    tints = {tint.number: tint.name for tint in found.project.palette}
    fore = found.project.room("Yard").layers["night"].plane("fore")
    assert [tints[int(v)] for v in fore[0, :2]] == ["Red", "Blue"]


def test_a_brush_changed_by_both_keeps_the_other_version():
    pair = three()
    for handle, seed in ((pair.ours, 11), (pair.theirs, 22)):
        mud = handle.project.data.brush("Mud")
        handle.project.add_brush(mud.changed(seed=seed))
    found = merged(pair)
    assert found.project.brush("Mud").seed == 11
    (conflict,) = found.project.shelf("conflicts").values()
    assert (conflict.shelf, conflict.item, conflict.values) == ("brushes", "Mud", {"seed": 22})


def test_from_nothing_two_projects_of_the_same_name_are_one():
    pair = three()
    pair.ours.lay("Stones", cells=[(1, 1)])
    found = merged_trees(FilesTree(), tree_in_memory(pair.ours.project.data),
                         tree_in_memory(pair.base.project.data))  # fmt: skip
    assert [c for _, c in found.conflicts if c.get("kind") == "cells"]
    assert project_of(found.files).rooms


def test_layers_that_one_ordered_and_the_other_added_to():
    pair = three()
    project = pair.ours.project
    project.history.apply(move_layer(project.data, "Yard", "ground", 1))
    pair.theirs.add_layer("Fog", "things")
    room = merged(pair).project.room("Yard")
    assert [*room.order] == ["things", "ground", "fog"]
    assert isinstance(room.layers["fog"].info, LayerInfo)
