"""Any other part of a project, by its address."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

from topion.errors import UnknownName
from topion.model.conflict import Conflict
from topion.model.edit import Dirty, DoesNotFit, EntryChange, Record
from topion.model.layer import LayerInfo
from topion.model.plain import JsonRecord, TypeForm, from_plain, to_plain
from topion.model.project import Address, Project
from topion.model.room import RoomInfo
from topion.model.shelves import SHELVES, TABLES

_OF_ROOMS: dict[str, Any] = {
    "rooms": RoomInfo,
    "layers": LayerInfo,
    "order": tuple[str, ...],
    "numbers": int,  # the highest ever given to an entry
    "room_conflicts": tuple[Conflict, ...],
}

_IN_ROOMS = ("order", "numbers", "room_conflicts")


@dataclass(frozen=True)
class ItemRecord:
    """What stands at an address, before and after; None stands for "not there".

    place : of an item that comes or goes, where it stands among its like; -1 at the end.
    """

    kind: ClassVar[str] = "item"
    address: Address
    before: Any
    after: Any
    place: int = -1

    @property
    def target(self) -> tuple[str, ...]:
        return ("item", *self.address)

    @property
    def ordered(self) -> bool:
        return self.address[0] in _OF_ROOMS

    @property
    def cells_written(self) -> int:
        return 0

    def write(self, project: Project) -> None:
        project.put_item(self.address, self.after, self.place)

    def check(self, project: Project) -> None:
        if project.item(self.address) != self.before or self.before is self.after is None:
            raise DoesNotFit(f"{'/'.join(self.address)} is not as it was")
        name = getattr(self.after, "name", self.address[-1])
        if self.address[0] != "layers" and self.after is not None and name != self.address[-1]:
            raise DoesNotFit(f"{'/'.join(self.address)} is named “{name}”")
        if self.after is None and self.address[0] not in (*SHELVES, "rooms", "layers"):
            raise DoesNotFit(f"{'/'.join(self.address)} cannot be taken away")
        if self.address == ("rooms",) and sorted(self.after) != sorted(project.rooms):
            raise DoesNotFit("the order of the rooms names others")
        room = project.room(self.address[1]) if self.address[0] in _IN_ROOMS else None
        if room is not None and self.address[0] == "order":
            known = set(self.after) <= room.layers.keys() and len(set(self.after)) == len(
                self.after
            )
            if not known:
                raise DoesNotFit(f"the order of {room.info.name} names other layers")

    def onto(self, project: Project) -> ItemRecord | None:
        before = project.item(self.address)
        if before == self.after or (before is None) != (self.before is None):
            return None
        if self.address == ("rooms",) and sorted(before) != sorted(self.after):
            return None
        return replace(self, before=before)

    def inverted(self) -> ItemRecord:
        return replace(self, before=self.after, after=self.before)

    def dirty(self) -> Dirty:
        match self.address:
            case ("layers", room, layer):
                return Dirty(room, layer)
            case ("rooms" | "order" | "numbers" | "room_conflicts", room):
                return Dirty(room)
        return Dirty(shelf=self.address[0], name=self.address[-1])

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> ItemRecord:
        return self

    def unpacked(self) -> ItemRecord:
        return self

    def folded(self, later: Record) -> tuple[Record, ...]:
        if not isinstance(later, ItemRecord):
            return self, later
        if self.after is None and self.place != later.place:
            return self, later  # it comes back at another place
        if self.before == later.after:
            return ()
        place = later.place if later.after is None else self.place
        return (replace(self, after=later.after, place=place),)

    def plain(self) -> JsonRecord:
        return {
            "record": self.kind,
            "address": list(self.address),
            "before": to_plain(self.before),
            "after": to_plain(self.after),
            **({"place": self.place} if self.place >= 0 else {}),
        }

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> ItemRecord:
        address = tuple(str(step) for step in plain["address"])
        wanted = kind_at(address)
        before, after = (
            None if plain[side] is None else from_plain(wanted, plain[side], (*address, side))
            for side in ("before", "after")
        )
        return cls(address, before, after, from_plain(int, plain.get("place", -1), ("place",)))


def taken_away(project: Project, address: Address) -> ItemRecord:
    """A record that takes away an item of a shelf, or an empty room; undone, it stands where
    it stood."""
    among: Any = project.rooms if address[0] == "rooms" else project.shelf(address[0])
    place = list(among).index(address[1])
    return ItemRecord(address, project.item(address), None, place)


def kind_at(address: Address) -> TypeForm:
    """The type of what stands at an address.  Raises UnknownName for no address."""
    match address:
        case ("rooms",):
            return tuple[str, ...]
        case ("rooms" | "order" | "numbers" | "room_conflicts", _) | ("layers", _, _):
            return _OF_ROOMS[address[0]]
        case (table,) if table in TABLES:
            return TABLES[table].kind
        case (shelf, _) if shelf in SHELVES:
            return SHELVES[shelf].item
    raise UnknownName("address", "/".join(address), [])
