"""The project: library, tables of materials and tiles, rooms, and the rack."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from topion.errors import BadValue, UnknownName
from topion.model.brush import Brush
from topion.model.derived import fresh_stamp
from topion.model.layer import Layer, LayerInfo
from topion.model.palette import Palette
from topion.model.prefab import Prefab
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.model.shelves import SHELVES, TABLES, Bay, Foreign, Former, Item
from topion.model.solid import Block
from topion.model.tileset import TileRef, TileSet

MOST_MATERIALS = 4095
MOST_TILES = 64_000  # numbers above it are left to patterns
Address = tuple[str, ...]


@dataclass(eq=False)
class Project:
    """Everything a project folder holds.

    library : items by name, by the name of their shelf; see `topion.model.shelves`.
    materials : names; the id of a material in cells is its place here + 1.
    tiles : every tile that any brush can lay; the id in cells is its place here + 1.
    block_names : the same for blocks.  palette : the colours that tint maps speak of.
    former : names that were given up; see `topion.model.shelves`.
    id : tells the project from others, wherever its folder is moved; empty before its first save.
    foreign : shelves of extensions that are missing, kept as they are.
    stamps : by shelf or table, a stamp of what it holds.  derived : see `topion.model.derived`.
    """

    name: str
    library: dict[str, dict[str, Item]] = field(default_factory=dict)
    rooms: Rooms = field(default_factory=Rooms)
    materials: tuple[str, ...] = ()
    tiles: tuple[TileRef, ...] = ()
    bays: tuple[Bay, ...] = ()
    block_names: tuple[str, ...] = ()
    palette: Palette = ()
    former: tuple[Former, ...] = ()
    id: str = ""
    foreign: dict[str, Foreign] = field(default_factory=dict)
    stamps: dict[str, int] = field(default_factory=dict, repr=False)
    derived: dict[Any, tuple[object, Any]] = field(default_factory=dict, repr=False)

    def shelf(self, name: str) -> dict[str, Item]:
        """The items of a shelf by name, in their order; to be read."""
        return self.library.setdefault(name, {})

    @property
    def tilesets(self) -> dict[str, TileSet]:
        return self.shelf("tilesets")

    @property
    def blocks(self) -> dict[str, Block]:
        return self.shelf("blocks")

    @property
    def brushes(self) -> dict[str, Brush]:
        return self.shelf("brushes")

    @property
    def prefabs(self) -> dict[str, Prefab]:
        return self.shelf("prefabs")

    def room(self, name: str) -> Room:
        if name not in self.rooms:
            raise UnknownName("room", name, self.rooms)
        return self.rooms[name]

    def brush(self, name: str) -> Brush:
        found: Brush = self.named("brushes", name)
        return found

    def prefab(self, name: str) -> Prefab:
        found: Prefab = self.named("prefabs", name)
        return found

    def tileset(self, name: str) -> TileSet:
        found: TileSet = self.named("tilesets", name)
        return found

    def block(self, name: str) -> Block:
        found: Block = self.named("blocks", name)
        return found

    def named(self, shelf: str, name: str) -> Item:
        """An item of the library.  Raises UnknownName."""
        try:
            return self.shelf(shelf)[name]
        except KeyError:
            raise UnknownName(SHELVES[shelf].word, name, self.shelf(shelf)) from None

    def material_id(self, name: str) -> int:
        """The number that stands for material `name` in cells; raises UnknownName."""
        try:
            return self.materials.index(name) + 1
        except ValueError:
            raise UnknownName("material", name, self.materials) from None

    def material_name(self, material: int) -> str:
        return self.materials[material - 1] if 0 < material <= len(self.materials) else ""

    def stamp(self, *parts: str) -> tuple[int, ...]:
        """Stamps of shelves and tables: equal ones mean that these hold the same."""
        return tuple(self.stamps.get(part, 0) for part in parts)

    # --- copies ---------------------------------------------------------------------------

    def frozen(self) -> Project:
        """The project as it is now, for another thread to read while this one is edited."""
        return self.scratch(self.rooms.frozen())

    def scratch(self, rooms: Rooms | None = None) -> Project:
        """A project of its own with the same library and these rooms, or the very same ones;
        what is put on it changes nothing here, but for rooms that both have."""
        library = {name: dict(shelf) for name, shelf in self.library.items()}
        return replace(
            self,
            library=library,
            rooms=self.rooms.copy() if rooms is None else rooms,
            stamps=dict(self.stamps),
            derived=dict(self.derived),
        )

    def with_items(self, shelf: str, items: Mapping[str, Item]) -> Project:
        """A scratch project with further or other items on a shelf."""
        made = self.scratch()
        made.shelf(shelf).update(items)
        made.stamps[shelf] = fresh_stamp()
        return made

    # --- the one way in for records of an Edit -------------------------------------------

    def item(self, address: Address) -> Item:
        """What stands at `address`, or None."""
        match address:
            case ("rooms",):
                return tuple(self.rooms)
            case ("rooms", name):
                return self.rooms[name].info if name in self.rooms else None
            case ("layers", room, layer_id):
                layer = self.room(room).layers.get(layer_id)
                return layer.info if layer else None
            case ("order", room):
                return self.room(room).order
            case ("numbers", room):
                return self.room(room).numbers
            case ("room_conflicts", room):
                return self.room(room).conflicts
            case (table,) if table in TABLES:
                return getattr(self, table)
            case (shelf, name) if shelf in SHELVES:
                return self.shelf(shelf).get(name)
        raise UnknownName("address", "/".join(address), [])

    def put_item(self, address: Address, value: Item, place: int = -1) -> None:
        """Set what stands at `address`; None takes it away.

        place : among its like, for a new item or room; -1 at the end.  A new layer comes empty, in
        the size of its room.  Raises BadValue for a layer or a room that is taken away with
        something in it, and for a room of another size.
        """
        match address:
            case ("rooms",):
                self.rooms.reordered(value)
            case ("rooms", name):
                self._put_room(name, value, place)
                return
            case ("layers", room, layer_id):
                self._put_layer(self.room(room), layer_id, value)
                return
            case ("order", room):
                self.room(room).order = value
                self.room(room).changed()
                return
            case ("numbers", room):
                self.room(room).give_numbers(value)
                self.room(room).changed()
                return
            case ("room_conflicts", room):
                self.room(room).conflicts = value
                self.room(room).changed()
                return
            case (table,) if table in TABLES:
                setattr(self, table, value)
            case (shelf, name) if shelf in SHELVES:
                _put(self.shelf(shelf), name, value, place)
            case _:
                raise UnknownName("address", "/".join(address), [])
        self.stamps[address[0]] = fresh_stamp()

    def _put_room(self, name: str, info: RoomInfo | None, place: int) -> None:
        if info is None:
            room = self.rooms[name]
            if room.layers or room.order or room.numbers or room.conflicts:
                raise BadValue(f"room {name}", "filled", "empty to be removed")
            del self.rooms[name]
        elif name in self.rooms:
            room = self.rooms[name]
            if (room.info.size, room.info.origin) != (info.size, info.origin):
                raise BadValue(f"the size of room {name}", info.size, "changed by its own record")
            room.info = info
            room.changed()
        else:
            names = _placed(self.rooms, name, place)
            self.rooms[name] = Room(info)
            if names[-1] != name:
                self.rooms.reordered(names)

    def _put_layer(self, room: Room, layer_id: str, info: LayerInfo | None) -> None:
        if info is None:
            if not room.layers[layer_id].is_empty:
                name = room.layers[layer_id].info.name
                raise BadValue(f"layer {name} of {room.info.name}", "filled", "empty to be removed")
            del room.layers[layer_id]
        elif not room.info.may_hold(info):
            kind = room.info.cells_kind
            raise BadValue(f"the kind of layer {info.name}", info.kind, f"{kind} in this room")
        elif layer_id in room.layers:
            room.layers[layer_id].set_info(info)
        else:
            room.layers[layer_id] = Layer.empty(info, room.info.size, room.info.origin)
        room.changed()


def _put(shelf: dict[str, Item], name: str, value: Item, place: int) -> None:
    if value is None:
        shelf.pop(name, None)
        return
    names = [] if name in shelf else _placed(shelf, name, place)
    shelf[name] = value
    if names and names[-1] != name:
        items = {known: shelf[known] for known in names}
        shelf.clear()
        shelf.update(items)


def _placed(known: Iterable[str], name: str, place: int) -> list[str]:
    """The names with another one among them; at the end for -1."""
    names = list(known)
    names.insert(place if place >= 0 else len(names), name)
    return names
