"""The worked room, small, with the cells in which a prefab may stand, and why not elsewhere."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.grid.boxes import Box
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.model.room import Room
from topion.render.pixels import as_rgba, resized
from topion.render.scene import render_box
from topion.things.ground import Ground
from topion.things.heat import ALLOWED, Heat, heat
from topion.view import style
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.tasks import Step, Worker

_MOST_CELLS = 16_384  # that are asked at once; of larger rooms a part is shown


class HeatMap(QWidget):
    """Signals: changed() when it is known anew, pointed(cell or None).

    found : where the prefab may stand; None while that is found out.  only : a rule whose own
    refusals are shown, -1 for all.
    """

    changed = pyqtSignal()
    pointed = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Heat | None = None
        self.only = -1
        self.box = Box((0, 0), (1, 1))
        self._name = ""
        self._room: QImage | None = None
        self._over: QImage | None = None
        self.asking: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self._ask)
        self.setMouseTracking(True)
        self.setFixedHeight(260)
        self.setAccessibleName("Where it may stand")

    def show_prefab(self, name: str) -> None:
        """Ask for another prefab, or anew."""
        self._name = name
        self._soon.start()

    def show_only(self, rule: int) -> None:
        """What one rule refuses by itself, or -1 for all."""
        self.only = rule
        self._paint_over()
        self.update()

    def stop(self) -> None:
        """Nobody waits any longer."""
        self._soon.stop()
        if self.asking is not None:
            self.asking.let_go()

    def _ask(self) -> None:
        session = self.session
        if not session.has_room or self._name not in session.project.prefabs:
            self.found = self._room = None
            self.changed.emit()
            return
        if self.asking is not None:
            self.asking.let_go()
        frozen, room = session.project.frozen(), session.room_name
        name, box = self._name, _part(session.room)
        size = (max(1, self.height()), max(1, self.width()))

        def work(step: Step) -> tuple[Box, Heat, np.ndarray]:
            return box, *_asked(frozen, frozen.room(room), name, box, size)

        self.asking = Worker(work, "Asking the rules")
        self.asking.finished.connect(self._show)
        self.asking.begin()

    def _show(self) -> None:
        worker = self.asking
        if worker is None or worker.result is None:
            return
        self.box, self.found, picture = worker.result
        self._room = image_of(picture)
        self._paint_over()
        self.changed.emit()
        self.update()

    def _paint_over(self) -> None:
        """A pixel a cell: free, refused, or refused by the rule that is shown."""
        found = self.found
        if found is None:
            return
        high, wide = self.box.shape
        cells = np.zeros((high, wide, 4), np.uint8)
        refused = found.by != ALLOWED
        if 0 <= self.only < len(found.rules):
            refused = found.every[:, self.only]
        free, not_free = _rgba("tidal", 96), _rgba("buoy", 150)
        at = np.floor(found.positions[:, -2:] + 0.5).astype(int) - np.array(self.box.lo)
        for row in np.argsort(~refused, kind="stable"):  # a free surface tells for its column
            y, x = at[row]
            cells[y, x] = not_free if refused[row] else free
        self._over = image_of(cells)

    def target(self) -> QRectF:
        """Where the room is seen."""
        high, wide = self.box.shape
        share = min(self.width() / wide, self.height() / high)
        size = QRectF(0, 0, wide * share, high * share)
        size.moveCenter(QRectF(self.rect()).center())
        return size

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("table"))
        if self._room is None or self._over is None:
            painter.setPen(style.ink("soft"))
            painter.drawText(self.rect(), 0x84, "asking the rules …" if self._name else "")
            return
        target = self.target()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(target, self._room)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.drawImage(target, self._over)
        painter.setPen(QPen(style.ink("ink"), 1))
        painter.drawRect(target)

    def cell_at(self, point: QPointF) -> tuple[int, int] | None:
        """The cell of the plan that is seen there."""
        target = self.target()
        if self.found is None or not target.contains(point):
            return None
        high, wide = self.box.shape
        y = int((point.y() - target.top()) / target.height() * high)
        x = int((point.x() - target.left()) / target.width() * wide)
        return self.box.lo[0] + min(y, high - 1), self.box.lo[1] + min(x, wide - 1)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self.pointed.emit(self.cell_at(event.position()) if event is not None else None)

    def leaveEvent(self, event: object) -> None:
        self.pointed.emit(None)


def _part(room: Room) -> Box:
    """The plan of a room, or as much of its middle as is asked at once."""
    high, wide = room.info.size[-2:]
    if high * wide <= _MOST_CELLS:
        return Box((0, 0), (high, wide))
    share = (_MOST_CELLS / (high * wide)) ** 0.5
    rows, columns = max(1, int(high * share)), max(1, int(wide * share))
    top, left = (high - rows) // 2, (wide - columns) // 2
    return Box((top, left), (top + rows, left + columns))


def _asked(
    project: Project, room: Room, name: str, box: Box, size: tuple[int, int]
) -> tuple[Heat, np.ndarray]:
    prefab: Prefab = project.prefab(name)
    found = heat(Ground(project, room), prefab, box)
    high, wide = box.shape
    side = max(1, min(room.info.cell_px, int(min(size[0] / high, size[1] / wide)) or 1))
    if room.info.axes == 3:
        return found, _heights(found, box)
    words = render_box(project, room, box, side)
    return found, as_rgba(resized(words, high * side, wide * side))


def _heights(found: Heat, box: Box) -> np.ndarray:
    """(h, w, 4) a voxel room in plan: the higher the surface, the lighter."""
    plan = np.zeros(box.shape)
    at = np.floor(found.positions[:, -2:] + 0.5).astype(int) - np.array(box.lo)
    np.maximum.at(plan, tuple(at.T), found.positions[:, 0] + 1)
    shade = (90 + 140 * plan / max(1.0, plan.max())).astype(np.uint8)
    return np.dstack([shade, shade, shade, np.full_like(shade, 255)])


def _rgba(ink: str, alpha: int) -> tuple[int, int, int, int]:
    colour = style.ink(ink)
    return colour.red(), colour.green(), colour.blue(), alpha
