"""Things in patterns, on ceilings and walls, piled, and on parts of cells."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import prefab, small_project, small_room
from tests.voxel_rooms import isle
from topion.brushes import ThingsBrush
from topion.brushes.gestures import Mirror, mirrored
from topion.brushes.kind import CannotTurn
from topion.brushes.marks import Marks, Place
from topion.brushes.pattern import Pattern, Spot
from topion.edit import picked_moves
from topion.edit.picked import Picks
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.plain import from_plain, to_plain
from topion.render.volume import thing_matrix, thing_seat
from topion.things.broken import broken
from topion.things.ground import Ground


def lay(room, brush, *cells, path=None, **marks):
    marks = Marks(np.array(cells), None if path is None else np.array(path, float), **marks)
    edit = brush.plan(Place(room.project.data, room.name), marks)
    room.project.history.apply(edit)
    return edit


def standing(room):
    return sorted((t.prefab, *t.at[-room.data.info.axes :]) for t in room.things())


def test_a_pattern_stands_round_its_pivot():
    room = small_room()
    pattern = Pattern(2, 3, 2.0, 2.5, (1, 1), (Spot(0, 0, "Cart"), Spot(0, 2, left_out=True),
                                               Spot(1, 2, x=0.25, scale=2.0)))  # fmt: skip
    lay(room, ThingsBrush("Six", "Bush", pattern=pattern), (10, 10))
    assert standing(room) == [("Bush", 8, 10), ("Bush", 10, 7.5), ("Bush", 10, 10),
                              ("Bush", 10, 12.75), ("Cart", 8, 7.5)]  # fmt: skip
    assert [t.scale for t in room.things() if t.x == 12.75] == [2.0]


def test_a_pattern_keeps_the_rules_of_what_it_laid_itself():
    room = small_room()
    row = Pattern(1, 3, 1.0, 1.0, spots=(Spot(0, 0, "Cart"),))
    edit = lay(room, ThingsBrush("Row", "Bush", pattern=row), (10, 10))
    assert standing(room) == [("Bush", 10, 12), ("Cart", 10, 10)]
    assert edit.refused == ("1 refused",), "the cart keeps the cell of the first bush"


def test_a_pattern_turns_and_mirrors_with_the_brush():
    pattern = Pattern(1, 3)
    for turn, flipped, want in ((0, False, (5, 7)), (90, False, (7, 5)), (180, False, (5, 3)),
                                 (0, True, (5, 3))):  # fmt: skip
        room = small_room()
        lay(room, ThingsBrush("Row", "Bush", turn=turn, mirrored=flipped, pattern=pattern), (5, 5))
        assert want in {(t.y, t.x) for t in room.things()}


def test_each_place_asks_the_rules_of_its_own_prefab():
    room = small_room()
    room.lay("Water", box=((0, 0), (5, 31)))
    brush = ThingsBrush("Two", "Bush", pattern=Pattern(1, 2, spots=(Spot(0, 1, "Reed"),)))
    edit = lay(room, brush, (2, 2))
    assert edit.refused == ("1 refused",) and standing(room) == [("Bush", 2, 2)]


@pytest.mark.parametrize("bad", [
    {"rows": 0}, {"columns": 17}, {"pivot": (1, 0)}, {"spots": (Spot(0, 3),)},
    {"spots": (Spot(0, 0), Spot(0, 0))}, {"apart_x": 0.0},
], ids=str)  # fmt: skip
def test_a_pattern_that_cannot_be_is_refused(bad):
    with pytest.raises(BadValue):
        Pattern(**{"rows": 1, "columns": 2, **bad})


@given(st.integers(1, 16), st.integers(1, 16), st.data())
def test_patterns_read_back_and_take_other_sizes(rows, columns, data):
    at = (data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, columns - 1)))
    pattern = Pattern(rows, columns, pivot=at).with_spot(Spot(*at, "Bush", turn=15.0))
    assert from_plain(Pattern, to_plain(pattern)) == pattern
    small = pattern.sized(1, 1)
    assert small.pivot == (0, 0) and pattern.with_spot(Spot(*at)).spots == ()
    assert len(list(small.places())) == 1


# --- floor, ceiling, wall -----------------------------------------------------------------


def hall():
    """A side view of a chamber: solid all round, open inside rows 2 to 7, columns 2 to 9."""
    project = small_project()
    project.add_prefab(replace(project.data.prefab("Bush"), turns="quarters"))
    room = project.add_room("Hall", (10, 12), 4, seen="side")
    room.lay("Stones", box=((0, 0), (9, 11)))
    room.lift(box=((2, 2), (7, 9)))
    return room


@pytest.mark.parametrize(("surface", "at", "turn"), [
    ("floor", (7, 5), 0), ("ceiling", (2, 5), 180), ("west wall", (4, 2), 90),
    ("east wall", (4, 9), 270),
])  # fmt: skip
def test_a_thing_goes_to_the_surface_that_holds_it(surface, at, turn):
    room = hall()
    edit = lay(room, ThingsBrush("Hung", "Bush", surface=surface), (4, 5))
    assert edit and standing(room) == [("Bush", *at)] and room.things()[0].turn == turn


def test_a_key_finds_the_next_surface_that_carries():
    room = hall()
    room.lift(box=((2, 0), (7, 1)))
    place = Place(room.project.data, "Hall")
    brush = ThingsBrush("Hung", "Bush")
    found = []
    for _ in range(3):
        brush = brush.held_by_next(place, (4, 4))
        found.append(brush.surface)
    assert found == ["ceiling", "east wall", "floor"]
    assert brush.changed(surface="ceiling").straightened().surface == "floor"


def test_what_may_not_be_turned_is_held_by_the_floor_alone():
    room = hall()
    with pytest.raises(CannotTurn):
        ThingsBrush("L", "Lamp").held_by_next(Place(room.project.data, "Hall"), (4, 4))
    yard = small_room()
    with pytest.raises(CannotTurn):
        ThingsBrush("C", "Cart").held_by_next(Place(yard.project.data, "Yard"), (4, 4))


@pytest.mark.parametrize(("surface", "at"), [
    ("ceiling", (4, 5, 5)), ("north wall", (3, 3, 5)), ("south wall", (3, 8, 5)),
    ("west wall", (3, 5, 3)), ("east wall", (3, 5, 8)), ("floor", (2, 5, 5)),
])  # fmt: skip
def test_a_thing_of_a_voxel_room_hangs_on_walls_and_ceilings(surface, at):
    room = isle(ground=0)
    data = room.project.data
    room.lay("Stones", box=((1, 2, 2), (5, 9, 9)))
    room.lift(box=((2, 3, 3), (4, 8, 8)))
    room.project.add_prefab(replace(data.prefab("Tuft"), tips=True))
    edit = lay(room, ThingsBrush("Hung", "Tuft", surface=surface), (3, 5, 5))
    assert edit, edit.refused
    (thing,) = room.things()
    assert thing.at == at
    matrix, by = thing_matrix(data.prefab("Tuft"), data.prefab("Tuft").model, thing)
    size = np.array(data.prefab("Tuft").model.size, float)
    foot = matrix @ np.array([0.0, size[1] / 2, size[2] / 2]) + by
    assert np.allclose(foot, thing_seat(thing))
    middle = np.array(at) + 0.5
    down = foot - middle  # points into the block that holds it
    cell = tuple(np.floor(middle + down * 1.5).astype(int))
    assert data.room("Isle").layer("blocks").plane("material")[cell]


# --- parts of cells -----------------------------------------------------------------------


def test_piling_closes_the_gap_to_what_stands_there():
    room = small_room()
    brush = ThingsBrush("Pile", "Bush", cell_parts=4, piles=True)
    for _ in range(3):
        lay(room, brush, (5, 5), path=[(5.125, 5.125)])
    at = np.array([(t.y, t.x) for t in room.things()])
    gaps = np.abs(at[:, None] - at[None]).max(axis=2)[~np.eye(3, dtype=bool)]
    assert np.isclose(gaps, 1.0).any() and (gaps > 0.999).all()


def test_a_pile_never_overlaps_and_keeps_to_rules():
    room = small_room()
    room.lay("Lamp", cells=[(5, 5)])
    brush = ThingsBrush("Pile", "Cart", piles=True, cell_parts=2)
    lay(room, brush, (5, 5))
    (cart,) = [t for t in room.things() if t.prefab == "Cart"]
    assert (cart.y, cart.x) != (5, 5)


def test_a_prefab_that_snaps_stands_there_however_it_is_laid_dragged_or_typed():
    room = small_room()
    room.project.add_prefab(replace(room.project.data.prefab("Bush"), snaps=2))
    lay(room, ThingsBrush("Fine", "Bush", cell_parts=4), (5, 5), path=[(5.1, 5.4)])
    (thing,) = room.things()
    assert (thing.y, thing.x) == (5.25, 5.25)
    number = next(iter(room.data.layer("things").things))
    edit = picked_moves.moved(
        room.project.data, "Yard", Picks((Pick("things", number),)), (1.1, 0.4)
    )
    room.project.history.apply(edit)
    (thing,) = room.things()
    assert (thing.y, thing.x) == (6.25, 5.75)


def test_turns_places_and_mirrors_differ_by_place_alone():
    rooms = [small_room() for _ in range(2)]
    for room in rooms:
        room.project.add_prefab(
            replace(room.project.data.prefab("Bush"), turns="any", mirrors=True)
        )
        brush = ThingsBrush("Wild", "Bush", swing=30.0, strays=0.3, flips=True, turn=90.0)
        for row in range(2, 14, 2):
            lay(room, brush, *((row, x) for x in range(2, 20, 2)))
    things = rooms[0].things()
    assert things == rooms[1].things() and len(things) == 54
    assert all(60 <= t.turn <= 120 for t in things) and len({t.turn for t in things}) > 20
    assert {t.mirrored for t in things} == {True, False}
    off = [abs(t.y - 2 * round(t.y / 2)) for t in things]
    assert max(off) <= 0.3 and len({round(o, 3) for o in off}) > 20


def test_chance_never_turns_a_body_out_of_the_cells_it_was_asked_for():
    room = small_room()
    brush = ThingsBrush("Carts", "Cart", swing=180.0, flips=True)
    lay(room, brush, *((y, x) for y in range(3, 18, 4) for x in range(3, 27, 4)))
    assert {t.turn for t in room.things()} == {0.0}, "quarters would need other cells"
    assert not any(t.mirrored for t in room.things())
    assert list(broken(Ground(room.project.data, room.data))) == []


# --- mirrored strokes ---------------------------------------------------------------------


def laid_in_mirror(brush, *mirrors, cells=((2, 3),), prefab_of=None, path=None):
    room = small_room((16, 16))
    bush = replace(room.project.data.prefab("Bush"), turns="any", mirrors=True)
    room.project.add_prefab(prefab_of or bush)
    marks = mirrored(Marks(np.array(cells), path=path), mirrors)
    room.project.history.apply(brush.plan(Place(room.project.data, room.name), marks))
    return {(t.y, t.x): (t.turn, t.mirrored) for t in room.things()}


EAST_WEST, NORTH_SOUTH = Mirror(-1, 7.5), Mirror(-2, 7.5)


def test_a_mirrored_stroke_mirrors_its_things():
    brush = ThingsBrush("It", "Bush", turn=30.0)
    assert laid_in_mirror(brush, EAST_WEST) == {(2, 3): (30, False), (2, 12): (330, True)}
    assert laid_in_mirror(brush, NORTH_SOUTH) == {(2, 3): (30, False), (13, 3): (150, True)}
    both = laid_in_mirror(brush, EAST_WEST, NORTH_SOUTH)
    assert both[13, 12] == (210, False), "turned half round by two mirrors"


def test_what_may_not_be_mirrored_or_turned_only_stands_at_the_mirrored_place():
    plain = prefab("Bush", turns="none")
    laid = laid_in_mirror(ThingsBrush("It", "Bush"), EAST_WEST, NORTH_SOUTH, prefab_of=plain)
    assert set(laid) == {(2, 3), (2, 12), (13, 3), (13, 12)} and set(laid.values()) == {(0, False)}


def test_a_thing_on_the_mirror_is_laid_once():
    laid = laid_in_mirror(ThingsBrush("It", "Bush"), Mirror(-1, 3.0))
    assert laid == {(2, 3): (0, False)}


def test_a_pattern_is_seen_in_the_mirror_whole():
    spots = (Spot(0, 0), Spot(0, 1, turn=40.0))
    brush = ThingsBrush("It", "Bush", pattern=Pattern(1, 2, spots=spots))
    laid = laid_in_mirror(brush, EAST_WEST)
    assert laid == {(2, 3): (0, False), (2, 4): (40, False),
                    (2, 12): (0, True), (2, 11): (320, True)}  # fmt: skip


def test_places_between_cells_are_mirrored_too():
    brush = ThingsBrush("It", "Bush", cell_parts=2)
    laid = laid_in_mirror(brush, EAST_WEST, path=np.array([[2.25, 3.25]]))
    assert set(laid) == {(2.25, 3.25), (2.25, 11.75)}


@pytest.mark.parametrize(("surface", "axis", "view", "seen"), [
    ("west wall", -1, "voxel", "east wall"), ("north wall", -1, "voxel", "north wall"),
    ("north wall", -2, "voxel", "south wall"), ("floor", -2, "side", "ceiling"),
    ("east wall", -1, "side", "west wall"), ("floor", -1, "side", "floor"),
])  # fmt: skip
def test_surfaces_are_seen_in_the_mirror(surface, axis, view, seen):
    assert ThingsBrush("It", "Bush", surface=surface).seen_in_mirror(axis, view).surface == seen
