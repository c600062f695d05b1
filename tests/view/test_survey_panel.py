"""The survey beside the table, with real keys and clicks."""

import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.rooms import stand
from topion.model.prefab import Thing
from topion.survey.ledger import CHECKS
from topion.view import style
from topion.view.survey.rows import HEAD, CheckRow, Head, Line

LEFT = Qt.MouseButton.LeftButton


def shows(hand):
    """The panel, once it knows all that it can."""
    hand.window.table.setFocus()
    hand.key(Qt.Key.Key_F7)
    hand.settle(60)
    panel = hand.window.survey
    assert panel.isVisible()
    hand.qtbot.waitUntil(lambda: not hand.window.surveying.busy, timeout=15000)
    hand.settle(30)
    return panel


def settled(hand):
    hand.qtbot.waitUntil(lambda: hand.window.surveying.busy, timeout=2000)
    hand.qtbot.waitUntil(lambda: not hand.window.surveying.busy, timeout=15000)
    hand.settle(30)


def lines(panel):
    return list(panel.model.lines())


def click(hand, panel, number, right=False):
    """On a row, or on the word at its right."""
    rect = panel.list.visualRect(panel.model.index(number))
    x = rect.right() - 20 if right else rect.left() + 60
    y = rect.top() + (12 if right else rect.height() // 2)
    hand.qtbot.mouseClick(panel.list.viewport(), LEFT, pos=QPoint(x, y))
    hand.settle(30)


def says(hand, panel, text):
    hand.qtbot.keyClicks(panel.answer, text)
    hand.qtbot.keyClick(panel.answer, Qt.Key.Key_Return)
    settled(hand)


@pytest.fixture
def crowded(designer):
    """Two lamps that stand too close."""
    designer.room.lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    return designer


def test_a_sound_project_is_told_to_be_well(designer):
    panel = shows(designer)
    assert panel.told.text() == "Nothing found: all is well" and not panel.model.rows
    designer.key(Qt.Key.Key_F7)
    assert not panel.isVisible()


def test_it_stands_beside_the_table_and_the_table_is_painted_on(crowded):
    panel, table = shows(crowded), crowded.window.table
    assert table.isVisible()
    assert panel.mapToGlobal(QPoint()).x() >= table.mapToGlobal(QPoint(table.width(), 0)).x() - 1
    before = len(crowded.session.handle.history.edits)
    crowded.stroke((12, 12), (12, 14))
    assert len(crowded.session.handle.history.edits) == before + 1


def test_findings_are_grouped_by_room_and_a_click_goes_there(crowded):
    other = crowded.handle.add_room("Other", (12, 12), 4)
    other.lay("Mud", box=((0, 0), (11, 11)))
    other.lay("Lamp", cells=[(5, 5), (5, 6)], override=True)
    panel = shows(crowded)
    heads = [row for row in panel.model.rows if isinstance(row, Head)]
    assert [(head.text, head.count) for head in heads] == [("Yard", 2), ("Other", 2)]
    assert crowded.session.room_name == "Yard"
    click(crowded, panel, 5)
    assert crowded.session.room_name == "Other"
    assert crowded.session.picked.lying.thing == lines(panel)[3].finding.thing
    panel.this_room.click()
    assert [row.text for row in panel.model.rows if isinstance(row, Head)] == ["Other"]


def test_the_count_in_the_top_line_is_kept_true_while_painting(designer):
    button = designer.window.top_bar.survey
    designer.room.lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    designer.qtbot.waitUntil(lambda: button.text() == "Survey 2", timeout=5000)
    designer.session.undo()
    designer.qtbot.waitUntil(lambda: button.text() == "Survey", timeout=5000)


def test_a_fix_is_one_stroke_and_the_finding_goes(crowded):
    panel = shows(crowded)
    before = len(crowded.session.handle.history.edits)
    click(crowded, panel, 1, right=True)
    settled(crowded)
    assert len(crowded.session.handle.history.edits) == before + 1
    assert not lines(panel)
    crowded.session.undo()
    settled(crowded)
    assert len(lines(panel)) == 2


def test_a_finding_is_accepted_with_a_word_and_counts_again_when_asked(crowded):
    panel = shows(crowded)
    panel.list.setCurrentIndex(panel.model.index(1))
    crowded.qtbot.keyClick(panel.list, Qt.Key.Key_A)
    assert panel.asking.isVisible()
    crowded.qtbot.keyClick(panel.answer, Qt.Key.Key_Return)  # no word, nothing kept
    assert panel.asking.isVisible()
    says(crowded, panel, "a pair, on purpose")
    assert crowded.window.surveying.count == 1
    assert crowded.window.top_bar.survey.text() == "Survey 1"
    accepted = [line for line in lines(panel) if line.word]
    assert [line.word for line in accepted] == ["a pair, on purpose"]
    click(crowded, panel, panel.model.rows.index(accepted[0]), right=True)
    settled(crowded)
    assert crowded.window.surveying.count == 2


def test_a_check_is_switched_off_with_a_reason_and_on_again(crowded):
    panel = shows(crowded)
    panel.checks.click()
    rows = [row for row in panel.model.rows if isinstance(row, CheckRow)]
    assert [row.name for row in rows] == [check.name for check in CHECKS]
    assert all(row.about for row in rows)
    number = next(n for n, row in enumerate(panel.model.rows)
                  if isinstance(row, CheckRow) and row.name == "broken rules")  # fmt: skip
    panel.list.scrollTo(panel.model.index(number))
    click(crowded, panel, number, right=True)
    says(crowded, panel, "lamps are a matter of taste")
    assert crowded.window.surveying.count == 0
    row = panel.model.rows[number]
    assert row.reason == "lamps are a matter of taste"
    click(crowded, panel, number, right=True)
    settled(crowded)
    assert crowded.window.surveying.count == 2


def test_the_menu_of_a_finding_offers_all_that_can_be_done(crowded):
    panel = shows(crowded)
    menu = panel.menu_of(lines(panel)[0])
    assert [action.text() for action in menu.actions()] == [
        "Go there", "Move it", "Accept with a word…", "Ask “broken rules” no longer…"]  # fmt: skip
    assert panel.menu_of(panel.model.rows[0]) is None


def test_rows_are_drawn_where_they_are_clicked(crowded):
    panel = shows(crowded)
    assert panel.list.visualRect(panel.model.index(0)).height() == HEAD
    image = panel.list.viewport().grab().toImage()
    rect = panel.list.visualRect(panel.model.index(1))
    edge = image.pixelColor(rect.left() + 13, rect.top() + 20)
    assert edge.name() == style.name("buoy")
    assert isinstance(panel.model.rows[1], Line)


def fixed_by_click(hand, panel, check):
    """Press the green word of the first finding of a check."""
    number = next(n for n, row in enumerate(panel.model.rows)
                  if isinstance(row, Line) and row.finding.by == check)  # fmt: skip
    click(hand, panel, number, right=True)
    settled(hand)


def test_a_thing_off_the_grid_is_snapped_by_a_click_on_its_word(designer):
    stand(designer.room, Thing("Bush", 5.0, 5.37))
    panel = shows(designer)
    assert [line.fixes for line in lines(panel)] == [("snap it",)]
    fixed_by_click(designer, panel, "off the grid")
    (thing,) = designer.room.things()
    assert (thing.y, thing.x) == (5.0, pytest.approx(5.37, abs=0.13)) and thing.x != 5.37
    assert lines(panel) == []


def test_a_thing_outside_is_taken_away_by_a_click_on_its_word(designer):
    stand(designer.room, Thing("Bush", 99, 5))
    panel = shows(designer)
    fixed_by_click(designer, panel, "outside")
    assert list(designer.room.things()) == [] and lines(panel) == []
    designer.session.undo()
    settled(designer)
    assert len(lines(panel)) == 1
