"""Each check finds what it is for, and nothing in a sound room."""

from tests.rooms import SIDE, card, prefab, rule, sheet_picture, stand, tile
from tests.shapes import shape_room
from topion.brushes import FieldBrush, Lift, Sown, ThingsBrush, Weave
from topion.brushes.region import RegionBrush
from topion.conditions import Cleared, Inside, SwitchOn, Taken
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.roles import Door, Switch
from topion.survey import survey
from topion.survey.at_cursor import lying_at
from topion.weaving.rules import RuleBook, Variant, plain_rule


def checks(room):
    return [finding.check for finding in survey(room.project.data)]


def test_a_sound_room_has_no_findings(room):
    room.lay("Lamp", cells=[(3, 3)])
    room.lay("Reeds", box=((5, 5), (20, 20)))
    assert checks(room) == []


def test_a_rule_broken_since_placing_is_found_with_its_cell(room):
    room.project.add_prefab(prefab("Lamp"))
    room.lay("Lamp", cells=[(3, 3), (3, 4)])
    assert checks(room) == []
    from topion.things.rules import ClearOf

    room.project.add_prefab(prefab("Lamp", ClearOf(3)))
    found = survey(room.project.data)
    assert [f.cell for f in found] == [(3, 3), (3, 4)] and "1" in found[0].sentence


def test_rules_about_others_and_shared_cells_are_checked_for_standing_things(room):
    room.lay("Bush", cells=[(5, 5), (9, 9)])
    room.lay("Cart", cells=[(9, 9)], override=True)
    room.lay("Lamp", cells=[(5, 6)])
    from topion.things.rules import ClearOf

    room.project.add_prefab(prefab("Bush", ClearOf(2, "Lamp")))
    found = {(f.check, f.cell) for f in survey(room.project.data)}
    assert found == {
        ("rule broken: clear of", (5, 5)),
        ("rule broken: kept cell", (9, 9)),
        ("rule broken: keeps its cells", (9, 9)),
    }


def test_an_open_case_names_the_weave(room):
    book = RuleBook((rule("inside", card("###", "#.#", "###"), (0, 0)),), beyond="open")
    room.project.add_brush(Weave("Thin", book))
    room.lay("Thin", cells=[(9, 9)])
    found = survey(room.project.data)
    assert (
        found[0].check == "open weave case"
        and found[0].cell == (9, 9)
        and "Thin" in found[0].sentence
    )


def test_a_slot_not_for_use_is_found(room):
    sheet = TileSet(
        "odd", sheet_picture(), Cut((SIDE, SIDE)), {"bad": Slot((1, 1), not_for_use=True)}
    )
    room.project.add_tileset(sheet)
    book = RuleBook((plain_rule("all", (Variant(TileRef("odd", "bad")),)),))
    room.project.add_brush(Weave("Odd", book))
    room.lay("Odd", box=((1, 1), (2, 2)))
    assert checks(room) == ["not for use"]


def test_a_thing_beyond_the_room_is_found(room):
    room.lay("Bush", cells=[(-4, 2)], override=True)
    assert checks(room) == ["outside"]


def test_names_of_what_is_not_there_are_found(room):
    room.project.add_brush(ThingsBrush("Ghostly", "Ghost"))
    room.project.add_brush(FieldBrush("Empty", (Sown("Nobody"),)))
    room.project.add_brush(Lift("Lift x", only="Nothing"))
    room.project.add_brush(
        Weave("Lost", RuleBook((rule("r", card("M..", "...", "..."), (0, 0)),), joins=("Sand",)))
    )
    room.lay("Empty", box=((1, 1), (5, 5)))
    names = [
        f.sentence.split(" uses ")[1] for f in survey(room.project.data) if "uses" in f.sentence
    ]
    assert names == [
        "prefab Ghost, which is not there",
        "prefab Nobody, which is not there",
        "brush Nothing, which is not there",
        "material Sand, which is not there",
    ]


def test_at_cursor_lists_from_top_to_bottom_with_the_reason(room):
    room.project.add_brush(FieldBrush("Grass", (Sown("Reed"),), spacing=0.5, density=1.0))
    room.lay("Water", box=((2, 2), (6, 6)))
    room.lay("Lamp", cells=[(2, 2)])
    room.lay("Grass", box=((10, 10), (14, 14)))
    found = lying_at(room.project.data, room.data, (2, 2))
    assert [(i.name, i.brush) for i in found] == [("Lamp", "Lamp"), ("Water", "Water")]
    assert found[0].thing == 1 and found[1].why == "rule 1" and found[1].detail == "outer corner nw"
    sown = lying_at(room.project.data, room.data, (12, 12))
    assert sown[0].name == "Reed" and "1.00 dense here" in sown[0].why and sown[0].brush == "Grass"
    assert lying_at(room.project.data, room.data, (99, 0)) == []


