"""A second material on a cell: laid, woven, lifted and saved by itself."""

from __future__ import annotations

from collections import Counter

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import one, slots, small_room, thirteen
from topion.brushes import Inlay, Lift, Weave
from topion.formats.bundle import bundle_bytes, read_bundle
from topion.model.compare import differences
from topion.scripting import open as open_project
from topion.survey.at_cursor import lying_at
from topion.weaving.hits import hits, why_inlaid
from topion.weaving.looms import loom_of
from topion.weaving.ready import ready_rules
from topion.weaving.rules import Rule, RuleBook
from topion.weaving.settle import shown_materials, shown_over

MOSS = RuleBook(ready_rules(thirteen(2)), beyond="open")
NAMING = RuleBook(
    (
        Rule("by mud", (("any",) * 3, ("any", "same", "is Mud"), ("any",) * 3), one(4, 6)),
        Rule("else", (("any",) * 3,) * 3, one(4, 5)),
    ),
    beyond="open",
)
cells = st.tuples(st.integers(0, 9), st.integers(0, 11))


def mossy_room():
    room = small_room((10, 12))
    room.project.add_brush(Inlay("Moss", MOSS))
    room.project.add_brush(Inlay("Lichen", NAMING))
    return room


def ground(room):
    return room.data.layers["ground"]


def over(room) -> list[list[str]]:
    """The slot of each inlay, `` for none."""
    found = shown_over(room.project.data, ground(room), room.data.box)
    known = room.project.data.tiles
    if found is None:
        return [[""] * 12] * 10
    return [[known[t - 1].slot if t else "" for t in row] for row in found.tolist()]


def slow_fits(marks, kinds, at, own, size, joins=()):
    """Whether a card fits, each neighbour counting as all of its materials."""
    for row in range(3):
        for column in range(3):
            mark, y, x = marks[row][column], at[0] + row - 1, at[1] + column - 1
            if (row, column) == (1, 1) or mark == "any":
                continue
            here = kinds[y][x] if 0 <= y < size[0] and 0 <= x < size[1] else set()
            if mark == "same" and not here & {own, *joins}:
                return False
            if mark == "open" and here & {own, *joins}:
                return False
            if mark.startswith("is ") and mark[3:] not in here:
                return False
    return True


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(("Moss", "Lichen", "Water", "Mud", "Stones", "Lift")),
                          cells, cells), max_size=9))  # fmt: skip
def test_an_inlay_is_woven_as_cell_by_cell_with_both_materials(strokes):
    room = mossy_room()
    for name, a, b in strokes:
        room.lay(name, box=(a, b))
    project, layer = room.project.data, ground(room)
    names = ("", *project.materials)
    kinds = [[{names[m], names[i]} - {""} for m, i in zip(*rows, strict=True)]
             for rows in zip(layer.plane("material").tolist(), layer.plane("inlay").tolist(),
                             strict=True)]  # fmt: skip
    shown = over(room)
    for y, row in enumerate(layer.plane("inlay").tolist()):
        for x, number in enumerate(row):
            if not number:
                assert shown[y][x] == ""
                continue
            book = MOSS if names[number] == "Moss" else NAMING
            first = next(r for r in book.rules
                         if slow_fits(r.marks, kinds, (y, x), names[number], (10, 12)))  # fmt: skip
            assert shown[y][x] in {v.tile.slot for v in first.variants}


def test_the_ground_counts_an_inlaid_neighbour_as_both():
    room = mossy_room()
    project = room.project
    by_moss = Rule("by moss", (("any",) * 3, ("any", "same", "is Moss"), ("any",) * 3), one(4, 4))
    plain = Rule("else", (("any",) * 3,) * 3, one(4, 3))
    project.add_brush(Weave("Peat", RuleBook((by_moss, plain))))
    room.lay("Peat", box=((2, 2), (5, 8)))
    assert slots(room)[3][4] == "4,3"
    room.lay("Moss", box=((3, 5), (3, 5)))
    assert slots(room)[3][4] == "4,4" and slots(room)[3][5] == "4,3"
    assert slots(room)[3][6] == "4,3"


