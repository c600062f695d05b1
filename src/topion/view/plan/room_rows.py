"""The rooms of the plan as a list shows them: picture, counts, and a word on each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import (
    QAbstractListModel,
    QMimeData,
    QModelIndex,
    QRectF,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from topion.grid.told import several
from topion.view import style
from topion.view.plan.room_pictures import SIZES, RoomPictures, Wanted, draw_filling
from topion.view.plan.sheet_view import ROOM_MIME
from topion.view.plan.work import PlanWork
from topion.walk.links import Doors

ROW = Qt.ItemDataRole.UserRole
_HIGH, _HEAD = 58, 30
_PICTURE = QRectF(12, 7, 62, 44)


@dataclass(frozen=True)
class RoomRow:
    """times : how often it is placed.  told : its doors and things.  word : the most telling about
    it, in an ink."""

    room: str
    times: int
    told: str
    word: str = ""
    ink: str = "soft"


@dataclass(frozen=True)
class PartHead:
    """Over a part of the list."""

    text: str
    count: int


Row = RoomRow | PartHead
FILTERS = ("all", "placed", "voxel", "not reached")


def room_rows(work: PlanWork, search: str, only: str) -> list[Row]:
    """Those on the plan, then those that are not; search : letters of a
    name, a tag, or what lies in it."""
    unplaced, rows, rest = set(work.unplaced()), list[Row](), list[Row]()
    for name in work.session.project.rooms:
        if _is_asked(work, name, search.strip().lower(), only, name in unplaced):
            (rest if name in unplaced else rows).append(_row(work, name))
    return [*rows, *([PartHead("Not on the plan", len(rest)), *rest] if rest else [])]


def counts(work: PlanWork) -> dict[str, int]:
    """How many rooms each filter shows."""
    unplaced = set(work.unplaced())
    return {only: sum(_is_asked(work, name, "", only, name in unplaced)
                      for name in work.session.project.rooms) for only in FILTERS}  # fmt: skip


def _is_asked(work: PlanWork, name: str, search: str, only: str, unplaced: bool) -> bool:
    known = work.outlines.known.get(name)
    info = known.info if known is not None else None
    if (only == "placed" and unplaced) or (only == "not reached" and name not in work.missed):
        return False
    if only == "voxel" and (info is None or info.axes != 3):
        return False
    if not search:
        return True
    told = [name, *(known.holds if known is not None else ()), *(info.tags if info else ())]
    return any(search in part.lower() for part in told)


def _row(work: PlanWork, name: str) -> RoomRow:
    known = work.outlines.known.get(name)
    times = work.times[name]
    if known is None or known.info is None:
        return RoomRow(name, times, "reading…")
    return RoomRow(name, times, counted(known), *_word(work, name))


def counted(known: Doors) -> str:
    """How many doors and things a room has."""
    doors, things = len(known.doors), len(known.things)
    return f"{several(doors, 'door')} · {several(things, 'thing')}"


def _word(work: PlanWork, name: str) -> tuple[str, str]:
    """The most telling word on a room, and its ink."""
    known = work.outlines.known[name]
    findings = work.findings[name]
    if name in work.missed:
        return "not reached", "buoy"
    if findings:
        return several(findings, "finding"), "buoy"
    words = [
        word
        for word, on in (
            ("start", name == work.begins),
            ("goal", any(goal.world for goal in known.goals)),
        )
        if on
    ]
    if words:
        return ", ".join(words), "tidal"
    info = known.info
    kind = "" if info is None else "voxel" if info.axes == 3 else (
        "seen from the side" if info.seen == "side" else "seen from above")  # fmt: skip
    return kind, "soft"


class RoomRows(QAbstractListModel):
    """Rows that can be dragged onto the sheet, and among each other."""

    dropped = pyqtSignal(str, int)  # a room, and before which row

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Row] = []

    def show(self, rows: Iterable[Row]) -> None:
        """Other rows."""
        rows = list(rows)
        if rows == self.rows:
            return
        if [_key(row) for row in rows] == [_key(row) for row in self.rows]:
            self.rows = rows  # the same rooms: what is picked stays
            self.dataChanged.emit(self.index(0), self.index(len(rows) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def place_of(self, room: str) -> int:
        """The row of a room; -1 for none."""
        return next((n for n, row in enumerate(self.rows)
                     if isinstance(row, RoomRow) and row.room == room), -1)  # fmt: skip

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        row = self.rows[index.row()]
        if role == ROW:
            return row
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return row.text if isinstance(row, PartHead) else f"{row.room}, {row.told}, {row.word}"
        if role == Qt.ItemDataRole.ToolTipRole and isinstance(row, RoomRow):
            return (
                "Drag it onto the sheet to place it, among the others to order it; a double "
                "click enters, a right click for more"
            )
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        if isinstance(self.rows[index.row()], PartHead):
            return Qt.ItemFlag.ItemIsEnabled
        return super().flags(index) | Qt.ItemFlag.ItemIsDragEnabled

    def mimeTypes(self) -> list[str]:
        return [ROOM_MIME]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        data = QMimeData()
        row = next((self.rows[i.row()] for i in indexes), None)
        if isinstance(row, RoomRow):
            data.setData(ROOM_MIME, row.room.encode())
        return data

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction | Qt.DropAction.CopyAction

    def dropMimeData(
        self, data: QMimeData | None, action: Qt.DropAction, row: int, column: int,
        parent: QModelIndex,
    ) -> bool:  # fmt: skip
        if data is None or not data.hasFormat(ROOM_MIME):
            return False
        place = parent.row() if parent.isValid() else row if row >= 0 else len(self.rows)
        self.dropped.emit(data.data(ROOM_MIME).data().decode(), place)
        return False  # the rows come anew with the Edit


def _key(row: Row) -> str:
    return row.room if isinstance(row, RoomRow) else ""


class RoomPainter(QStyledItemDelegate):
    """Draws the rows."""

    def __init__(self, pictures: RoomPictures) -> None:
        super().__init__()
        self._pictures = pictures
        self.lit: frozenset[str] = frozenset()  # rooms of which a place is picked

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(0, _HEAD if isinstance(index.data(ROW), PartHead) else _HIGH)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:  # fmt: skip
        row, rect = index.data(ROW), QRectF(option.rect)
        if painter is None or row is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if isinstance(row, PartHead):
            painter.setFont(style.heading())
            painter.setPen(style.ink("soft"))
            inner = rect.adjusted(12, 8, -12, 0)
            middle = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(inner, middle, row.text)
            painter.drawText(inner, middle | Qt.AlignmentFlag.AlignRight, str(row.count))
        else:
            over = option.state & QStyle.StateFlag.State_MouseOver
            self._paint_room(painter, row, rect, over=bool(over))
        painter.restore()

    def _paint_room(self, painter: QPainter, row: RoomRow, rect: QRectF, *, over: bool) -> None:
        lit = row.room in self.lit
        if lit or over:
            painter.fillRect(rect, style.ink("card", 255 if lit else 140))
        if lit:
            painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), style.ink("buoy"))
        self._paint_picture(painter, row, _PICTURE.translated(rect.left(), rect.top()))
        left, wide = rect.left() + 84, rect.width() - 96
        for text, top, ink, bold, size in ((row.room, 5, "ink", True, 13),
                                           (row.told, 22, "soft", False, 12),
                                           (row.word, 38, row.ink, False, 12)):  # fmt: skip
            painter.setFont(style.font(size, bold=bold))
            painter.setPen(style.ink(ink))
            room = wide - (26 if top == 5 else 0)
            words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(QRectF(left, rect.top() + top, room + 2, 17),
                             Qt.AlignmentFlag.AlignVCenter, words)  # fmt: skip
        if row.times:
            painter.setFont(style.font(12))
            painter.setPen(style.ink("soft"))
            painter.drawText(QRectF(rect.right() - 42, rect.top() + 5, 32, 17),
                             Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             f"×{row.times}")  # fmt: skip

    def _paint_picture(self, painter: QPainter, row: RoomRow, frame: QRectF) -> None:
        image = self._pictures.image(Wanted(row.room, SIZES[0]))
        painter.setOpacity(1.0 if row.times else 0.62)
        draw_filling(painter, image, frame, "buoy" if row.ink == "buoy" else "line")
        painter.setOpacity(1.0)
