"""What both changed, settled on the table with real clicks and keys."""

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtWidgets import QApplication

from tests.merging.pairs import Pair, merged, painted
from tests.merging.test_whole import moved
from tests.view.test_survey_panel import lines, shows
from topion.scripting import History, ProjectHandle

LEFT = Qt.MouseButton.LeftButton


def merged_project():
    pair = Pair(painted([]), painted([]), painted([]))
    for room in (pair.base, pair.ours, pair.theirs):
        room.lay("Bush", cells=[(9, 9)])
    pair.ours.lay("Stones", box=((2, 2), (2, 5)))
    pair.theirs.lay("Water", box=((2, 3), (2, 6)))
    moved(pair.ours, 1, x=12.0)
    moved(pair.theirs, 1, x=15.0)
    return merged(pair).project


@pytest.fixture
def hand(designer):
    """The window on a merged project, in which cells and a bush are to be settled."""
    handle = ProjectHandle(merged_project())
    handle.history = History(handle.data)
    designer.window.use(handle)
    designer.session, designer.handle = designer.window.session, handle
    designer.settle(60)
    designer.window.table.camera.step = 8
    designer.window.table.centre_on((6, 8))
    designer.settle(60)
    return designer


def material(hand, cell):
    project = hand.session.project
    plane = project.room("Yard").layers["ground"].plane("material")
    return project.material_name(int(plane[cell]))


def click(hand, button):
    hand.qtbot.mouseClick(button, LEFT)
    hand.settle(40)


def test_the_bar_asks_one_after_the_other_until_nothing_is_left(hand):
    bar = hand.window.conflicts
    assert (
        bar.isVisible()
        and bar.told.text() == "Both changed the material of 3 cells in Ground; ours stands"
    )
    assert bar.count.text() == "1 of 2"
    click(hand, bar.theirs)
    assert material(hand, (2, 4)) == "Water" and not bar.count.isVisible()
    assert bar.told.text() == "Both changed the place of Bush 1 in Things; ours stands"
    click(hand, bar.ours)
    assert not bar.isVisible() and hand.room.data.layers["things"].things[1].x == 12.0
    hand.window.table.setFocus()
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.settle(40)
    assert bar.isVisible() and material(hand, (2, 4)) == "Stones"


def test_keys_choose_and_go_from_one_to_the_next(hand):
    bar = hand.window.conflicts
    bar.theirs.setFocus()
    hand.qtbot.keyClick(bar.theirs, Qt.Key.Key_PageDown)
    hand.settle(40)
    assert bar.count.text() == "2 of 2"
    hand.qtbot.keyClick(bar.theirs, Qt.Key.Key_T)
    hand.settle(40)
    assert hand.room.data.layers["things"].things[1].x == 15.0
    hand.qtbot.keyClick(bar.theirs, Qt.Key.Key_O)
    hand.settle(40)
    assert not hand.room.data.conflicts and material(hand, (2, 4)) == "Stones"


def test_the_other_version_is_seen_before_it_is_chosen(hand):
    bar = hand.window.conflicts
    here = hand.pixels((2, 4))
    beside = hand.pixels((6, 4))
    spot = QPointF(5, 5)
    QApplication.sendEvent(bar.theirs, QEnterEvent(spot, spot, spot))
    hand.settle(60)
    assert hand.pixels((2, 4)) != here and hand.pixels((6, 4)) == beside
    assert material(hand, (2, 4)) == "Stones"
    QApplication.sendEvent(bar.theirs, QEvent(QEvent.Type.Leave))
    hand.settle(60)
    assert hand.pixels((2, 4)) == here


def test_cells_of_a_conflict_are_marked_on_the_table(hand):
    marked = hand.pixels((2, 4))
    click(hand, hand.window.conflicts.ours)
    assert hand.pixels((2, 4)) != marked


def test_the_survey_offers_both_sides_of_each(hand):
    panel = shows(hand)
    found = [line for line in lines(panel) if line.title == "both changed"]
    assert [line.fixes for line in found] == [("ours", "theirs")] * 2
    number = panel.model.rows.index(found[0])
    rect = panel.list.visualRect(panel.model.index(number))
    hand.qtbot.mouseClick(
        panel.list.viewport(), LEFT, pos=QPoint(rect.right() - 90, rect.top() + 12)
    )
    hand.settle(60)
    assert material(hand, (2, 4)) == "Stones" and len(hand.room.data.conflicts) == 1
    hand.qtbot.waitUntil(
        lambda: len([ln for ln in lines(panel) if ln.title == "both changed"]) == 1
    )
    last = next(line for line in lines(panel) if line.title == "both changed")
    rect = panel.list.visualRect(panel.model.index(panel.model.rows.index(last)))
    hand.qtbot.mouseClick(
        panel.list.viewport(), LEFT, pos=QPoint(rect.right() - 20, rect.top() + 12)
    )
    hand.settle(60)
    assert not hand.room.data.conflicts and hand.room.data.layers["things"].things[1].x == 15.0
