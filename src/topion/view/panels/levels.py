"""The levels: the heights of a voxel room as a section, with the work plane, and its layers."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QAction,
    QContextMenuEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from topion.edit.layers import show_layer
from topion.edit.library import free_name
from topion.edit.rooms import add_layer, set_layer
from topion.model.layer import Layer, LayerInfo
from topion.render.section import Side, section
from topion.view import style
from topion.view.panels.layer_marks import paint_eye, paint_lock
from topion.view.panels.layer_menu import fill_layer_menu
from topion.view.session import Session
from topion.view.table.compose import picture_of_words
from topion.weaving.looms import made_of

_TOP = 46
_LAYER_PX = 22
_TALLEST, _LOWEST = 26.0, 7.0
_PALE = {"shown": 0.62, "ghosted": 0.3, "hidden": 0.0}  # how levels above the plane look


class Levels(QWidget):
    """A click on a row lays the work plane there, a drag or the wheel moves it; below lie the
    ways to see what is above it, and the layers with their eyes and locks."""

    key_area = "levels"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFixedWidth(140)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Levels")
        self.setToolTip("Click a level to lay the work plane there; the wheel moves it")
        self.side: Side = "south"
        self._scroll = 0.0
        self._pressed = False
        self._words: tuple[object, Any] | None = None
        self.turn = self._button("from the south", 26, "See the section from another side")
        self.turn.clicked.connect(self.turn_section)
        self.above = self._button("", 0, "How levels beyond the work plane are seen (N)")
        self.above.clicked.connect(lambda: self.session.planes.next_above())
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(80)
        self._soon.timeout.connect(self.update)
        self.use(session)

    def _button(self, text: str, top: int, tip: str) -> QPushButton:
        made = QPushButton(text, self)
        made.setObjectName("plain")
        made.setToolTip(tip)
        made.setGeometry(6, top, 128, 20)
        made.setFont(style.font(12))
        return made

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self._words = None
        session.changed.connect(lambda _: self._soon.start())
        for signal in (session.room_changed, session.planes.changed, session.picked.changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show anew what the session says."""
        self.turn.setText(f"from the {self.side}")
        self.above.setText(f"above it: {self.session.planes.here.above}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(140, 500)

    # --- where things are -----------------------------------------------------------------

    @property
    def _depth(self) -> int:
        return self.session.room.info.size[0] if self.session.has_room else 1

    def _layers(self) -> list[tuple[str, Layer]]:
        return list(reversed(self.session.room.drawn())) if self.session.has_room else []

    def _foot(self) -> float:
        """Where the rows end and the button and the layers begin."""
        return self.height() - _LAYER_PX * len(self._layers()) - 34

    def _pitch(self) -> float:
        return min(_TALLEST, max(_LOWEST, (self._foot() - _TOP) / self._depth))

    def row_rect(self, level: int) -> QRectF:
        """Where a level is seen in the panel."""
        pitch = self._pitch()
        rows = max(self._foot() - _TOP, 0)
        top = _TOP + max(0.0, rows - pitch * self._depth) - self._scroll
        gap = 2.0 if pitch > 12 else 0.6
        return QRectF(28, top + (self._depth - 1 - level) * pitch, 100, pitch - gap)

    def layer_rect(self, layer_id: str) -> QRectF:
        """Where the row of a layer is seen."""
        ids = [known for known, _ in self._layers()]
        return QRectF(0, self._foot() + 30 + ids.index(layer_id) * _LAYER_PX, 140, _LAYER_PX)

    # --- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(10, 8, 120, 16), "Levels · section")
        if not self.session.has_room:
            return
        foot = self._foot()
        painter.setClipRect(QRectF(0, _TOP - 2, self.width() - 1, foot - _TOP + 2))
        self._paint_rows(painter)
        painter.setClipping(False)
        self.above.move(6, int(foot) + 6)
        painter.setPen(style.ink("line"))
        painter.drawLine(10, int(foot) + 3, self.width() - 10, int(foot) + 3)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for layer_id, layer in self._layers():
            self._paint_layer(painter, layer_id, layer)

    def _paint_rows(self, painter: QPainter) -> None:
        image = self._section()
        work, pitch = self.session.planes.here, self._pitch()
        every = next(n for n in (1, 2, 4, 8, 16, 32, 64, 128, 256, 512) if n * pitch >= 13)
        for level in range(self._depth):
            row = self.row_rect(level)
            beyond = work.axis == 0 and level > work.level
            painter.fillRect(row, style.ink("card"))
            if not (beyond and work.above == "hidden"):
                painter.setOpacity(_PALE[work.above] if beyond else 1.0)
                source = QRectF(0, self._depth - 1 - level, image.width(), 1)
                painter.drawImage(row.adjusted(1, 1, -1, -1) if pitch > 12 else row, image, source)
                painter.setOpacity(1.0)
            on_plane = work.axis == 0 and level == work.level
            if pitch > 12:
                painter.setPen(QPen(style.ink("line")))
                painter.drawRect(row)
            if level % every == 0 or on_plane:
                painter.setPen(style.ink("buoy" if on_plane else "soft"))
                painter.setFont(style.font(11, bold=on_plane))
                if on_plane or abs(level - work.level) * pitch >= 12 or work.axis:
                    painter.drawText(
                        QRectF(0, row.center().y() - 8, 22, 16),
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(level),
                    )  # fmt: skip
        if work.axis == 0:
            painter.setPen(QPen(style.ink("buoy"), 2.2))
            painter.drawRect(self.row_rect(work.level).adjusted(-1, -1, 1, 1))
        else:
            self._paint_upright(painter)

    def _paint_upright(self, painter: QPainter) -> None:
        """A plane across x or y, as the line that it is in the section, where it shows."""
        work, (_, height, width) = self.session.planes.here, self.session.room.info.size
        along = {"south": 2, "east": 1}[self.side]
        if work.axis != along:
            return
        share = (work.level + 0.5) / (width if along == 2 else height)
        if self.side == "east":
            share = 1 - share
        top, low = self.row_rect(self._depth - 1), self.row_rect(0)
        x = top.left() + share * top.width()
        painter.setPen(QPen(style.ink("buoy"), 2.2))
        painter.drawLine(int(x), int(top.top()), int(x), int(low.bottom()))

    def _section(self) -> QImage:
        session = self.session
        layers = session.room.cell_layers()
        project = session.project
        library = project.stamp("blocks", "tilesets"), made_of(project, "blocks")
        stamp = (self.side, library, tuple(la.revision for _, la in layers))
        if self._words is None or self._words[0] != stamp:
            words = section(session.project, session.room, self.side)[::-1]
            self._words = (stamp, picture_of_words(words))
        return self._words[1]

    def _paint_layer(self, painter: QPainter, layer_id: str, layer: Layer) -> None:
        row, info = self.layer_rect(layer_id), layer.info
        painter.setFont(style.font(12, bold=layer_id == self.session.layer_id))
        painter.setPen(style.ink("ink" if info.shown else "soft"))
        name = painter.fontMetrics().elidedText(info.name, Qt.TextElideMode.ElideRight, 84)
        painter.drawText(QRectF(12, row.top(), 86, _LAYER_PX), Qt.AlignmentFlag.AlignVCenter, name)
        paint_eye(painter, self.eye_rect(layer_id), info.shown)
        paint_lock(painter, self.lock_rect(layer_id), info.locked)

    def eye_rect(self, layer_id: str) -> QRectF:
        """Where the eye of a layer is seen."""
        row = self.layer_rect(layer_id)
        return QRectF(98, row.top() + 3, 18, 16)

    def lock_rect(self, layer_id: str) -> QRectF:
        """Where the lock of a layer is seen."""
        row = self.layer_rect(layer_id)
        return QRectF(118, row.top() + 3, 18, 16)

    # --- pointer and keys -----------------------------------------------------------------

    def _level_at(self, y: float) -> int:
        low = self.row_rect(0)
        return int(np.clip((low.bottom() - y) // self._pitch(), 0, self._depth - 1))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = event.position()
        for layer_id, layer in self._layers():
            if self.layer_rect(layer_id).contains(point):
                self._press_layer(layer_id, layer, point)
                return
        if _TOP <= point.y() < self._foot():
            self._pressed = True
            self.session.planes.set(axis=0, level=self._level_at(point.y()))

    def _press_layer(self, layer_id: str, layer: Layer, point: QPointF) -> None:
        room, info = self.session.room_name, layer.info
        if self.eye_rect(layer_id).contains(point):
            self.session.try_(show_layer, room, layer_id, not info.shown)
        elif self.lock_rect(layer_id).contains(point):
            self.session.try_(set_layer, room, layer_id, locked=not info.locked)
        else:
            self.session.picked.work_on(layer_id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        point = QPointF(event.pos()) if event is not None else None
        hit = [i for i, _ in self._layers() if point and self.layer_rect(i).contains(point)]
        if event is not None and hit:
            menu = QMenu(self)
            fill_layer_menu(menu, self.session, hit[0], self)
            menu.exec(event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed:
            self.session.planes.set(axis=0, level=self._level_at(event.position().y()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pressed = False

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        step = 1 if event.angleDelta().y() > 0 else -1
        self.session.planes.set(level=self.session.planes.here.level + step)
        self._scroll_to_plane()

    def _scroll_to_plane(self) -> None:
        most = max(0.0, self._pitch() * self._depth - (self._foot() - _TOP))
        row = self.row_rect(self.session.planes.here.level)
        if row.top() < _TOP:
            self._scroll -= _TOP - row.top()
        elif row.bottom() > self._foot():
            self._scroll += row.bottom() - self._foot()
        self._scroll = min(most, max(0.0, self._scroll))
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        if step is None:
            event.ignore()
            return
        self.session.planes.set(level=self.session.planes.here.level + step)
        self._scroll_to_plane()

    def turn_section(self) -> None:
        """See the section from the other side."""
        self.side = "east" if self.side == "south" else "south"
        self.refresh()

    def show_add_menu(self) -> None:
        """Ask which kind of layer to add."""
        menu = QMenu(self)
        action = QAction("Layer of things", menu)
        action.triggered.connect(self.add_things)
        menu.addAction(action)
        menu.exec(self.mapToGlobal(self.rect().bottomLeft()))

    def add_things(self) -> None:
        """Add a layer of things on top."""
        if self.session.has_room:
            names = {layer.info.name for _, layer in self._layers()}
            name = free_name("Things", names)
            self.session.try_(add_layer, self.session.room_name, LayerInfo(name, "things"))
