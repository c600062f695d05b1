"""Extensions that fail: named, switched off, and nothing is lost."""

from __future__ import annotations

import sys
from importlib.metadata import EntryPoint

import pytest

from tests.rooms import prefab, small_room
from topion.cli import main
from topion.edit.library import put_brush
from topion.extending import COMMANDS, EXTENSIONS, GROUP, load_extensions
from topion.extending.extension import ExtensionFailed, on_failure
from topion.extending.loading import take_in
from topion.formats.exports import EXPORTS, export_files
from topion.formats.folder import read_project
from topion.formats.packing import pack, unpack
from topion.formats.writing import write_project
from topion.model.brush import Brush
from topion.model.compare import differences
from topion.model.plain import KINDS
from topion.model.prefab import PlacementRule
from topion.survey import CHECKS, survey

SHAKY = """
from dataclasses import dataclass
from typing import ClassVar
from topion.brushes.kind import BrushKind
from topion.formats.exports import ExportKind
from topion.model.edit import Edit
from topion.survey import Finding
from topion.survey.check import RoomCheck
from topion.things.rules.kind import RuleKind
from topion.things.rules.answer import Answer

FAILS = set()

def maybe(what):
    if what in FAILS:
        raise ZeroDivisionError(f"{what} divides by nothing")

@dataclass(frozen=True)
class Shaky(BrushKind):
    kind: ClassVar[str] = "shaky"
    name: str
    seed: int = 0
    layer: str = ""
    colour: str = "#123456"

    def __post_init__(self):
        maybe("make")

    def plan(self, place, marks):
        maybe("plan")
        return Edit(self.name, (), self.colour)

    def summary(self):
        maybe("summary")
        return "shaky"

    def facts(self):
        maybe("facts")
        return (("Seed", str(self.seed)),)

@dataclass(frozen=True)
class Moody(RuleKind):
    kind: ClassVar[str] = "moody"
    def sentence(self):
        return "stands as it likes"
    def short(self):
        return "moody"
    def reason(self, measured):
        return ("not today", "", "")
    def check(self, ground, spots):
        maybe("rule")
        answer = Answer.of(spots)
        answer.allowed[:] = False
        return answer

class Nosy(RoomCheck):
    name = "nosy"
    def findings(self, project, room):
        yield Finding(self.name, "something is there", room.info.name)
        maybe("check")

class Words(ExportKind):
    kind = "words"
    text = "Words"
    def files(self, project, rooms, scale):
        for name in rooms:
            maybe("export")
            yield f"{name}.txt", name.encode()

def say(project, room):
    maybe("command")
    return f"{room} of {project.name}"

def extend(door):
    door.brush(Shaky)
    door.rule(Moody)
    door.check(Nosy)
    door.export(Words)
    door.command("say", "Says where we are", say)
    maybe("load")
"""


@pytest.fixture
def shaky(tmp_path, monkeypatch):
    """An extension that fails where it is told to, taken in as if it were installed."""
    load_extensions()
    (tmp_path / "shaky_parts.py").write_text(SHAKY)
    monkeypatch.syspath_prepend(str(tmp_path))
    known = {**KINDS[Brush]}, {**KINDS[PlacementRule]}, [*CHECKS], {**EXPORTS}, {**EXTENSIONS}
    take_in([EntryPoint("shaky", "shaky_parts:extend", GROUP)])
    yield sys.modules["shaky_parts"]
    KINDS[Brush], KINDS[PlacementRule], CHECKS[:] = known[0], known[1], known[2]
    for table, before in ((EXPORTS, known[3]), (EXTENSIONS, known[4]), (COMMANDS, {})):
        table.clear()
        table.update(before)
    del sys.modules["shaky_parts"]


@pytest.fixture
def room(shaky):
    room = small_room()
    room.project.history.apply(put_brush(room.project.data, shaky.Shaky("Odd", 4)))
    return room


def test_it_works_as_long_as_nothing_fails(shaky, room):
    assert room.project.data.brush("Odd").facts() == (("Seed", "4"),)
    assert "nosy" in {one.check for one in survey(room.project.data)}
    assert not room.plan("Odd", cells=[(1, 1)]).refused
    assert COMMANDS["say"].run(room.project.data, "Yard") == "Yard of Small"


@pytest.mark.parametrize("what", ["plan", "summary", "facts"])
def test_a_brush_that_raises_is_switched_off_with_a_plain_answer(shaky, room, what):
    heard = []
    on_failure(heard.append)
    shaky.FAILS.add(what)
    brush, before = room.project.data.brush("Odd"), room.project.data.frozen()
    getattr(brush, what)(*((None, None) if what == "plan" else ()))
    extension = EXTENSIONS["shaky"]
    assert f"{what} divides by nothing" in extension.off and heard[-1] is extension
    edit = room.plan("Odd", cells=[(1, 1)])
    assert not edit and "extension shaky is switched off" in edit.refused[0]
    assert brush.summary() == "shaky · switched off" and brush.facts() is not None
    assert differences(before, room.project.data) == []


