"""Findings of the world: ways, rooms, recordings; things nobody sees; what is decided about them."""

import json
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import SHEET, small_project, stand
from tests.walk.texts import drawn, library, put
from topion import cli
from topion.brushes.panel import Panel
from topion.brushes.ramp import Ramp
from topion.edit.judging import (
    accept_finding,
    switch_check_off,
    switch_check_on,
    take_back_acceptance,
)
from topion.edit.walks import keep_recording, set_figure
from topion.errors import BadValue
from topion.formats.folder import read_project
from topion.model.figure import Figure
from topion.model.prefab import Thing
from topion.model.tileset import TileRef
from topion.roles import Door, Goal, Pickup, Start
from topion.survey import survey
from topion.survey.judging import code_of, counting
from topion.survey.ledger import Ledger, check_named
from topion.walk import RIGHT, World
from topion.walk.replay import recorded

RAKER = Figure("Raker", 0.8, 1.8, 6.0, 3.0, 5.0)
HALL = ("............",) * 6 + ("############",)


def of(project, name):
    return [finding for finding in survey(project.data) if finding.by == name]


@pytest.fixture
def hall():
    """A room with a start and a goal that is reached."""
    project = library()
    project.history.apply(set_figure(project.data, RAKER))
    room = drawn(*HALL, project=project, name="Hall")
    put(room, "Start", 5, 1, role=Start())
    put(room, "Goal", 5, 9, role=Goal())
    return room


# --- ways ---------------------------------------------------------------------------------


def test_a_pickup_that_hangs_too_high_has_no_way_found(hall):
    assert not of(hall.project, "no way found")
    number = put(hall, "Token", 0, 5, role=Pickup())
    (finding,) = of(hall.project, "no way found")
    assert finding.thing == number and finding.room == "Hall"
    assert "5 cells up from where it stands, a jump has 3" in finding.sentence


def test_a_room_is_not_reached_without_a_way_to_a_door_that_leads_in(hall):
    loft = drawn(*HALL, project=hall.project, name="Loft")
    out = put(loft, "Gate", 5, 2, role=Door(room="Hall"))
    assert [f.room for f in of(hall.project, "room not reached")] == ["Loft"]
    put(hall, "Gate", 0, 9, role=Door(room="Loft", door=out))  # too high
    (finding,) = of(hall.project, "room not reached")
    assert "Raker finds no way to a door that leads in" in finding.sentence
    put(hall, "Gate", 5, 11, role=Door(room="Loft", door=out))
    assert not of(hall.project, "room not reached")


def test_a_world_without_a_goal_is_told(hall):
    assert not of(hall.project, "start missing")
    hall.project.undo()
    (finding,) = of(hall.project, "start missing")
    assert "no goal" in finding.sentence


def test_a_recording_that_ends_elsewhere_is_found_and_recorded_anew(hall):
    project = hall.project
    start = World(project.data).begin("Hall")
    walk = recorded("Along", start, (), [RIGHT] * 60)
    project.history.apply(keep_recording(project.data, walk))
    assert not of(project, "recording differs")
    hall.lay("wall", box=((4, 5), (5, 5)))
    (finding,) = of(project, "recording differs")
    assert finding.room == "Hall" and "cells off" in finding.sentence
    project.history.apply(check_named(finding.by).fix(project.data, finding))
    assert not of(project, "recording differs")


def test_a_door_that_leads_one_way_is_linked_back_by_its_fix(hall):
    loft = drawn(*HALL, project=hall.project, name="Loft")
    back = put(loft, "Gate", 5, 2, role=Door())
    put(hall, "Gate", 5, 11, role=Door(room="Loft", door=back))
    (finding,) = of(hall.project, "door astray")
    hall.project.history.apply(check_named(finding.by).fix(hall.project.data, finding))
    assert not of(hall.project, "door astray")


# --- things -------------------------------------------------------------------------------


def test_a_thing_between_pixels_is_snapped_by_its_fix(hall):
    put(hall, "Bush", 5, 3.37)
    (finding,) = of(hall.project, "off the grid")
    assert finding.measured == "5, 3.37"
    hall.project.history.apply(check_named(finding.by).fix(hall.project.data, finding))
    assert not of(hall.project, "off the grid")
    put(hall, "Bush", 5, 6.25)  # a pixel of four
    assert not of(hall.project, "off the grid")


@pytest.fixture
def veiled():
    """A room with a layer of tiles over its things."""
    project = small_project()
    layers = (("Ground", "tiles"), ("Things", "things"), ("Front", "tiles"))
    room = project.add_room("Room", (8, 8), 4, layers)
    room.lay("Mud", box=((0, 0), (7, 7)), layer="Ground")
    (number,) = stand(room, Thing("Lamp", 3, 3))
    return room, number


def test_a_thing_behind_tiles_of_a_layer_above_is_hidden_and_taken_away(veiled):
    room, number = veiled
    assert not of(room.project, "wholly hidden")
    room.lay("Mud", box=((2, 2), (4, 4)), layer="Front")
    (finding,) = of(room.project, "wholly hidden")
    assert finding.thing == number and finding.cell == (3, 3)
    room.project.history.apply(check_named(finding.by).fix(room.project.data, finding))
    assert not room.things() and not of(room.project, "wholly hidden")


def test_a_thing_beside_what_covers_its_neighbours_is_not_hidden(veiled):
    room, _ = veiled
    room.lay("Mud", box=((2, 4), (4, 6)), layer="Front")
    assert not of(room.project, "wholly hidden")


