"""Left of the sheet: the rooms, the way through the world, and what threads mean."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.places import order_rooms
from topion.grid.told import several
from topion.plan.ways import Ways
from topion.view import style
from topion.view.desks.parts import hairline, paint_paper
from topion.view.panels.fields import bold, choice_button, heading
from topion.view.plan.camera import SheetCamera
from topion.view.plan.room_pictures import SIZES, Wanted, draw_filling
from topion.view.plan.room_rows import (
    FILTERS,
    ROW,
    RoomPainter,
    RoomRow,
    RoomRows,
    counts,
    room_rows,
)
from topion.view.plan.sheet_drawing import draw_paths, draw_port
from topion.view.plan.work import PlanWork

_WIDE = 232
_MOST_LEGS = 3  # drawn of a way


class _List(QListView):
    """Signals: keyed() for Enter on a row."""

    keyed = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.keyed.emit()
        elif event is not None and event.text().isprintable() and event.text():
            event.ignore()  # the keys of the plan; rooms are found in the line above
        else:
            super().keyPressEvent(event)


class LeftSide(QWidget):
    """Signals: menu_asked(room, a point of the screen); new_asked()."""

    menu_asked = pyqtSignal(str, object)
    new_asked = pyqtSignal()

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedWidth(_WIDE)
        self._only = "all"
        self.search = QLineEdit()
        self.search.setPlaceholderText("name, thing or material")
        self.search.setAccessibleName("Search the rooms")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _: self.refresh())
        self.new = choice_button("+", "A new room, placed on the sheet")
        self.new.setFont(style.font(17))
        self.new.clicked.connect(lambda _: self.new_asked.emit())
        self.filters: dict[str, QPushButton] = {}
        self.list, self.model = _List(), RoomRows()
        self.painter = RoomPainter(work.pictures)
        self.way, self.legend = WayPart(work), Legend()
        self._dress_list()
        self._lay_out()
        work.changed.connect(self.refresh)
        work.picked_changed.connect(self._show_picked)
        work.pictures.made.connect(self._update)
        self.refresh()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setContentsMargins(12, 6, 8, 0)
        head.addWidget(heading("Rooms"), 1)
        head.addWidget(self.new)
        words = QHBoxLayout()
        words.setContentsMargins(8, 0, 8, 2)
        words.setSpacing(1)
        for only in FILTERS:
            button = choice_button(only, f"Show {only} rooms" if only != "all" else "All rooms")
            button.clicked.connect(lambda _, o=only: self.show_only(o))
            self.filters[only] = button
            words.addWidget(button)
        words.addStretch(1)
        find = QHBoxLayout()
        find.setContentsMargins(12, 0, 12, 2)
        find.addWidget(self.search)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        for part in (head, find, words):
            column.addLayout(part)
        column.addWidget(self.list, 1)
        for widget in (self.way, self.legend):
            column.addWidget(hairline())
            column.addWidget(widget)

    def _dress_list(self) -> None:
        view = self.list
        view.setModel(self.model)
        view.setItemDelegate(self.painter)
        view.setMouseTracking(True)
        view.setFrameShape(QFrame.Shape.NoFrame)
        view.setStyleSheet("QListView { background: transparent; }")
        view.setAccessibleName("Rooms")
        view.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        view.setDefaultDropAction(Qt.DropAction.MoveAction)
        view.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        view.customContextMenuRequested.connect(self._ask_menu)
        view.clicked.connect(self._pick)
        view.doubleClicked.connect(lambda index: self._enter(index))
        view.keyed.connect(lambda: self._enter(view.currentIndex()))
        self.model.dropped.connect(self._order)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "right")

    # --- shown ----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is known now."""
        found = counts(self.work)
        for only, button in self.filters.items():
            button.setText(f"{only} {found[only]}")
            button.setVisible(only in ("all", "placed") or bool(found[only]))
            bold(button, only == self._only, 12)
            if only == "not reached" and only != self._only:
                style.tint(button, "buoy")
        self.model.show(room_rows(self.work, self.search.text(), self._only))
        self.way.refresh()
        self._show_picked()

    def show_only(self, only: str) -> None:
        """Show all rooms, or only some."""
        self._only = only
        self.refresh()

    def _show_picked(self) -> None:
        work = self.work
        names = work.places or (frozenset([work.port[0]]) if work.port else frozenset())
        self.painter.lit = frozenset(work.spots[n].room for n in names if n in work.spots)
        self._update()

    def _update(self) -> None:
        viewport = self.list.viewport()
        if viewport is not None:
            viewport.update()
        self.way.update()

    # --- done -----------------------------------------------------------------------------

    @staticmethod
    def _room(index: QModelIndex) -> str:
        row = index.data(ROW)
        return row.room if isinstance(row, RoomRow) else ""

    def _pick(self, index: QModelIndex) -> None:
        room = self._room(index)
        if room:
            self.work.pick(spot.name for spot in self.work.spots.values() if spot.room == room)

    def _enter(self, index: QModelIndex) -> None:
        room = self._room(index)
        if room:
            self.work.enter(room)

    def _ask_menu(self, at: QPoint) -> None:
        room, viewport = self._room(self.list.indexAt(at)), self.list.viewport()
        if room and viewport is not None:
            self.menu_asked.emit(room, viewport.mapToGlobal(at))

    def _order(self, room: str, before: int) -> None:
        """A room was let go over a row: it comes before that room in the list."""
        session = self.work.session
        after = (row.room for row in self.model.rows[max(0, before) :] if isinstance(row, RoomRow))
        names = [name for name in session.project.rooms if name != room]
        there = next((name for name in after if name != room), None)
        place = names.index(there) if there in names else len(names)
        session.try_(order_rooms, room, place)


