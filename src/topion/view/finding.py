"""What the finder finds: commands, and all that the project holds."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from PyQt6.QtGui import QPixmap

from topion.brushes.kind import all_brushes
from topion.edit.pieces import Pick
from topion.grid.told import cell_told
from topion.model.prefab import Prefab
from topion.view.commands import Commands
from topion.view.desks.desks import Desks
from topion.view.desks.tileset_desk import TileSetDesk
from topion.view.panels.finder import Found
from topion.view.table.compose import pixmap_of

_MOST_THINGS = 4000  # of the room that is worked in


class Finding:
    """window : a Host that is a widget, with `commands`, `session`, `desks` and `at_tables`."""

    def __init__(self, window: Any, commands: Commands, desks: Desks) -> None:
        self._window, self._commands, self._desks = window, commands, desks

    def commands(self, only: frozenset[str] | None = None) -> Iterator[Found]:
        """All that can be carried out now; not those that are held."""
        for command in self._commands:
            if only is not None and command.name not in only:
                continue
            if command.let_go is None and command.name != "find" and command.when():
                yield Found(command.text, "command", command.does, command.key_text())

    def all(self) -> Iterator[Found]:
        """Commands, brushes, prefabs, rooms, tile sets, regions and things."""
        yield from self._brushes()
        yield from self.commands()
        yield from self._rooms()
        yield from self._library()
        yield from self._of_room()

    def _brushes(self) -> Iterator[Found]:
        session = self._window.at_work
        for name, brush in all_brushes(session.project).items():
            if session.hands.can_take(name):
                yield Found(name, "brush", partial(self._take, "left", name), brush.kind,
                            partial(self._take, "right", name),
                            colour=str(getattr(brush, "colour", "")))  # fmt: skip

    def _take(self, hand: Any, name: str) -> None:
        self._window.at_work.hands.take(hand, name)
        self._window.to_table()

    def _rooms(self) -> Iterator[Found]:
        session = self._window.session
        for name in session.project.rooms:
            told = "here" if name == session.room_name else ""
            yield Found(name, "room", partial(self._enter, name), told)

    def _enter(self, room: str) -> None:
        self._desks.close_desk()
        self._window.session.open_room(room)
        self._window.to_table()

    def _library(self) -> Iterator[Found]:
        project = self._window.session.project
        for name, prefab in project.prefabs.items():
            yield Found(name, "prefab", partial(self._desks.open_prefab, name), "its desk",
                        picture=partial(_picture, prefab))  # fmt: skip
        for name in project.tilesets:
            yield Found(name, "tile set", partial(self._sheets, name), "its desk")

    def _sheets(self, name: str) -> None:
        self._window.show_sheets()
        desk = self._desks.desk
        if isinstance(desk, TileSetDesk):
            desk.show_set(name)

    def _of_room(self) -> Iterator[Found]:
        session = self._window.session
        if not session.has_room:
            return
        left = _MOST_THINGS
        for layer_id, layer in session.room.bottom_up():
            if layer.info.kind == "region":
                yield Found(layer.info.name, "region", partial(self._work_on, layer_id))
            for number, thing in layer.things.items() if layer.info.kind == "things" else ():
                if left <= 0:
                    return
                left -= 1
                prefab = session.project.prefabs.get(thing.prefab)
                does = partial(self._show, Pick(layer_id, number), thing)
                yield Found(f"{thing.prefab} {number}", "thing", does,
                            f"at {cell_told(thing.cell)}",
                            picture=partial(_picture, prefab))  # fmt: skip

    def _work_on(self, layer_id: str) -> None:
        session = self._window.session
        session.layer_id = layer_id
        session.changed.emit(())
        self._window.to_table()

    def _show(self, pick: Pick, thing: Any) -> None:
        session = self._window.session
        self._desks.close_desk()
        cell = thing.cell if session.room.info.axes == 2 else (int(thing.z), *thing.cell)
        session.gestures.use("lasso")
        session.picking.pick([pick])
        self._window.centre_on(cell)
        self._window.to_table()


def _picture(prefab: Prefab | None) -> QPixmap | None:
    return None if prefab is None else pixmap_of(prefab.picture.rgba)
