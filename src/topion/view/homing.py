"""Shows Home in the place of a project, and goes from there into one."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QStackedWidget

from topion.edit.library import free_name
from topion.edit.proposed import told_of
from topion.errors import TopionError
from topion.formats.recents import recent_of, remember
from topion.formats.stems import stem
from topion.formats.store import SUFFIX
from topion.kit.starting import begun, of_sheet
from topion.scripting import ProjectHandle
from topion.view import settings
from topion.view.files import Files
from topion.view.home.home import Home
from topion.view.home.new_side import NewProject
from topion.view.keeper import Keeper
from topion.view.opening import Opened, blank, warmed
from topion.view.tasks import Step, run_task

_KIT_HANDS = {"side": ("Ground", "Wall"), "top": ("Wall", "Floor"),
              "voxel": ("Ground blocks", "Wall blocks")}  # fmt: skip


class Homing:
    """window : a Host that is a widget, with `commands` and `session`.  pages : of the window, the
    project first."""

    def __init__(self, window: Any, pages: QStackedWidget, files: Files) -> None:
        self._window, self._pages, self._files = window, pages, files
        self.home: Home | None = None

    @property
    def shown(self) -> bool:
        """Whether Home is seen."""
        return self.home is not None and self._pages.currentWidget() is self.home

    def show(self, *, new: bool = False) -> None:
        """Leave the project, if that may be, and show Home.  new : with the keys on the name of a
        new project."""
        if not self.shown:
            if not self._files.saves.may_leave():
                return
            self.remember()
            self._window.use(blank())
        self.turn_to(new=new)

    def turn_to(self, *, new: bool = False) -> None:
        """Show Home over a project that nobody has begun."""
        home = self.page()
        self._pages.setCurrentWidget(home)
        self._window.setWindowTitle("Topion")
        home.refresh()
        if new or not home.cards.cards:
            home.new.name.setFocus()
            home.new.name.selectAll()
        else:
            home.cards.setFocus()

    def leave(self) -> None:
        """Show the project."""
        self._pages.setCurrentIndex(0)
        if self.home is not None:
            self.home.looking.stop()

    def page(self) -> Home:
        """Made when it is asked for the first time."""
        if self.home is None:
            self.home = home = Home(settings.last_folder())
            home.opened.connect(lambda path: self._files.open(Path(path)))
            home.brought.connect(self._files.bring_back)
            home.made.connect(self.make)
            home.sheet_chosen.connect(self.begin_with_sheet)
            home.demo_asked.connect(self.open_demo)
            for button, name in ((home.bar.open, "open"), (home.bar.settings, "settings"),
                                 (home.bar.theme, "dark")):  # fmt: skip
                command = self._window.commands[name]
                button.clicked.connect(lambda _, c=command: c.does())
            self._pages.addWidget(home)
        return self.home

    # --- remembered ---------------------------------------------------------------------------

    def remember(self) -> None:
        """The project that is open is found on Home the next time."""
        session = self._window.session
        folder = session.handle.folder
        if folder is not None:
            with suppress(TopionError, OSError):
                remember(recent_of(session.project, folder, session.room_name))

    # --- begun --------------------------------------------------------------------------------

    def make(self, wanted: NewProject) -> None:
        """Make a new project off the GUI thread, save it in its folder, and open it."""
        folder = wanted.folder
        if folder.exists():
            taken = (path.name.removesuffix(SUFFIX) for path in folder.parent.glob(f"*{SUFFIX}"))
            free = free_name(wanted.name, taken)
            self._window.fail(f"{folder.name} is there already; {free} would be free")
            return

        def work(step: Step) -> Opened:
            step("library")
            handle = begun(wanted.beginning, wanted.name, wanted.first, wanted.other)
            return _saved(handle, folder)

        def done(found: Opened) -> None:
            self._enter(found, folder)
            if wanted.beginning == "kit":
                room = self._window.session.room.info.view
                self._take(_KIT_HANDS[room])
                self._window.say("Drag to lay, the right button lays the other brush; W walks it")

        title = f"Making {wanted.name}"
        run_task(self._window, title, work, done, self._window.fail)

    def begin_with_sheet(self, path: Path) -> None:
        """A new project of a sheet: cut, with brushes of it, ready to paint."""
        home = self.page()
        taken = (known.name.removesuffix(SUFFIX) for known in home.new.kept_in.glob(f"*{SUFFIX}"))
        name = free_name(path.stem or "Untitled", taken)
        folder = home.new.kept_in / f"{stem(name)}{SUFFIX}"
        names: list[str] = []

        def work(step: Step) -> Opened:
            step("looking for tiles")
            handle, found = of_sheet(path, name=name)
            names.extend(found)
            return _saved(handle, folder)

        def done(found: Opened) -> None:
            self._enter(found, folder)
            session = self._window.session
            ground = [n for n in names if session.hands.can_take(n)]
            self._take((ground + ground)[:2] if len(ground) < 2 else ground[:2])
            cut = next(iter(session.project.tilesets.values())).cut
            told = told_of(session.project, names) or "no brushes yet"
            size = f"{cut.tile[1]} × {cut.tile[0]} px"
            self._window.say(f"Tiles of {size}, {told}; Sheets (F6) shows the cut")

        run_task(self._window, f"Cutting {path.name}", work, done, self._window.fail)

    def open_demo(self) -> None:
        """A copy of Brinehollow."""
        size = self._window.size()

        def work(step: Step) -> Opened:
            from topion.demo.kept import kept_demo

            step("Brinehollow")
            demo = kept_demo()
            warmed(demo, demo.rooms()[0], size)
            return Opened(demo, Keeper(demo))

        def done(found: Opened) -> None:
            self._window.use(found.handle, found.keeper)

        run_task(self._window, "Opening the demo", work, done, self._window.fail)

    def _enter(self, found: Opened, folder: Path) -> None:
        self._window.remember_folder(folder.absolute().parent)
        self._window.use(found.handle, found.keeper)
        self.remember()

    def _take(self, names: tuple[str, ...] | list[str]) -> None:
        hands = self._window.session.hands
        for hand, name in zip(("right", "left"), reversed(names[:2]), strict=False):
            if hands.can_take(name):
                hands.take(hand, name)  # the left one last: its settings are shown


def _saved(handle: ProjectHandle, folder: Path) -> Opened:
    folder.parent.mkdir(parents=True, exist_ok=True)
    handle.save(folder)
    warmed(handle, handle.rooms()[0])
    return Opened(handle, Keeper(handle))
