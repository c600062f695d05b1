"""Recordings: keys by tick, played again to the same end, also by another process."""

import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.walk.texts import RAKER, begin, drawn, put, rng_keys, walked
from topion.cli import main
from topion.edit.library import put_item
from topion.errors import BadValue
from topion.model.recording import KEY_BITS, End, Recording, run_of, runs_of
from topion.roles import Launcher, Pickup, Walker
from topion.scripting import open as open_project
from topion.walk import RIGHT
from topion.walk.replay import difference, end_of, last_state, played, recorded

PLAIN = ("................",) * 6 + ("################",)


@pytest.fixture
def room():
    room = drawn(*PLAIN)
    put(room, "Token", 5, 4, Pickup())
    put(room, "Spring", 5, 8, Launcher())
    put(room, "Gull", 5, 12, Walker())
    return room


def taken_down(room, seed=3, count=200, name="Way"):
    start = begin(room, 5, 1)
    return recorded(name, start, (5.0, 1.0), rng_keys(seed, count))


@given(st.lists(st.integers(0, 63), max_size=60))
def test_keys_read_back_from_their_runs(keys):
    made = Recording("Way", "Room", runs=runs_of(keys))
    assert list(made.held()) == keys and made.ticks == len(keys)


def test_runs_are_told_as_text():
    right, jump = KEY_BITS["right"], KEY_BITS["jump"]
    assert runs_of([right] * 3 + [right | jump] + [0, 0]) == ("3*right", "right+jump", "2*-")
    assert run_of("12*left+act") == (12, KEY_BITS["left"] | KEY_BITS["act"])


@pytest.mark.parametrize("text", ["", "right+right", "0*right", "3 * right", "fly", "right+",
                                  "99999999*left", "-5*left"])  # fmt: skip
def test_text_that_is_no_run_is_refused_by_name(text):
    with pytest.raises(BadValue, match="keys of a recording"):
        Recording("Way", "Room", runs=(text,))


def test_one_of_more_than_an_hour_is_refused():
    with pytest.raises(BadValue, match="length of a recording"):
        Recording("Way", "Room", runs=("216001*-",))


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 2**32))
def test_a_recording_ends_as_it_did_whenever_it_is_played(seed):
    room = drawn(*PLAIN)
    put(room, "Spring", 5, 8, Launcher())
    made = taken_down(room, seed)
    assert end_of(last_state(room.project.data, made)) == made.end
    *_, last = played(room.project.data, made)
    assert end_of(last) == made.end


def test_a_wall_in_its_way_is_told_with_how_far_off_it_ends(room):
    start = begin(room, 5, 1)
    made = recorded("East", start, (5.0, 1.0), [RIGHT] * 20)
    room.lay("wall", cells=[(5, 2), (4, 2)])
    now = end_of(last_state(room.project.data, made))
    assert difference(made.end, now).startswith("ends 1.9 cells off")
    assert difference(made.end, made.end) == ""
    other = replace(made.end, room="Elsewhere", ended="world", taken=3)
    assert difference(made.end, other) == (
        "ends in Elsewhere instead of Room, ends the world, 3 pickups taken instead of 0"
    )


def test_recordings_lie_in_the_project_as_text_and_are_edits(room, tmp_path):
    project = room.project
    made = taken_down(room)
    project.history.apply(put_item(project.data, "recordings", made))
    project.save(tmp_path / "Walked.topion")
    text = (tmp_path / "Walked.topion" / "recordings" / "Way.json").read_text()
    assert made.runs[0] in text
    assert open_project(tmp_path / "Walked.topion").data.shelf("recordings")["Way"] == made
    project.undo()
    assert not project.data.shelf("recordings")


@pytest.fixture
def saved(room, tmp_path):
    made = taken_down(room)
    room.project.history.apply(put_item(room.project.data, "recordings", made))
    room.project.save(tmp_path / "Walked.topion")
    return tmp_path / "Walked.topion"


def replay(folder: Path, *more: str) -> list[str]:
    return ["walk", str(folder), "Room", "--replay", str(folder / "recordings" / "Way.json"), *more]


def test_the_command_line_says_whether_it_ends_the_same(saved, capsys):
    assert main(replay(saved)) == 0
    assert capsys.readouterr().out == "Way: 3.3 s, ends the same\n"
    project = open_project(saved)
    project.room("Room").lay("wall", box=((0, 0), (4, 15)))
    project.room("Room").lay("wall", box=((5, 3), (5, 15)))
    project.save()
    assert main(replay(saved)) == 1
    assert "cells off" in capsys.readouterr().out


def test_what_cannot_be_read_is_one_sentence_and_two(saved, capsys, tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text('{"name": "Way", "room": "Room",\n "runs": ["fly"]}')
    for command in (["walk", str(saved), "Room", "--replay", str(bad)],
                    ["walk", str(saved), "Nowhere", "--replay", str(bad)],
                    ["walk", str(saved), "Room", "--replay", str(tmp_path / "none.json")],
                    ["walk", str(tmp_path / "none"), "Room", "--replay", str(bad)]):  # fmt: skip
        assert main(command) == 2
        said = capsys.readouterr().err
        assert said.startswith("topion: ") and said.count("\n") == 1


def test_two_processes_trace_every_tick_alike(saved):
    command = [sys.executable, "-m", "topion", *replay(saved, "--json")]
    traces = []
    for seed in ("1", "77"):  # of hashes, which must not matter
        run = subprocess.run(command, capture_output=True, check=True,
                             env={**os.environ, "PYTHONHASHSEED": seed})  # fmt: skip
        traces.append(run.stdout)
    assert traces[0] == traces[1]
    lines = [json.loads(line) for line in traces[0].splitlines()]
    assert [line["tick"] for line in lines] == list(range(201))
    assert all(isinstance(value, int) for line in lines for value in line["units"])


def test_an_end_is_plain():
    assert End() == End("", (0.0, 0.0, 0.0), "", 0, 0)
    state = walked(begin(drawn(*PLAIN), 5, 1), RIGHT, ticks=10)
    assert end_of(state).at == (0.0, 5.0, 2.0) and RAKER.speed == 6
