"""The keys on a sheet over the window: of what is under the pointer first, then of all else."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.commands import Command, Commands
from topion.view.key_areas import AREAS, KeyArea

_ROW, _HEAD, _KEY = 18, 28, 92
_HIGH, _FRAME, _NEAR = 740, 60, 330
_ELIDE = Qt.TextElideMode.ElideRight


class KeyHelp(QWidget):
    """Columns of groups, as few as there is height for; any key or click puts it away."""

    def __init__(self, parent: QWidget, commands: Commands) -> None:
        super().__init__(parent)
        self._commands = commands
        self.area = AREAS["table"]
        self._near: list[tuple[str, str]] = []
        self._groups: dict[str, list[Command]] = {}
        self.setAccessibleName("Keys")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hide()

    def show_over(self, window: QWidget, area: str = "table") -> None:
        """Show it in the middle of the window.  area : what is under the pointer."""
        self.area = AREAS[area]
        self._gather()
        self.setGeometry(window.rect())
        self.show()
        self.raise_()
        self.setFocus()

    def _gather(self) -> None:
        known: dict[str, list[Command]] = {}
        for command in self._commands:
            if command.keys and not command.name.startswith("card "):
                known.setdefault(command.group, []).append(command)
        first = next((g for g in self.area.groups if g in known), "")
        self._near = list(self.area.rows)
        self._near += [(c.key_text(), c.text) for c in known.get(first, [])]
        rest = [g for g in (*self.area.groups, *known) if g != first and g in known]
        self._groups = {group: known[group] for group in dict.fromkeys(rest)}
        told = [f"{keys}: {text}" for keys, text in self._near]
        told += [f"{c.key_text()}: {c.text}" for found in self._groups.values() for c in found]
        self.setAccessibleDescription("; ".join(told))

    def _columns(self) -> list[list[str]]:
        """Groups by column, as few as they fit in: the longest first, each where most is free."""
        room = min(self.height() - 20, _HIGH) - _FRAME
        order = list(self._groups)
        for count in range(1, len(order) + 1):
            columns: list[list[str]] = [[] for _ in range(count)]
            for group in sorted(order, key=self._need, reverse=True):
                min(columns, key=self._high).append(group)
            if max(map(self._high, columns)) <= room or count == len(order):
                return sorted(
                    (sorted(groups, key=order.index) for groups in columns),
                    key=lambda groups: order.index(groups[0]),
                )
        return []

    def _high(self, groups: list[str]) -> int:
        return sum(map(self._need, groups))

    def _need(self, group: str) -> int:
        return _HEAD + _ROW * len(self._groups[group])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.VEIL)
        columns = self._columns()
        wide = min(self.width() - 20.0, _NEAR + len(columns) * 290.0)
        tallest = max(map(self._high, columns), default=0)
        tallest = max(tallest, len(self._near) * _ROW + _HEAD)
        high = min(self.height() - 20.0, tallest + _FRAME)
        sheet = QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)
        painter.setPen(QPen(style.ink("ink", 190)))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(sheet, 6, 6)
        near = QRectF(sheet.left() + 1, sheet.top() + 1, _NEAR - 14, high - 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("panel"))
        painter.drawRoundedRect(near, 5, 5)
        self._paint_near(painter, near, self.area)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        told = QRectF(sheet.left(), sheet.top() + 12, sheet.width() - 20, 20)
        painter.drawText(told, Qt.AlignmentFlag.AlignRight,
                         "Ctrl K finds any of them · any key puts this away")  # fmt: skip
        pitch = (wide - _NEAR - 10) / max(1, len(columns))
        for number, groups in enumerate(columns):
            left = sheet.left() + _NEAR + 6 + number * pitch
            self._paint_column(painter, left, sheet.top() + 34, pitch, groups)

    def _paint_near(self, painter: QPainter, rect: QRectF, area: KeyArea) -> None:
        painter.setPen(style.ink("soft"))
        painter.setFont(style.heading())
        painter.drawText(QPointF(rect.left() + 18, rect.top() + 22), "Under the pointer")
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(17, bold=True))
        title = area.title[0].upper() + area.title[1:]
        painter.drawText(QPointF(rect.left() + 18, rect.top() + 44), title)
        y = rect.top() + 58
        for keys, text in self._near:
            if y + _ROW > rect.bottom():
                break
            self._row(painter, rect.left() + 18, y, rect.width() - 26, keys, text)
            y += _ROW

    def _paint_column(
        self, painter: QPainter, x: float, y: float, wide: float, groups: list[str]
    ) -> None:
        for group in groups:
            painter.setPen(style.ink("buoy"))
            painter.setFont(style.heading())
            painter.drawText(QRectF(x, y + 6, wide, 18), group)
            y += _HEAD - 4
            for command in self._groups[group]:
                self._row(painter, x, y, wide, command.key_text(), command.text)
                y += _ROW
            y += 4

    @staticmethod
    def _row(painter: QPainter, x: float, y: float, wide: float, keys: str, text: str) -> None:
        painter.setFont(style.font(12, bold=True))
        painter.setPen(style.ink("ink"))
        shown = painter.fontMetrics().elidedText(keys, _ELIDE, _KEY - 6)
        painter.drawText(QRectF(x, y, _KEY, _ROW), shown)
        painter.setFont(style.font(12))
        told = painter.fontMetrics().elidedText(text, _ELIDE, int(wide - _KEY - 10))
        painter.drawText(QRectF(x + _KEY, y, wide - _KEY, _ROW), told)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.hide()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        self.hide()
