"""What a room is worn in, as scripts set it."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from topion.edit.history import History as History
from topion.edit.rooms import (
    set_room,
)
from topion.edit.wear import add_tint_map, put_tint_map, wear
from topion.errors import UnknownName
from topion.formats.text_rows import onto_palette, read_tint_rows
from topion.model.calls import checks_calls
from topion.model.light import Light
from topion.model.project import Project
from topion.model.room import Room
from topion.pictures.png import read_text


class _Open(Protocol):
    """An open project."""

    data: Project
    history: History


@checks_calls
class RoomLooks:
    """Mixed into a room of an open project."""

    name: str

    @property
    def data(self) -> Room:
        raise NotImplementedError

    @property
    def opened(self) -> _Open:
        """The project of the room."""
        raise NotImplementedError

    def wear(self, theme: str | None = None, tint: str | None = None) -> None:
        """Show it in a theme or a tint map, by name; empty text takes it off.  Raises UnknownName
        and BadValue."""
        layer_id = self.tint_map(tint) if tint else tint
        self.opened.history.apply(wear(self.opened.data, self.name, theme=theme, tint=layer_id))

    def tint_map(self, name: str) -> str:
        """The id of a tint map.  Raises UnknownName."""
        known = {layer.info.name: layer_id for layer_id, layer in self.data.tint_maps()}
        if name not in known:
            raise UnknownName(f"tint map in {self.name}", name, known)
        return known[name]

    def add_tint_map(self, name: str, copy_of: str = "") -> None:
        """A new tint map, which is worn then.  copy_of : the name of one that it begins as."""
        source = self.tint_map(copy_of) if copy_of else ""
        self.opened.history.apply(add_tint_map(self.opened.data, self.name, name, source))

    def import_tints(self, path: str | Path, name: str = "") -> str:
        """Bring in a tint map from text rows, in place of the one of that name; its name.

        Raises BadFile and BadValue."""
        data = self.opened.data
        rows = read_tint_rows(read_text(Path(path)), Path(path).name)
        palette, planes = onto_palette(rows, data.palette)
        edit = put_tint_map(data, self.name, name or rows.map, planes, palette)
        self.opened.history.apply(edit)
        return name or rows.map

    def set_light(self, light: Light) -> None:
        """The light of a voxel room."""
        self.opened.history.apply(set_room(self.opened.data, self.name, light=light))
