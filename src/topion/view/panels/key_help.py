"""The keys of all commands on a sheet over the table."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.commands import Command, Commands

_ROW, _HEAD, _COLUMN, _KEY = 19, 30, 284, 82
_HIGH, _FRAME = 720, 68


class KeyHelp(QWidget):
    """Columns of groups, as few as there is height for; any key or click puts it away."""

    def __init__(self, parent: QWidget, commands: Commands) -> None:
        super().__init__(parent)
        self._groups: dict[str, list[Command]] = {}
        for command in commands:
            if command.keys and command.group != "Cards":
                self._groups.setdefault(command.group, []).append(command)
        cards = [c for c in commands if c.group == "Cards" and not c.name.startswith("card ")]
        self._groups["Cards"] = cards
        self.setAccessibleName("Keys")
        text = (f"{command.key_text()}: {command.text}" for command in commands if command.keys)
        self.setAccessibleDescription("; ".join(text))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hide()

    def show_over(self, area: QWidget) -> None:
        """Show it in the middle of the window."""
        self.setGeometry(area.rect())
        self.show()
        self.raise_()
        self.setFocus()

    def _columns(self) -> list[list[str]]:
        """Groups by column, each filled as far as it is high."""
        room = min(self.height() - 20, _HIGH) - _FRAME
        columns: list[list[str]] = [[]]
        high = 0
        for group in self._groups:
            need = self._need(group)
            if high + need > room and columns[-1]:
                columns.append([])
                high = 0
            columns[-1].append(group)
            high += need
        return columns

    def _need(self, group: str) -> int:
        return _HEAD + _ROW * len(self._groups[group])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("ink", 90))
        columns = self._columns()
        wide = min(self.width() - 20.0, len(columns) * _COLUMN + 28.0)
        tallest = max(sum(map(self._need, groups)) for groups in columns)
        high = min(self.height() - 20.0, tallest + _FRAME)
        sheet = QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)
        painter.setPen(QPen(style.ink("ink", 190)))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(sheet, 6, 6)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(16, bold=True))
        painter.drawText(QRectF(sheet.left() + 20, sheet.top() + 12, 300, 22), "Keys")
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        told = QRectF(sheet.left(), sheet.top() + 14, sheet.width() - 20, 20)
        painter.drawText(told, Qt.AlignmentFlag.AlignRight, "any key puts this away")
        pitch = (wide - 28) / len(columns)
        for number, groups in enumerate(columns):
            self._paint_column(painter, sheet.left() + 20 + number * pitch, sheet.top() + 44, pitch,
                               groups)  # fmt: skip

    def _paint_column(
        self, painter: QPainter, x: float, y: float, wide: float, groups: list[str]
    ) -> None:
        for group in groups:
            painter.setPen(style.ink("buoy"))
            painter.setFont(style.heading())
            painter.drawText(QRectF(x, y + 6, wide, 18), group)
            y += _HEAD - 4
            for command in self._groups[group]:
                painter.setFont(style.font(12, bold=True))
                painter.setPen(style.ink("ink"))
                painter.drawText(QRectF(x, y, _KEY, _ROW), command.key_text())
                painter.setFont(style.font(12))
                text = painter.fontMetrics().elidedText(
                    command.text, Qt.TextElideMode.ElideRight, int(wide - _KEY - 14)
                )
                painter.drawText(QRectF(x + _KEY, y, wide - _KEY, _ROW), text)
                y += _ROW
            y += 4

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.hide()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        self.hide()