def test_a_cell_takes_one_inlay_and_the_reason_is_told():
    room = mossy_room()
    room.lay("Moss", box=((2, 2), (4, 4)))
    edit = room.lay("Lichen", box=((4, 4), (5, 5)))
    assert edit.refused == ("Moss is inlaid there already, and a cell takes one",)
    assert int((ground(room).plane("inlay") == room.project.data.material_id("Lichen")).sum()) == 3
    room.lift(box=((8, 8), (8, 8)))
    assert room.plan("Moss", box=((8, 8), (8, 8))).refused == ("an inlay needs ground below it",)


def test_an_inlay_is_lifted_alone_and_goes_with_its_ground():
    room = mossy_room()
    room.lay("Moss", box=((2, 2), (4, 4)))
    room.lay(Lift(only="Moss"), box=((2, 2), (2, 4)))
    assert room.material(2, 2) == "Mud" and over(room)[2][2] == "" and over(room)[3][3]
    room.lay("Mud", box=((3, 3), (3, 3)))
    assert over(room)[3][3], "the same ground again leaves it"
    room.lay("Water", box=((3, 3), (3, 3)))
    assert over(room)[3][3] == "" and not ground(room).plane("inlay")[3, 3]
    room.lift(box=((4, 4), (4, 4)))
    assert not ground(room).plane("inlay")[4, 4]
    for _ in range(3):
        room.project.undo()
    assert over(room)[2][2] and over(room)[4][4]


def test_at_cursor_tells_the_inlay_above_its_ground():
    room = mossy_room()
    room.lay("Moss", box=((2, 2), (4, 4)))
    names = [lying.name for lying in lying_at(room.project.data, room.data, (3, 3))]
    assert names == ["Moss", "Mud"]


def test_inlays_are_drawn_over_the_ground_and_under_pieces():
    room = mossy_room()
    before = room.render(1)
    room.lay("Moss", box=((2, 2), (4, 4)))
    after = room.render(1)
    side = 4
    inlaid = slice(2 * side, 5 * side)
    assert (before[inlaid, inlaid] != after[inlaid, inlaid]).any()
    assert np.array_equal(before[6 * side :], after[6 * side :])


def test_inlays_are_kept_in_folders_and_bundles(tmp_path):
    room = mossy_room()
    room.lay("Moss", box=((2, 2), (4, 4)))
    folder = room.project.save(tmp_path / "A.topion")
    assert (folder / "rooms/Yard/ground.inlay.rows").exists()
    assert differences(open_project(folder).data, room.project.data) == []
    path = tmp_path / "a.json"
    path.write_bytes(bundle_bytes(room.project.data))
    assert differences(read_bundle(path), room.project.data) == []
    room.lay(Lift(only="Moss"), box=((0, 0), (9, 9)))
    room.project.save()
    assert not (folder / "rooms/Yard/ground.inlay.rows").exists()


def test_an_inlay_in_a_voxel_room_is_refused():
    room = mossy_room()
    deep = room.project.add_room("Deep", (4, 4, 4))
    edit = deep.plan("Moss", cells=[(0, 0, 0)])
    assert not edit and "Deep is made of blocks" in edit.refused[0]


@settings(max_examples=20, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(("Moss", "Lichen", "Water", "Lift")), cells, cells),
                min_size=1, max_size=8))  # fmt: skip
def test_what_rules_of_an_inlay_do_is_told_as_it_is_woven(strokes):
    room = mossy_room()
    for name, a, b in strokes:
        room.lay(name, box=(a, b))
    project, layer = room.project.data, ground(room)
    materials, inlay = shown_materials(project, layer), layer.plane("inlay")
    slots_over = over(room)
    for name in ("Moss", "Lichen"):
        number = project.material_id(name)
        book = loom_of(project, "tiles").book_of(number)
        told = Counter()
        for y, x in np.argwhere(inlay == number).tolist():
            why = why_inlaid(book, name, materials, inlay, (y, x))
            told[(name, why.number) if why.number else ("", 0)] += 1
            assert (why.tile.slot if why.tile else "") == slots_over[y][x]
        assert hits(book, materials, number, inlay=inlay) == told