class WayPart(QWidget):
    """The shortest way as pictures, how long it takes, and what a way past all pickups leaves."""

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self._work = work
        self._told: tuple[str, ...] = ()
        self.setAccessibleName("Way through the world")
        self.refresh()

    def refresh(self) -> None:
        """Show what was found last."""
        self._told = tuple(told_of(self._work.finder.ways, busy=self._is_busy()))
        self.setFixedHeight(26 + (46 if self._rooms() else 0) + 18 * len(self._told) + 8)
        self.setToolTip("\n".join(self._told))
        self.setAccessibleDescription(". ".join(self._told))
        self.update()

    def _is_busy(self) -> bool:
        surveying = self._work.surveying
        return self._work.finder.busy or not surveying.known

    def _rooms(self) -> list[str]:
        ways = self._work.finder.ways
        rooms = [leg.room for leg in ways.shortest] if ways is not None else []
        return rooms if len(rooms) <= _MOST_LEGS else [*rooms[:1], *rooms[-2:]]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QPointF(12, 19), "Way through the world")
        top = 28.0
        rooms = self._rooms()
        for number, room in enumerate(rooms):
            frame = QRectF(12 + number * 72, top, 54, 39)
            image = self._work.pictures.image(Wanted(room, SIZES[0]))
            draw_filling(painter, image, frame)
            if number:
                self._draw_step(painter, frame)
        top += 46 if rooms else 0
        for number, line in enumerate(self._told):
            painter.setFont(style.font(12))
            painter.setPen(style.ink("ink" if not number else "soft"))
            words = painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight,
                                                     self.width() - 24)  # fmt: skip
            painter.drawText(QPointF(12, top + 13 + number * 18), words)

    @staticmethod
    def _draw_step(painter: QPainter, frame: QRectF) -> None:
        y, end = frame.center().y(), frame.left() - 2
        painter.setPen(QPen(style.ink("tidal"), 1.6))
        painter.drawLine(QPointF(end - 13, y), QPointF(end, y))
        for dy in (-4, 4):
            painter.drawLine(QPointF(end - 5, y + dy), QPointF(end, y))


def told_of(ways: Ways | None, *, busy: bool) -> list[str]:
    """What is known of the way, in lines."""
    if ways is None:
        return ["looking for it…" if busy else "not looked for yet"]
    if not ways.start:
        return ["no room has a start"]
    if not ways.shortest:
        return ["no way to an end is found"]
    count = len(ways.shortest)
    lasts = "" if ways.seconds is None else f", about {minutes(ways.seconds)}"
    left = f"{ways.left} left out" if ways.left else "none left out"
    lines = [f"shortest: {several(count, 'room')}{lasts}"]
    if ways.pickups:
        lines.append(f"all pickups: {several(ways.rooms, 'room')} · {left}")
    return lines


def minutes(seconds: float) -> str:
    """A time as it is said: `4 min 10 s`."""
    whole = round(seconds)
    return f"{whole // 60} min {whole % 60} s" if whole >= 60 else f"{max(1, whole)} s"


class Legend(QWidget):
    """What the lines of the sheet mean."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("What threads mean")
        self.setFixedHeight(92)

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, 92)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QPointF(12, 19), "Threads")
        for number, (ink, both, words) in enumerate((
            ("ink", True, "both ways"), ("ochre", False, "one way, as the arrow"),
            ("tidal", True, "edges snapped together"),
        )):  # fmt: skip
            y = 36.0 + number * 20
            path = QPainterPath(QPointF(18, y))
            path.lineTo(QPointF(56, y))
            draw_paths(painter, SheetCamera(px=1.0), [path], ink, both=both)
            for x in (16, 58):
                draw_port(painter, QPointF(x, y), 8, ink, faint=False)
            painter.setFont(style.font(12))
            painter.setPen(style.ink("ink"))
            painter.drawText(QPointF(72, y + 4), words)
