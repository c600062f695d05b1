"""All commands with their keys, which can be changed by pressing others."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QKeyCombination, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.commands import Command, Commands

_ROW, _HEAD, _KEY_WIDE = 26, 34, 150
_MODIFIERS = (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta,
              Qt.Key.Key_AltGr)  # fmt: skip


class KeyList(QWidget):
    """Signals: changed(command, keys, or None for its own); said(a sentence)."""

    changed = pyqtSignal(str, object)
    said = pyqtSignal(str)

    def __init__(self, commands: Commands) -> None:
        super().__init__()
        self.commands = commands
        self.letters = ""
        self.chosen = ""
        self.waiting = False  # for the key that shall be that of the chosen one
        self._asked: tuple[str, str] = ("", "")  # a key that is another's, pressed once
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Keys of all commands")
        self.refresh()

    def rows(self) -> list[str | Command]:
        """Headings and commands that the letters are in."""
        wanted = self.letters.strip().lower()
        groups: dict[str, list[Command]] = {}
        for command in self.commands:
            if wanted in f"{command.text} {command.key_text()} {command.group}".lower():
                groups.setdefault(command.group, []).append(command)
        rows: list[str | Command] = []
        for group, found in groups.items():
            rows += [group, *found]
        return rows

    def refresh(self) -> None:
        """Show what there is now."""
        self.setFixedHeight(max(60, sum(self._high(row) for row in self.rows()) + 10))
        self.update()

    def show_found(self, letters: str) -> None:
        """Show only those with these letters."""
        self.letters = letters
        self.refresh()

    @staticmethod
    def _high(row: str | Command) -> int:
        return _HEAD if isinstance(row, str) else _ROW

    def rect_of(self, name: str) -> QRectF:
        """Where the key of a command is seen."""
        y = 0
        for row in self.rows():
            if isinstance(row, Command) and row.name == name:
                return QRectF(self.width() - _KEY_WIDE - 90, y + 2, _KEY_WIDE, _ROW - 4)
            y += self._high(row)
        return QRectF()

    def sizeHint(self) -> QSize:
        return QSize(560, self.height())

    # --- drawn --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        seen = event.rect() if event is not None else self.rect()
        y = 0
        for row in self.rows():
            high = self._high(row)
            if seen.top() - high <= y <= seen.bottom():
                if isinstance(row, str):
                    painter.setFont(style.heading())
                    painter.setPen(style.ink("buoy"))
                    painter.drawText(QPointF(4, y + 24), row)
                else:
                    self._draw(painter, y, row)
            y += high

    def _draw(self, painter: QPainter, y: int, command: Command) -> None:
        chosen = command.name == self.chosen
        painter.setFont(style.font(13, bold=chosen))
        painter.setPen(style.ink("ink"))
        text = painter.fontMetrics().elidedText(command.text, Qt.TextElideMode.ElideRight,
                                                self.width() - _KEY_WIDE - 110)  # fmt: skip
        painter.drawText(QPointF(14, y + 17), text)
        rect = self.rect_of(command.name)
        own = command.keys == self.commands.own_keys(command.name)
        waits = chosen and self.waiting
        painter.setPen(QPen(style.ink("buoy" if waits else "tidal" if chosen else "line"), 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(rect, 4, 4)
        shown = "press a key …" if waits else "   ".join(map(_native, command.keys))
        painter.setFont(style.font(12, bold=not own))
        painter.setPen(style.ink("buoy" if waits else "tidal" if not own else "ink"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, shown)
        if not own:
            painter.setFont(style.font(12))
            painter.setPen(style.ink("soft"))
            painter.drawText(self._reset_of(rect), Qt.AlignmentFlag.AlignVCenter, "as it was")

    @staticmethod
    def _reset_of(rect: QRectF) -> QRectF:
        return QRectF(rect.right() + 12, rect.top(), 72, rect.height())

    # --- changed ------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus()
        for row in self.rows():
            if not isinstance(row, Command):
                continue
            rect = self.rect_of(row.name)
            if rect.contains(event.position()):
                self.choose(row.name, wait=True)
                return
            if self._reset_of(rect).contains(event.position()):
                self.reset(row.name)
                return

    def choose(self, name: str, *, wait: bool) -> None:
        """Choose a command.  wait : the next key is to be its."""
        self.chosen, self.waiting, self._asked = name, wait, ("", "")
        self.update()

    def reset(self, name: str) -> None:
        """Its own keys again."""
        self.choose(name, wait=False)
        self.changed.emit(name, None)
        self.refresh()

    def event(self, event: QEvent | None) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and self.waiting
            and event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        ):
            event.accept()  # Tab and all others are keys like any
            if event.type() == QEvent.Type.KeyPress:
                self._take(event)
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        names = [row.name for row in self.rows() if isinstance(row, Command)]
        key = Qt.Key(event.key()) if event is not None else Qt.Key.Key_unknown
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if key in steps and names:
            at = names.index(self.chosen) if self.chosen in names else -steps[key]
            self.choose(names[(at + steps[key]) % len(names)], wait=False)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.choose(self.chosen, wait=True)
        elif key == Qt.Key.Key_Delete and self.chosen:
            self._take_away()
        else:
            super().keyPressEvent(event)

    def _take_away(self) -> None:
        """The chosen command has no key."""
        self.choose(self.chosen, wait=False)
        self.changed.emit(self.chosen, ())
        self.refresh()

    def _take(self, event: QKeyEvent) -> None:
        """A key was pressed for the chosen command."""
        key = Qt.Key(event.key())
        if key in _MODIFIERS or key == Qt.Key.Key_unknown:
            return
        if key == Qt.Key.Key_Escape and self.chosen != "escape":
            self.choose(self.chosen, wait=False)
            return
        modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        text = QKeySequence(QKeyCombination(modifiers, key)).toString()
        if text == "Del" and text not in self.commands.own_keys(self.chosen):
            self._take_away()
            return
        other = self.commands.with_key(text)
        if other is not None and other.name != self.chosen and self._asked != (self.chosen, text):
            self._asked = (self.chosen, text)
            self.said.emit(f"{_native(text)} is that of “{other.text}”: press it again to take it")
            return
        name = self.chosen
        self.choose(name, wait=False)
        self.changed.emit(name, (text,))
        self.refresh()


def _native(key: str) -> str:
    return QKeySequence(key).toString(QKeySequence.SequenceFormat.NativeText)
