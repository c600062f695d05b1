"""The plan, worked with a real pointer and real keys: what is dragged is what the project holds."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication

from tests.plan.worlds import small_world
from tests.rooms import stand
from topion.conditions import Cleared
from topion.edit.pieces import Pick
from topion.errors import TopionError
from topion.formats import overviews
from topion.model.prefab import Thing
from topion.roles import Door, Start
from topion.view import style
from topion.view.dialogs.room import RoomDialog
from topion.view.plan import room_pictures
from topion.view.walk.walk_desk import WalkDesk
from topion.view.window import Window
from topion.walk.links import doors_of

NONE = Qt.KeyboardModifier.NoModifier
LEFT = Qt.MouseButton.LeftButton


class Planner:
    """A hand that works the plan by events."""

    def __init__(self, window: Window, qtbot) -> None:
        self.window, self.qtbot = window, qtbot

    @property
    def desk(self):
        return self.window.planning.desk

    @property
    def work(self):
        return self.desk.work

    @property
    def view(self):
        return self.desk.view

    @property
    def project(self):
        return self.window.session.project

    def px(self, y: float, x: float) -> QPointF:
        """Where a point of the sheet is seen."""
        return self.view.looks.camera.to_px((y, x))

    def port(self, room: str, number: int) -> QPointF:
        """Where a door is seen."""
        found = next(p for p in self.work.ports.values()
                     if (p.door.room, p.door.number) == (room, number))  # fmt: skip
        return self.view.looks.camera.to_px(found.point)

    def send(self, kind, at: QPointF, held=LEFT, modifiers=NONE) -> None:
        button = LEFT if kind != QEvent.Type.MouseMove else Qt.MouseButton.NoButton
        place = QPointF(self.view.mapToGlobal(at.toPoint()))
        QApplication.sendEvent(self.view, QMouseEvent(kind, at, place, button, held, modifiers))

    def drag(self, *points: QPointF, modifiers=NONE) -> None:
        self.send(QEvent.Type.MouseButtonPress, points[0], modifiers=modifiers)
        for at in points[1:]:
            self.send(QEvent.Type.MouseMove, at, modifiers=modifiers)
        self.send(QEvent.Type.MouseButtonRelease, points[-1], Qt.MouseButton.NoButton, modifiers)

    def click(self, at: QPointF, modifiers=NONE) -> None:
        self.drag(at, modifiers=modifiers)

    def key(self, key, modifiers=NONE) -> None:
        self.qtbot.keyClick(self.view, key, modifiers)

    def at(self, name: str):
        return self.project.shelf("placements")[name].at


@pytest.fixture
def planner(qtbot, tmp_path, monkeypatch) -> Planner:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    style.use_dark(False)
    style.load_fonts()
    style.dress(QApplication.instance())
    window = Window(small_world())
    window.session.handle.history.mark_saved()
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    qtbot.keyClick(window.table, Qt.Key.Key_F2)
    made = Planner(window, qtbot)
    qtbot.waitUntil(lambda: not made.work.outlines.busy and not made.work.pictures.busy,
                    timeout=5000)  # fmt: skip
    made.view.fit()
    return made


def test_the_plan_opens_and_goes_by_the_same_key(planner):
    planner.key(Qt.Key.Key_F2)
    assert planner.desk is None
    planner.qtbot.keyClick(planner.window.table, Qt.Key.Key_F2)
    assert planner.desk is not None


def test_its_top_line_counts_rooms_and_places(planner):
    assert planner.desk.bar.told.text().startswith("3 rooms, 3 on the sheet")


def test_a_room_is_dragged_and_comes_to_lie_on_the_edge_of_another(planner):
    start = planner.px(3.0, 35.0)
    planner.drag(start, start + QPointF(1, 1), planner.px(3.2, 25.6))
    assert planner.at("Attic") == (0.0, 20.0)  # beside Yard, which is 20 wide
    assert [(j.one, j.other) for j in planner.work.joints] == [("Yard", "Attic")]
    planner.window.session.undo()
    assert planner.at("Attic") == (0.0, 30.0) and planner.work.joints == []


def test_with_alt_it_snaps_to_nothing(planner):
    start = planner.px(3.0, 35.0)
    alt = Qt.KeyboardModifier.AltModifier
    planner.drag(start, planner.px(3.0, 36.0), planner.px(10.3, 45.7), modifiers=alt)
    assert planner.at("Attic") == pytest.approx((7.3, 40.7), abs=0.15)
    assert planner.at("Attic") != (7.5, 40.5)


def test_several_rooms_are_dragged_as_one(planner):
    planner.click(planner.px(3.0, 35.0))
    planner.click(planner.px(27.0, 2.0), Qt.KeyboardModifier.ShiftModifier)
    assert planner.work.places == {"Attic", "Cave"}
    start = planner.px(27.0, 2.0)
    planner.drag(start, start + QPointF(8, 8), planner.px(47.0, 22.0))
    attic, cave = planner.at("Attic"), planner.at("Cave")
    assert attic[0] - cave[0] == pytest.approx(-20.0) and attic[1] - cave[1] == pytest.approx(30.0)
    assert planner.window.session.handle.history.edits[-1].label == "Move 2 rooms"


def test_arrows_nudge_what_is_picked_and_steps_become_one_edit(planner):
    planner.click(planner.px(3.0, 35.0))
    before = planner.window.session.handle.history.at
    for _ in range(3):
        planner.key(Qt.Key.Key_Right)
    planner.key(Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert planner.at("Attic") == (8.0, 33.0)
    assert planner.window.session.handle.history.at == before + 1


def test_a_door_is_dragged_onto_another_one_and_both_lead_to_each_other(planner):
    stand(planner.window.session.handle.room("Attic"), Thing("Bush", 1, 6, role=Door()))
    planner.work.unlink(next(iter(k for k in planner.work.ports if k[0] == "Cave")))
    here, there = planner.port("Cave", 1), planner.port("Attic", 4)
    planner.drag(here, here + QPointF(10, -10), there)
    cave, attic = (doors_of(planner.project, room).doors for room in ("Cave", "Attic"))
    assert (cave[0].to, cave[0].door) == ("Attic", 4)
    assert (attic[1].to, attic[1].door) == ("Cave", 1)
    planner.window.session.undo()
    assert doors_of(planner.project, "Cave").doors[0].to == ""


def test_a_door_that_leads_elsewhere_already_is_not_turned_round(planner):
    here, there = planner.port("Cave", 1), planner.port("Attic", 1)
    planner.drag(here, here + QPointF(10, -10), there)
    assert doors_of(planner.project, "Cave").doors[0].to == "Attic"
    assert doors_of(planner.project, "Attic").doors[0].to == "Yard"


def test_a_door_let_go_over_a_room_leads_to_its_start_if_it_has_one(planner, qtbot):
    here = planner.port("Cave", 1)
    planner.drag(here, here + QPointF(10, -10), planner.px(2.0, 9.0))
    door = doors_of(planner.project, "Cave").doors[0]
    assert (door.to, door.door) == ("Yard", 0)
    with qtbot.waitSignal(planner.window.session.said) as said:
        planner.drag(here, here + QPointF(10, -10), planner.px(6.5, 36.5))
    assert said.args[0] == "Attic has no start to lead to; let go over one of its doors"


def test_delete_unlinks_a_door_and_takes_a_room_off(planner):
    planner.click(planner.port("Cave", 1))
    planner.key(Qt.Key.Key_Delete)
    assert doors_of(planner.project, "Cave").doors[0].to == ""
    planner.click(planner.px(27.0, 2.0))
    planner.key(Qt.Key.Key_Delete)
    assert "Cave" not in planner.project.shelf("placements") and "Cave" in planner.project.rooms
    assert planner.work.unplaced() == ["Cave"]


def test_a_double_click_enters_the_room(planner):
    at = planner.px(3.0, 35.0)
    planner.send(QEvent.Type.MouseButtonDblClick, at)
    assert planner.desk is None and planner.window.session.room_name == "Attic"


def test_escape_picks_nothing_and_then_leaves(planner):
    planner.click(planner.px(3.0, 35.0))
    planner.key(Qt.Key.Key_Escape)
    assert planner.desk is not None and not planner.work.picked
    planner.key(Qt.Key.Key_Escape)
    assert planner.desk is None


def test_the_wheel_zooms_at_the_pointer(planner):
    at, camera = planner.px(3.0, 35.0), planner.view.looks.camera
    before = camera.px
    place = QPointF(planner.view.mapToGlobal(at.toPoint()))
    none = Qt.MouseButton.NoButton
    event = QWheelEvent(at, place, QPoint(0, 0), QPoint(0, 120), none, NONE,
                        Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(planner.view, event)
    assert camera.px > before
    point = camera.to_cells(at)
    assert point == pytest.approx((3.0, 35.0))


def test_an_empty_place_pans(planner):
    at = planner.px(15.0, 40.0)
    before = planner.px(0.0, 0.0)
    planner.drag(at, at + QPointF(20, 5), at + QPointF(40, 10))
    assert planner.px(0.0, 0.0) == before + QPointF(40, 10)


def test_a_lasso_round_things_takes_them_into_another_room(planner):
    planner.key(Qt.Key.Key_S)
    ring = [(3.0, 1.0), (3.0, 4.0), (7.0, 4.0), (7.0, 1.0)]
    planner.drag(*(planner.px(*at) for at in ring))
    assert planner.work.things == ("Yard", (Pick("things", 2),))
    at = planner.px(5.5, 2.5)
    planner.drag(at, at + QPointF(8, 0), planner.px(5.5, 38.5))
    assert doors_of(planner.project, "Yard").starts == ()
    assert doors_of(planner.project, "Attic").starts == ((5, 8),)


def test_a_lasso_on_the_sheet_picks_the_rooms_that_it_is_drawn_round(planner):
    planner.key(Qt.Key.Key_S)
    ring = [(-2.0, 25.0), (-2.0, 45.0), (14.0, 45.0), (14.0, 25.0)]
    planner.drag(*(planner.px(*at) for at in ring))
    assert planner.work.places == {"Attic"}


def test_a_room_is_placed_again_and_worn_otherwise(planner):
    room = planner.window.session.handle.room("Attic")
    room.add_layer("Night", "tints")
    planner.click(planner.px(3.0, 35.0))
    planner.key(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert planner.work.spots["Attic 2"].title == "Attic again"
    tint = next(a for a in planner.desk.right.place.tint_menu().actions() if a.text() == "Night")
    tint.trigger()
    assert planner.project.shelf("placements")["Attic 2"].tint == "Night"
    assert planner.project.shelf("placements")["Attic"].tint is None


def test_the_list_shows_placed_rooms_and_then_the_others(planner):
    planner.click(planner.px(27.0, 2.0))
    planner.key(Qt.Key.Key_Delete)
    rows = [getattr(row, "room", "· " + getattr(row, "text", ""))
            for row in planner.desk.left.model.rows]  # fmt: skip
    assert rows == ["Yard", "Attic", "· Not on the plan", "Cave"]
    planner.desk.left.search.setText("att")
    assert [row.room for row in planner.desk.left.model.rows] == ["Attic"]
    planner.desk.left.search.setText("stones")
    assert planner.desk.left.model.rows == []
    planner.window.session.handle.room("Yard").lay("Stones", cells=[(1, 1)])
    assert [row.room for row in planner.desk.left.model.rows] == ["Yard"]


def test_a_room_let_go_over_a_row_comes_before_it_in_the_list(planner):
    planner.desk.left.model.dropped.emit("Cave", 0)
    assert list(planner.project.rooms) == ["Cave", "Yard", "Attic"]
    planner.window.session.undo()
    assert list(planner.project.rooms) == ["Yard", "Attic", "Cave"]


def test_rooms_are_duplicated_renamed_and_removed_from_their_menu(planner):
    by_text = {a.text(): a for a in planner.desk.room_menu("Attic").actions()}
    by_text["Duplicate"].trigger()
    assert "Attic 2" in planner.project.rooms and "Attic 2" in planner.work.spots
    planner.work.pick(["Attic"])
    name = planner.desk.right.place.name
    name.setText("Loft")
    planner.qtbot.keyClick(name, Qt.Key.Key_Return)
    assert "Loft" in planner.project.rooms
    assert doors_of(planner.project, "Yard").doors[0].to == "Loft"
    by_text = {a.text(): a for a in planner.desk.room_menu("Loft").actions()}
    by_text["Remove the room"].trigger()
    assert "Loft" not in planner.project.rooms
    planner.window.session.undo()
    assert "Loft" in planner.project.rooms and "Attic" in planner.project.shelf("placements")


def test_a_condition_of_the_picked_door_is_set_and_read_on_its_thread(planner):
    planner.click(planner.port("Yard", 1))
    side = planner.desk.right.door
    side.when.add_condition("cleared")
    assert doors_of(planner.project, "Yard").doors[0].when.all_of == (Cleared(),)
    assert [t.words for t in planner.work.threads if t.words] == ["opens when Yard is cleared"]
    side.until.chosen("appears")
    assert doors_of(planner.project, "Yard").doors[0].when.effect == "appears"


def test_a_thread_is_made_one_way_and_both_again(planner):
    planner.click(planner.port("Yard", 1))
    side = planner.desk.right.door
    side.back.buttons[False].click()
    assert doors_of(planner.project, "Attic").doors[0].to == ""
    side.back.buttons[True].click()
    assert doors_of(planner.project, "Attic").doors[0].to == "Yard"


def test_where_the_world_starts_is_chosen_and_the_flag_moves_there(planner):
    stand(planner.window.session.handle.room("Cave"), Thing("Bush", 2, 2, role=Start()))
    assert planner.work.begins == "Yard"
    planner.desk.right.start_in("Cave")
    assert planner.work.begins == "Cave"
    assert planner.project.shelf("placements")["Cave"].begins


def test_what_ends_the_world_is_chosen(planner):
    assert planner.desk.right.ends.text() == "Bush of Attic ▾"
    planner.desk.right.ends_menu().actions()[0].trigger()
    assert planner.desk.right.ends.text() == "nowhere yet ▾"


def test_the_world_is_walked_from_its_start(planner):
    planner.desk.bar.walk.click()
    desk = planner.window.desks.desk
    assert isinstance(desk, WalkDesk) and desk.run.now.room == "Yard"
    planner.window.escape()
    assert planner.window.desks.desk is None


def test_rooms_that_nobody_gets_to_are_hatched_with_a_sentence(planner):
    surveying = planner.window.surveying
    planner.qtbot.waitUntil(lambda: surveying.known and not surveying.busy, timeout=20000)
    assert planner.work.missed == {"Cave": "its door leads out to Yard, and none leads back"}
    assert planner.desk.bar.told.text().endswith("1 not reached")
    plain = planner.view.grab().toImage()
    there = planner.px(24.5, 12.0)
    planner.work.link(
        *(planner.work.ports[key] for key in (("Yard", "things", 3), ("Cave", "things", 1))),
        back=True,
    )
    planner.work.pick()
    planner.qtbot.waitUntil(lambda: surveying.known and not surveying.busy, timeout=20000)
    assert planner.work.missed == {}
    ratio = plain.devicePixelRatio()
    place = (int(there.x() * ratio), int(there.y() * ratio))
    assert planner.view.grab().toImage().pixelColor(*place) != plain.pixelColor(*place)


def test_the_way_through_the_world_is_told(planner):
    finder = planner.work.finder
    planner.qtbot.waitUntil(lambda: finder.ways is not None and not finder.busy, timeout=20000)
    told = planner.desk.left.way.accessibleDescription()
    assert told.startswith("shortest: 2 rooms, about ")
    assert told.endswith("all pickups: 2 rooms · none left out")


def test_the_room_list_is_dropped_onto_the_sheet(planner):
    planner.work.pick(["Cave"])
    planner.work.take_off()
    planner.view.drop_room("Cave", planner.px(50.0, 60.0))
    assert planner.at("Cave") == (45.5, 53.0)


def test_pictures_show_rooms_as_they_are_after_a_stroke(planner):
    before = planner.view.grab().toImage()
    at = planner.px(2.0, 33.0)
    planner.window.session.handle.room("Attic").lay("Water", box=((0, 0), (7, 11)))
    planner.qtbot.waitUntil(lambda: not planner.work.pictures.busy, timeout=5000)
    planner.qtbot.wait(50)
    planner.qtbot.waitUntil(lambda: not planner.work.pictures.busy, timeout=5000)
    place = (int(at.x()), int(at.y()))
    assert planner.view.grab().toImage().pixelColor(*place) != before.pixelColor(*place)


def test_a_new_room_is_placed_at_once_and_a_dialog_that_is_left_places_nothing(planner):
    planner.desk.left.new_asked.emit()
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, RoomDialog))
    dialog.reject()
    planner.desk.duplicate("Cave")
    assert planner.work.times["Cave 2"] == 1
    planner.desk.left.new_asked.emit()
    dialog = next(w for w in QApplication.topLevelWidgets()
                  if isinstance(w, RoomDialog) and w.isVisible())  # fmt: skip
    dialog.name.setText("Barn")
    dialog.make()
    assert planner.work.times["Barn"] == 1 and planner.work.spots["Barn"].room == "Barn"


def test_a_room_that_cannot_be_drawn_is_tried_once(planner, monkeypatch):
    tried = []

    def refuse(project, room, *_):
        tried.append(room.info.name)
        raise TopionError("it cannot be drawn")

    monkeypatch.setattr(room_pictures, "overview", refuse)
    planner.window.session.handle.room("Attic").lay("Stones", cells=[(1, 1)])
    for _ in range(6):
        planner.view.grab()
        planner.qtbot.wait(60)
    asked = len(tried)
    assert "Attic" in tried
    for _ in range(4):
        planner.view.grab()
        planner.qtbot.wait(60)
    assert len(tried) == asked and not planner.work.pictures.busy


def test_pictures_on_disk_stay_within_their_number(planner, tmp_path, monkeypatch):
    monkeypatch.setattr(overviews, "MOST_FILES", 2)
    monkeypatch.setattr(overviews, "_LIFTED", 1)
    planner.window.session.handle.save(tmp_path / "W.topion")
    planner.key(Qt.Key.Key_F2)
    planner.qtbot.keyClick(planner.window.table, Qt.Key.Key_F2)
    planner.qtbot.waitUntil(lambda: not planner.work.outlines.busy, timeout=5000)
    planner.view.grab()
    planner.qtbot.waitUntil(lambda: not planner.work.pictures.busy, timeout=5000)
    kept = list((tmp_path / "cache").rglob("*.png"))
    assert 1 <= len(kept) <= 2


def test_a_door_is_picked_with_its_own_thread_before_those_that_lead_to_it(planner):
    planner.work.link(
        *(planner.work.ports[key] for key in (("Cave", "things", 1), ("Yard", "things", 1))),
        back=False,
    )
    thread = planner.work.thread_of(("Yard", "things", 1))
    assert (thread.here.spot.room, thread.end.room, thread.both) == ("Yard", "Attic", True)
