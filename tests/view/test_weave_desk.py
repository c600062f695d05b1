"""The weave desk, worked with mouse and keys: what is done lands in the brush, as Edits."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QDropEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication

from tests.rooms import tile
from topion import scripting
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.neighbours import cases_47
from topion.pictures.png import png_bytes
from topion.view.desks.mark_card import cell_rect
from topion.view.desks.rule_list import mime_of
from topion.view.panels.picked import PickedPanel
from topion.weaving.ready import PARTS, card_of_case

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


class DeskHand:
    """Works the weave desk of Mud."""

    def __init__(self, designer):
        self.designer, self.qtbot = designer, designer.qtbot
        self.handle, self.history = designer.handle, designer.handle.history
        designer.session.desk_asked.emit("Mud")
        designer.settle(40)
        self.desk = designer.window.desks.desk
        self.rules = self.desk.rules

    @property
    def book(self):
        return self.handle.data.brush("Mud").rules

    def row(self, number):
        return self.rules.rows[number - 1]

    def click(self, widget, point, button=LEFT):
        self.qtbot.mouseClick(widget, button, pos=QPointF(point).toPoint())
        self.designer.settle()

    def click_mark(self, number, at, button=LEFT):
        row = self.row(number)
        rect = row.card_rects()["marks"]
        self.click(row, cell_rect(rect, len(row.rule.marks), at).center(), button)

    def scrap_cell(self, y, x):
        room = self.desk.ground.session.room
        return int(room.layers["own"].plane("material")[y, x])

    def stroke(self, *cells, button=LEFT):
        table = self.desk.tables.shown
        points = [table.cell_centre(*cell).toPoint() for cell in cells]
        self.qtbot.mouseMove(table, points[0])
        self.qtbot.mousePress(table, button, pos=points[0])
        for point in points[1:]:
            self.qtbot.mouseMove(table, point)
        self.qtbot.mouseRelease(table, button, pos=points[-1])
        self.designer.settle()

    def hover(self, cell):
        table = self.desk.tables.shown
        self.qtbot.mouseMove(table, table.cell_centre(*cell).toPoint())
        self.designer.settle()

    def wheel(self, row, point, steps):
        at = QPointF(point)
        event = QWheelEvent(at, QPointF(row.mapToGlobal(at.toPoint())), QPoint(), QPoint(0, 120 * steps),
                            Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                            Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        QApplication.sendEvent(row, event)


@pytest.fixture
def hand(designer):
    return DeskHand(designer)


def test_the_desk_takes_the_tables_place_and_done_gives_it_back(designer, hand):
    window = designer.window
    assert hand.desk.isVisible() and not window.tables.isVisible() and not window.rack.isVisible()
    assert window.ribbon.isVisible()
    assert hand.desk.bar.name.text() == "Mud"
    hand.qtbot.keyClick(hand.desk.tables.shown, Qt.Key.Key_Escape)
    designer.settle()
    assert window.tables.isVisible() and window.rack.isVisible() and window.desks.desk is None


@pytest.mark.parametrize("way", ["card", "in hand", "key"])
def test_it_opens_from_a_card_from_in_hand_and_by_its_key(designer, way):
    window = designer.window
    designer.session.hands.take("left", "Mud")
    if way == "card":
        card = next(card for card in window.rack.cards if card.name == "Mud")
        designer.qtbot.mouseDClick(card, LEFT)
    elif way == "in hand":
        designer.qtbot.mouseClick(window.in_hand.desk, LEFT)
    else:
        designer.key(Qt.Key.Key_F3)
    designer.settle()
    assert window.desks.desk is not None and window.desks.desk.name == "Mud"


def test_it_opens_from_what_is_picked(designer):
    designer.session.picking.pick(area=Area.of_box(Box((2, 2), (4, 4))))
    designer.handle.room(designer.session.room_name).lay("Mud", box=((2, 2), (3, 3)))
    designer.session.hands.take("left", "Water")
    designer.session.gestures.use("lasso")
    designer.settle()
    panel = designer.window.findChild(PickedPanel)
    designer.qtbot.mouseClick(panel.desk, LEFT)
    designer.settle()
    assert designer.window.desks.desk.name == "Mud"
    designer.key(Qt.Key.Key_Escape)
    designer.key(Qt.Key.Key_F3)
    assert designer.window.desks.desk.name == "Mud", "before the brush in hand"


def test_a_brush_without_a_desk_is_said(designer):
    designer.session.hands.take("left", "Lift")
    designer.key(Qt.Key.Key_F3)
    assert designer.window.desks.desk is None
    assert "no desk" in designer.window.said.text()


def test_a_click_on_a_mark_goes_from_same_to_open_to_named_to_nothing(hand):
    seen = []
    for _ in range(4):
        hand.click_mark(1, (2, 2))
        seen.append(hand.book.rules[0].marks[2][2])
    assert seen == ["same", "open", "is Water", "any"]
    assert len(hand.history.edits[-4:]) == 4
    hand.designer.session.undo()
    assert hand.book.rules[0].marks[2][2] == "is Water"


def test_the_middle_of_a_card_is_the_cell_itself(hand):
    before = hand.book
    hand.click_mark(1, (1, 1))
    assert hand.book == before


def test_the_room_behind_settles_anew_while_a_rule_changes(designer, hand):
    designer.handle.room(designer.session.room_name).lay("Mud", box=((2, 2), (9, 9)))
    why = designer.room.why(2, 2)
    hand.click_mark(why.number, (0, 0))
    hand.click_mark(why.number, (0, 0))
    assert "open" in hand.book.rules[why.number - 1].marks[0]
    hand.click_mark(why.number, (2, 2))
    assert designer.room.why(2, 2).number != why.number


def test_what_is_drawn_on_the_scrap_is_kept_with_the_brush_and_undone(hand):
    assert hand.scrap_cell(0, 0) == 0
    hand.stroke((0, 0), (0, 3))
    number = hand.handle.data.material_id("Mud")
    assert hand.scrap_cell(0, 2) == number
    ground = hand.handle.data.brush("Mud").ground
    assert ground is not None and ground.count_cells() > 4
    hand.qtbot.keyClick(hand.desk.tables.shown, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.designer.settle()
    assert hand.scrap_cell(0, 2) == 0
    assert hand.handle.data.brush("Mud").ground is None


def test_the_right_button_lifts_and_gestures_are_those_of_the_room(hand):
    hand.qtbot.keyClick(hand.desk.tables.shown, Qt.Key.Key_B)
    hand.stroke((1, 1), (6, 6))
    assert hand.scrap_cell(3, 3) and hand.scrap_cell(1, 6)
    hand.stroke((2, 2), (5, 5), button=RIGHT)
    assert not hand.scrap_cell(3, 3) and hand.scrap_cell(1, 6)


def test_a_ready_shape_is_one_edit(hand):
    count = len(hand.history.edits)
    hand.qtbot.mouseClick(hand.desk.shapes["All cases"], LEFT)
    hand.designer.settle()
    assert hand.desk.ground.session.room.info.size == (29, 29)
    assert len(hand.history.edits) == count + 1
    assert hand.history.edits[-1].label == "All cases on the ground of Mud"


def test_pointing_at_the_scrap_marks_the_rule_that_fires_and_those_that_came_close(hand):
    hand.qtbot.mouseClick(hand.desk.shapes["Ring"], LEFT)
    hand.designer.settle()
    cells = np.argwhere(hand.desk.ground.session.room.layers["own"].plane("material"))
    hand.hover(tuple(cells[0].tolist()))
    why = hand.desk.work.why
    assert why is not None and f"Rule {why.number}" in hand.desk.told.text()
    assert any(near.failed for near in hand.desk.work.near)
    hand.hover((6, 6))  # open ground in its middle
    assert hand.desk.work.why is None


def test_the_worked_room_is_drawn_on_and_pointed_at_from_the_desk(designer, hand):
    designer.handle.room(designer.session.room_name).lay("Water", box=((1, 1), (8, 9)))
    hand.qtbot.mouseClick(hand.desk.where.buttons[True], LEFT)
    designer.settle(60)
    scrap = hand.desk.ground.session.room.layers["own"].plane("material").copy()
    hand.stroke((3, 3), (3, 6))
    hand.stroke((4, 3), (4, 6))
    assert designer.material((4, 5)) == "Mud" and designer.material((5, 5)) == "Water"
    assert (hand.desk.ground.session.room.layers["own"].plane("material") == scrap).all()
    hand.hover((3, 4))
    why = hand.desk.work.why
    assert why is not None and why.tile == designer.room.why(3, 4).tile
    assert f"Rule {why.number}" in hand.desk.told.text()
    hand.qtbot.mouseClick(hand.desk.where.buttons[False], LEFT)
    designer.settle()
    hand.stroke((0, 0))
    assert hand.scrap_cell(0, 0) and not scrap[0, 0]


def test_hits_count_the_cells_of_the_worked_room(designer, hand):
    designer.handle.room(designer.session.room_name).lay("Mud", box=((2, 2), (6, 6)))
    hand.qtbot.waitUntil(lambda: sum(hand.desk.work.hits.values()) > 0, timeout=2000)
    room = designer.room
    cells = [room.why(y, x) for y in range(24) for x in range(32) if room.material(y, x) == "Mud"]
    for number in (1, 13):
        assert hand.desk.work.cells_of(number) == sum(why.number == number for why in cells)


def test_an_open_case_is_shown_and_a_click_makes_its_rule(hand):
    book = hand.book
    for _ in range(2):  # a card more, and the last one off: cases become open
        hand.desk.work.choose(len(hand.book.rules))
        hand.qtbot.mouseClick(hand.desk.side.flags["on"].buttons[False], LEFT)
    grid = hand.desk.side.grid
    open_ones = [n for n, case in enumerate(grid.cases) if case.by == "open"]
    assert len(open_ones) == 1 and grid.cases[open_ones[0]].mask == 255
    hand.click(grid, grid.rect_of(open_ones[0]).center())
    assert len(hand.book.rules) == len(book.rules) + 1
    assert not [case for case in grid.cases if case.by == "open"]
    made = hand.desk.work.chosen_rule()
    assert made.marks == card_of_case(255, whole=True)
    assert len(grid.cases) == len(cases_47())


def test_a_click_on_an_answered_case_shows_its_rule(hand):
    grid = hand.desk.side.grid
    at = next(n for n, case in enumerate(grid.cases) if case.mask == PARTS["inner se"])
    hand.click(grid, grid.rect_of(at).center())
    assert hand.desk.work.chosen_rule().name == "inner corner se"


def test_a_rule_that_never_fires_says_which_hides_it(hand):
    last = len(hand.book.rules)
    hand.desk.work.move(last, 1)
    assert 2 in hand.rules.hidden and hand.rules.hidden[2] == (1,)
    assert "hidden by 1" in hand.row(2).told(hand.row(2).rule)[0]


def test_rules_are_dragged_by_their_number_to_another_place(hand):
    names = [r.name for r in hand.book.rules]
    row = hand.row(1)
    hand.qtbot.mousePress(row, LEFT, pos=QPoint(15, 40))
    hand.qtbot.mouseMove(row, QPoint(15, 40 + 2 * 88))
    hand.qtbot.mouseRelease(row, LEFT, pos=QPoint(15, 40 + 2 * 88))
    hand.designer.settle()
    assert [r.name for r in hand.book.rules][:3] == [names[1], names[0], names[2]]


def test_rules_are_moved_copied_and_deleted_by_keys(hand):
    control = Qt.KeyboardModifier.ControlModifier
    names = [r.name for r in hand.book.rules]
    hand.rules.setFocus()
    hand.qtbot.keyClick(hand.rules, Qt.Key.Key_Down, control)
    assert [r.name for r in hand.book.rules][:2] == [names[1], names[0]]
    hand.qtbot.keyClick(hand.rules, Qt.Key.Key_D, control)
    assert hand.book.rules[2].name == f"{names[0]} 2"
    hand.qtbot.keyClick(hand.rules, Qt.Key.Key_Delete)
    assert [r.name for r in hand.book.rules] == [names[1], names[0], *names[2:]]


def test_slots_are_picked_from_the_strip_and_dropped_onto_rules(hand):
    strip = hand.desk.strip
    hand.desk.work.choose(3)
    tiles = strip.tiles
    at = next(n for n, ref in enumerate(tiles.refs) if ref == tile(4, 2))
    hand.click(tiles, tiles.rect_of(at).center())
    assert [v.tile for v in hand.book.rules[2].variants][1:] == [tile(4, 2)]
    row = hand.row(2)
    data = mime_of(tile(4, 3))
    drop = QDropEvent(row.tile_rect(1).center(), Qt.DropAction.CopyAction, data, LEFT,
                      Qt.KeyboardModifier.NoModifier)  # fmt: skip
    row.dropEvent(drop)
    assert hand.book.rules[1].variants[-1].tile == tile(4, 3)


def test_steps_of_the_wheel_over_a_tile_are_one_edit(hand):
    row, count = hand.row(1), len(hand.history.edits)
    for _ in range(5):
        hand.wheel(row, row.tile_rect(0).center(), 1)
    assert hand.book.rules[0].variants[0].weight == 6
    assert len(hand.history.edits) == count + 1


def test_a_wide_card_a_name_and_what_lies_beyond_are_set_beside(hand):
    side = hand.desk.side
    hand.qtbot.mouseClick(side.sides.buttons[5], LEFT)
    assert len(hand.book.rules[0].marks) == 5
    hand.qtbot.mouseClick(side.flags["turned"].buttons[True], LEFT)
    assert hand.book.rules[0].turned
    side.name.setFocus()
    side.name.selectAll()
    hand.qtbot.keyClicks(side.name, "north west")
    hand.qtbot.keyClick(side.name, Qt.Key.Key_Return)
    assert hand.book.rules[0].name == "north west"
    hand.desk.set_beyond("counts as open")
    assert hand.book.beyond == "open"


def test_when_the_brush_is_undone_away_the_desk_goes_too(designer):
    from topion.brushes import Weave
    from topion.weaving.rules import RuleBook

    handle = designer.handle
    handle.add_brush(Weave("Silt", RuleBook(handle.data.brush("Mud").rules.rules)))
    designer.session.desk_asked.emit("Silt")
    designer.settle()
    assert designer.window.desks.desk is not None
    designer.session.undo()
    designer.settle()
    assert designer.window.desks.desk is None
    assert designer.window.tables.isVisible()


def test_edits_of_the_desk_are_read_back(hand, tmp_path):
    hand.stroke((0, 0), (0, 3))
    hand.click_mark(1, (2, 2))
    hand.handle.save(tmp_path / "desk.topion")
    again = scripting.open(tmp_path / "desk.topion")
    assert again.data.brush("Mud") == hand.handle.data.brush("Mud")


# --- learning -----------------------------------------------------------------------------


def learn(hand):
    hand.qtbot.waitUntil(lambda: hand.desk.learning.learned is not None, timeout=15000)
    return hand.desk.learning.learned


def test_rules_are_learned_from_what_is_picked_and_taken_as_one_edit(designer, hand):
    designer.handle.room(designer.session.room_name).lay("Mud", box=((2, 2), (20, 28)))
    designer.handle.room(designer.session.room_name).lay("Water", box=((6, 6), (12, 12)))
    designer.session.picking.pick((), Area.of_box(Box((0, 0), (24, 32))))
    hand.qtbot.mouseClick(hand.desk.from_picked, LEFT)
    learned = learn(hand)
    panel = hand.desk.learning
    assert panel.isVisible() and learned.reproduced == learned.cells > 0
    assert f"of {learned.cells:,} cells again" in panel.told.text()
    before, count = designer.room.why(2, 2).tile, len(hand.history.edits)
    hand.qtbot.mouseClick(panel.take, LEFT)
    designer.settle()
    assert hand.book.rules == learned.book.rules and len(hand.history.edits) == count + 1
    assert designer.room.why(2, 2).tile == before
    assert not panel.isVisible()


def test_nothing_picked_is_said(hand):
    hand.qtbot.mouseClick(hand.desk.from_picked, LEFT)
    assert "lasso" in hand.designer.window.said.text()
    assert not hand.desk.learning.isVisible()


def test_rules_are_learned_from_a_picture_whose_tiles_come_along(hand, tmp_path):
    rng = np.random.default_rng(4)
    tiles = rng.integers(1, 255, (2, 4, 4, 4), np.uint8)
    tiles[..., 3] = 255
    cells = np.zeros((10, 12), int)
    cells[3:7, 2:9] = 1
    rgba = np.concatenate([np.concatenate([tiles[n] for n in row], axis=1) for row in cells])
    path = tmp_path / "elsewhere.png"
    path.write_bytes(png_bytes(rgba))
    panel = hand.desk.learning
    panel.learn_picture(path)
    learn(hand)
    rows = [group.cells for _, group in panel.groups.rows]
    assert sorted(rows) == [28, 92]
    for row, cells_of in enumerate(rows):  # the patch is mud, the rest is open ground
        panel.mean(row, "Mud" if cells_of == 28 else "")
    learned = learn(hand)
    assert learned.cells == learned.reproduced == 28
    hand.qtbot.mouseClick(panel.take, LEFT)
    hand.designer.settle()
    assert "elsewhere" in hand.handle.data.tilesets
    assert {v.tile.tileset for r in hand.book.rules for v in r.variants} == {"elsewhere"}
    hand.designer.session.undo()
    assert "elsewhere" not in hand.handle.data.tilesets


def test_a_contradiction_leads_to_its_cell(designer, hand):
    hand.desk.learning.jumped.emit((12, 16))
    designer.settle()
    assert designer.window.desks.desk is None
    middle = designer.window.tables.flat.cell_centre(12, 16)
    assert designer.window.tables.flat.view_rect().contains(middle)
