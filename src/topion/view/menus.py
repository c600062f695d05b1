"""The menus of the window; what they list are commands."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QMenu, QWidget

from topion.edit.journals import Unsaved, strokes
from topion.formats.exports import EXPORTS
from topion.render.eye import VIEWS
from topion.view.commands import Commands
from topion.view.files import Files
from topion.view.new_brush import NewBrush
from topion.view.panels.rack import Rack
from topion.view.panels.top_bar import TopBar
from topion.view.session import Session
from topion.view.tables import Tables

_MOST_OTHERS = 5


class Menus:
    """Each opens below the button that stands for it."""

    def __init__(
        self,
        window: QWidget,
        commands: Commands,
        session: Callable[[], Session],
        files: Files,
        tables: Tables,
        top_bar: TopBar,
        rack: Rack,
        new_brush: NewBrush,
        others: Callable[[], list[Unsaved]],
    ) -> None:
        self._window, self._commands, self._session = window, commands, session
        self._files, self._tables = files, tables
        self._top_bar, self._rack, self._new_brush = top_bar, rack, new_brush
        self._others = others

    def _show(self, menu: QMenu, button: QWidget) -> None:
        menu.popup(button.mapToGlobal(QPoint(0, button.height() + 2)))

    def show_project(self) -> None:
        """New, open, save, bring in, undo."""
        menu = QMenu(self._window)
        self._commands.fill(
            menu, "new project", "open", "unpack", "save", "save as", "compare", "home"
        )
        for other in self._others()[:_MOST_OTHERS]:
            menu.addAction(f"Bring back {other.name}, {strokes(other.strokes)}",
                           lambda kept=other.kept: self._files.bring_back(kept))  # fmt: skip
        self._commands.fill(menu, "", "sheet", "sheets", "", "texts", "pictures",
                            "text folder", "mesh", "stamp file", "stamp folder",
                            "outline", "", "undo", "redo")  # fmt: skip
        self._show(menu, self._top_bar.project)

    def show_room(self) -> None:
        """The rooms, and the views of a voxel room."""
        menu, session = QMenu(self._window), self._session()
        for name in session.project.rooms:
            action = menu.addAction(name, lambda n=name: session.open_room(n))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(name == session.room_name)
        self._commands.fill(menu, "", "new room", "room properties", "duplicate room",
                            "remove room", "", "clear layer", "clear room", "shift room", "",
                            "fit")  # fmt: skip
        if self._tables.space is not None:
            views = (f"view {view}" for view in VIEWS)
            self._commands.fill(menu, "", *views, "perspective", "seats", "detail")
        self._show(menu, self._top_bar.room)

    def show_export(self) -> None:
        """The formats this room can be written in."""
        menu, session = QMenu(self._window), self._session()
        for kind, export in EXPORTS.items():
            if not export.whole and not (
                session.has_room and export.suits(session.project, session.room_name)
            ):
                continue
            if not export.scales:
                menu.addAction(f"{export.text}…", lambda k=kind: self._files.ask_export(k))
                continue
            sizes = menu.addMenu(export.text)
            for scale in export.scales if sizes is not None else ():
                sizes.addAction(f"{scale:g}×…",  # type: ignore[union-attr]
                                lambda k=kind, s=scale: self._files.ask_export(k, s))  # fmt: skip
        extra = ("picture of view",) if self._tables.space is not None else ()
        self._commands.fill(menu, *extra, "", "export all", "pack")
        self._show(menu, self._top_bar.export)

    def show_new_brush(self) -> None:
        """The ways to a new brush."""
        self._new_brush.show(self._rack.new)
