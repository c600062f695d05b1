"""Edits of prefabs, their cells and their rules."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import SHEET, small_room, stand
from topion.edit.prefabs import (
    changed_rule,
    class_rules,
    copied_prefab,
    moved_rule,
    placed_in,
    prefab_of_slots,
    set_prefab,
    set_rules,
    with_cell,
    with_thing_brush,
    without_rule,
)
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.survey import survey
from topion.things.rules import ClearOf, FromEdge, KeepsCells

RULES = (ClearOf(3.0), KeepsCells(), FromEdge(1))


def test_a_rule_is_set_moved_and_taken_away():
    assert changed_rule(RULES, 0, cells=2.0, of="anything")[0] == ClearOf(2.0, "anything")
    assert moved_rule(RULES, 2, 0) == (RULES[2], RULES[0], RULES[1])
    assert moved_rule(RULES, 0, 9) == (RULES[1], RULES[2], RULES[0])
    assert without_rule(RULES, 1) == (RULES[0], RULES[2])
    with pytest.raises(BadValue, match="distance of a rule"):
        changed_rule(RULES, 0, cells=-1.0)


def test_rules_are_given_to_a_prefab_or_to_its_class():
    handle = small_room().project
    data = handle.data
    handle.history.apply(set_rules(data, "Bush", RULES, "rules", of_class=False))
    assert data.prefab("Bush").rules == RULES
    handle.history.apply(set_prefab(data, "Bush", class_name="green"))
    handle.history.apply(set_rules(data, "Bush", RULES[:1], "rules", of_class=True))
    assert class_rules(data, "green") == RULES[:1] and data.prefab("Bush").rules == RULES
    assert class_rules(data, "other") == ()
    for _ in range(3):
        handle.undo()
    assert not data.prefab("Bush").rules and not class_rules(data, "green")


@pytest.mark.parametrize(("at", "after"), [
    ((0, 0), (".",)),
    ((-1, 0), ("#", "#")),
    ((0, 1), (".##",)),
    ((0, -1), ("##.",)),
])  # fmt: skip
def test_a_cell_more_or_less_keeps_the_middle_of_the_lowest_row(at, after):
    assert with_cell(("#",), *at) == after


@given(st.lists(st.tuples(st.integers(-1, 3), st.integers(-1, 4)), max_size=12))
def test_cells_clicked_twice_are_as_before(clicks):
    cells = ("##", "##")
    for row, column in clicks:
        row, column = min(row, len(cells) - 1), min(column, len(cells[0]))
        after = with_cell(cells, row, column)
        if any("#" in line for line in after):
            assert abs(sum(r.count("#") for r in after) - sum(r.count("#") for r in cells)) == 1
            cells = after
    assert len({len(row) for row in cells}) == 1


def test_where_a_prefab_was_placed_is_counted_room_by_room():
    room = small_room()
    room.lay("Bush", cells=[(2, 2), (3, 3)])
    other = room.project.add_room("Other", (4, 4), 4)
    other.lay("Bush", cells=[(1, 1)])
    assert dict(placed_in(room.project.data, "Bush")) == {room.name: 2, "Other": 1}
    room.project.undo()
    assert dict(placed_in(room.project.data, "Bush")) == {room.name: 2}


def test_a_prefab_is_made_of_slots_and_copied():
    handle = small_room().project
    data = handle.data
    sheet = data.tileset(SHEET)
    made = prefab_of_slots(sheet, Box((1, 2), (3, 4)), {"sheet thing"})
    assert made.name == "sheet thing 2" and made.picture.size_px == (8, 8)
    assert (made.picture.rgba[:4, :4] == sheet.pixels((1, 2))).all()
    assert made.footprint == ("##",) and made.anchor_px == (8, 2)
    handle.history.apply(with_thing_brush(data, made))
    assert data.brush(made.name).places() == {made.name: 1.0}
    edit, name = copied_prefab(data, made.name)
    handle.history.apply(edit)
    assert name == "sheet thing 3" and data.prefab(name).picture == made.picture
    with pytest.raises(BadValue, match="not empty"):
        prefab_of_slots(sheet, Box((5, 0), (6, 2)), ())


def test_findings_of_rules_tell_what_was_measured_and_what_is_wanted():
    room = small_room()
    stand(room, Thing("Lamp", 4, 4), Thing("Lamp", 4, 5))
    found = [f for f in survey(room.project.data) if f.check == "rule broken: clear of"]
    assert {(f.cell, f.measured, f.wanted) for f in found} == {
        ((4, 4), "1", "3 cells"), ((4, 5), "1", "3 cells")
    }  # fmt: skip
