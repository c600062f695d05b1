"""What takes long the first time is made on a thread, and shown when it is there."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QDialog

from topion.edit.library import put_brush
from topion.things.sowing import tables_ready
from topion.view.opening import BESIDE, warmed
from topion.view.table.camera import Camera
from topion.view.table.chunks import Chunks
from topion.view.tasks import Worker, run_task, wait_for_all


def test_a_field_of_another_seed_is_drawn_when_its_tables_are_made(designer):
    reeds = designer.session.project.brush("Reeds").changed(seed=40_417)
    assert not tables_ready(reeds.field)
    designer.room.lay("Reeds", box=((2, 2), (20, 28)))
    designer.handle.history.apply(put_brush(designer.session.project, reeds))
    before = designer.table.grab().toImage()
    designer.qtbot.waitUntil(lambda: tables_ready(reeds.field), timeout=5000)
    designer.qtbot.waitUntil(lambda: not designer.session.ahead.busy, timeout=5000)
    designer.settle(120)
    assert designer.table.grab().toImage() != before
    assert designer.window.in_hand is not None and designer.room.tally("Reeds").placed > 0


def test_a_large_box_of_things_is_planned_on_a_thread_and_undone_as_one(designer):
    designer.handle.add_room("Plain", (90, 90), 4)
    designer.session.open_room("Plain")
    designer.session.hands.take("left", "Bush")
    designer.table.look_at((45, 45), 1.0)
    designer.session.gestures.use("box")
    count = len(designer.handle.history.edits)
    designer.stroke((0, 0), (89, 89))
    assert len(designer.handle.history.edits) == count + 1
    assert len(designer.room.things()) == 90 * 90
    designer.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert designer.room.things() == []


def test_what_was_changed_while_a_stroke_was_planned_is_not_overwritten(designer):
    session = designer.session
    real = session.aside

    def aside(title, work, with_worker=None):
        found = real(title, work, with_worker)
        designer.room.lay("Stones", cells=[(1, 1)])  # by somebody else, meanwhile
        return found

    session.aside = aside
    designer.handle.add_room("Plain", (300, 300), 4)
    session.open_room("Plain")
    designer.table.look_at((150, 150), 1 / 2)
    session.gestures.use("box")
    designer.stroke((0, 0), (299, 299))
    assert "Something else was changed meanwhile" in designer.window.said.text()
    assert designer.room.material(5, 5) == "" and designer.room.material(1, 1) == "Stones"


def test_a_worker_that_is_let_go_stops_and_tells_nobody(designer):
    told = []
    worker = Worker(lambda step: [step(str(n)) for n in range(10**9)], "Counting")
    worker.finished.connect(lambda: told.append(1))
    worker.begin()
    worker.let_go()
    del worker
    wait_for_all()
    designer.settle(30)
    assert told == []


def test_dialogs_wait_while_long_work_is_done(designer):
    dialog = QDialog(designer.window)
    dialog.show()
    seen = []
    run_task(designer.window, "Work", lambda step: seen.append(dialog.isEnabled()), seen.append,
             designer.window.say)  # fmt: skip
    assert seen == [False, None] and dialog.isEnabled()
    dialog.close()


def test_a_room_is_drawn_before_the_window_that_shows_it(designer, monkeypatch):
    """All that its first picture needs is there, so that only the picture itself is made."""
    handle, size = designer.handle, designer.window.size()
    warmed(handle, "Yard", size)
    monkeypatch.setattr("topion.render.atlas.Atlas.__init__", None)  # none is made again
    image = QImage(size - BESIDE, QImage.Format.Format_RGB32)
    room = handle.ready_room("Yard")
    camera, view = Camera(cell_px=room.info.cell_px), QRectF(image.rect())
    camera.show_room(room.info.size, view)
    painter, chunks = QPainter(image), Chunks(handle.data, room, lambda *_: False)
    while not chunks.paint(painter, camera, view):
        pass
    painter.end()
    assert image.pixelColor(image.rect().center()).lightness() > 0
