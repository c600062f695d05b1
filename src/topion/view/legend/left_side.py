"""At the left of the legend desk: the rooms that were read, what was left out, and legends."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from topion.edit.symbols import room_title
from topion.errors import TopionError
from topion.formats.out import write_out
from topion.formats.stems import stem
from topion.formats.symbols.legend_files import Fit, legend_text, read_legend
from topion.view import style
from topion.view.desks.parts import hairline, paint_paper
from topion.view.legend.work import LegendWork
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, heading

_WIDE, _ROW = 232, 40
_NUMBER = Qt.ItemDataRole.UserRole
_MOST_LEFT_OUT, _MOST_LEGENDS = 3, 4
_FITS = 0.05  # less is chance


class _Rooms(QAbstractListModel):
    """The rooms of all files that the letters are in."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self._work = work
        self.numbers: list[int] = []

    def show(self, letters: str) -> None:
        wanted = letters.strip().lower()
        self.beginResetModel()
        self.numbers = [n for n, grid in enumerate(self._work.batch.grids)
                        if wanted in grid.title.lower() or wanted in grid.file.lower()]  # fmt: skip
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.numbers)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        number = self.numbers[index.row()]
        grid = self._work.batch.grids[number]
        if role == _NUMBER:
            return number
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return room_title(grid)
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{grid.file}, line {grid.line}" if grid.line else grid.file
        return None


class _RoomPainter(QStyledItemDelegate):
    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self._work = work

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, _ROW)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        grid = self._work.batch.grids[index.data(_NUMBER)]
        rect = QRectF(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(rect, style.ink("card"))
            painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), style.ink("buoy"))
        painter.setFont(style.font(13, bold=chosen))
        painter.setPen(style.ink("ink"))
        wide = int(rect.width() - 24)
        elide = Qt.TextElideMode.ElideRight
        title = painter.fontMetrics().elidedText(room_title(grid), elide, wide)
        painter.drawText(QPointF(rect.left() + 12, rect.top() + 17), title)
        painter.setFont(style.font(11))
        painter.setPen(style.ink("soft"))
        told = f"{grid.size[1]} × {grid.size[0]} · {grid.file}"
        told = painter.fontMetrics().elidedText(told, Qt.TextElideMode.ElideMiddle, wide)
        painter.drawText(QPointF(rect.left() + 12, rect.top() + 33), told)
        painter.restore()


