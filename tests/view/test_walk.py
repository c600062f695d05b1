"""Trying a room in the window, with real keys."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QInputDialog

from tests.rooms import SHEET, stand
from tests.walk.texts import SIGNS
from topion.brushes import Mosaic
from topion.edit.library import put_item
from topion.edit.places import place_room, wear_there
from topion.edit.walks import set_figure
from topion.model.figure import Figure
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing
from topion.model.tileset import TileRef
from topion.pictures.png import png_bytes
from topion.roles import Door, Pickup, Start, Walker
from topion.view.walk.walk_desk import WalkDesk
from topion.walk import World
from topion.walk.listed import cleared_of
from topion.walk.replay import end_of, last_state
from topion.weaving.rules import Variant

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def hall(designer):
    """A room seen from the side with a floor of walls, a start, a token and a gull."""
    project = designer.handle
    sheet = project.data.tilesets[SHEET]
    slots = {name: slot for name, slot in SIGNS.values()}  # noqa: C416
    designer.session.apply(
        put_item(project.data, "tilesets", type(sheet)(sheet.name, sheet.sheet, sheet.cut, slots))
    )
    for name in ("wall", "ledge"):
        project.add_brush(Mosaic(name, (Variant(TileRef(SHEET, name)),)))
    room = project.add_room("Hall", (12, 30), 16, seen="side")
    room.lay("wall", box=((10, 0), (11, 29)))
    stand(room, Thing("Reed", 9, 2, role=Start()), Thing("Bush", 9, 8, role=Pickup(), counts=True),
          Thing("Cart", 9, 25, role=Walker(speed=1.0)))  # fmt: skip
    designer.session.apply(set_figure(project.data, Figure("Raker", 0.8, 1.8, 6.0, 3.0, 5.0)))
    designer.session.open_room("Hall")
    designer.settle(60)
    return designer


def walks(hand) -> WalkDesk:
    hand.window.table.setFocus()
    hand.key(Qt.Key.Key_W)
    hand.settle(60)
    desk = hand.window.desks.desk
    assert isinstance(desk, WalkDesk)
    return desk


def send(hand, desk, key, down, modifier=NONE):
    act = hand.qtbot.keyPress if down else hand.qtbot.keyRelease
    act(desk.tables.shown, key, modifier)


def test_w_begins_at_the_start_and_time_goes_on_sixty_times_a_second(hall):
    desk = walks(hall)
    assert desk.run.states[0].place()[1:] == (9, 2) and desk.run.plays
    before = desk.run.at
    hall.settle(1000)
    assert 50 <= desk.run.at - before <= 75 and desk.run.missed == 0


def test_held_arrows_walk_and_space_jumps(hall):
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: desk.run.now.place()[2] > 4, timeout=3000)
    send(hall, desk, Qt.Key.Key_Space, True)
    hall.qtbot.waitUntil(lambda: not desk.run.now.ground, timeout=1000)
    send(hall, desk, Qt.Key.Key_Space, False)
    send(hall, desk, Qt.Key.Key_Right, False)
    hall.qtbot.waitUntil(lambda: desk.run.now.ground, timeout=3000)
    still = desk.run.now.x
    hall.settle(100)
    assert desk.run.now.x == still and desk.run.held == 0


def test_what_is_picked_up_is_told_and_the_room_is_cleared(hall):
    desk = walks(hall)
    rows = {row.prefab: row for row in desk.live.rows()}
    assert rows["Bush"].state == "there" and rows["Cart"].state == "walking"
    assert cleared_of(desk.run.now) == (0, 1)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: bool(desk.run.now.taken), timeout=4000)
    send(hall, desk, Qt.Key.Key_Right, False)
    assert {row.prefab: row.state for row in desk.live.rows()}["Bush"] == "taken"
    assert cleared_of(desk.run.now) == (1, 1)
    assert {words for _, words in desk.live.news()} >= {"took Bush", "room cleared"}


def test_a_click_on_a_row_tells_its_things_one_by_one(hall):
    stand(hall.session.handle.room(hall.session.room_name), Thing("Bush", 9, 18, role=Pickup()))
    desk = walks(hall)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    number = next(n for n, row in enumerate(desk.live.rows()) if row.prefab == "Bush")
    row = desk.live.rows()[number]
    assert row.title == "Bush ×2"
    spot = QPoint(80, 26 + 44 * number + 20)
    before = desk.live.grab().toImage()
    hall.qtbot.mouseClick(desk.live, LEFT, pos=spot)
    assert desk.live.grab().toImage() != before
    second = QPoint(80, 26 + 44 * number + 44 + 17 + 6)
    hall.qtbot.mouseMove(desk.live, second)
    assert desk.view.lit == row.members[1].key, "the thing itself is ringed"
    hall.qtbot.mouseClick(desk.live, LEFT, pos=spot)
    hall.qtbot.mouseMove(desk.live, QPoint(2, 2))
    assert desk.live.grab().toImage() == before


def test_escape_goes_back_to_painting_at_the_cell_of_the_figure(hall):
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: desk.run.now.place()[2] > 12, timeout=5000)
    send(hall, desk, Qt.Key.Key_Escape, True)
    hall.settle(60)
    assert hall.window.desks.desk is None
    middle = hall.window.table.view_rect().center()
    y, x = hall.window.table.camera.to_cells(QPointF(middle))
    assert abs(x - 12.5) < 2 and abs(y - 9) < 2


def test_shift_w_walks_from_under_the_pointer(hall):
    hall.hover((9, 15))
    hall.key(Qt.Key.Key_W, Qt.KeyboardModifier.ShiftModifier)
    hall.settle(60)
    desk = hall.window.desks.desk
    assert isinstance(desk, WalkDesk) and desk.run.states[0].place()[2] == 15


def test_time_stands_still_steps_and_goes_back(hall):
    desk = walks(hall)
    hall.settle(200)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    at = desk.run.at
    hall.settle(100)
    assert desk.run.at == at and not desk.run.plays
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_Period)
    assert desk.run.at == at + 1
    for _ in range(3):
        hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_Comma)
    assert desk.run.at == at - 2
    hall.qtbot.mouseClick(desk.time.first, LEFT)
    assert desk.run.at == 0
    lanes = desk.time.lanes
    hall.qtbot.mouseClick(lanes, LEFT, pos=QPoint(round(lanes.x_of(at)), 60))
    assert abs(desk.run.at - at) <= 2


def test_half_speed_takes_half_as_many_steps(hall):
    desk = walks(hall)
    hall.qtbot.mouseClick(desk.time.speed.buttons[0.25], LEFT)
    before = desk.run.at
    hall.settle(800)
    assert 6 <= desk.run.at - before <= 20


def test_a_walk_is_kept_as_a_recording_that_replays_to_the_same_end(hall, monkeypatch):
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: bool(desk.run.now.taken), timeout=4000)
    send(hall, desk, Qt.Key.Key_Right, False)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("To the bush", True))
    hall.qtbot.mouseClick(desk.recordings.keeps, LEFT)
    made = hall.handle.data.shelf("recordings")["To the bush"]
    assert made.end == end_of(desk.run.now) and made.end.taken == 1
    assert end_of(last_state(hall.handle.data, made)) == made.end
    hall.qtbot.waitUntil(lambda: "ends the same" in desk.recordings.words["To the bush"].text(),
                         timeout=5000)  # fmt: skip
    hall.session.undo()
    assert not hall.handle.data.shelf("recordings") and not desk.recordings.rows


def test_a_recording_that_ends_elsewhere_names_the_stroke_since_which_it_does(hall):
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: desk.run.now.place()[2] > 14, timeout=5000)
    send(hall, desk, Qt.Key.Key_Right, False)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    desk.keep_recording("East")
    room = hall.handle.room("Hall")
    room.lay("Stones", cells=[(0, 0)])
    room.lay("wall", box=((6, 12), (9, 12)))
    room.lay("Stones", cells=[(0, 1)])
    hall.qtbot.waitUntil(lambda: "since “wall”" in desk.recordings.words["East"].text(),
                         timeout=8000)  # fmt: skip
    assert "cells off" in desk.recordings.words["East"].text()


def test_a_recording_is_played_and_recorded_anew_from_its_middle(hall):
    desk = walks(hall)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    desk.run.begin(World(hall.session.project.frozen()), "Hall", None)
    for _ in range(30):
        desk.run.held = 2
        desk.run.step_by(1)
    desk.run.held = 0
    desk.keep_recording("East")
    desk.play_recording("East")
    assert desk.run.replays and desk.run.plays
    hall.qtbot.waitUntil(lambda: not desk.run.plays, timeout=3000)
    assert desk.run.at == 30 and desk.run.now.place()[2] == pytest.approx(5)
    desk.run.seek(10)
    hall.qtbot.mouseClick(desk.time.record, LEFT)
    hall.qtbot.waitUntil(lambda: desk.run.at > 14, timeout=2000)
    assert not desk.run.replays and desk.run.now.place()[2] == pytest.approx(3)


def test_painting_while_time_stands_still_lays_into_the_real_room_and_goes_on(hall):
    desk = walks(hall)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    desk.ground.session.hands.take("left", "wall")
    table = desk.tables.shown
    place = desk.run.now.place()
    at = table.cell_centre(7, 5).toPoint()
    hall.qtbot.mouseMove(table, at)
    hall.qtbot.mouseClick(table, LEFT, pos=at)
    hall.settle(80)
    project = hall.handle.data
    layer = hall.session.room.cell_layers()[0][1]
    assert project.materials[layer.plane("material")[7, 5] - 1] == "wall"
    assert desk.run.now.place() == place
    terrain = desk.run.world.stage("Hall").terrain
    assert terrain.flag(7, 5) & 1, "the walk knows it"
    hall.session.undo()
    hall.settle(80)
    assert not desk.run.world.stage("Hall").terrain.flag(7, 5)


def test_the_figure_is_set_by_fields_and_by_pulling_its_jump(hall):
    desk = walks(hall)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    field = desk.figure.fields["speed"]
    field.setFocus()
    field.selectAll()
    hall.qtbot.keyClicks(field, "7.5")
    hall.qtbot.keyClick(field, Qt.Key.Key_Return)
    figures = hall.handle.data.shelf("figures")
    assert figures["Raker"].speed == 7.5 and desk.run.world.figure.speed == 7.5
    drawing = desk.figure.drawing
    top = drawing.top_handle().toPoint()
    up = top - QPoint(0, 24)
    hall.qtbot.mousePress(drawing, LEFT, pos=top)
    hall.qtbot.mouseMove(drawing, up)
    hall.qtbot.mouseRelease(drawing, LEFT, pos=up)
    assert figures["Raker"].jump_height > 3
    hall.session.undo()
    assert figures["Raker"].jump_height == 3


def test_a_door_is_walked_through_into_another_room(hall):
    other = hall.handle.add_room("Shed", (8, 12), 16, seen="side")
    other.lay("wall", box=((6, 0), (7, 11)))
    (there,) = stand(other, Thing("Lamp", 5, 9, role=Door()))
    stand(hall.handle.room("Hall"), Thing("Lamp", 9, 5, role=Door(room="Shed", door=there)))
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_Right, True)
    hall.qtbot.waitUntil(lambda: desk.run.now.room == "Shed", timeout=4000)
    send(hall, desk, Qt.Key.Key_Right, False)
    hall.settle(60)
    assert desk.ground.session.room_name == "Shed" and desk.bar.room.text() == "Shed"
    send(hall, desk, Qt.Key.Key_Escape, True)
    hall.settle(60)
    assert hall.session.room_name == "Shed"


def test_the_walk_is_seen(hall):
    desk = walks(hall)
    hall.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_P)
    table = desk.tables.shown

    def picture():
        hall.settle(60)
        image = table.grab().toImage().convertToFormat(desk.grab().toImage().format())
        data = image.constBits().asstring(image.sizeInBytes())
        return np.frombuffer(data, np.uint8).copy()

    before = picture()
    desk.run.seek(0)
    desk.run.held = 2
    for _ in range(20):
        desk.run.step_by(1)
    assert (picture() != before).any()


def test_a_voxel_room_is_walked(modeller):
    modeller.window.table.setFocus()
    modeller.key(Qt.Key.Key_W)
    modeller.settle(100)
    desk = modeller.window.desks.desk
    assert isinstance(desk, WalkDesk) and desk.run.now.place()[0] == 3
    x = desk.run.now.x
    send(modeller, desk, Qt.Key.Key_Right, True)
    modeller.qtbot.waitUntil(lambda: desk.run.now.x > x + desk.run.world.scale.cell, timeout=5000)
    send(modeller, desk, Qt.Key.Key_Right, False)
    assert len(desk.view.models()) == 1
    modeller.key(Qt.Key.Key_Escape)
    assert modeller.window.desks.desk is None


def test_g_turns_gravity_and_the_figure_is_chosen_among_others(hall):
    desk = walks(hall)
    hall.qtbot.waitUntil(lambda: desk.run.now.ground, timeout=3000)
    send(hall, desk, Qt.Key.Key_G, True)
    send(hall, desk, Qt.Key.Key_G, False)
    hall.qtbot.waitUntil(lambda: desk.run.now.over, timeout=3000)
    hall.qtbot.mouseClick(desk.figure.gravity.buttons["up"], LEFT)
    assert desk.run.world.figure.gravity == "up"
    next(a for a in desk.figures_menu().actions() if a.text().startswith("New")).trigger()
    assert desk.figure.name.text() != "Raker"
    next(a for a in desk.figures_menu().actions() if a.text() == "Raker").trigger()
    assert desk.figure.name.text() == "Raker"
    hall.session.undo()
    assert desk.run.world.figure.name != "Raker"


# --- the reach ----------------------------------------------------------------------------


def shows_reach(hand, desk):
    send(hand, desk, Qt.Key.Key_M, True)
    send(hand, desk, Qt.Key.Key_M, False)
    hand.qtbot.waitUntil(lambda: not desk.reaching.busy, timeout=20000)
    hand.settle(60)
    return desk.reaching.reach


def ink_at(hand, desk, y, x):
    """The colour of the table in the lower part of a cell."""
    table = desk.tables.shown
    rect = table.camera.rect_of(y, x, y + 1, x + 1)
    image = table.grab().toImage()
    ratio = image.width() / table.width()
    at = QPointF(rect.center().x(), rect.bottom() - 2) * ratio
    return image.pixelColor(at.toPoint()).getRgb()[:3]


def test_m_shows_where_the_figure_gets_and_what_it_does_not(hall):
    stand(hall.handle.room("Hall"), Thing("Bush", 2, 12, role=Pickup()))
    desk = walks(hall)
    desk.run.play(False)
    before = ink_at(hall, desk, 9, 5)
    reach = shows_reach(hall, desk)
    assert reach.stands[9].all() and not reach.stands[:9].any()
    assert [place.cell for place in reach.missed] == [(2, 12)]
    assert ink_at(hall, desk, 9, 5) != before
    row = next(row for row in desk.live.rows() if row.prefab == "Bush")
    assert [member.words for member in row.members if member.missed] == ["no way found"]
    shows_reach(hall, desk)
    assert ink_at(hall, desk, 9, 5) == before


def test_after_a_stroke_the_reach_is_searched_again(hall):
    desk = walks(hall)
    desk.run.play(False)
    first = shows_reach(hall, desk)
    hall.handle.room("Hall").lay("wall", box=((5, 15), (9, 15)))
    hall.qtbot.waitUntil(lambda: desk.reaching.busy, timeout=2000)
    hall.qtbot.waitUntil(lambda: not desk.reaching.busy, timeout=20000)
    after = desk.reaching.reach
    assert first.stands[9, 20] and not after.stands[9, 20] and after.stands[9, 13]


def test_a_double_click_in_the_list_plays_the_way_there(hall):
    desk = walks(hall)
    desk.run.play(False)
    reach = shows_reach(hall, desk)
    row, rect = next((row, rect) for row, rect in desk.live.places() if row.prefab == "Bush")
    hall.qtbot.mouseDClick(desk.live, LEFT, pos=rect.center().toPoint())
    assert desk.run.replays and desk.run.keys == reach.witness(row.members[0].key)
    hall.qtbot.waitUntil(lambda: desk.run.at == len(desk.run.keys), timeout=8000)
    assert len(desk.run.now.taken) == 1


def test_the_survey_plays_the_recordings_or_not_as_the_switch_says(hall):
    desk = walks(hall)
    hall.settle(200)
    desk.keep_recording("Short")
    switch = desk.recordings.surveyed
    assert switch.isVisibleTo(desk) and switch.isChecked()
    hall.qtbot.mouseClick(switch, LEFT, pos=QPoint(8, switch.height() // 2))
    assert hall.session.project.shelf("unasked")["recording differs"].reason
    assert not switch.isChecked()
    hall.session.undo()
    assert "recording differs" not in hall.session.project.shelf("unasked") and switch.isChecked()


def test_a_room_is_walked_as_it_is_worn_where_the_plan_has_it(hall):
    room = hall.handle.room("Hall")
    room.add_layer("Night", "tints")
    for plan in (lambda p: place_room(p, "Hall", (0, 0)),
                 lambda p: wear_there(p, "Hall", None, "Night")):  # fmt: skip
        hall.session.apply(plan(hall.session.project))
    desk = walks(hall)
    worn = desk.ground.session.room
    assert worn.info.tint == room.data.id_of("Night") and room.data.info.tint == ""


def test_the_reach_of_a_voxel_room_is_drawn_over_it(modeller):
    room = modeller.handle.room(modeller.session.room_name)
    stand(room, Thing("Bush", 6, 6, z=3.0, role=Start()))
    desk = walks(modeller)
    desk.run.play(False)
    modeller.settle(200)
    table = desk.tables.shown
    before = table.grab().toImage()
    reach = shows_reach(modeller, desk)
    assert reach.stands.ndim == 3 and reach.stands.sum() > 20
    modeller.settle(200)
    after = table.grab().toImage()
    changed = sum(
        before.pixel(x, y) != after.pixel(x, y)
        for x in range(0, after.width(), 4) for y in range(0, after.height(), 4)
    )  # fmt: skip
    assert changed > 100


def test_a_figure_is_drawn_as_its_prefab(hall):
    project = hall.session.project
    red = np.zeros((16, 10, 4), np.uint8)
    red[...] = (250, 10, 10, 255)
    prefab = Prefab("Red man", Picture(red, png_bytes(red)), (16, 5))
    hall.session.apply(put_item(project, "prefabs", prefab))
    hall.session.apply(set_figure(project, Figure("Raker", 0.8, 1.8, looks="Red man")))
    desk = walks(hall)
    desk.run.play(False)
    hall.settle(60)
    table = desk.tables.shown
    box = desk.view.figure_box(table.camera)
    foot = QPointF(box.center().x(), box.bottom() - 4).toPoint()
    assert table.grab().toImage().pixelColor(foot).getRgb()[:3] == (250, 10, 10)


def test_things_and_their_state_are_told_by_the_keys_too(hall):
    desk = walks(hall)
    send(hall, desk, Qt.Key.Key_P, True)  # time stands still
    desk.live.setFocus()
    hall.qtbot.keyClick(desk.live, Qt.Key.Key_Down)
    first = desk.live.grab().toImage()
    hall.qtbot.keyClick(desk.live, Qt.Key.Key_Down)
    assert desk.live.grab().toImage() != first
