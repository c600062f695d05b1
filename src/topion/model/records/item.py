"""Any other part of a project, by its address."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

from topion.errors import UnknownName
from topion.model.edit import Dirty, EntryChange, Record
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
}


@dataclass(frozen=True)
class ItemRecord:
    """What stands at an address, before and after; None stands for "not there"."""

    kind: ClassVar[str] = "item"
    address: Address
    before: Any
    after: Any

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
        project.put_item(self.address, self.after)

    def inverted(self) -> ItemRecord:
        return replace(self, before=self.after, after=self.before)

    def dirty(self) -> Dirty:
        match self.address:
            case ("layers", room, layer):
                return Dirty(room, layer)
            case ("rooms" | "order" | "numbers", room):
                return Dirty(room)
        return Dirty(shelf=self.address[0], name=self.address[-1])

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> ItemRecord:
        return self

    def folded(self, later: Record) -> tuple[Record, ...]:
        if not isinstance(later, ItemRecord):
            return self, later
        if self.before == later.after:
            return ()
        return (replace(self, after=later.after),)

    def plain(self) -> JsonRecord:
        return {
            "record": self.kind,
            "address": list(self.address),
            "before": to_plain(self.before),
            "after": to_plain(self.after),
        }

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> ItemRecord:
        address = tuple(str(step) for step in plain["address"])
        wanted = kind_at(address)
        before, after = (
            None if plain[side] is None else from_plain(wanted, plain[side], (*address, side))
            for side in ("before", "after")
        )
        return cls(address, before, after)


def kind_at(address: Address) -> TypeForm:
    """The type of what stands at an address.  Raises UnknownName for no address."""
    match address:
        case ("rooms" | "order" | "numbers", _) | ("layers", _, _):
            return _OF_ROOMS[address[0]]
        case (table,) if table in TABLES:
            return TABLES[table].kind
        case (shelf, _) if shelf in SHELVES:
            return SHELVES[shelf].item
    raise UnknownName("address", "/".join(address), [])