def test_a_rule_that_raises_allows_and_says_what_it_is(shaky):
    room = small_room()
    room.project.add_prefab(prefab("Tent", shaky.Moody()))
    assert not room.verdict("Tent", 4.0, 4.0).allowed
    shaky.FAILS.add("rule")
    assert room.verdict("Tent", 5.0, 5.0).allowed
    (rule,) = room.project.data.prefab("Tent").rules
    assert rule.sentence() == "a rule of extension shaky, which is switched off"


def test_the_survey_names_what_is_switched_off_and_goes_on(shaky, room):
    shaky.FAILS.add("check")
    room.lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    survey(room.project.data)
    found = {one.check: one.sentence for one in survey(room.project.data)}
    assert "extension shaky is switched off: ZeroDivisionError" in found["extension off"]
    assert len(found) > 1


def test_a_format_and_a_command_that_raise_say_so(shaky, room, tmp_path, capsys):
    shaky.FAILS.update(("export", "command"))
    with pytest.raises(ExtensionFailed, match="shaky is switched off"):
        list(export_files(room.project.data, ("Yard",), "words"))
    with pytest.raises(ExtensionFailed):
        COMMANDS["say"].run(room.project.data, "Yard")
    folder = room.project.save(tmp_path / "A.topion")
    assert main(["run", "say", str(folder)]) == 2
    assert "extension shaky is switched off" in capsys.readouterr().err
    assert main(["extensions"]) == 1 and "switched off" in capsys.readouterr().out


def test_what_cannot_be_made_is_kept_as_it_was_written(shaky, room, tmp_path):
    folder = room.project.save(tmp_path / "A.topion")
    before = (folder / "brushes" / "Odd.json").read_bytes()
    shaky.FAILS.add("make")
    project = read_project(folder)
    assert project.brush("Odd").summary() == "shaky · switched off" and EXTENSIONS["shaky"].off
    project.name = "Other"
    write_project(project, folder)
    assert (folder / "brushes" / "Odd.json").read_bytes() == before


def test_one_that_fails_while_it_is_loaded_leaves_nothing_behind(shaky, tmp_path):
    half = SHAKY.replace('"shaky"', '"half"').replace('"moody"', '"half moody"')
    half = half.replace('"words"', '"half words"').replace('"say"', '"half say"')
    (tmp_path / "half_parts.py").write_text(half.replace("FAILS = set()", 'FAILS = {"load"}'))
    checks = len(CHECKS)
    take_in([EntryPoint("half", "half_parts:extend", GROUP),
             EntryPoint("gone", "no_such_module:extend", GROUP)])  # fmt: skip
    assert "load divides by nothing" in EXTENSIONS["half"].off
    assert "no_such_module" in EXTENSIONS["gone"].off
    assert "half" not in KINDS[Brush] and "half words" not in EXPORTS
    assert "half say" not in COMMANDS and len(CHECKS) == checks


def test_a_name_that_is_taken_is_refused(shaky):
    take_in([EntryPoint("again", "shaky_parts:extend", GROUP)])
    assert "kind 'shaky' is there already" in EXTENSIONS["again"].off
    assert KINDS[Brush]["shaky"] is shaky.Shaky and not EXTENSIONS["shaky"].off


def test_loading_happens_once():
    before = {**load_extensions()}
    assert load_extensions() == before


def test_a_shelf_of_a_missing_extension_is_kept_byte_by_byte(tmp_path):
    folder = small_room().project.save(tmp_path / "A.topion")
    index = (folder / "project.json").read_text()
    (folder / "project.json").write_text(
        index.replace('"rooms":', '"weather": ["Rain"],\n "rooms":')
    )
    (folder / "weather").mkdir()
    (folder / "weather" / "Rain.json").write_bytes(b'{"name":   "Rain", "wet": 3}')
    project = read_project(folder)
    assert any("1 parts of “weather”" in one.sentence for one in survey(project))
    for place in (folder, tmp_path / "B.topion"):
        project.name += "!"
        write_project(project, place)
        assert (place / "weather" / "Rain.json").read_bytes() == b'{"name":   "Rain", "wet": 3}'
        assert differences(read_project(place), project) == []
    pack(folder, tmp_path / "a.zip")
    unpacked = read_project(unpack(tmp_path / "a.zip", tmp_path / "C"))
    assert differences(unpacked, read_project(folder)) == []
    assert (tmp_path / "C" / "weather" / "Rain.json").exists()
