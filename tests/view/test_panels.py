"""The panels round the table show and change the project through the history."""

import itertools
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QWheelEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QWidget

from tests.rooms import sheet_picture
from topion import scripting
from topion.view import style
from topion.view.panels.rows import Track
from topion.view.window import Window

CONTROL = Qt.KeyboardModifier.ControlModifier
LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


def card(designer, name):
    return next(card for card in designer.window.rack.cards if card.name == name)


def pull(designer, row, share):
    """Pull the grip of a row's slider to a share of its way."""
    track = row.findChild(Track)
    x = int(6 + share * (track.width() - 12))
    designer.qtbot.mousePress(track, LEFT, pos=QPoint(track.width() // 3, 10))
    designer.qtbot.mouseMove(track, QPoint(track.width() // 2, 10))
    designer.qtbot.mouseMove(track, QPoint(x, 10))
    designer.qtbot.mouseRelease(track, LEFT, pos=QPoint(x, 10))
    designer.settle()


def test_a_click_on_a_card_takes_it_in_the_hand_of_the_button(designer):
    designer.qtbot.mouseClick(card(designer, "Mud"), LEFT)
    designer.qtbot.mouseClick(card(designer, "Water"), RIGHT)
    assert designer.session.hands.names() == {"left": "Mud", "right": "Water"}


def test_digits_take_the_first_ten_cards(designer):
    designer.key(Qt.Key.Key_2)
    assert designer.session.hands["left"] == designer.window.rack.cards[1].name
    designer.key(Qt.Key.Key_3, Qt.KeyboardModifier.ShiftModifier)
    assert designer.session.hands["right"] == designer.window.rack.cards[2].name
    digits = [c.digit for c in designer.window.rack.cards]
    assert digits[:3] == ["1", "2", "3"] and not any(digits[10:])


def test_typing_finds_brushes(designer):
    designer.key(Qt.Key.Key_Slash)
    designer.qtbot.keyClicks(designer.window.rack.search, "wat")
    assert [c.name for c in designer.window.rack.cards] == ["Water"]
    designer.window.rack.search.clear()
    assert len(designer.window.rack.cards) == len(designer.session.project.brushes)


def test_moving_a_card_is_an_edit(designer):
    order = [c.name for c in designer.window.rack.cards]
    designer.window.rack.move_card(order[2], order[0])
    designer.settle(80)
    assert [c.name for c in designer.window.rack.cards][:2] == [order[2], order[0]]
    designer.key(Qt.Key.Key_Z, CONTROL)
    designer.settle(80)
    assert [c.name for c in designer.window.rack.cards] == order


def test_a_card_dropped_on_another_takes_its_place(designer):
    order = [c.name for c in designer.window.rack.cards]
    data = QMimeData()
    data.setData("application/x-topion-card", order[3].encode())
    target = card(designer, order[1])
    actions, none = Qt.DropAction.MoveAction, Qt.KeyboardModifier.NoModifier
    at = QPointF(20, 20)
    enter = QDragEnterEvent(at.toPoint(), actions, data, Qt.MouseButton.LeftButton, none)
    QApplication.sendEvent(target, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(target, QDropEvent(at, actions, data, Qt.MouseButton.LeftButton, none))
    designer.settle(80)
    assert [c.name for c in designer.window.rack.cards][1:3] == [order[3], order[1]]


def test_pulling_a_slider_is_one_edit_and_changes_card_and_room(designer):
    designer.room.lay("Reeds", box=((2, 2), (20, 28)))
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    rack = designer.window.rack
    before, shown = (
        len(designer.room.sown("Reeds")),
        rack.picture(designer.session.project.brushes["Reeds"]).toImage(),
    )
    count = len(designer.handle.history.edits)
    pull(designer, designer.window.in_hand.rows["spacing"], 0.8)
    brush = designer.session.project.brushes["Reeds"]
    assert brush.spacing > 2 and len(designer.handle.history.edits) == count + 1
    assert len(designer.room.sown("Reeds")) < before / 2
    assert rack.picture(brush).toImage() != shown
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert len(designer.room.sown("Reeds")) == before


def test_typed_values_may_lie_beyond_the_slider_but_not_beyond_sense(designer):
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    edit = designer.window.in_hand.rows["spacing"].findChild(QLineEdit)
    for text, wanted in (("7.5", 7.5), ("-3", 7.5), ("nonsense", 7.5), ("2,25 c", 2.25)):
        edit.setFocus()
        edit.selectAll()
        designer.qtbot.keyClicks(edit, text)
        designer.qtbot.keyClick(edit, Qt.Key.Key_Return)
        assert designer.session.project.brushes["Reeds"].spacing == wanted


def test_a_double_click_resets_a_setting(designer):
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    track = designer.window.in_hand.rows["density"].findChild(Track)
    pull(designer, designer.window.in_hand.rows["density"], 0.1)
    assert designer.session.project.brushes["Reeds"].density < 0.3
    designer.qtbot.mouseDClick(track, LEFT, pos=QPoint(20, 10))
    assert designer.session.project.brushes["Reeds"].density == 0.7


def test_the_tally_is_told(designer):
    designer.session.hands.take("left", "Reeds")
    designer.room.lay("Reeds", box=((2, 2), (20, 28)))
    designer.settle(120)
    tally = designer.room.tally("Reeds")
    text = designer.window.in_hand.tally.text()
    assert text.startswith(
        f"{tally.placed} of {tally.wanted} placed: {dict(tally.refused)['too close']} too close"
    )


def test_the_dice_rolls_another_pattern(designer):
    seed = designer.session.project.brushes["Water"].seed
    designer.key(Qt.Key.Key_R)
    assert designer.session.project.brushes["Water"].seed != seed


def test_at_cursor_is_scrolled_to_what_lies_deeper(designer):
    panel = designer.window.at_cursor
    designer.key(Qt.Key.Key_S)
    designer.hover((10, 10))
    designer.qtbot.waitUntil(lambda: bool(panel.items))
    panel.items = [replace(panel.items[0], name=f"Item {n}") for n in range(5)]
    point = QPointF(60, 60)
    wheel = QWheelEvent(point, panel.mapToGlobal(point), QPoint(), QPoint(0, -120),
                        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                        Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    for _ in range(9):
        QApplication.sendEvent(panel, wheel)
    designer.qtbot.mouseMove(panel, QPoint(60, 110))
    assert panel.toolTip().startswith("Item 4")


def test_at_cursor_follows_the_pointer_and_keeps_its_list_when_it_leaves(designer):
    designer.room.lay("Lamp", cells=[(8, 8)])
    designer.hover((8, 8))
    designer.settle(60)
    panel = designer.window.at_cursor
    assert [i.name for i in panel.items] == ["Lamp", "Mud"]
    designer.session.point_at(None)
    designer.settle(60)
    assert len(panel.items) == 2
    designer.qtbot.mouseClick(panel, LEFT, pos=QPoint(60, 28 + 44 + 10))
    assert designer.session.layer_id == "ground"


def test_the_stack_hides_locks_and_reorders_layers(designer):
    stack = designer.window.stack
    designer.qtbot.mouseClick(stack, LEFT, pos=stack.eye_rect("ground").center().toPoint())
    assert designer.room.data.layers["ground"].info.shown is False
    designer.qtbot.mouseClick(stack, LEFT, pos=stack.lock_rect("things").center().toPoint())
    assert designer.room.data.layers["things"].info.locked is True
    top = stack.row_rect("things").center().toPoint()
    below = stack.row_rect("ground").center().toPoint()
    designer.qtbot.mousePress(stack, LEFT, pos=top)
    designer.qtbot.mouseMove(stack, below)
    designer.qtbot.mouseRelease(stack, LEFT, pos=below)
    assert designer.room.data.order == ("things", "ground")
    for _ in range(3):
        designer.key(Qt.Key.Key_Z, CONTROL)
    assert (
        designer.room.data.order == ("ground", "things")
        and designer.room.data.layers["ground"].info.shown
    )


def test_new_layers_come_above_the_one_worked_on(designer):
    designer.session.picked.work_on("ground")
    designer.window.stack.add_new("tiles")
    assert designer.room.data.order == ("ground", "tiles", "things")


def test_the_ribbon_lists_strokes_and_jumps(designer):
    for y in (3, 6, 9):
        designer.stroke((y, 3), (y, 9))
    ribbon = designer.window.ribbon
    first = len(designer.handle.history.edits) - 3
    designer.qtbot.mouseClick(ribbon, LEFT, pos=ribbon.chip_rect(first).center().toPoint())
    assert [designer.material((y, 5)) for y in (3, 6, 9)] == ["Water", "Mud", "Mud"]
    designer.qtbot.mouseClick(ribbon, LEFT, pos=ribbon.chip_rect(first + 2).center().toPoint())
    assert designer.material((9, 5)) == "Water"


def test_the_sheet_dialog_proposes_the_cut_and_brings_the_sheet_in(designer, tmp_path):
    path = tmp_path / "more.png"
    path.write_bytes(sheet_picture(side=16).png)
    dialog = designer.window.files.cut_sheet(path)
    assert (dialog.tile_w.value(), dialog.tile_h.value()) == (16, 16)
    designer.qtbot.waitUntil(lambda: "in use" in dialog.told.text())
    assert "40 in use" in dialog.told.text() and "8 empty" in dialog.told.text()
    dialog.tile_w.setValue(32)
    designer.qtbot.waitUntil(
        lambda: "in use" in dialog.told.text() and dialog.cut().tile == (16, 32)
    )
    designer.qtbot.waitUntil(lambda: "4 × 6" in dialog.told.text())
    assert "4 × 6 slots" in dialog.told.text()
    designer.qtbot.mouseClick(dialog.cards.cards[0], LEFT)
    designer.settle(120)
    designer.qtbot.mouseClick(dialog.make, LEFT)
    assert designer.session.project.tilesets["more"].cut.tile == (16, 16)


def test_a_marked_block_of_slots_is_laid_from_the_hand(designer):
    designer.window.show_sheets()
    desk = designer.window.desks.desk
    designer.settle()
    view = desk.view
    a, b = (view.slot_rect(*at).center().toPoint() for at in ((1, 2), (2, 4)))
    designer.qtbot.mousePress(view, LEFT, pos=a)
    designer.qtbot.mouseMove(view, b)
    designer.qtbot.mouseRelease(view, LEFT, pos=b)
    designer.qtbot.mouseClick(desk.buttons["left"], LEFT)
    designer.key(Qt.Key.Key_Escape)
    designer.stroke((5, 5), (5, 5))
    assert [designer.room.why(6, x).tile.slot for x in (5, 6, 7)] == ["2,2", "2,3", "2,4"]
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.material((5, 5)) == "Mud"


def test_broken_files_are_said_and_change_nothing(designer, tmp_path):
    path = tmp_path / "bad.png"
    path.write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    assert designer.window.files.cut_sheet(path) is None
    assert "bad.png" in designer.window.said.text()
    (tmp_path / "p.topion").mkdir()
    designer.window.files.open(tmp_path / "p.topion")
    assert "holds no project.json" in designer.window.said.text()
    assert designer.window.session.handle is designer.handle


def test_save_open_and_export_through_the_window(designer, tmp_path):
    designer.stroke((3, 3), (3, 9))
    assert "•" in designer.window.top_bar.project.text()
    assert designer.window.saves.save_to(tmp_path / "Small.topion")
    designer.stroke((4, 3), (4, 9))
    designer.key(Qt.Key.Key_S, CONTROL)
    assert "•" not in designer.window.top_bar.project.text()
    for kind in ("png", "csv", "json"):
        designer.window.files.export_to(kind, tmp_path)
    assert {p.suffix for p in tmp_path.iterdir()} >= {".png", ".csv", ".json", ".topion"}
    designer.window.files.open(tmp_path / "Small.topion")
    assert designer.window.session.handle is not designer.handle
    designer.session = designer.window.session
    designer.handle = designer.session.handle
    assert designer.material((3, 5)) == "Water"
    designer.table.centre_on((12, 16))
    designer.session.hands.take("left", "Stones")
    designer.stroke((12, 12), (12, 14))
    assert designer.material((12, 13)) == "Stones"


def test_a_new_room_is_made_and_shown(designer):
    from topion.view.dialogs.room import RoomDialog

    dialog = RoomDialog(designer.window, designer.window)
    dialog.name.setText("Yard")
    dialog.make()
    assert "already a room" in dialog.problem.text()
    dialog.name.setText("Attic")
    dialog.make()
    assert designer.session.room_name == "Attic"
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.session.room_name == "Yard"


def test_a_picture_becomes_a_thing_and_a_thing_becomes_a_field(designer, tmp_path):
    path = tmp_path / "Fern.png"
    path.write_bytes(sheet_picture(3, 2, 4).png)
    designer.window.new_brush.thing_from(path)
    assert designer.session.hands["left"] == "Fern"
    prefab = designer.session.project.prefabs["Fern"]
    assert prefab.footprint == ("##",) and prefab.anchor_px[0] == 8
    designer.stroke((8, 8), (8, 8))
    assert designer.room.things()[0].prefab == "Fern"
    designer.window.new_brush.field_of_hand()
    designer.stroke((15, 15), (15, 15))
    assert designer.room.tally("Fern field").placed > 0


def test_dark_and_paper_change_every_panel(designer):
    light = designer.window.grab().toImage()
    designer.key(Qt.Key.Key_F8)
    designer.settle(60)
    dark = designer.window.grab().toImage()
    try:
        for point in (QPoint(600, 10), QPoint(5, 300), QPoint(1100, 500), QPoint(700, 640)):
            assert (
                light.pixelColor(point).lightness() > 180 > 90 > dark.pixelColor(point).lightness()
            )
    finally:
        designer.key(Qt.Key.Key_F8)
    assert not style.is_dark()


def test_every_control_has_a_name_and_a_tip(designer):
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    for widget in designer.window.findChildren(QWidget):
        if isinstance(widget, QAbstractButton) and widget.isVisible():
            assert widget.accessibleName() or widget.text(), widget
            assert widget.toolTip() or widget.parentWidget().toolTip(), widget.text()


def test_at_1280_by_800_no_control_is_cut(designer):
    designer.window.resize(1280, 800)
    designer.key(Qt.Key.Key_F)
    designer.settle(60)
    bar = designer.window.top_bar
    shown = [w for w in bar.findChildren(QAbstractButton) if w.isVisible()]
    for widget in shown:
        assert widget.geometry().right() <= bar.width()
        assert widget.width() >= widget.minimumSizeHint().width()
    spans = sorted((w.geometry().left(), w.geometry().right()) for w in shown)
    assert all(a[1] < b[0] + 1 for a, b in itertools.pairwise(spans))


def test_turning_mirroring_and_resetting_the_thing_in_hand(designer):
    designer.session.hands.take("left", "Cart")
    designer.key(Qt.Key.Key_T)
    designer.key(Qt.Key.Key_M)
    brush = designer.session.project.brushes["Cart"]
    assert (brush.turn, brush.mirrored) == (90, True)
    designer.key(Qt.Key.Key_Backspace)
    brush = designer.session.project.brushes["Cart"]
    assert (brush.turn, brush.mirrored) == (0, False)


def test_strokes_come_back_in_the_window_after_a_crash(designer, tmp_path):
    designer.handle.save(tmp_path / "Small.topion")
    designer.window.files.open(tmp_path / "Small.topion")
    first = designer.window.session
    first.handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    designer.window.files.open(tmp_path / "Small.topion")
    designer.settle(60)
    again = designer.window.session
    assert again.handle is not first.handle and again.handle.room("Yard").material(4, 4) == "Water"
    assert "1 stroke that had not been saved came back" in designer.window.said.text()
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert again.handle.room("Yard").material(4, 4) == "Mud"
    again.handle.history.mark_saved()


def test_a_second_window_on_a_project_only_looks(designer, qtbot, tmp_path):
    folder = designer.handle.save(tmp_path / "Small.topion")
    designer.window.files.open(folder)
    second = Window(scripting.open(folder))
    qtbot.addWidget(second)
    second.show()
    qtbot.wait(60)
    assert "open in another window" in second.said.text()
    session = second.session
    before = session.handle.room("Yard").render(1).tobytes()
    session.hands.take("left", "Water")
    assert session.apply(session.plan("left", np.array([[3.0, 3.0]]))) is False
    session.undo()
    assert second.saves.save() is False and "another name" in second.said.text()
    assert session.handle.room("Yard").render(1).tobytes() == before
    designer.window.files.open(folder)
    first = designer.window.session
    first.hands.take("left", "Water")
    assert first.apply(first.plan("left", np.array([[3.0, 3.0]])))
    first.handle.history.mark_saved()
    second.session.close()


# --- layers with all that lies in them -----------------------------------------------------


def test_holding_a_key_a_drag_moves_what_lies_in_the_layer(designer):
    session = designer.session
    session.hands.take("left", "Lamp")
    designer.stroke((4, 4))
    things = next(i for i, _ in session.room.bottom_up("things"))
    session.picked.work_on(things)
    designer.hold(Qt.Key.Key_Z)
    designer.press((4, 4))
    designer.move((6, 9))
    designer.qtbot.waitUntil(lambda: designer.table.hover is not None)
    designer.let_go((6, 9))
    designer.release(Qt.Key.Key_Z)
    assert [(t.y, t.x) for t in designer.room.things()] == [(6, 9)]
    assert designer.handle.history.edits[-1].label.startswith("Move what lies in")
    designer.session.undo()
    assert [(t.y, t.x) for t in designer.room.things()] == [(4, 4)]


def test_the_eye_of_a_layer_hides_all_of_its_group(designer):
    from topion.edit.layers import group_layers

    session, stack = designer.session, designer.window.stack
    ids = list(session.room.order)[:2]
    session.try_(group_layers, session.room_name, ids, "Pair")
    at = stack.eye_rect(ids[0]).center().toPoint()
    designer.qtbot.mouseClick(stack, LEFT, pos=at)
    assert [session.room.layers[i].info.shown for i in ids] == [False, False]


def test_the_menu_of_a_layer_duplicates_and_merges(designer):
    from PyQt6.QtWidgets import QMenu

    from topion.view.panels.layer_menu import fill_layer_menu

    session = designer.session
    ground = session.room.order[0]

    def choose(layer_id: str, text: str) -> None:
        menu = QMenu()
        fill_layer_menu(menu, session, layer_id, designer.window)
        next(action for action in menu.actions() if action.text().startswith(text)).trigger()

    before = designer.room.render()
    choose(ground, "Duplicate")
    copy = session.room.order[1]
    assert session.room.layers[copy].info.name == "Ground copy"
    choose(copy, "Merge into Ground")
    assert copy not in session.room.layers
    assert np.array_equal(designer.room.render(), before)


def test_what_lies_in_a_layer_of_a_large_room_is_moved_on_a_thread(designer):
    designer.handle.add_room("Wide", (520, 520), 4)
    room = designer.handle.room("Wide")
    room.lay("Water", box=((10, 10), (12, 12)))
    session = designer.session
    session.open_room("Wide")
    designer.settle(100)
    designer.window.table.look_at((16, 16), 4.0)
    session.picked.work_on(room.data.id_of("Ground"))
    designer.hold(Qt.Key.Key_Z)
    designer.press((11, 11))
    designer.move((15, 17))
    designer.qtbot.waitUntil(lambda: designer.table.hover is not None)
    designer.let_go((15, 17))
    designer.release(Qt.Key.Key_Z)
    designer.qtbot.waitUntil(lambda: room.material(15, 17) == "Water", timeout=5000)
    assert room.material(11, 11) == ""
