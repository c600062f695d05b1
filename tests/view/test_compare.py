"""Another version over this one, with real drags, clicks and keys."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.rooms import small_room
from topion.formats.packing import pack
from topion.grid.areas import Area
from topion.grid.boxes import Box

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def other(tmp_path) -> Path:
    """A version with a block of stones, a bush and another seed."""
    room = small_room((24, 32))
    room.lay("Stones", box=((4, 8), (15, 23)))
    room.lay("Bush", cells=[(20, 20)])
    room.project.add_brush(room.project.data.brush("Water").changed(seed=77))
    return room.project.save(tmp_path / "Other.topion")


@pytest.fixture
def comparing(designer, other):
    """The panel, with that version over the open one."""
    designer.window.table.setFocus()
    designer.key(Qt.Key.Key_F7, Qt.KeyboardModifier.ShiftModifier)
    panel = designer.window.compare
    assert panel.isVisible()
    panel.with_path(other)
    designer.qtbot.waitUntil(lambda: panel.version is not None, timeout=10000)
    designer.settle(200)
    return designer


def listed(panel):
    return [panel.list.item(row).text() for row in range(panel.list.count())]


def drag(hand, share):
    """The line to a part of the table's width."""
    line = hand.window.compare.divider
    wide = hand.window.tables.width()
    middle = line.width() // 2
    by = round(share * wide) - (line.x() + middle)
    hand.qtbot.mousePress(line, LEFT, pos=QPoint(middle, 60))
    hand.qtbot.mouseMove(line, QPoint(middle + by, 60))
    hand.qtbot.mouseRelease(line, LEFT, pos=QPoint(middle, 60))
    hand.settle(120)


def test_what_differs_is_listed(comparing):
    panel = comparing.window.compare
    assert listed(panel) == [
        "Brush Water: seed 77 → 5",
        "Yard",
        "Ground: 192 cells at 8, 4 to 23, 15: Stones → Mud 192",
        "Things: Bush 1 gone",
    ]
    assert panel.told.text() == "Other.topion: 3 changes since"


def test_the_line_parts_then_from_now(comparing):
    cell = (10, 16)
    drag(comparing, 0.0)
    now = comparing.pixels(cell)
    drag(comparing, 1.0)
    then = comparing.pixels(cell)
    assert now != then and comparing.material(cell) == "Mud"
    line = comparing.window.compare.divider
    line.setFocus()
    comparing.qtbot.keyClick(line, Qt.Key.Key_Home)
    comparing.settle(120)
    assert comparing.pixels(cell) == now
    comparing.qtbot.keyClick(line, Qt.Key.Key_Right)
    assert 0 < line.share < 0.1


def test_cells_that_differ_are_marked_on_both_sides(comparing):
    drag(comparing, 0.0)
    marked = comparing.pixels((10, 16)), comparing.pixels((20, 20))
    plain = comparing.pixels((20, 4))
    comparing.key(Qt.Key.Key_F7, Qt.KeyboardModifier.ShiftModifier)
    comparing.settle(120)
    assert not comparing.window.compare.isVisible()
    assert comparing.pixels((10, 16)) != marked[0] and comparing.pixels((20, 20)) != marked[1]
    assert comparing.pixels((20, 4)) == plain


def test_a_picked_part_is_taken_over_as_one_edit(comparing):
    panel = comparing.window.compare
    comparing.session.picking.pick((), Area.of_box(Box((4, 8), (8, 12))))
    comparing.settle(40)
    assert panel.take.text() == "Take over what is picked"
    comparing.qtbot.mouseClick(panel.take, LEFT)
    comparing.settle(120)
    assert comparing.material((5, 9)) == "Stones" and comparing.material((10, 16)) == "Mud"
    assert "Ground: 176 cells at 8, 4 to 23, 15: Stones → Mud 176" in listed(panel)
    comparing.session.picking.pick()
    comparing.settle(40)
    comparing.qtbot.mouseClick(panel.take, LEFT)
    comparing.settle(120)
    assert comparing.material((10, 16)) == "Stones" and len(comparing.room.things()) == 1
    assert listed(panel) == ["Brush Water: seed 77 → 5"] and not panel.take.isEnabled()
    comparing.window.table.setFocus()
    for _ in range(2):
        comparing.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert comparing.material((5, 9)) == "Mud" and not comparing.room.things()


def test_painting_goes_on_under_it(comparing):
    drag(comparing, 0.0)
    comparing.stroke((20, 4), (20, 6))
    comparing.settle(120)
    assert comparing.material((20, 5)) == "Water"
    assert any("Mud → Water 3" in line for line in listed(comparing.window.compare))


