"""The project: library, tables of materials and tiles, rooms, and the rack."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from topion.errors import UnknownName
from topion.model.prefab import Prefab
from topion.model.room import Layer, LayerInfo, Room, RoomInfo
from topion.model.solid import Block
from topion.model.tileset import TileRef, TileSet

if TYPE_CHECKING:
    from topion.model.brush import Brush

MOST_MATERIALS = 4095
MOST_TILES = 65_534
Address = tuple[str, ...]


@dataclass(frozen=True)
class Bay:
    """One group of cards on the rack."""

    name: str
    brushes: tuple[str, ...] = ()


@dataclass
class Project:
    """Everything a project folder holds.

    materials : names; the id of a material in cells is its place here + 1.
    tiles : every tile that any brush can lay; the id in cells is its place here + 1.
    block_names : the same for blocks.
    """

    name: str
    tilesets: dict[str, TileSet] = field(default_factory=dict)
    brushes: dict[str, Brush] = field(default_factory=dict)
    prefabs: dict[str, Prefab] = field(default_factory=dict)
    rooms: dict[str, Room] = field(default_factory=dict)
    materials: tuple[str, ...] = ()
    tiles: tuple[TileRef, ...] = ()
    bays: tuple[Bay, ...] = ()
    blocks: dict[str, Block] = field(default_factory=dict)
    block_names: tuple[str, ...] = ()
    library_revision: int = 0
    looks_revision: int = 0  # of what tiles look like: tile sets and the table of tiles
    derived: dict[Any, Any] = field(default_factory=dict, compare=False, repr=False)

    def room(self, name: str) -> Room:
        return _named("room", name, self.rooms)

    def brush(self, name: str) -> Brush:
        return _named("brush", name, self.brushes)

    def prefab(self, name: str) -> Prefab:
        return _named("prefab", name, self.prefabs)

    def tileset(self, name: str) -> TileSet:
        return _named("tile set", name, self.tilesets)

    def block(self, name: str) -> Block:
        return _named("block", name, self.blocks)

    def material_id(self, name: str) -> int:
        """The number that stands for material `name` in cells; raises UnknownName."""
        try:
            return self.materials.index(name) + 1
        except ValueError:
            raise UnknownName("material", name, self.materials) from None

    def material_name(self, material: int) -> str:
        return self.materials[material - 1] if 0 < material <= len(self.materials) else ""

    def snapshot(self) -> Project:
        """A copy that another thread may read while this project is edited.

        Cell arrays are shared, so it may see a stroke half way; tables and things are its own.
        """
        rooms = {}
        for name, room in list(self.rooms.items()):
            layers = {
                layer_id: Layer(layer.info, layer.planes, dict(layer.things), layer.revision)
                for layer_id, layer in room.layers.items()
            }
            rooms[name] = Room(room.info, layers, room.order)
        derived = {key: self.derived[key] for key in ("looms",) if key in self.derived}
        return replace(
            self,
            tilesets=dict(self.tilesets),
            blocks=dict(self.blocks),
            brushes=dict(self.brushes),
            prefabs=dict(self.prefabs),
            rooms=rooms,
            derived=derived,
        )

    # --- the one way in for records of an Edit -------------------------------------------

    def item(self, address: Address) -> Any:
        """What stands at `address`, or None."""
        match address:
            case ("rooms", name):
                return self.rooms[name].info if name in self.rooms else None
            case ("layers", room, layer_id):
                layer = self.room(room).layers.get(layer_id)
                return layer.info if layer else None
            case ("order", room):
                return self.room(room).order
            case (("materials" | "tiles" | "block_names" | "bays" | "name") as table,):
                return getattr(self, table)
            case (("tilesets" | "blocks" | "brushes" | "prefabs") as shelf, name):
                return getattr(self, shelf).get(name)
        raise UnknownName("address", "/".join(address), [])

    def put_item(self, address: Address, value: Any) -> None:
        """Set what stands at `address`; None takes it away.

        A new layer comes empty, in the size of its room; only an empty layer may be taken away.
        """
        match address:
            case ("rooms", name):
                self._put_room(name, value)
            case ("layers", room, layer_id):
                self._put_layer(self.room(room), layer_id, value)
            case ("order", room):
                self.room(room).order = value
            case (("materials" | "tiles" | "block_names" | "bays" | "name") as table,):
                setattr(self, table, value)
            case (("tilesets" | "blocks" | "brushes" | "prefabs") as shelf, name):
                _put(getattr(self, shelf), name, value)
            case _:
                raise UnknownName("address", "/".join(address), [])
        if address[0] not in ("rooms", "layers", "order", "bays", "name"):
            self.library_revision += 1
        if address[0] in ("tilesets", "tiles", "blocks", "block_names"):
            self.looks_revision += 1

    def _put_room(self, name: str, info: RoomInfo | None) -> None:
        if info is None:
            del self.rooms[name]
        elif name in self.rooms:
            self.rooms[name].info = info
        else:
            self.rooms[name] = Room(info)

    def _put_layer(self, room: Room, layer_id: str, info: LayerInfo | None) -> None:
        if info is None:
            del room.layers[layer_id]
        elif layer_id in room.layers:
            room.layers[layer_id].info = info
            room.layers[layer_id].revision += 1
        else:
            room.layers[layer_id] = Layer.empty(info, room.info.size)


def _put(shelf: dict[str, Any], name: str, value: Any) -> None:
    if value is None:
        shelf.pop(name, None)
    else:
        shelf[name] = value


def _named(kind: str, name: str, shelf: dict[str, Any]) -> Any:
    try:
        return shelf[name]
    except KeyError:
        raise UnknownName(kind, name, shelf) from None
