"""All keys of the window in one table: pressed, and held."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from topion.brushes.gestures import GESTURES
from topion.render.eye import VIEWS
from topion.view.panels.top_bar import KEYS

if TYPE_CHECKING:
    from topion.view.window import Window

_GESTURE_KEYS = {Qt.Key[f"Key_{KEYS[kind]}"]: kind for kind in GESTURES}
_NUDGES = {
    Qt.Key.Key_Left: (0, -1),
    Qt.Key.Key_Right: (0, 1),
    Qt.Key.Key_Up: (-1, 0),
    Qt.Key.Key_Down: (1, 0),
}


class Keys:
    """Turns key events of the window into calls."""

    def __init__(self, window: Window) -> None:
        self.window = window
        key = Qt.Key
        self._plain: dict[Any, Callable[[], object]] = {
            key.Key_Escape: window.escape,
            key.Key_Delete: window.remove_selected,
            key.Key_H: window.other_hand,
            key.Key_R: window.roll,
            key.Key_T: window.turn_brush,
            key.Key_M: window.mirror_brush,
            key.Key_Backspace: window.reset_brush,
            key.Key_V: window.top_bar.next_option,
            key.Key_C: window.top_bar.toggle_corners,
            key.Key_Period: window.top_bar.next_parts,
            key.Key_Plus: lambda: window.table.zoom(1),
            key.Key_Equal: lambda: window.table.zoom(1),
            key.Key_Minus: lambda: window.table.zoom(-1),
            key.Key_Home: lambda: window.table.fit(),
            key.Key_X: window.turn_plane,
            key.Key_G: lambda: window.tables.set_plane_here(),
            key.Key_A: window.next_aim,
            key.Key_N: window.levels.next_above,
            key.Key_I: window.next_mirror,
            key.Key_P: lambda: window.tables.toggle_perspective(),
            key.Key_U: lambda: window.tables.toggle_seats(),
            key.Key_K: lambda: window.tables.next_corner(),
            key.Key_PageUp: lambda: window.raise_plane(1),
            key.Key_PageDown: lambda: window.raise_plane(-1),
            key.Key_Slash: window.rack.search.setFocus,
            key.Key_F6: window.show_sheets,
            key.Key_F7: window.show_survey,
            key.Key_F8: window.toggle_dark,
            key.Key_F9: window.show_room_menu,
            key.Key_F10: window.show_project_menu,
        }
        self._shifted: dict[Any, Callable[[], object]] = {
            key.Key_I: window.stand_mirror_here,
            key.Key_T: window.tip_brush,
            key.Key_Home: lambda: window.tables.fit_selection(),
        }
        self._control: dict[Any, Callable[[], object]] = {
            key.Key_Z: lambda: window.session.undo(),
            key.Key_Y: lambda: window.session.redo(),
            key.Key_S: window.files.save,
            key.Key_O: window.files.ask_open,
            key.Key_N: window.files.new_project,
            key.Key_E: window.show_export,
            key.Key_B: window.show_new_brush,
            key.Key_L: lambda: window.layers_panel.show_add_menu(),
        }

    def press(self, event: QKeyEvent) -> bool:
        """True if the key meant something."""
        key, modifiers = Qt.Key(event.key()), event.modifiers()
        if event.isAutoRepeat() and key not in _NUDGES:
            return True
        session = self.window.session
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            if key == Qt.Key.Key_Z and modifiers & Qt.KeyboardModifier.ShiftModifier:
                session.redo()
                return True
            if Qt.Key.Key_1 <= key <= Qt.Key.Key_8:
                return self.window.tables.look_from(VIEWS[key - Qt.Key.Key_1])
            return self._call(self._control.get(key))
        if modifiers & Qt.KeyboardModifier.ShiftModifier and key in self._shifted:
            return self._call(self._shifted[key])
        if key in _GESTURE_KEYS:
            session.borrow(_GESTURE_KEYS[key])
            return True
        if key == Qt.Key.Key_Space:
            self.window.table.hold_space(True)
            return True
        if key in (Qt.Key.Key_E, Qt.Key.Key_O):
            session.hold("lifting" if key == Qt.Key.Key_E else "overriding", True)
            return True
        if key in _NUDGES:
            return self.window.nudge_selected(*_NUDGES[key])
        if Qt.Key.Key_0 <= key <= Qt.Key.Key_9:
            digit = chr(key)
            shifted = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
            self.window.rack.take_digit(digit, "right" if shifted else "left")
            return True
        return self._call(self._plain.get(key))

    def release(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        key, session = Qt.Key(event.key()), self.window.session
        if key in _GESTURE_KEYS:
            session.give_back()
        elif key == Qt.Key.Key_Space:
            self.window.table.hold_space(False)
        elif key == Qt.Key.Key_E:
            session.hold("lifting", False)
        elif key == Qt.Key.Key_O:
            session.hold("overriding", False)

    @staticmethod
    def _call(action: Callable[[], object] | None) -> bool:
        if action is None:
            return False
        action()
        return True