def test_a_ramp_whose_head_lies_under_something_else_is_found():
    project = library()
    room = drawn("............", *["............"] * 5, project=project, name="Quay")
    tiles = {"slope 1": TileRef(SHEET, "up east"), "head": TileRef(SHEET, "wall")}
    project.add_brush(Ramp("Quay ramp", tiles))
    room.lay("Quay ramp", line=((4, 2), (2, 4)))
    assert room.data.layers and not of(project, "ramp head")
    (piece,) = [p for _, layer in room.data.cell_layers() for p in layer.pieces.values()]
    ((head, _),) = project.data.brushes["Quay ramp"].joints(piece)
    project.add_brush(Panel("Plate", {"nw": TileRef(SHEET, "half")}))
    room.lay("Plate", box=(head, head))
    (finding,) = of(project, "ramp head")
    assert "something else lies on it" in finding.sentence and finding.cell == head


# --- decided ------------------------------------------------------------------------------


@pytest.fixture
def crowded():
    project = small_project()
    room = project.add_room("Room", (12, 12), 4)
    room.lay("Mud", box=((0, 0), (11, 11)))
    room.lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    return room


def test_an_accepted_finding_counts_no_longer_and_the_other_does(crowded):
    project = crowded.project
    first, second = survey(project.data)
    edit = accept_finding(project.data, code_of(first), first.sentence, "a pair")
    project.history.apply(edit)
    assert counting(project.data, survey(project.data)) == [second]
    project.undo()
    assert len(counting(project.data, survey(project.data))) == 2
    project.redo()
    project.history.apply(take_back_acceptance(project.data, code_of(first)))
    assert len(counting(project.data, survey(project.data))) == 2


def test_what_was_accepted_stays_so_when_only_the_measure_changes(crowded):
    first, _ = survey(crowded.project.data)
    farther = replace(first, measured="2", sentence="Lamp · too close: 2, not 3")
    assert code_of(farther) == code_of(first)
    assert code_of(replace(first, thing=99)) != code_of(first)


def test_a_check_that_is_off_finds_nothing_until_it_is_asked_again(crowded):
    project = crowded.project
    ledger = Ledger()
    ledger.bring_up_to_date(project.data)
    assert len(ledger.findings(project.data)) == 2
    project.history.apply(switch_check_off(project.data, "broken rules", "not now"))
    ledger.bring_up_to_date(project.data)
    assert ledger.findings(project.data) == [] == survey(project.data)
    project.history.apply(switch_check_on(project.data, "broken rules"))
    ledger.bring_up_to_date(project.data)
    assert ledger.findings(project.data) == survey(project.data)


@pytest.mark.parametrize("word", ["", "   ", "x" * 401])
def test_a_finding_is_not_accepted_without_a_word(crowded, word):
    with pytest.raises(BadValue, match="the word why"):
        accept_finding(crowded.project.data, "0" * 16, "Lamp", word)


def test_what_was_decided_is_saved_and_read_back(crowded, tmp_path):
    project = crowded.project
    first, _ = survey(project.data)
    project.history.apply(accept_finding(project.data, code_of(first), first.sentence, "a pair"))
    project.history.apply(switch_check_off(project.data, "thin field", "sparse on purpose"))
    project.save(tmp_path / "Kept.topion")
    again = read_project(tmp_path / "Kept.topion")
    assert again.shelf("accepted") == project.data.shelf("accepted")
    assert again.shelf("unasked")["thin field"].reason == "sparse on purpose"


def test_the_command_line_says_the_same_with_exit_codes(crowded, tmp_path, capsys):
    project, folder = crowded.project, tmp_path / "Told.topion"
    project.save(folder)
    assert cli.main(["check", str(folder)]) == 1
    assert "2 findings" in capsys.readouterr().out
    assert cli.main(["check", str(folder), "--json"]) == 1
    plain = json.loads(capsys.readouterr().out)
    assert [f["by"] for f in plain] == ["broken rules"] * 2
    for finding in survey(project.data):
        project.history.apply(
            accept_finding(project.data, code_of(finding), finding.sentence, "a pair")
        )
    project.history.apply(switch_check_off(project.data, "thin field", "sparse"))
    project.save(folder)
    assert cli.main(["check", str(folder)]) == 0
    assert "0 findings, 2 accepted, off: thin field (sparse)" in capsys.readouterr().out
    assert cli.main(["check", str(folder), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == []
    assert cli.main(["check", str(folder), "--json", "--all"]) == 0
    assert {f["accepted"] for f in json.loads(capsys.readouterr().out)} == {"a pair"}


# --- kept true ----------------------------------------------------------------------------

CELL = st.tuples(st.integers(0, 11), st.integers(0, 11))
ACTS = st.lists(
    st.one_of(
        st.tuples(st.sampled_from(("Lamp", "Cart", "Bush", "Water", "Mud")), CELL),
        st.tuples(st.just("undo"), CELL),
        st.tuples(st.just("quick"), CELL),
    ),
    max_size=12,
)


@given(ACTS)
@settings(max_examples=25, deadline=None)
def test_after_single_strokes_the_ledger_says_what_a_whole_survey_says(acts):
    project = small_project()
    rooms = [project.add_room(name, (12, 12), 4) for name in "AB"]
    for room in rooms:
        room.lay("Mud", box=((0, 0), (11, 11)))
    ledger, begun = Ledger(), project.history.at
    for number, (what, cell) in enumerate(acts):
        if what == "undo":
            if len(project.history.edits) and project.history.at > begun:
                project.undo()
        elif what == "quick":
            ledger.bring_up_to_date(project.data, slow=False)
            continue
        else:
            rooms[number % 2].lay(what, cells=[cell], override=True)
        ledger.bring_up_to_date(project.data)
        assert ledger.findings(project.data) == survey(project.data)
