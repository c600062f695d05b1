"""Rows of the survey as a list shows them: rooms, findings, what was accepted, and checks."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import (
    QAbstractItemModel,
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QFontMetrics, QMouseEvent, QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from topion.grid.told import cell_told
from topion.model.project import Project
from topion.survey import CHECKS, Finding
from topion.survey.judging import Judged
from topion.survey.ledger import known_check
from topion.view import style

HEAD, LINE, _MORE = 28, 46, 16  # px
_CARE = {"thin field", "not for use", "off the grid", "wholly hidden", "condition never true",
         "recording differs", "open weave case"}  # fmt: skip
ROW = Qt.ItemDataRole.UserRole


@dataclass(frozen=True)
class Head:
    """Over the findings of one room, or over those that were accepted."""

    text: str
    count: int


@dataclass(frozen=True)
class Line:
    """A finding.  word : with which it was accepted.  fixes : what can be done about it, a few
    words each."""

    finding: Finding
    word: str = ""
    fixes: tuple[str, ...] = ()

    @property
    def title(self) -> str:
        """What it is about."""
        if self._parted:
            return self.finding.sentence.split(" · ", 1)[0]
        of_room = self.finding.room and self.finding.cell is None and not self.finding.layer
        return self.finding.room if of_room else self.finding.check

    @property
    def where(self) -> str:
        """Its place as the table tells it."""
        cell = self.finding.cell
        return "at " + cell_told(cell) if cell is not None else ""

    @property
    def detail(self) -> str:
        """What is wrong with it."""
        return self.finding.sentence.split(" · ", 1)[1] if self._parted else self.finding.sentence

    @property
    def _parted(self) -> bool:
        return " · " in self.finding.sentence

    @property
    def ink(self) -> str:
        """Of its edge: care, or that something is broken."""
        return "line" if self.word else "ochre" if self.finding.by in _CARE else "buoy"


@dataclass(frozen=True)
class CheckRow:
    """A check.  reason : why it is switched off; empty where it is asked."""

    name: str
    about: str
    reason: str
    count: int


Row = Head | Line | CheckRow


def finding_rows(judged: Iterable[Judged], room: str = "") -> list[Row]:
    """Room by room; what was accepted last.  room : only what belongs to it."""
    open_: dict[str, list[Line]] = {}
    accepted: list[Line] = []
    for finding, word in judged:
        if room and finding.room != room:
            continue
        fixes = _fixes(finding)
        if word:
            accepted.append(Line(finding, word, fixes))
        else:
            open_.setdefault(finding.room, []).append(Line(finding, "", fixes))
    rows: list[Row] = []
    for name, lines in open_.items():
        rows += [Head(name or "Project", len(lines)), *sorted(lines, key=lambda at: at.finding.by)]
    return rows + ([Head("Accepted", len(accepted)), *accepted] if accepted else [])


def _fixes(finding: Finding) -> tuple[str, ...]:
    check = known_check(finding.by)
    if check is None:
        return ()
    return check.choices or ((check.fixing,) if check.fixing else ())


def check_rows(project: Project, findings: Iterable[Finding]) -> list[Row]:
    """All checks, with how many findings each has now."""
    counts: dict[str, int] = {}
    for finding in findings:
        counts[finding.by] = counts.get(finding.by, 0) + 1
    off = project.shelf("unasked")
    return [Head("Checks", len(CHECKS)), *(
        CheckRow(check.name, check.about, off[check.name].reason if check.name in off else "",
                 counts.get(check.name, 0)) for check in CHECKS)]  # fmt: skip


class Rows(QAbstractListModel):
    """Tens of thousands are as quick as one: only what is seen is drawn."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Row] = []

    def show(self, rows: list[Row]) -> None:
        """Other rows."""
        if rows != self.rows:
            self.beginResetModel()
            self.rows = rows
            self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.rows)

    def lines(self) -> Iterator[Line]:
        """The findings among them."""
        return (row for row in self.rows if isinstance(row, Line))

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        row = self.rows[index.row()]
        if role == ROW:
            return row
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole,
                    Qt.ItemDataRole.AccessibleTextRole):  # fmt: skip
            return _text_of(row)
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        plain = super().flags(index)
        head = index.isValid() and isinstance(self.rows[index.row()], Head)
        return Qt.ItemFlag.ItemIsEnabled if head else plain


def _detail_of(row: object) -> str:
    """The second line of a row."""
    if isinstance(row, Line):
        return row.word or row.detail
    if isinstance(row, CheckRow):
        return f"off: {row.reason}" if row.reason else row.about
    return ""


def _text_of(row: Row) -> str:
    if isinstance(row, Head):
        return f"{row.text} {row.count}"
    if isinstance(row, Line):
        return row.finding.text() + (f" accepted: {row.word}" if row.word else "")
    return f"{row.name}: {row.about}" + (f" · off: {row.reason}" if row.reason else "")


