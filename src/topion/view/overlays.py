"""What lies over the window for a while: the finder, the sheet of keys, the settings."""

from __future__ import annotations

from typing import Any

from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QStackedWidget

from topion.view import settings, style
from topion.view.commands import Commands
from topion.view.desks.desks import Desks
from topion.view.finding import Finding
from topion.view.homing import Homing
from topion.view.key_areas import area_of
from topion.view.panels.finder import Finder
from topion.view.panels.key_help import KeyHelp
from topion.view.settings_page import SettingsPage
from topion.view.table.strokes import swap_hands
from topion.view.window_commands import HINTED, HOME_COMMANDS


class Overlays:
    """window : a Host that is a widget, with `rack`, `ribbon`, `at_tables` and `tell_keys`.

    settings : their page while it is shown.
    """

    def __init__(
        self, window: Any, pages: QStackedWidget, commands: Commands, desks: Desks, homing: Homing
    ) -> None:
        self._window, self._pages, self._commands = window, pages, commands
        self._desks, self._homing = desks, homing
        commands.use_keys(settings.changed_keys())
        commands.heard = self._heard
        swap_hands(settings.swapped())
        self.keys = KeyHelp(window, commands)
        self.finder = Finder(window)
        self.finder.closed.connect(self._after_finder)
        self._finding = Finding(window, commands, desks)
        self.settings: SettingsPage | None = None
        self._before = 0

    def _heard(self, command: str) -> None:
        """A key carried something out of which a hint may tell."""
        hint = "card" if command.startswith("card ") else HINTED.get(command)
        if hint is not None:
            self._window.rack.hints.did(hint)

    def show_keys(self) -> None:
        """The keys of what is under the pointer, and of all else, over the window."""
        window, desk = self._window, self._desks.desk
        area = area_of(window.childAt(window.mapFromGlobal(QCursor.pos())))
        if area == "table" and desk is not None:
            area = area_of(desk)
        elif area == "table" and window.at_tables.space is not None:
            area = "space"
        self.keys.show_over(window, "home" if self._homing.shown else area)

    def show_finder(self) -> None:
        """Find anything by letters; on Home, commands alone."""
        at_home = self._homing.shown
        entries = self._finding.commands(HOME_COMMANDS) if at_home else self._finding.all()
        self.finder.show_over(self._window, entries)

    def _after_finder(self) -> None:
        if not self._homing.shown:
            self._window.to_table()

    def turn_settings(self) -> None:
        """The settings, in the place of all else; or away with them."""
        if self.settings is not None:
            self._leave_settings()
            return
        window = self._window
        self._before = self._pages.currentIndex()
        page = self.settings = SettingsPage(self._commands)
        page.left.connect(self._leave_settings)
        page.dark_asked.connect(window.toggle_dark)
        page.said.connect(window.say)
        page.sliced.connect(window.ribbon.slice_by)
        self._pages.addWidget(page)
        self._pages.setCurrentWidget(page)
        page.search.setFocus()

    def show_dark(self) -> None:
        """Which colours are in use, where the settings are shown."""
        if self.settings is not None:
            self.settings.choices["dark"].show_value(style.is_dark())

    def _leave_settings(self) -> None:
        page, self.settings = self.settings, None
        if page is None:
            return
        self._pages.setCurrentIndex(self._before)
        self._pages.removeWidget(page)
        page.deleteLater()
        self._window.tell_keys()
        self._window.rack.hints.renew()
        home = self._homing.home if self._homing.shown else None
        (home.cards if home is not None else self._window.table).setFocus()
