"""Where what the shown hand places may stand, in the part of the room that is in view; found out on
a thread while a key is held."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, QRectF, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPen

from topion.brushes import ThingsBrush
from topion.grid.boxes import Box
from topion.render.eye import Eye
from topion.things.ground import Ground
from topion.things.heat import ALLOWED, Heat, heat
from topion.view import style
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of
from topion.view.tasks import Step, Worker

_MOST_CELLS = 40_000  # that are asked about at once, in the middle of the view


class FreePlaces(QObject):
    """Signals: found() when there is something new to draw."""

    found = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.heat: Heat | None = None
        self.box = Box((0, 0), (0, 0))
        self._key: object = None
        self._image: QImage | None = None
        self._asking: Worker | None = None

    def ask(self, box: Box) -> None:
        """Find it out for a box of the plan, unless that is known."""
        session = self.session
        brush = session.hands.brush(session.hands.shown)
        if not isinstance(brush, ThingsBrush) or brush.prefab not in session.project.prefabs:
            self.heat = None
            return
        name = brush.prefab
        area, turn, mirrored = _middle(box), brush.turn, brush.mirrored
        key = (name, turn, mirrored, area, session.room_name, session.handle.history.at)
        if key == self._key:
            return
        self._key = key
        if self._asking is not None:
            self._asking.let_go()
        frozen, room = session.project.frozen(), session.room_name

        def work(step: Step) -> Heat:
            ground = Ground(frozen, frozen.room(room))
            return heat(ground, frozen.prefab(name), area, turn=turn, mirrored=mirrored)

        worker = self._asking = Worker(work, "Asking the rules")
        worker.finished.connect(lambda: self._take(worker, area))
        worker.begin()

    def _take(self, worker: Worker, area: Box) -> None:
        if worker is not self._asking or worker.result is None:
            return
        self.heat, self.box = worker.result, area
        cells = np.zeros((*area.shape, 4), np.uint8)
        at = np.floor(self.heat.positions[:, -2:] + 0.5).astype(int) - np.array(area.lo)
        free = self.heat.by == ALLOWED
        for wanted, ink, alpha in ((False, "buoy", 110), (True, "tidal", 110)):
            colour, rows = style.ink(ink), at[free == wanted]
            cells[tuple(rows.T)] = (colour.red(), colour.green(), colour.blue(), alpha)
        self._image = image_of(cells)
        self.found.emit()

    def forget(self) -> None:
        """The key was let go."""
        self._key, self.heat, self._image = None, None, None
        if self._asking is not None:
            self._asking.let_go()
            self._asking = None

    def draw_flat(self, painter: QPainter, camera: Camera) -> None:
        """Over the cells of a flat room: free ones, and those where it is refused."""
        if self._image is not None:
            (y, x), (below, beside) = self.box.lo, self.box.hi
            target = camera.rect_of(y, x, below, beside)
            painter.drawImage(target, self._image, QRectF(self._image.rect()))

    def draw_deep(self, painter: QPainter, eye: Eye) -> None:
        """A dot on each surface of a voxel room."""
        if self.heat is None:
            return
        middles = self.heat.positions + np.array([0.05, 0.5, 0.5])
        seen = eye.seen(middles)
        size = max(1.5, min(5.0, eye.px * 0.16))
        for ink, rows in (("buoy", self.heat.by != ALLOWED), ("tidal", self.heat.by == ALLOWED)):
            painter.setPen(QPen(style.ink("card"), 1))
            painter.setBrush(style.ink(ink))
            for y, x, depth in seen[rows].tolist():
                if depth > 0:
                    painter.drawEllipse(QRectF(x - size, y - size, 2 * size, 2 * size))


def _middle(box: Box) -> Box:
    """As much of the middle of a box as is asked about at once."""
    high, wide = box.shape[-2:]
    share = min(1.0, (_MOST_CELLS / max(1, high * wide)) ** 0.5)
    rows, columns = max(1, int(high * share)), max(1, int(wide * share))
    top, left = (box.lo[n] + (a - b) // 2 for n, a, b in ((-2, high, rows), (-1, wide, columns)))
    return Box((top, left), (top + rows, left + columns))
