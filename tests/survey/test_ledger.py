"""A stroke asks only the checks of the room it touched."""

from dataclasses import replace

import pytest

from tests.rooms import small_project
from topion.survey import CHECKS, Finding, Ledger, add_check, survey
from topion.survey.check import RoomCheck


class Counting(RoomCheck):
    """Remembers which rooms it was asked about."""

    name = "counting"
    reads = ("prefabs",)

    def __init__(self):
        self.asked = []

    def findings(self, project, room):
        self.asked.append(room.info.name)
        yield Finding(self.name, "seen", room.info.name)


@pytest.fixture
def counting():
    check = Counting()
    add_check(check)
    yield check
    CHECKS.remove(check)


@pytest.fixture
def project():
    made = small_project()
    for name in "ABC":
        made.add_room(name, (12, 12), 4).lay("Mud", box=((0, 0), (11, 11)))
    return made


def test_every_room_is_asked_once(project, counting):
    project.check()
    project.check()
    assert counting.asked == ["A", "B", "C"]


def test_a_stroke_asks_about_its_room(project, counting):
    project.check()
    counting.asked.clear()
    project.room("B").lay("Water", cells=[(1, 1)])
    assert project.ledger.stale_rooms(project.data) == ["B"]
    project.check()
    assert counting.asked == ["B"] and project.ledger.stale_rooms(project.data) == []


def test_undo_asks_again_too(project, counting):
    project.room("B").lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    assert sum(f.room == "B" and "Lamp" in f.sentence for f in project.check()) == 2
    project.undo()
    assert not any("Lamp" in f.sentence for f in project.check())


def test_a_change_of_the_library_asks_only_checks_that_read_it(project, counting):
    project.check()
    counting.asked.clear()
    mud = project.data.brush("Mud")
    project.add_brush(replace(mud, nib=4))
    project.check()
    assert counting.asked == []
    project.add_prefab(replace(project.data.prefab("Bush"), mirrors=True))
    project.check()
    assert counting.asked == ["A", "B", "C"]


def test_kept_findings_are_those_of_a_survey_made_anew(project):
    project.check()
    project.room("C").lay("Lamp", cells=[(3, 3), (3, 4), (0, 0)], override=True)
    project.room("A").lay("Cart", cells=[(0, 0)], override=True)
    project.add_brush(replace(project.data.brush("Lamp"), prefab="Nobody"))
    assert project.check() == survey(project.data)
    project.remove_room("C")
    assert project.check() == survey(project.data)


def test_a_copy_of_a_ledger_learns_alone(project):
    ledger = Ledger()
    other = ledger.copy()
    other.bring_up_to_date(project.data)
    assert other.rooms and not ledger.rooms


def test_kinds_that_nobody_knows_are_named(tmp_path, project):
    import json

    import topion

    folder = project.save(tmp_path / "p.topion")
    path = folder / "brushes/Mud.json"
    plain = json.loads(path.read_text()) | {"kind": "hose", "spray": [1, 2]}
    path.write_text(json.dumps(plain))
    again = topion.open(folder)
    findings = [f for f in again.check() if f.check == "unknown kind"]
    assert [f.sentence for f in findings] == [
        "brush Mud is of the unknown kind “hose”, so it is kept but not used"
    ]
    assert again.room("A").material(3, 3) == "Mud" and not again.room("A").lay(
        "Mud", cells=[(1, 1)]
    )
    again.save(tmp_path / "q.topion")
    assert json.loads((tmp_path / "q.topion/brushes/Mud.json").read_text()) == plain