def test_at_cursor_says_what_was_laid_by_hand_and_what_fits_no_rule(room):
    from topion.brushes import Stamp

    room.project.add_brush(Stamp("Pin", ((tile(0, 3),),)))
    room.project.add_brush(Weave("Bare", RuleBook((), last_resort=tile(0, 1))))
    room.project.add_brush(Weave("None", RuleBook((rule("x", card("ooo", "o.o", "ooo"), (0, 0)),))))
    for y, name in enumerate(("Pin", "Bare", "None")):
        room.lay(name, box=((y + 5, 5), (y + 5, 7)))
    why = [lying_at(room.project.data, room.data, (y, 6))[0].why for y in (5, 6, 7)]
    assert why == [
        "tile 0,3, laid by hand and pinned",
        "no rule fits: last resort",
        "no rule fits, so nothing shows",
    ]


def test_variants_and_turns_are_told(room):
    turned = rule("edge", card(".o.", "#.#", "..."), (0, 1), turned=True)
    many = (Variant(tile(0, 0)), Variant(tile(0, 1)))
    room.project.add_brush(Weave("Turn", RuleBook((turned, plain_rule("all", many)))))
    room.lay("Turn", box=((2, 2), (6, 6)))
    lines = {
        lying_at(room.project.data, room.data, (y, x))[0].why
        for y in range(2, 7)
        for x in range(2, 7)
    }
    assert "rule 1, turned 90°" in lines and any("of 2" in line for line in lines)


def test_a_piece_that_was_cut_off_with_its_part_of_the_room_is_found():
    room = shape_room()
    room.lay("Wall", box=((18, 24), (21, 29)))
    room.resize((12, 20))
    found = [f for f in room.project.check() if f.check == "outside"]
    assert [(f.sentence, f.piece) for f in found] == [("a piece of Wall lies outside the room", 1)]
    room.project.undo()
    assert not [f for f in room.project.check() if f.check == "outside"]


def test_a_condition_that_can_never_come_true_says_why(room):
    project = room.project
    project.add_brush(RegionBrush("Porch", "trigger"))
    room.lay("Porch", cells=[(1, 1)])
    switch, plain = stand(room, Thing("Bush", 20, 20, role=Switch()), Thing("Bush", 20, 22))
    sound = (Cleared(), SwitchOn(switch), Inside("Porch"), Taken(1, "Bush"), SwitchOn(0, off=True))
    broken = {
        SwitchOn(): "no switch is chosen",
        SwitchOn(99): "switch 99 is not there",
        SwitchOn(plain): f"Bush, thing {plain}, is no switch",
        Inside(): "no region is chosen",
        Inside("Attic"): "the room has no region Attic",
        Taken(1, "Pearls"): "no prefab and no class is called Pearls",
    }
    waits = Thing("Bush", 10, 10, role=Door(), when=When("opens", sound), counts=True)
    stand(room, waits)
    assert checks(room) == []
    for column, condition in enumerate(broken):
        stand(room, Thing("Bush", 14, column, when=When("appears", (condition,))))
    found = [f for f in survey(project.data) if f.check == "condition never true"]
    assert [f.sentence for f in found] == [f"Bush never appears: {w}" for w in broken.values()]
    assert [f.cell for f in found] == [(14, column) for column in range(len(broken))]


def test_a_room_in_which_nothing_counts_is_never_cleared(room):
    stand(room, Thing("Bush", 3, 3, when=When("opens", (Cleared(),))))
    assert [f.sentence for f in survey(room.project.data)] == [
        "Bush never opens: nothing here counts for clearing the room"
    ]
    room.lay(RegionBrush("Attic"), cells=[(1, 1)])
    stand(room, Thing("Bush", 5, 5, counts=True, when=When("opens", (Inside("Attic"),))))
    assert checks(room) == []
    room.lay(RegionBrush("Attic", gone=True), cells=[(1, 1)])
    assert "the region Attic is empty" in survey(room.project.data)[0].sentence
