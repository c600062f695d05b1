"""Random hands: real mouse, wheel and key events over a real window, its menus and dialogs.

Everything follows from a seed but for the speed of the machine.  What is told: errors nobody
foresaw, and gaps in which the window did not answer.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QObject, QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QKeySequence, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QWidget,
)

Told = Callable[[str], None]
_BUTTONS = (Qt.MouseButton.LeftButton,) * 5 + (Qt.MouseButton.RightButton,) * 2 + (
    Qt.MouseButton.MiddleButton,)  # fmt: skip
_MODIFIERS = (Qt.KeyboardModifier.NoModifier,) * 6 + (
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier)  # fmt: skip
_KEYS = (
    Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Backspace, Qt.Key.Key_Delete,
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space,
    Qt.Key.Key_9, Qt.Key.Key_Minus, Qt.Key.Key_Period, Qt.Key.Key_A,
)  # fmt: skip
_TYPED = ("", "0", "-1", "7", "1e9", "abc", "64x40", "9999x9999", "Mud", "0.5")
LONG_GAP_S = 0.1


class RandomHands(QObject):
    """Does one thing a tick.  gaps : seconds and what was done, of those over 100 ms."""

    def __init__(self, window: Any, seed: int, most: int, avoid: tuple[str, ...] = ()) -> None:
        super().__init__()
        self.window, self.most, self.avoid = window, most, avoid
        self.chance = random.Random(f"hands {seed}")
        self.done, self.depth = 0, 0
        self.last: list[str] = []
        self.gaps: list[tuple[float, str]] = []
        self.held: tuple[QWidget, Qt.MouseButton] | None = None

    def run(self) -> None:
        """Until all is done; dialogs that are left open are closed."""
        self._tick()
        while self.done < self.most:
            QTest.qWait(20)
        for widget in QApplication.topLevelWidgets():
            if isinstance(widget, QDialog | QMenu):
                widget.close()

    def _tick(self) -> None:
        if self.done >= self.most:
            return
        QTimer.singleShot(0, self._tick)  # also within a dialog that this one opens
        if self.depth > 12:  # what waits for an answer gets one, so that all of it comes to an end
            waiting = QApplication.activePopupWidget() or QApplication.activeModalWidget()
            if waiting is not None:
                waiting.close()
            return
        self.done += 1
        self.depth += 1
        start = time.monotonic()
        try:
            what = self._act()
        finally:
            self.depth -= 1
        taken = time.monotonic() - start
        self.last = [*self.last[-30:], what]
        if taken > LONG_GAP_S and not what.startswith("waits"):
            self.gaps.append((taken, what))

    def _act(self) -> str:
        modal, popup = QApplication.activeModalWidget(), QApplication.activePopupWidget()
        if isinstance(popup, QMenu):
            return self._in_menu(popup)
        if modal is not None:
            return self._in_dialog(modal)
        match self.chance.randrange(12):
            case 0 | 1 | 2:
                return self._key()
            case 3:
                return self._wheel()
            case 4:
                return self._click(self.window)
            case 5:
                others = [w for w in QApplication.topLevelWidgets()
                          if isinstance(w, QDialog) and w.isVisible()]  # fmt: skip
                return self._click(self.chance.choice(others)) if others else self._stroke()
            case _:
                return self._stroke()

    # --- what hands do --------------------------------------------------------------------

    def _point(self, widget: QWidget) -> QPoint:
        wide, high = max(1, widget.width()), max(1, widget.height())
        return QPoint(self.chance.randrange(wide), self.chance.randrange(high))

    def _under(self, top: QWidget) -> tuple[QWidget, QPoint]:
        at = self._point(top)
        child = top.childAt(at) or top
        return child, child.mapFrom(top, at)

    def _click(self, top: QWidget) -> str:
        widget, at = self._under(top)
        name = f"clicks {type(widget).__name__} {_text(widget)}"
        if any(word in name for word in self.avoid):
            return "avoids"
        button, modifier = self.chance.choice(_BUTTONS), self.chance.choice(_MODIFIERS)
        if self.chance.random() < 0.1:
            QTest.mouseDClick(widget, button, modifier, at)
        else:
            QTest.mouseClick(widget, button, modifier, at)
        if isinstance(QApplication.focusWidget(), QLineEdit) and self.chance.random() < 0.7:
            QTest.keyClicks(QApplication.focusWidget(), self.chance.choice(_TYPED))
        return name

    def _stroke(self) -> str:
        """Some part of a stroke on the table: buttons may stay down while other things happen."""
        table = self.window.table
        at = self._point(table)
        if self.held is not None:
            widget, button = self.held
            if sip.isdeleted(widget):  # of a desk that was left meanwhile
                self.held = None
                return "lets go"
            if self.chance.random() < 0.5:
                QTest.mouseMove(widget, at)
                return "moves"
            self.held = None
            QTest.mouseRelease(widget, button, Qt.KeyboardModifier.NoModifier, at)
            return "releases"
        button, modifier = self.chance.choice(_BUTTONS), self.chance.choice(_MODIFIERS)
        QTest.mouseMove(table, at)
        QTest.mousePress(table, button, modifier, at)
        if self.chance.random() < 0.3:
            self.held = (table, button)
            return f"presses {button.name} {modifier.name}"
        QTest.mouseMove(table, self._point(table))
        QTest.mouseRelease(table, button, modifier, self._point(table))
        return f"strokes {button.name} {modifier.name}"

    def _wheel(self) -> str:
        widget, at = self._under(self.window)
        turn = QPoint(0, self.chance.choice((-120, 120, -1200, 1200)))
        where = QPointF(at)
        event = QWheelEvent(
            where, QPointF(widget.mapToGlobal(at)), QPoint(), turn, Qt.MouseButton.NoButton,
            self.chance.choice(_MODIFIERS), Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(widget, event)
        return f"turns the wheel over {type(widget).__name__}"

    def _key(self) -> str:
        """A key of a command, or any other."""
        focus = QApplication.focusWidget() or self.window
        commands = [c for c in self.window.commands if c.keys and c.name not in self.avoid]
        if self.chance.random() < 0.7 and commands:
            command = self.chance.choice(commands)
            found = QKeySequence(self.chance.choice(command.keys))
            if found.count():
                pressed = found[0]
                QTest.keyClick(focus, pressed.key(), pressed.keyboardModifiers())
                return f"presses {command.name}"
        key, modifier = self.chance.choice(_KEYS), self.chance.choice(_MODIFIERS)
        if key == Qt.Key.Key_Tab and modifier == Qt.KeyboardModifier.AltModifier:
            return "avoids"
        QTest.keyClick(focus, key, modifier)
        return f"presses {key.name} {modifier.name}"

    def _in_menu(self, menu: QMenu) -> str:
        actions = [a for a in menu.actions() if a.isEnabled() and not a.isSeparator()]
        texts = [a.text() for a in actions]
        if not actions or self.chance.random() < 0.3:
            QTest.keyClick(menu, Qt.Key.Key_Escape)
            return "leaves a menu"
        number = self.chance.randrange(len(actions))
        if any(word.lower() in texts[number].lower() for word in self.avoid):
            QTest.keyClick(menu, Qt.Key.Key_Escape)
            return "avoids"
        QTest.mouseClick(menu, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
                         menu.actionGeometry(actions[number]).center())  # fmt: skip
        return f"chooses {texts[number]}"

    def _in_dialog(self, dialog: QWidget) -> str:
        if isinstance(dialog, QFileDialog):
            dialog.reject()
            return "leaves a file dialog"
        if isinstance(dialog, QMessageBox):
            buttons = [b for b in dialog.buttons() if "ave" not in b.text()]
            QTest.mouseClick(self.chance.choice(buttons), Qt.MouseButton.LeftButton)
            return "answers"
        if self.chance.random() < 0.3:
            QTest.keyClick(dialog, Qt.Key.Key_Escape)
            return "leaves a dialog"
        buttons = dialog.findChildren(QAbstractButton)
        if buttons and self.chance.random() < 0.3:
            button = self.chance.choice(buttons)
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            return f"clicks {_text(button)}"
        return self._click(dialog)


def _text(widget: QWidget) -> str:
    text = getattr(widget, "text", None)
    return str(text())[:30] if callable(text) else widget.accessibleName()[:30]
