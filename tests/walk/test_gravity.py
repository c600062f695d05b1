"""Gravity that is turned by its key, or that pulls a figure up from the start."""

from dataclasses import replace

import topion
from tests.walk.texts import RAKER, begin, drawn, put, walked
from topion.edit.walks import add_figure, choose_figure, set_figure
from topion.model.compare import differences
from topion.model.recording import run_of, runs_of
from topion.roles import Door, Start
from topion.walk import RIGHT, TURN, World

HALL = ("############", *(["............"] * 4), "############")


def test_its_key_turns_it_over_once_a_press_and_back():
    state = walked(begin(drawn(*HALL), 4, 3), 0, ticks=5)
    up = walked(state, TURN, ticks=60)
    assert up.over and up.ground and up.place()[1] == 1, "held, it turns only once"
    down = walked(walked(up, 0), TURN, ticks=60)
    assert not down.over and down.ground and down.place()[1] == 4


def test_seen_from_above_there_is_none_to_turn():
    state = begin(drawn(*HALL, seen="top"), 3, 3)
    assert walked(state, TURN, ticks=3).told()[1:5] == state.told()[1:5]


def test_a_figure_that_falls_up_stands_on_the_ceiling_also_behind_a_door():
    room = drawn(*HALL)
    other = drawn(*HALL, project=room.project, name="Other")
    put(other, "Start", 1, 5, Start())
    put(room, "Gate", 1, 6, Door(room="Other"))
    figure = replace(RAKER, gravity="up")
    state = walked(begin(room, 1, 3, figure), 0, ticks=30)
    assert state.over and state.ground and state.place()[1] == 1
    through = walked(state, RIGHT, ticks=60)
    assert through.room == "Other" and through.over


def test_the_key_is_written_by_its_name_and_read():
    assert runs_of([TURN, TURN, TURN | RIGHT]) == ("2*turn", "right+turn")
    assert run_of("right+turn") == (1, TURN | RIGHT)


def test_another_figure_is_walked_with_saved_and_undone(tmp_path):
    room = drawn(*HALL)
    project = room.project
    project.history.apply(set_figure(project.data, RAKER))
    project.history.apply(add_figure(project.data, RAKER))
    new = World(project.data).figure.name
    assert new != "Raker"
    project.history.apply(choose_figure(project.data, "Raker"))
    assert World(project.data).figure == RAKER
    again = topion.open(project.save(tmp_path / "walked.topion"))
    assert not differences(project.data, again.data)
    assert World(again.data).figure == RAKER
    project.undo()
    assert World(project.data).figure.name == new
