"""The prefab desk, worked with real mouse and keys."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QFileDialog

from tests.rooms import stand
from topion.conditions import Cleared, Taken
from topion.edit.pieces import Pick
from topion.edit.voxels import with_prefab_model
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.model.property import Property
from topion.model.solid import VoxelModel
from topion.pictures.png import picture_of
from topion.roles import Walker
from topion.things.rules import ClearOf, FromEdge, KeepsCells, NotOn, On
from topion.view.desks.prefab_desk import PrefabDesk
from topion.view.desks.voxel_desk import VoxelDesk
from topion.view.panels.picked import PickedPanel

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def desk(designer):
    designer.handle.room(designer.session.room_name).lay("Lamp", cells=[(5, 5)])
    designer.session.hands.take("left", "Lamp")
    designer.key(Qt.Key.Key_F3)
    designer.settle(60)
    found = designer.window.desks.desk
    designer.qtbot.waitUntil(lambda: found.map.found is not None, timeout=5000)
    designer.settle()
    return found


def lamp(designer):
    return designer.handle.data.prefab("Lamp")


def clay(designer):
    """The lamp as half a cell of clay in a whole one."""
    cells = np.zeros((16, 16, 16), np.uint8)
    cells[:8, 4:12, 4:12] = 1
    model = VoxelModel(cells, ("#a5533b", "#e8d9b0", "#3b4a57"))
    designer.session.apply(with_prefab_model(designer.handle.data, "Lamp", model))
    return model


def asked(designer, desk):
    designer.settle(200)
    before = desk.map.asking
    designer.qtbot.waitUntil(lambda: before is None or before.isFinished(), timeout=5000)
    designer.settle(100)


def test_it_opens_from_the_hand_and_shows_rules_and_where_it_may_stand(designer, desk):
    assert isinstance(desk, PrefabDesk) and desk.name == "Lamp"
    assert [row.rule for row in desk.rules.rows] == list(lamp(designer).rules)
    room = designer.session.room.info.size
    assert len(desk.map.found.positions) == room[0] * room[1]
    assert "refuses" in desk.rules.rows[0].hint.text() and "1 placed" in desk.bar.told.text()
    designer.key(Qt.Key.Key_Escape)
    assert designer.window.desks.desk is None


def test_a_rule_is_switched_set_added_moved_and_removed(designer, desk):
    first = lamp(designer).rules
    assert first == (ClearOf(3.0), KeepsCells())
    designer.qtbot.mouseClick(desk.rules.rows[0].switch, LEFT)
    assert lamp(designer).rules[0] == ClearOf(3.0, on=False)
    assert designer.handle.room(designer.session.room_name).verdict("Lamp", 5, 7).allowed
    designer.session.undo()
    sentence = desk.rules.rows[0].sentence
    sentence.ask("cells")
    designer.qtbot.keyClicks(sentence.typed.field, "1.5")
    designer.qtbot.keyClick(sentence.typed.field, Qt.Key.Key_Return)
    designer.settle()
    assert lamp(designer).rules[0] == ClearOf(1.5)
    designer.qtbot.mouseClick(desk.adds["from the edge"], LEFT)
    assert lamp(designer).rules[-1] == FromEdge(1)
    row = desk.rules.rows[2]
    grip = QPoint(row.width() - 12, row.height() // 2)
    designer.qtbot.mousePress(row, LEFT, pos=grip)
    designer.qtbot.mouseRelease(row, LEFT, pos=grip - QPoint(0, 2 * row.height()))
    designer.settle()
    assert lamp(designer).rules[0] == FromEdge(1)
    desk.rules.remove(0)
    assert lamp(designer).rules == (ClearOf(1.5), KeepsCells())


def test_choices_name_what_is_there(designer, desk):
    desk.add("not on …")
    sentence = desk.rules.rows[-1].sentence
    blank = next(b for b in sentence.blanks() if b.field == "materials")
    assert ("Mud", "Mud") in sentence.choices(blank)
    desk.rules.put(2, "materials", ("Mud",))
    assert lamp(designer).rules[2] == NotOn(("Mud",), ("water",))
    thing = next(b for b in desk.rules.rows[0].sentence.blanks() if b.field == "of")
    words = [words for _, words in desk.rules.rows[0].sentence.choices(thing)]
    assert words[:2] == ["its like", "anything"] and "Bush" in words


def test_the_anchor_is_dragged_and_cells_are_clicked(designer, desk):
    canvas, count = desk.facts.canvas, len(designer.handle.history.edits)
    start, (y, x) = canvas.anchor_point(), lamp(designer).anchor_px
    zoom, _ = canvas.picture_frame()
    to = (start + QPointF(-zoom, -zoom)).toPoint()
    designer.qtbot.mousePress(canvas, LEFT, pos=start.toPoint())
    designer.qtbot.mouseMove(canvas, to)
    designer.qtbot.mouseRelease(canvas, LEFT, pos=to)
    assert lamp(designer).anchor_px == (y - 1, x - 1)
    assert len(designer.handle.history.edits) == count + 1, "one Edit a pull"
    rect = canvas.cell_rect(-1, 0)
    designer.qtbot.mouseClick(canvas, LEFT, pos=(rect.topLeft() + QPointF(4, 4)).toPoint())
    assert lamp(designer).footprint == ("#", "#")
    designer.session.undo()
    assert lamp(designer).footprint == ("#",)


def test_pointing_at_the_map_says_what_would_be_said(designer, desk):
    target = desk.map.target()
    high, wide = desk.map.box.shape
    at = QPointF(target.left() + 6.5 * target.width() / wide,
                 target.top() + 5.5 * target.height() / high)  # fmt: skip
    designer.qtbot.mouseMove(desk.map, at.toPoint())
    designer.settle()
    assert "too close to its like: 1 of 3 cells" in desk.refusal.text()
    assert "nearest free cell" in desk.refusal.text()


def test_rules_of_its_class_are_shown_and_set(designer, desk):
    assert not desk.whose.buttons[True].isEnabled()
    desk.facts.class_name.setFocus()
    designer.qtbot.keyClicks(desk.facts.class_name, "lights")
    designer.qtbot.keyClick(desk.facts.class_name, Qt.Key.Key_Return)
    designer.qtbot.mouseClick(desk.whose.buttons[True], LEFT)
    desk.add("on …")
    own = designer.handle.data.shelf("classes")["lights"]
    assert own.rules == (On(carries=True),) and len(lamp(designer).rules) == 2


def test_it_is_renamed_in_its_place(designer, desk):
    desk.facts.title.setFocus()
    desk.facts.title.selectAll()
    designer.qtbot.keyClicks(desk.facts.title, "Torch")
    designer.qtbot.keyClick(desk.facts.title, Qt.Key.Key_Return)
    designer.settle()
    assert designer.window.desks.desk is desk and desk.name == "Torch"
    assert designer.handle.data.brush("Lamp").places() == {"Torch": 1.0}


def test_it_opens_from_what_is_picked_and_at_the_cursor(designer):
    room = designer.handle.room(designer.session.room_name)
    room.lay("Bush", cells=[(6, 6)])
    designer.session.gestures.use("lasso")
    designer.press((6, 6))
    designer.let_go((6, 6))
    designer.settle()
    panel = designer.window.findChild(PickedPanel)
    designer.qtbot.mouseClick(panel.desk, LEFT)
    designer.settle(60)
    assert designer.window.desks.desk.name == "Bush"


def test_where_it_may_stand_follows_the_room(designer, desk):
    free = desk.map.found.allowed
    designer.handle.room(designer.session.room_name).lay("Lamp", cells=[(12, 12)])
    designer.qtbot.waitUntil(lambda: desk.map.found.allowed < free, timeout=5000)


def test_named_points_are_put_dragged_and_renamed(designer, desk):
    canvas = desk.facts.canvas
    at = canvas.point_at((1, 1))
    put = canvas.menu_at(at).actions()[0]
    put.trigger()
    designer.settle()
    assert lamp(designer).points == {"point": (1, 1)}
    start, to = canvas.point_at((1, 1)).toPoint(), canvas.point_at((3, 2)).toPoint()
    designer.qtbot.mousePress(canvas, LEFT, pos=start)
    designer.qtbot.mouseMove(canvas, to)
    designer.qtbot.mouseRelease(canvas, LEFT, pos=to)
    assert lamp(designer).points == {"point": (3, 2)}
    rename, _ = canvas.menu_at(canvas.point_at((3, 2))).actions()
    rename.trigger()
    canvas.naming.field.selectAll()
    designer.qtbot.keyClicks(canvas.naming.field, "flame")
    designer.qtbot.keyClick(canvas.naming.field, Qt.Key.Key_Return)
    designer.settle()
    assert lamp(designer).points == {"flame": (3, 2)}
    canvas.menu_at(canvas.point_at((3, 2))).actions()[1].trigger()
    assert lamp(designer).points == {}


def test_properties_are_made_in_the_desk_and_set_on_what_is_picked(designer, desk):
    designer.qtbot.mouseClick(desk.properties.add, LEFT)
    row = desk.properties.rows[0]
    row["name"].setFocus()
    row["name"].selectAll()
    designer.qtbot.keyClicks(row["name"], "lit")
    designer.qtbot.keyClick(row["name"], Qt.Key.Key_Return)
    desk.properties.set_kind(0, "yes or no")
    value = desk.properties.rows[0]["value"]
    value.setFocus()
    value.selectAll()
    designer.qtbot.keyClicks(value, "yes")
    designer.qtbot.keyClick(value, Qt.Key.Key_Return)
    assert lamp(designer).properties == (Property("lit", "yes or no", "yes"),)
    designer.key(Qt.Key.Key_Escape)
    room = designer.handle.room(designer.session.room_name)
    room.lay("Lamp", cells=[(12, 12)])
    designer.session.gestures.use("lasso")
    layer = room.data.id_of("Things")
    picks = [Pick(layer, number) for number in room.data.layers[layer].things]
    designer.session.picking.pick(picks[:1])
    rows = designer.window.findChild(PickedPanel).things
    designer.settle()
    edit = rows.values["lit"]
    assert edit.text() == "yes"
    edit.setFocus()
    edit.selectAll()
    designer.qtbot.keyClicks(edit, "no")
    designer.qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert [t.properties for t in room.things()] == [{"lit": "no"}, {}]
    designer.session.picking.pick(picks)
    designer.settle()
    assert rows.values["lit"].text() == "–", "they differ"


def test_a_held_key_shows_on_the_table_where_the_thing_may_stand(designer):
    designer.session.hands.take("left", "Lamp")
    designer.handle.room(designer.session.room_name).lay("Lamp", cells=[(12, 16)])
    designer.settle()
    table = designer.window.table
    before = table.grab().toImage()
    designer.qtbot.keyPress(table, Qt.Key.Key_Semicolon)
    designer.qtbot.waitUntil(lambda: table.free.heat is not None, timeout=5000)
    designer.settle()
    shown = table.grab().toImage()
    free, refused = (
        table.cell_centre(*cell).toPoint() + QPoint(5, 5) for cell in ((12, 22), (13, 17))
    )
    green, red = shown.pixelColor(free), shown.pixelColor(refused)
    assert (
        green != before.pixelColor(free) and red.red() - red.green() > green.red() - green.green()
    )
    designer.qtbot.keyRelease(table, Qt.Key.Key_Semicolon)
    designer.settle()
    assert table.free.heat is None
    assert table.grab().toImage().pixelColor(free) == before.pixelColor(free)


def test_voxels_begin_as_the_picture_stands(designer, desk):
    designer.qtbot.mouseClick(desk.facts.voxels, LEFT)
    designer.settle(60)
    picture = lamp(designer).picture.rgba
    assert isinstance(designer.window.desks.desk, VoxelDesk)
    assert np.array_equal(lamp(designer).model.cells.any(axis=1), picture[::-1, :, 3] >= 128)


def test_voxels_are_built_and_picture_and_cells_drawn_from_them(designer, desk):
    clay(designer)
    designer.qtbot.mouseClick(desk.facts.voxels, LEFT)
    designer.settle(60)
    built = designer.window.desks.desk
    table = built.tables.shown
    designer.qtbot.waitUntil(table.settled, timeout=5000)
    at = table.face_centre(0, 7, 8, 8).toPoint()
    designer.qtbot.mouseMove(table, at)
    designer.qtbot.mouseClick(table, LEFT, pos=at)
    designer.settle(60)
    assert lamp(designer).model.cells[8, 8, 8] == 1, "laid on what is pointed at"
    designer.qtbot.mouseClick(built.draws["south"], LEFT)
    assert lamp(designer).picture.size_px == (9, 8) and lamp(designer).anchor_px == (9, 4)
    built.sizes["levels"].setValue(40)
    built.sizes["levels"].editingFinished.emit()
    designer.settle(60)
    assert lamp(designer).model.size == (40, 16, 16)
    designer.qtbot.mouseClick(built.cells, LEFT)
    assert (lamp(designer).footprint, lamp(designer).height) == (("#",), 1)
    designer.qtbot.mouseClick(built.bar.project, LEFT)
    designer.settle(60)
    assert isinstance(designer.window.desks.desk, PrefabDesk)


def test_a_model_is_brought_in_from_a_file_and_a_bad_one_is_told(
    designer, desk, tmp_path, monkeypatch
):
    said = []
    designer.session.said.connect(said.append)
    cells = np.zeros((5, 4, 4), np.uint8)
    cells[:, 1:3, 1:3] = 1
    np.save(tmp_path / "post.npy", cells)
    (tmp_path / "bad.npy").write_bytes(b"nothing")
    answers = iter((tmp_path / "post.npy", tmp_path / "bad.npy"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(next(answers)), ""))
    begun = clay(designer)
    designer.qtbot.mouseClick(desk.facts.voxels, LEFT)
    designer.settle(60)
    built = designer.window.desks.desk
    designer.qtbot.mouseClick(built.file, LEFT)
    designer.qtbot.waitUntil(lambda: lamp(designer).model.size == (5, 2, 2), timeout=5000)
    designer.qtbot.mouseClick(built.file, LEFT)
    designer.qtbot.waitUntil(lambda: any("bad.npy" in text for text in said), timeout=5000)
    assert lamp(designer).model.size == (5, 2, 2)
    designer.session.undo()
    assert lamp(designer).model == begun


def test_turned_pictures_are_taken_in_the_order_of_their_names(
    designer, desk, tmp_path, monkeypatch
):
    said = []
    designer.session.said.connect(said.append)
    high, wide = lamp(designer).picture.size_px
    for name, red in (("c", 3), ("a", 1), ("b", 2)):
        rgba = np.full((high, wide, 4), 255, np.uint8)
        rgba[..., 0] = red
        (tmp_path / f"{name}.png").write_bytes(picture_of(rgba).png)
    paths = [str(tmp_path / f"{name}.png") for name in "cab"]
    answers = iter((paths[:2], paths))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: (next(answers), ""))
    assert not desk.facts.turned.isVisible(), "it does not turn"
    designer.qtbot.mouseClick(desk.facts.turns.buttons["quarters"], LEFT)
    designer.settle(40)
    designer.qtbot.mouseClick(desk.facts.turned.ask, LEFT)
    assert any("three of" in text for text in said)
    assert lamp(designer).turned == ()
    designer.qtbot.mouseClick(desk.facts.turned.ask, LEFT)
    assert [int(p.rgba[0, 0, 0]) for p in lamp(designer).turned] == [1, 2, 3]
    designer.settle(40)
    designer.qtbot.mouseClick(desk.facts.turned.gone, LEFT)
    assert lamp(designer).turned == ()


def test_frames_are_added_timed_ordered_and_play_on_the_table(designer, desk):
    strip, pixels = desk.facts.frames, np.full((4, 4, 4), 255, np.uint8)
    pixels[..., :2] = 0
    strip.add_pictures([picture_of(pixels)])
    designer.settle()
    still = lamp(designer).frame_set("still")
    assert len(still.pictures) == 2 and still.ms == (160, 160) and still.plays == "loops"
    pos = strip.frames.rect_of(1).center().toPoint()
    designer.qtbot.mouseClick(strip.frames, LEFT, pos=pos)
    strip.time.setFocus()
    strip.time.selectAll()
    designer.qtbot.keyClicks(strip.time, "400")
    designer.qtbot.keyClick(strip.time, Qt.Key.Key_Return)
    designer.qtbot.mouseClick(strip.plays.buttons["there and back"], LEFT)
    still = lamp(designer).frame_set("still")
    assert still.ms == (160, 400) and still.plays == "there and back"
    designer.qtbot.mousePress(strip.frames, LEFT, pos=pos)
    designer.qtbot.mouseRelease(strip.frames, LEFT, pos=pos - QPoint(52, 0))
    assert lamp(designer).frame_set("still").ms == (400, 160)
    designer.key(Qt.Key.Key_Escape)
    table = designer.window.table
    at = table.cell_centre(5, 5).toPoint()
    seen = set()

    def both():
        designer.settle(30)
        seen.add(table.grab().toImage().pixelColor(at).name())
        return len(seen) > 1

    designer.qtbot.waitUntil(both, timeout=5000)
    designer.window.commands["play"].does()
    designer.settle(200)
    seen = {
        table.grab().toImage().pixelColor(at).name() for _ in range(8) if not designer.settle(90)
    }
    designer.window.commands["play"].does()
    assert len(seen) == 1, "they stand still"
    designer.session.undo()


def test_the_seat_is_dragged_and_the_picture_stands_lower(designer, desk):
    canvas = desk.facts.canvas
    zoom, _ = canvas.picture_frame()
    start = QPoint(canvas.width() - 20, round(canvas.seat_line()))
    end = start - QPoint(0, round(2 * zoom))
    designer.qtbot.mousePress(canvas, LEFT, pos=start)
    designer.qtbot.mouseMove(canvas, end)
    designer.qtbot.mouseRelease(canvas, LEFT, pos=end)
    anchor = lamp(designer).anchor_px
    assert lamp(designer).below_px == 2 and lamp(designer).foot_px == (anchor[0] - 2, anchor[1])
    assert designer.session.handle.history.edits[-1].label == "Lamp: below px"
    designer.session.undo()
    assert lamp(designer).below_px == 0


def test_a_role_is_chosen_by_its_chip_and_set_in_its_sentence(designer, desk):
    designer.qtbot.mouseClick(desk.walk.role.chips["walker"], LEFT)
    assert lamp(designer).role == Walker()
    assert "Walks" in desk.walk.role.sentence.text()
    desk.walk.role.sentence.ask("harms")
    desk.walk.role.sentence.ask("speed")
    designer.qtbot.keyClicks(desk.walk.role.sentence.typed.field, "2.5")
    designer.qtbot.keyClick(desk.walk.role.sentence.typed.field, Qt.Key.Key_Return)
    assert lamp(designer).role == Walker(speed=2.5, harms=True)
    designer.qtbot.mouseClick(desk.walk.role.chips["none"], LEFT)
    assert lamp(designer).role is None
    designer.session.undo()
    assert desk.walk.role.chips["walker"].isChecked()


def test_a_prefab_counts_and_appears_under_conditions(designer, desk):
    when = desk.walk.when
    assert "switch on" not in when.kinds, "a switch is one thing of one room"
    designer.qtbot.mouseClick(desk.walk.counts.buttons[True], LEFT)
    when.add_condition("taken")
    designer.qtbot.mouseClick(when.effect, LEFT)
    assert lamp(designer).counts and lamp(designer).when == When("appears", (Taken(),))
    desk.toggle("Cart")
    assert when.effect.text() == "mixed"
    when.add_condition("cleared")
    for name in ("Lamp", "Cart"):
        assert designer.handle.data.prefabs[name].when == When("opens", (Cleared(),))
    designer.session.undo()
    assert lamp(designer).when == When("appears", (Taken(),))


def test_the_points_of_a_mover_are_typed_in_cells(designer, desk):
    designer.qtbot.mouseClick(desk.walk.role.chips["mover"], LEFT)
    desk.walk.role.sentence.ask("points")
    field = desk.walk.role.sentence.typed.field
    field.selectAll()
    designer.qtbot.keyClicks(field, "3 0, 3 -2")
    designer.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert lamp(designer).role.points == ((3.0, 0.0), (3.0, -2.0))


def test_several_prefabs_are_set_together_and_mixed_values_are_told(designer, desk):
    prefabs = designer.handle.data.prefabs
    desk.toggle("Cart")
    assert desk.bar.name.text() == "2 prefabs" and not desk.facts.title.isEnabled()
    assert not desk.facts.turns.mixed.isHidden() and desk.facts.tips.mixed.isHidden()
    told = {type(row.rule).__name__: row.hint.text() for row in desk.rules.rows}
    assert "1 of 2 have it" in told["ClearOf"] and "2 of 2 have it" in told["KeepsCells"]
    designer.qtbot.mouseClick(desk.facts.turns.buttons["any"], LEFT)
    designer.qtbot.mouseClick(desk.adds["from the edge"], LEFT)
    for name in ("Lamp", "Cart"):
        assert prefabs[name].turns == "any" and FromEdge(1) in prefabs[name].rules
    designer.qtbot.mouseClick(desk.walk.role.chips["scenery"], LEFT)
    assert desk.walk.role.chips["scenery"].isChecked()
    desk.toggle("Cart")
    assert desk.names == ["Lamp"] and desk.facts.title.isEnabled()


def test_the_desk_of_picked_things_of_several_prefabs_sets_all_of_them(designer):
    stood = [Thing("Lamp", 5, 5), Thing("Reed", 9, 9)]
    numbers = stand(designer.handle.room(designer.session.room_name), *stood)
    layer = designer.room.data.id_of("Things")
    designer.session.picking.pick([Pick(layer, number) for number in numbers])
    designer.settle()
    designer.qtbot.mouseClick(designer.window.findChild(PickedPanel).desk, LEFT)
    assert designer.window.desks.desk.names == ["Lamp", "Reed"]


def test_arrows_move_the_anchor_and_with_shift_the_seat(designer, desk):
    canvas = desk.facts.canvas
    canvas.setFocus()
    y, x = lamp(designer).anchor_px
    designer.qtbot.keyClick(canvas, Qt.Key.Key_Up)
    designer.qtbot.keyClick(canvas, Qt.Key.Key_Right)
    assert lamp(designer).anchor_px == (y - 1, x + 1)
    below = lamp(designer).below_px
    designer.qtbot.keyClick(canvas, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert lamp(designer).below_px == below + 1
    designer.session.undo()
    assert lamp(designer).below_px == below
