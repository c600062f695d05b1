"""The stack: the layers of a room as sheets with their pictures, the uppermost on top."""

from __future__ import annotations

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
    QPolygonF,
    QTransform,
    QWheelEvent,
)
from PyQt6.QtWidgets import QInputDialog, QMenu, QPushButton, QWidget

from topion.edit.layers import show_layer
from topion.edit.library import free_name
from topion.edit.rooms import add_layer, move_layer, set_layer
from topion.model.layer import Layer, LayerInfo, LayerKind
from topion.render.cards import thumbnail
from topion.view import style
from topion.view.panels.layer_marks import paint_eye, paint_lock, paint_ties
from topion.view.panels.layer_menu import fill_layer_menu
from topion.view.session import Session
from topion.view.table.compose import picture_of_words
from topion.view.turns import Turns
from topion.weaving.looms import made_of

_TOP = 30
_THUMB_PX = 112


class Stack(QWidget):
    """Click works on a layer; the eye and lock beside its name; drag to reorder; the menu
    renames, sets opacity, adds and removes."""

    key_area = "stack"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFixedWidth(140)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stack")
        self.setToolTip("Layers from top to bottom; right click for more")
        self._thumbs: dict[str, tuple[object, QImage]] = {}
        self._turns = Turns(self, self.update)
        self._dragged: str | None = None
        self._drag_y = 0.0
        self._pressed_y = 0.0
        self._scroll = 0.0
        self.add = QPushButton("+", self)
        self.add.setObjectName("plain")
        self.add.setToolTip("New layer above this one (Ctrl+L)")
        self.add.setAccessibleName("New layer")
        self.add.setGeometry(112, 4, 22, 22)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(120)
        self._soon.timeout.connect(self.update)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self._thumbs.clear()
        session.changed.connect(lambda _: self._soon.start())
        for signal in (session.room_changed, session.picked.changed, session.hands.changed):
            signal.connect(self.update)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(140, 500)

    def _top_down(self) -> list[tuple[str, Layer]]:
        return list(reversed(self.session.room.drawn())) if self.session.has_room else []

    def _pitch(self) -> float:
        count = max(1, len(self._top_down()))
        return min(86.0, max(58.0, (self.height() - _TOP - 6) / count))

    def row_rect(self, layer_id: str) -> QRectF:
        """Where the layer is seen in the panel."""
        ids = [known for known, _ in self._top_down()]
        pitch = self._pitch()
        return QRectF(0, _TOP + ids.index(layer_id) * pitch - self._scroll, self.width(), pitch)

    def eye_rect(self, layer_id: str) -> QRectF:
        """Where the eye of a layer is seen."""
        row = self.row_rect(layer_id)
        return QRectF(self.width() - 42, row.top(), 18, 16)

    def lock_rect(self, layer_id: str) -> QRectF:
        """Where the lock of a layer is seen."""
        row = self.row_rect(layer_id)
        return QRectF(self.width() - 22, row.top(), 18, 16)

    def _works_on(self) -> str:
        """The layer the left hand would lay on."""
        session = self.session
        brush = session.project.brushes.get(session.hands[session.hands.shown])
        if brush is None or not session.has_room:
            return session.layer_id
        for layer_id, layer in session.room.bottom_up("field"):
            if layer.info.brush == brush.name:
                return layer_id
        for layer_id, layer in session.room.drawn():
            if brush.layer and layer.info.name == brush.layer:
                return layer_id
        return session.layer_id

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        target = self._works_on()
        painter.setClipRect(0, _TOP - 4, self.width() - 1, self.height())
        for layer_id, layer in self._top_down():
            row = self.row_rect(layer_id)
            if self._dragged == layer_id:
                row.moveTop(row.top() + self._drag_y - self._pressed_y)
                painter.setOpacity(0.75)
            self._paint_row(painter, row, layer_id, layer, layer_id == target)
            painter.setOpacity(1.0)
        painter.setClipping(False)
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(10, 8, 100, 16), "Stack")

    def _paint_row(
        self, painter: QPainter, row: QRectF, layer_id: str, layer: Layer, target: bool
    ) -> None:
        info = layer.info
        chosen = layer_id == self.session.layer_id
        painter.setFont(style.font(12, bold=target or chosen))
        painter.setPen(style.ink("ink" if info.shown else "soft"))
        name = painter.fontMetrics().elidedText(info.name, Qt.TextElideMode.ElideRight, 86)
        painter.drawText(QPointF(12, row.top() + 12), name)
        paint_eye(painter, QRectF(self.width() - 42, row.top(), 18, 16), info.shown)
        paint_lock(painter, QRectF(self.width() - 22, row.top(), 18, 16), info.locked)
        self._paint_ties(painter, row, layer_id, info)
        sheet = QRectF(10, row.top() + 18, 120, row.height() - 24)
        lean = sheet.height() * 0.34
        corners = QPolygonF(
            [
                QPointF(sheet.left(), sheet.top() + lean),
                QPointF(sheet.right() - 26, sheet.top()),
                QPointF(sheet.right(), sheet.bottom() - lean),
                QPointF(sheet.left() + 26, sheet.bottom()),
            ]
        )
        painter.setPen(QPen(style.ink("buoy" if target else "ink", 255 if info.shown else 90),
                            2 if target else 1))  # fmt: skip
        painter.setBrush(style.ink("card"))
        painter.drawPolygon(corners)
        if info.shown:
            self._paint_picture(painter, layer_id, layer, corners)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(corners)
        if chosen and not target:
            painter.fillRect(QRectF(2, row.top() + 2, 3, row.height() - 8), style.ink("ink"))

    def _paint_ties(self, painter: QPainter, row: QRectF, layer_id: str, info: LayerInfo) -> None:
        """What the layer is attached to, and its group."""
        target = None
        if info.attached in self.session.room.layers:
            try:
                target = self.row_rect(info.attached)
            except ValueError:  # a layer that is not drawn
                target = None
        tied = [i for i, layer in self.session.room.drawn() if layer.info.attached]
        lane = tied.index(layer_id) if layer_id in tied else 0
        paint_ties(painter, row, target, info.group, lane)

    def _paint_picture(
        self, painter: QPainter, layer_id: str, layer: Layer, corners: QPolygonF
    ) -> None:
        image = self._thumb(layer_id, layer)
        if image is None:
            return
        flat = QPolygonF(
            [
                QPointF(0, 0),
                QPointF(image.width(), 0),
                QPointF(image.width(), image.height()),
                QPointF(0, image.height()),
            ]
        )
        way = QTransform()
        if not QTransform.quadToQuad(flat, corners, way):
            return
        painter.save()
        painter.setTransform(way, True)
        painter.setOpacity(painter.opacity() * layer.info.opacity)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QPointF(0, 0), image)
        painter.restore()

    def _thumb(self, layer_id: str, layer: Layer) -> QImage | None:
        """The layer as it is, or as it was while its picture waits for its turn."""
        project, room = self.session.project, self.session.room
        stamps = project.stamp("tilesets", "prefabs", "themes")
        key = (layer.revision, room.info.theme, stamps, made_of(project))
        known = self._thumbs.get(layer_id)
        if known is None or known[0] != key:
            words = self._turns.make(lambda: thumbnail(project, room, layer_id, _THUMB_PX))
            if words is None:
                return known[1] if known else None
            known = (key, picture_of_words(words))
            self._thumbs[layer_id] = known
        return known[1]

    # --- pointer and keys -----------------------------------------------------------------

    def _layer_at(self, y: float) -> str | None:
        for layer_id, _ in self._top_down():
            row = self.row_rect(layer_id)
            if row.top() <= y < row.bottom():
                return layer_id
        return None

    def set_layer(self, layer_id: str, **changes: object) -> None:
        """Change settings of a layer."""
        self.session.try_(set_layer, self.session.room_name, layer_id, **changes)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = event.position()
        layer_id = self._layer_at(point.y())
        if layer_id is None:
            return
        info = self.session.room.layer(layer_id).info
        if self.eye_rect(layer_id).contains(point):
            self.session.try_(show_layer, self.session.room_name, layer_id, not info.shown)
        elif self.lock_rect(layer_id).contains(point):
            self.set_layer(layer_id, locked=not info.locked)
        else:
            self._dragged, self._pressed_y, self._drag_y = layer_id, point.y(), point.y()
            self.session.picked.work_on(layer_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._dragged is not None:
            self._drag_y = event.position().y()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._dragged is None:
            return
        dragged, self._dragged = self._dragged, None
        moved = round((event.position().y() - self._pressed_y) / self._pitch())
        if moved:
            order = self.session.room.order
            self.session.try_(
                move_layer, self.session.room_name, dragged, order.index(dragged) - moved
            )
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        layer_id = self._layer_at(event.position().y()) if event else None
        if layer_id:
            self.rename(layer_id)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            total = _TOP + self._pitch() * len(self._top_down())
            most = max(0.0, total - self.height())
            self._scroll = min(most, max(0.0, self._scroll - event.angleDelta().y() / 2))
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        ids = [known for known, _ in self._top_down()]
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if not ids or step is None:
            event.ignore()
            return
        at = ids.index(self.session.layer_id) if self.session.layer_id in ids else 0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            order = self.session.room.order
            self.session.try_(
                move_layer, self.session.room_name, ids[at], order.index(ids[at]) - step
            )
        else:
            self.session.picked.work_on(ids[max(0, min(len(ids) - 1, at + step))])

    def rename(self, layer_id: str) -> None:
        """Ask for another name of a layer."""
        old = self.session.room.layer(layer_id).info.name
        name, ok = QInputDialog.getText(self, "Rename layer", "Name", text=old)
        if ok and name.strip():
            self.set_layer(layer_id, name=name.strip())

    def show_add_menu(self) -> None:
        """Ask which kind of layer to add."""
        menu = QMenu(self)
        for kind, text in (("tiles", "Layer of tiles"), ("things", "Layer of things")):
            action = QAction(text, menu)
            action.triggered.connect(lambda _, k=kind: self.add_new(k))
            menu.addAction(action)
        menu.exec(self.add.mapToGlobal(self.add.rect().bottomLeft()))

    def add_new(self, kind: LayerKind) -> None:
        """Add a layer above the one worked on."""
        if self.session.has_room:
            names = {layer.info.name for _, layer in self._top_down()}
            info = LayerInfo(free_name(kind.capitalize(), names), kind)
            self.session.try_(add_layer, self.session.room_name, info, self.session.layer_id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        layer_id = self._layer_at(event.y()) if event else None
        if event is None or layer_id is None:
            return
        info = self.session.room.layer(layer_id).info
        menu = QMenu(self)
        menu.addAction("Rename…", lambda: self.rename(layer_id))
        menu.addAction(
            "Hide" if info.shown else "Show",
            lambda: self.session.try_(show_layer, self.session.room_name, layer_id, not info.shown),
        )
        menu.addAction(
            "Unlock" if info.locked else "Lock",
            lambda: self.set_layer(layer_id, locked=not info.locked),
        )
        opacity = menu.addMenu("Opacity")
        for share in (1.0, 0.75, 0.5, 0.25):
            if opacity is not None:
                opacity.addAction(
                    f"{share:.0%}", lambda s=share: self.set_layer(layer_id, opacity=s)
                )
                opacity.setToolTipsVisible(True)
        menu.addSeparator()
        fill_layer_menu(menu, self.session, layer_id, self)
        menu.exec(event.globalPos())