def test_a_change_of_the_list_leads_to_its_place(comparing):
    panel, table = comparing.window.compare, comparing.window.table
    table.centre_on((0, 0))
    item = panel.list.item(2)
    at = panel.list.visualItemRect(item).center()
    comparing.qtbot.mouseClick(panel.list.viewport(), LEFT, pos=at)
    comparing.settle(60)
    middle = table.cell_centre(9, 15)
    assert abs(middle.x() - table.view_rect().center().x()) < table.camera.px


def test_a_packed_file_and_the_saved_state_are_versions_too(designer, other, tmp_path):
    pack(other, tmp_path / "Other.zip")
    panel = designer.window.compare
    designer.window.show_compare()
    panel.with_path(tmp_path / "Other.zip")
    designer.qtbot.waitUntil(lambda: panel.version is not None, timeout=10000)
    assert "Brush Water: seed 77 → 5" in listed(panel)
    designer.handle.save(tmp_path / "Mine.topion")
    designer.stroke((2, 2), (2, 4))
    designer.qtbot.mouseClick(panel.saved, LEFT)
    designer.qtbot.waitUntil(lambda: "as it was saved" in panel.told.text(), timeout=10000)
    assert listed(panel) == ["Yard", "Ground: 3 cells at 2, 2 to 4, 2: Mud → Water 3"]
    designer.handle.history.mark_saved()


def test_what_is_no_version_is_said(designer, tmp_path):
    (tmp_path / "bad.zip").write_bytes(b"PK nothing")
    designer.window.show_compare()
    designer.window.compare.with_path(tmp_path / "bad.zip")
    designer.qtbot.waitUntil(lambda: "bad.zip" in designer.window.said.text(), timeout=5000)
    assert designer.window.compare.version is None
    designer.qtbot.mouseClick(designer.window.compare.saved, LEFT)
    assert "not saved yet" in designer.window.said.text()


@pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")
def test_revisions_of_git_are_versions_too(designer, tmp_path):
    folder = designer.handle.save(tmp_path / "repo" / "Mine.topion")
    who = ["-c", "user.name=a", "-c", "user.email=a@example.org"]
    for words in (["init", "-q"], ["add", "-A"], [*who, "commit", "-q", "-m", "First yard"]):
        subprocess.run(["git", *words], cwd=tmp_path / "repo", check=True,
                       env={**os.environ, "GIT_CONFIG_GLOBAL": os.devnull})  # fmt: skip
    designer.stroke((2, 2), (2, 4))
    designer.window.show_compare()
    panel = designer.window.compare
    action = panel.git_menu().actions()[0]
    assert action.text().endswith("First yard") and folder.exists()
    action.trigger()
    designer.qtbot.waitUntil(lambda: panel.version is not None, timeout=10000)
    assert listed(panel) == ["Yard", "Ground: 3 cells at 2, 2 to 4, 2: Mud → Water 3"]
    designer.handle.history.mark_saved()


def test_voxel_rooms_are_compared_too(modeller, tmp_path):
    room = modeller.session.handle.room(modeller.session.room_name)
    folder = modeller.session.handle.save(tmp_path / "Isle.topion")
    room.lay("Stones", cells=[(6, 6, 6)])
    modeller.window.show_compare()
    panel = modeller.window.compare
    panel.with_path(folder)
    modeller.qtbot.waitUntil(lambda: panel.version is not None, timeout=10000)
    assert any("1 cell" in line for line in listed(panel))
    before = modeller.window.grab().toImage()
    panel.divider.move_to(1.0)
    modeller.qtbot.waitUntil(lambda: panel.other.solid is not None, timeout=20000)
    modeller.qtbot.wait(200)
    assert modeller.window.grab().toImage() != before
    modeller.qtbot.mouseClick(panel.take, LEFT)
    modeller.qtbot.wait(100)
    assert room.material(6, 6, 6) != "Stones"
    modeller.session.handle.history.mark_saved()


def test_a_packed_project_opens_as_a_folder_beside_it(designer, other, tmp_path):
    pack(other, tmp_path / "Sent.topion.zip")
    shutil.rmtree(other)
    designer.window.files.open(tmp_path / "Sent.topion.zip")
    designer.qtbot.waitUntil(
        lambda: designer.window.session.handle.folder is not None, timeout=10000
    )
    assert designer.window.session.handle.folder == tmp_path / "Other.topion"
    assert designer.window.session.project.brush("Water").seed == 77
    (tmp_path / "bad.topion.zip").write_bytes(b"PK\x03\x04 and nothing more")
    designer.window.files.open(tmp_path / "bad.topion.zip")
    designer.qtbot.waitUntil(lambda: "bad.topion.zip" in designer.window.said.text(), timeout=5000)
    assert designer.window.session.handle.folder == tmp_path / "Other.topion"