class RowPainter(QStyledItemDelegate):
    """Draws the rows.  Signals: pressed(row, its word) on the word at the right of a row."""

    pressed = pyqtSignal(object, str)

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        row, view = index.data(ROW), self.parent()
        if isinstance(row, Head):
            return QSize(0, HEAD)
        wide = view.width() if isinstance(view, QWidget) else 0
        metrics = QFontMetrics(style.font(12))
        fits = metrics.horizontalAdvance(_detail_of(row)) <= wide - 40
        return QSize(0, LINE if fits else LINE + _MORE)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        row, rect = index.data(ROW), QRectF(option.rect)
        if painter is None or row is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if isinstance(row, Head):
            self._paint_head(painter, row, rect)
        else:
            state = option.state
            if state & (QStyle.StateFlag.State_Selected | QStyle.StateFlag.State_MouseOver):
                painter.fillRect(rect, style.ink("card"))
            if isinstance(row, Line):
                self._paint_line(painter, row, rect)
            else:
                self._paint_check(painter, row, rect)
        painter.restore()

    def _paint_head(self, painter: QPainter, row: Head, rect: QRectF) -> None:
        inner = rect.adjusted(12, 8, -14, 0)
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, row.text)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                         str(row.count))  # fmt: skip

    def _paint_line(self, painter: QPainter, row: Line, rect: QRectF) -> None:
        painter.fillRect(QRectF(12, rect.top() + 5, 4, rect.height() - 10), style.ink(row.ink))
        words = words_of(row)
        ink = "soft" if row.word else "ink"
        detail = row.word or row.detail
        wide = self._paint_texts(painter, rect, row.title, detail, words, ink)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        room = _left_of(rect, words) - wide - 36
        _elided(painter, QRectF(30 + wide, rect.top() + 4, max(0.0, room), 19), row.where)

    def _paint_check(self, painter: QPainter, row: CheckRow, rect: QRectF) -> None:
        off = bool(row.reason)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("line" if off else "tidal"))
        painter.drawEllipse(QPointF(14, rect.top() + 15), 4, 4)
        title = row.name + (f"  {row.count}" if row.count else "")
        self._paint_texts(painter, rect, title, _detail_of(row), words_of(row),
                          "soft" if off else "ink")  # fmt: skip

    def _paint_texts(
        self, painter: QPainter, rect: QRectF, title: str, detail: str, words: tuple[str, ...],
        ink: str,
    ) -> float:  # fmt: skip
        """How wide the title is."""
        left = _left_of(rect, words)
        painter.setFont(style.font(13, bold=True))
        painter.setPen(style.ink(ink))
        wide = min(left - 30, painter.fontMetrics().horizontalAdvance(title))
        _elided(painter, QRectF(24, rect.top() + 4, left - 30, 19), title)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        below = QRectF(24, rect.top() + 23, rect.width() - 36, rect.height() - 25)
        if rect.height() > LINE:
            top = Qt.AlignmentFlag.AlignTop
            painter.drawText(below, int(Qt.TextFlag.TextWordWrap.value | top.value), detail)
        else:
            _elided(painter, below, detail)
        painter.setFont(style.font(12, bold=True))
        painter.setPen(style.ink("tidal"))
        for word, place in word_places(rect, words):
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             word)  # fmt: skip
        return wide

    def editorEvent(
        self, event: QEvent | None, model: QAbstractItemModel | None,
        option: QStyleOptionViewItem, index: QModelIndex,
    ) -> bool:  # fmt: skip
        row = index.data(ROW)
        if isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonRelease:
            for word, place in word_places(QRectF(option.rect), words_of(row)):
                if place.contains(event.position()):
                    self.pressed.emit(row, word)
                    return True
        return False


def words_of(row: object) -> tuple[str, ...]:
    """What can be pressed at the right of a row."""
    if isinstance(row, Line):
        return ("count again",) if row.word else row.fixes
    if isinstance(row, CheckRow):
        return ("ask again",) if row.reason else ("switch off",)
    return ()


def word_places(rect: QRectF, words: tuple[str, ...]) -> list[tuple[str, QRectF]]:
    """Where those words stand in a row, from left to right."""
    right, found = rect.right() - 12, []
    for word in reversed(words):
        wide = 8.0 * len(word) + 6
        found.append((word, QRectF(right - wide, rect.top() + 3, wide, 20)))
        right -= wide + 8
    return found[::-1]


def _left_of(rect: QRectF, words: tuple[str, ...]) -> float:
    places = word_places(rect, words)
    return places[0][1].left() if places else rect.right() - 12


def _elided(painter: QPainter, rect: QRectF, text: str) -> None:
    words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
    painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, words)
