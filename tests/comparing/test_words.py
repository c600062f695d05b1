"""Changes told in words."""

from __future__ import annotations

import pytest

from topion.comparing.change import Change
from topion.comparing.words import sentence, text_lines


def cells(**more: object) -> Change:
    known = {"room": "Yard", "layer": "Ground", "part": "material", "lo": (2, 3), "hi": (3, 4),
             "count": 1}  # fmt: skip
    return Change("cells", **{**known, **more})


@pytest.mark.parametrize(
    ("change", "wanted"),
    [
        (cells(), "Ground: 1 cell at 3, 2"),
        (cells(hi=(4, 9), count=7), "Ground: 7 cells at 3, 2 to 8, 3"),
        (cells(part="density"), "Ground: 1 cell of density at 3, 2"),
        (cells(part="warmth"), "Ground: 1 cell of warmth at 3, 2"),
        (cells(lo=(0, 2, 3), hi=(1, 3, 4)), "Ground: 1 cell at 3, 2, 0"),
        (
            cells(count=9, turned=(("Mud", "Salt", 4), ("Mud", "Moss", 2), ("open", "Mud", 1),
                                   ("Salt", "Mud", 1), ("Moss", "Mud", 1))),
            "Ground: 9 cells at 3, 2: Mud → Salt 4, Mud → Moss 2, open → Mud 1, others 2",
        ),
        (Change("layer", "added", room="Yard", layer="Sea"), "layer Sea: new"),
        (Change("layer", room="Yard"), "layers in another order"),
        (Change("item", "removed", shelf="brushes", name="Mud"), "brush Mud: gone"),
        (
            Change("item", shelf="brushes", name="Mud", values={"tile_seed": (1, None)}),
            "brush Mud: tile seed 1 → –",
        ),
        (Change("project", shelf="rooms"), "rooms in another order"),
        (Change("project", "added", shelf="materials", name="Salt"), "material Salt: new"),
        (Change("project", shelf="bays", name="Ground", values={"brushes": (["a", "b"], ["b", "c"])}),
         "bay Ground: brushes + c − a"),
        (Change("project", shelf="bays", name="Ground", values={"brushes": (["a", "b"], ["b", "a"])}),
         "bay Ground: brushes in another order"),
    ],
)  # fmt: skip
def test_a_change_is_one_sentence(change, wanted):
    assert sentence(change) == wanted


def test_many_values_are_counted_behind_the_first_few_and_long_ones_cut():
    values = {f"v{number}": (number, "x" * 100) for number in range(6)}
    told = sentence(Change("item", shelf="brushes", name="Mud", values=values))
    assert told.endswith(" and 2 more")
    assert told.count("→") == 4
    assert told.count("…") == 4
    assert len(told) < 300


def test_entries_are_told_by_name_and_many_of_them_by_count():
    change = Change("entries", room="Yard", layer="Things", part="things",
                    turned=(("added", "Lamp", 3), ("removed", "", 1)),
                    numbers={"added": (4, 5, 6), "removed": (2,)})  # fmt: skip
    assert sentence(change) == "Things: 3 × Lamp new, thing 2 gone"


def test_changes_of_a_room_stand_below_its_name_once():
    found = [Change("item", "added", shelf="brushes", name="Moss"), cells(), cells(count=2),
             Change("room", "added", room="Loft")]  # fmt: skip
    assert [*text_lines(found)] == [
        "brush Moss: new",
        "room Yard",
        "  Ground: 1 cell at 3, 2",
        "  Ground: 2 cells at 3, 2",
        "room Loft: new",
    ]
