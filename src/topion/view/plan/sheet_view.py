"""The sheet of the plan: panned, zoomed, and worked on with the pointer and keys."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QEnterEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QPushButton, QWidget

from topion.plan.sheet import Point, around
from topion.view import style
from topion.view.plan.camera import STEP, SheetCamera
from topion.view.plan.drags import (
    CarryThings,
    Drag,
    DrawLink,
    Lasso,
    MoveRooms,
    Pan,
    draw_things,
    port_at,
    things_at,
)
from topion.view.plan.sheet_drawing import draw_hot, draw_sheet
from topion.view.plan.sheet_looks import Looks
from topion.view.plan.work import PlanWork

PlanGesture = Literal["move", "link", "lasso"]
GESTURE_KEYS: dict[PlanGesture, str] = {"move": "M", "link": "N", "lasso": "S"}
ROOM_MIME = "application/x-topion-room"
_PAD = 42.0  # px round all rooms when they fit
_LINK_PX = 60.0  # from where a link may begin with its gesture
_THING_PX = 9.0
_CLICK_PX = 4.0
_NUDGE = 1.0  # cells
_SHIFT = Qt.KeyboardModifier.ShiftModifier


class SheetView(QWidget):
    """Signals: gesture_changed(); menu_asked(a point of the screen) for what is picked."""

    gesture_changed = pyqtSignal()
    menu_asked = pyqtSignal(object)

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.work = work
        self.looks = Looks(SheetCamera())
        self.gesture: PlanGesture = "move"
        self._drag: Drag | None = None
        self._pressed: QPointF | None = None
        self._fitted = False
        self._drawn: tuple[object, QPixmap] = (None, QPixmap())
        self.setAccessibleName("Plan of the world")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(300, 200)
        self.fit_button = self._button("Fit  F", "Show all rooms (F)", self.fit)
        self.less = self._button("−", "Farther away (−)", lambda: self.zoom(1 / STEP))
        self.scale = self._button("100", "One cell as 3 px (0)", self.plain_scale)
        self.more = self._button("+", "Nearer (+)", lambda: self.zoom(STEP))
        work.changed.connect(self._on_changed)
        work.picked_changed.connect(self.update)
        work.pictures.made.connect(self.update)

    def _button(self, text: str, tip: str, does: Callable[[], object]) -> QPushButton:
        button = QPushButton(text, self)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda _: does())
        return button

    # --- the view -------------------------------------------------------------------------

    def fit(self) -> None:
        """Show all rooms."""
        rect = around([spot.rect for spot in self.work.spots.values()])
        if rect is None:
            return
        view = QRectF(self.rect()).adjusted(_PAD, _PAD, -_PAD, -_PAD - 18)
        self.looks.camera.fit(rect, view)
        self._moved()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Nearer or farther, about a point or the middle."""
        self.looks.camera.zoom_at(QRectF(self.rect()).center() if at is None else at, factor)
        self._moved()

    def plain_scale(self) -> None:
        """One cell as 3 px."""
        self.zoom(3.0 / self.looks.camera.px)

    def show_spot(self, name: str) -> None:
        """Bring a placed room into the view."""
        spot, camera = self.work.spots[name], self.looks.camera
        shown = camera.rect_of(spot.rect)
        if not QRectF(self.rect()).adjusted(20, 20, -20, -20).contains(shown):
            middle = camera.to_px(spot.rect.middle)
            centre = QRectF(self.rect()).center()
            camera.left += centre.x() - middle.x()
            camera.top += centre.y() - middle.y()
        self._moved()

    def _moved(self) -> None:
        self._fitted = True
        self.work.pictures.forget_line()
        self.scale.setText(f"{self.looks.camera.px / 3.0 * 100:.0f}")
        self.update()

    def _on_changed(self) -> None:
        """Rooms are fitted into the view as they come, until somebody moves it."""
        if not self._fitted and self.work.spots and self.isVisible():
            busy = self.work.outlines.busy
            self.fit()
            self._fitted = not busy
        self.update()

    def showEvent(self, event: object) -> None:
        self._on_changed()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.looks.width, self.looks.height = self.width(), self.height()
        right, top = self.width() - 14, self.height() - 38
        for button, wide in ((self.more, 36), (self.scale, 58), (self.less, 36),
                             (self.fit_button, 66)):  # fmt: skip
            button.setFixedSize(wide, 26)
            right -= wide
            button.move(right, top)
            right -= 10 if button is self.less else 2
        self._on_changed()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._sheet())
        draw_hot(painter, self.work, self.looks)
        if not isinstance(self._drag, CarryThings):
            draw_things(painter, self.work, self.looks)
        if self._drag is not None:
            self._drag.draw(painter)

    def _sheet(self) -> QPixmap:
        """The sheet without what follows the pointer, drawn anew when it is another one."""
        work, looks, ratio = self.work, self.looks, self.devicePixelRatioF()
        key = (
            (work.version, work.pictures.version, work.places, work.port),
            (replace(looks.camera), dict(looks.shift), looks.linking),
            (self.size(), ratio, style.is_dark()),
        )
        if key != self._drawn[0]:
            sheet = QPixmap(self.size() * ratio)
            sheet.setDevicePixelRatio(ratio)
            painter = QPainter(sheet)
            draw_sheet(painter, work, looks)
            painter.end()
            self._drawn = (key, sheet)
        return self._drawn[1]

    # --- gestures -------------------------------------------------------------------------

    def use(self, gesture: PlanGesture) -> None:
        """Use another gesture."""
        self.gesture = gesture
        self.looks.linking = gesture == "link"
        self.gesture_changed.emit()
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        self._pressed = at
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = Pan(self.looks, at)
        elif event.button() == Qt.MouseButton.RightButton:
            self._pick_at(at, more=False, keep=True)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._drag = self._begin(at, bool(event.modifiers() & _SHIFT))
        self.update()

    def _begin(self, at: QPointF, more: bool) -> Drag:
        """What a press of the left button begins."""
        work, looks = self.work, self.looks
        if any(math.hypot(p.x() - at.x(), p.y() - at.y()) <= _THING_PX
               for p in things_at(work, looks)):  # fmt: skip
            return CarryThings(work, looks, at)
        if self.gesture == "lasso":
            return Lasso(work, looks, at, more)
        port = port_at(work, looks, at)
        if port is None and self.gesture == "link":
            port = port_at(work, looks, at, _LINK_PX)
        if port is not None:
            work.pick(port=port.key)
            return DrawLink(work, looks, port)
        self._pick_at(at, more=more, keep=True)
        return MoveRooms(work, looks, at) if work.places else Pan(looks, at)

    def _pick_at(self, at: QPointF, *, more: bool, keep: bool) -> None:
        """Pick what lies there.  keep : what is picked already stays, if it lies there."""
        port = port_at(self.work, self.looks, at)
        spot = self.work.spot_at(self.looks.camera.to_cells(at))
        if port is not None:
            self.work.pick(port=port.key)
        elif spot is None:
            self.work.pick(self.work.places if more else ())
        elif more:
            self.work.pick(self.work.places ^ {spot.name})
        elif not (keep and spot.name in self.work.places):
            self.work.pick([spot.name])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self._drag is None:
            self._hover(at)
            return
        far = self._pressed is None or (
            math.hypot(at.x() - self._pressed.x(), at.y() - self._pressed.y()) > _CLICK_PX
        )
        if far:
            self._pressed = None  # no click any longer
            self._drag.to(at, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            if isinstance(self._drag, Pan):
                self._moved()
            self.update()

    def _hover(self, at: QPointF) -> None:
        port = port_at(self.work, self.looks, at)
        spot = self.work.spot_at(self.looks.camera.to_cells(at))
        hot = port.key if port is not None else None, spot.name if spot is not None else ""
        if hot != (self.looks.hot_port, self.looks.hot_spot):
            self.looks.hot_port, self.looks.hot_spot = hot
            shape = Qt.CursorShape.CrossCursor if port is not None else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if event is None or drag is None:
            return
        if self._pressed is None:
            drag.end()
        elif isinstance(drag, Lasso):
            self._pick_at(self._pressed, more=False, keep=False)
        elif isinstance(drag, Pan) and event.button() == Qt.MouseButton.LeftButton:
            self.work.pick()
        self._pressed = None
        self._hover(event.position())
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = self.looks.camera.to_cells(event.position())
        spot = self.work.spot_at(point)
        if spot is not None:
            self._drag = None
            flat = spot.info is not None and spot.info.axes == 2
            self.work.enter(spot.room, spot.cell_at(point) if flat else None)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self.zoom(STEP ** (event.angleDelta().y() / 120), event.position())

    def leaveEvent(self, event: object) -> None:
        self.looks.hot_port, self.looks.hot_spot = None, ""
        self.update()

    def enterEvent(self, event: QEnterEvent | None) -> None:
        if event is not None:
            self._hover(event.position())

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu_asked.emit(event.globalPos())

    def drop_drag(self) -> bool:
        """Forget what is dragged; False for nothing."""
        had = self._drag is not None and self._pressed is None
        self._drag, self.looks.shift = None, {}
        self.update()
        return had

    # --- rooms dropped here ---------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(ROOM_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None or not data.hasFormat(ROOM_MIME):
            return
        event.acceptProposedAction()
        self.drop_room(data.data(ROOM_MIME).data().decode(), event.position())

    def drop_room(self, room: str, at: QPointF) -> None:
        """Place a room with its middle at a point of the view."""
        point = self.looks.camera.to_cells(at)
        doors = self.work.outlines.known.get(room)
        size = doors.info.plan if doors is not None and doors.info is not None else (24, 32)
        self.work.place(room, (point[0] - size[0] / 2, point[1] - size[1] / 2))

    # --- keys -----------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        keys, control = Qt.Key, event.modifiers() & Qt.KeyboardModifier.ControlModifier
        nudges: dict[int, Point] = {
            keys.Key_Left: (0, -_NUDGE),
            keys.Key_Right: (0, _NUDGE),
            keys.Key_Up: (-_NUDGE, 0),
            keys.Key_Down: (_NUDGE, 0),
        }
        does: dict[int, Callable[[], object]] = {
            keys.Key_F: self.fit, keys.Key_Plus: lambda: self.zoom(STEP),
            keys.Key_Equal: lambda: self.zoom(STEP), keys.Key_Minus: lambda: self.zoom(1 / STEP),
            keys.Key_0: self.plain_scale, keys.Key_M: lambda: self.use("move"),
            keys.Key_N: lambda: self.use("link"), keys.Key_S: lambda: self.use("lasso"),
            keys.Key_Delete: self.work.take_off, keys.Key_Backspace: self.work.take_off,
            keys.Key_Return: self._enter_picked, keys.Key_Enter: self._enter_picked,
            keys.Key_PageDown: lambda: self._pick_next(1),
            keys.Key_PageUp: lambda: self._pick_next(-1),
        }  # fmt: skip
        if control and event.key() == keys.Key_A:
            self.work.pick(self.work.spots)
        elif control:
            super().keyPressEvent(event)
        elif event.key() in nudges and self.work.places:
            self._nudge(nudges[event.key()], bool(event.modifiers() & _SHIFT))
        elif event.key() == keys.Key_Escape and (self.drop_drag() or self.work.picked):
            self.work.pick()
        elif event.key() in does:
            does[event.key()]()
        else:
            super().keyPressEvent(event)

    def _nudge(self, by: Point, far: bool) -> None:
        times = 8 if far else 1
        spots = self.work.spots
        to = {name: (spots[name].rect.top + by[0] * times, spots[name].rect.left + by[1] * times)
              for name in self.work.places}  # fmt: skip
        self.work.move(to, key=("nudge", self.work.places))

    def _enter_picked(self) -> None:
        if self.work.port is not None:
            port = self.work.ports[self.work.port]
            self.work.enter(port.spot.room, port.door.cell)
        elif len(self.work.places) == 1:
            self.work.enter(self.work.spots[next(iter(self.work.places))].room)

    def _pick_next(self, step: int) -> None:
        """Pick the next placed room in the order of the sheet."""
        names = list(self.work.spots)
        if not names:
            return
        at = names.index(next(iter(self.work.places))) if self.work.places else -max(step, 0)
        name = names[(at + step) % len(names)]
        self.work.pick([name])
        self.show_spot(name)
