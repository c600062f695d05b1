"""A wall laid into cells that a thing keeps: refused, asked about, or laid by holding O."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox

from tests.rooms import SHEET, prefab, stand
from topion.brushes import Mosaic
from topion.model.prefab import Thing
from topion.model.tileset import Slot, TileRef
from topion.things.rules import KeepsCells
from topion.weaving.rules import Variant


@pytest.fixture
def hand(designer):
    """Bricks are in hand; a thing that keeps its cell stands at 5, 8."""
    project = designer.handle
    sheet = project.data.tilesets[SHEET]
    slots = {"brick": Slot((4, 7), solid=True)}
    project.data.put_item(("tilesets", SHEET), replace(sheet, slots=slots))
    project.add_brush(Mosaic("Brick", (Variant(TileRef(SHEET, "brick")),)))
    stand(designer.room, Thing("It", 5, 8))
    designer.session.hands.take("left", "Brick")
    return designer


def keeps(hand, walls):
    hand.handle.add_prefab(prefab("It", KeepsCells(walls=walls)))
    hand.handle.history.mark_saved()
    said = []
    hand.session.said.connect(said.append)
    return said


def test_a_refused_wall_is_not_laid_and_it_is_said_why(hand):
    said = keeps(hand, "refused")
    hand.stroke((5, 7), (5, 9))
    assert hand.material((5, 8)) != "Brick"
    assert not hand.handle.history.changed
    assert said == ["Brick: It keeps cell 8, 5 of Yard; hold O to lay it all the same"]
    hand.hold(Qt.Key.Key_O)
    hand.stroke((5, 7), (5, 9))
    hand.release(Qt.Key.Key_O)
    assert hand.material((5, 8)) == "Brick"


def test_the_ghost_tells_it_before_the_button_comes_up(hand, monkeypatch):
    keeps(hand, "refused")
    told = []
    monkeypatch.setattr("topion.view.table.piece_marks.label",
                        lambda _, __, text: told.append(text))  # fmt: skip
    hand.hover((5, 7))
    assert not any("keeps" in text for text in told)
    hand.hover((5, 8))
    hand.settle(60)
    assert told[-1] == "It keeps cell 8, 5 of Yard · hold O"
    told.clear()
    hand.hover((5, 11))
    hand.settle(60)
    assert not any("keeps" in text for text in told)


@pytest.mark.parametrize("answer", ["Yes", "No"])
def test_where_it_asks_the_answer_decides(hand, monkeypatch, answer):
    keeps(hand, "asked")
    button = QMessageBox.StandardButton[answer]
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()) or button)
    hand.stroke((5, 8))
    assert asked == ["It keeps cell 8, 5 of Yard. Lay it there all the same?"]
    assert (hand.material((5, 8)) == "Brick") == (answer == "Yes")


def test_beside_it_walls_are_laid_as_ever(hand):
    said = keeps(hand, "refused")
    hand.stroke((6, 8))
    assert hand.material((6, 8)) == "Brick"
    assert said == []


def test_a_warm_stroke_laid_again_is_asked_about_like_a_new_one(hand):
    said = keeps(hand, "refused")
    hand.stroke((6, 7), (6, 9))
    assert hand.material((6, 8)) == "Brick" and hand.session.warm.now is not None
    brush = hand.handle.data.brush("Brick")
    at = hand.handle.history.at
    hand.session.warm.put(replace(brush, nib=3))  # would reach the cell at 5, 8
    assert hand.material((5, 8)) != "Brick" and hand.handle.data.brush("Brick").nib == brush.nib
    assert said[-1] == "Brick: It keeps cell 8, 5 of Yard; hold O to lay it all the same"
    assert hand.handle.history.at == at
    hand.session.warm.use_brush("Stones")
    assert hand.material((6, 8)) == "Stones"


def test_what_was_let_in_once_is_not_asked_about_at_each_step_of_a_slider(hand, monkeypatch):
    keeps(hand, "asked")
    asked = []
    yes = QMessageBox.StandardButton.Yes
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()) or yes)
    hand.stroke((6, 7), (6, 9))
    brush = hand.handle.data.brush("Brick")
    for nib in (3, 5, 7):
        hand.session.warm.put(replace(brush, nib=nib))
    assert len(asked) == 1 and hand.material((5, 8)) == "Brick"
    hand.session.undo()
    assert hand.material((6, 8)) != "Brick"