class FitRow(QPushButton):
    """A legend, and how well it fits."""

    def __init__(self, fit: Fit, own: str) -> None:
        super().__init__()
        self.fit, self._own = fit, own
        self.setObjectName("plain")
        self.setFixedHeight(36)
        lost = f"; it does not know {len(fit.unknown)} symbols" if fit.unknown else ""
        self.setToolTip(f"Take the legend {fit.legend.name}: it fits by {fit.share:.0%}{lost}")
        self.setAccessibleName(f"Legend {fit.legend.name}, fits by {fit.share:.0%}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse() or self.hasFocus():
            painter.fillRect(self.rect(), style.ink("panel2"))
        painter.setFont(style.font(13))
        painter.setPen(style.ink("ink"))
        wide = self.width() - 76
        name = painter.fontMetrics().elidedText(self.fit.legend.name,
                                                Qt.TextElideMode.ElideRight, wide)  # fmt: skip
        painter.drawText(QPointF(12, 16), name)
        told = f"{self.fit.share:.0%}"
        painter.setPen(style.ink("tidal" if self.fit.whole else "ochre"))
        painter.drawText(QRectF(0, 2, self.width() - 12, 18), Qt.AlignmentFlag.AlignRight, told)
        rail = QRectF(12, 24, self.width() - 24, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("rail"))
        painter.drawRoundedRect(rail, 2, 2)
        painter.setBrush(style.ink("tidal" if self.fit.whole else "ochre"))
        rail.setWidth(rail.width() * self.fit.share)
        painter.drawRoundedRect(rail, 2, 2)


class LeftSide(QWidget):
    """Rooms, what was left out, legends that fit."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedWidth(_WIDE)
        self.title = heading("Rooms")
        self.search = QLineEdit()
        self.search.setPlaceholderText("title or file")
        self.search.setAccessibleName("Search the rooms")
        self.search.textChanged.connect(lambda _: self.refresh())
        self.rooms, self.list = _Rooms(work), QListView()
        self._painter = _RoomPainter(work)
        self.list.setModel(self.rooms)
        self.list.setItemDelegate(self._painter)
        self.list.setUniformItemSizes(True)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setStyleSheet("QListView { background: transparent; }")
        self.list.setAccessibleName("Rooms of the files")
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        model = self.list.selectionModel()
        if model is not None:
            model.currentChanged.connect(lambda index, _: self._show(index))
        self.left_out = QLabel()
        self.left_out.setFont(style.font(12))
        style.tint(self.left_out, "ochre")
        self.left_out.setWordWrap(True)
        self.left_out.setContentsMargins(12, 6, 12, 6)
        self.legends = QVBoxLayout()
        self.legends.setSpacing(0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 8)
        column.setSpacing(4)
        for part in (self.title, self.search):
            part.setContentsMargins(12, 0, 12, 0)
        column.addWidget(self.title)
        column.addWidget(self.search)
        column.addWidget(self.list, 1)
        column.addWidget(self.left_out)
        column.addWidget(hairline())
        self.fitting = heading("Legends that fit")
        self.fitting.setContentsMargins(12, 4, 12, 0)
        column.addWidget(self.fitting)
        words = QHBoxLayout()
        words.setContentsMargins(8, 0, 8, 0)
        for text, tip, act in (
            ("from a file…", "Take a legend from a JSON file", self._ask_legend),
            ("to a file…", "Write this legend as JSON", self._ask_out),
        ):
            button = choice_button(text, tip)
            button.setFont(style.font(12))
            style.tint(button, "tidal")
            button.clicked.connect(lambda _, does=act: does())
            words.addWidget(button)
        words.addStretch(1)
        column.addLayout(self.legends)
        column.addLayout(words)
        work.changed.connect(self.refresh)
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "right")

    def refresh(self) -> None:
        """Show what was read."""
        batch = self.work.batch
        self.title.setText(f"Rooms  {len(batch.grids):,}")
        self.search.setVisible(len(batch.grids) > 8)
        self.rooms.show(self.search.text() if self.search.isVisibleTo(self) else "")
        if self.work.shown in self.rooms.numbers:
            self.list.setCurrentIndex(self.rooms.index(self.rooms.numbers.index(self.work.shown)))
        shown = [why for _, why in batch.problems[:_MOST_LEFT_OUT]]
        more = len(batch.problems) - len(shown)
        lines = [*shown, *([f"and {more:,} more"] if more > 0 else [])]
        self.left_out.setText("\n".join(["Left out:", *lines]))
        self.left_out.setVisible(bool(lines))
        self._show_legends()

    def _show_legends(self) -> None:
        emptied(self.legends)
        fitting = [fit for fit in self.work.fits if fit.share >= _FITS][:_MOST_LEGENDS]
        for fit in fitting:
            row = FitRow(fit, self.work.legend.name)
            row.clicked.connect(lambda _, f=fit: self.work.use_legend(f.legend))
            self.legends.addWidget(row)
        if not fitting:
            none = QLabel("none yet: this one is kept for the next time")
            none.setWordWrap(True)
            none.setContentsMargins(12, 2, 12, 2)
            none.setFont(style.font(12))
            style.tint(none, "soft")
            self.legends.addWidget(none)

    def _ask_legend(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "A legend", "", "Legend (*.json)")
        if path:
            self.take_file(Path(path))

    def take_file(self, path: Path) -> None:
        """Take a legend from a file; what is none is said."""
        try:
            self.work.use_legend(read_legend(path))
        except (TopionError, OSError) as problem:
            self.work.session.said.emit(str(problem))

    def _ask_out(self) -> None:
        name = f"{stem(self.work.legend.name)}.legend.json"
        path, _ = QFileDialog.getSaveFileName(self, "The legend as JSON", name, "Legend (*.json)")
        if path:
            self.write_file(Path(path))

    def write_file(self, path: Path) -> None:
        """Write the legend as it is now."""
        try:
            write_out(path, legend_text(self.work.kept()).encode())
        except (TopionError, OSError) as problem:
            self.work.session.said.emit(str(problem))
        else:
            self.work.session.said.emit(f"Wrote the legend to {path}")

    def _show(self, index: QModelIndex) -> None:
        number = index.data(_NUMBER)
        if number is not None:
            self.work.show(number)
