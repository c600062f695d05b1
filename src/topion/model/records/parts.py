"""Some values of an item that stays what it is: a slider of a brush, the eye of a layer."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from topion.model.edit import Dirty, DoesNotFit, EntryChange, Record
from topion.model.plain import KINDS, BadPlain, JsonRecord, Unread, from_plain, hints_of, to_plain
from topion.model.project import Address, Project
from topion.model.records.item import ItemRecord, kind_at
from topion.model.shelves import Item


@dataclass(frozen=True)
class PartsRecord:
    """Values of an item by name, before and after; all its other values are left alone.

    of : the kind of the item, where its shelf holds several kinds.
    """

    kind: ClassVar[str] = "parts"
    address: Address
    of: str
    before: dict[str, Any]
    after: dict[str, Any]

    @property
    def _whole(self) -> ItemRecord:
        return ItemRecord(self.address, None, None)

    @property
    def target(self) -> tuple[str, ...]:
        return self._whole.target

    @property
    def ordered(self) -> bool:
        return self._whole.ordered

    @property
    def cells_written(self) -> int:
        return 0

    def write(self, project: Project) -> None:
        item = project.item(self.address)
        if item is None:
            raise KeyError("/".join(self.address))
        project.put_item(self.address, replace(item, **self.after))

    def check(self, project: Project) -> None:
        item = project.item(self.address)
        if item is None:
            raise DoesNotFit(f"{'/'.join(self.address)} is not there")
        known = {f.name for f in dataclasses.fields(item) if f.init}
        if self.of and self.of != item.kind:
            raise DoesNotFit(f"{'/'.join(self.address)} is of another kind")
        for name, value in self.before.items():
            if name not in known or getattr(item, name) != value:
                raise DoesNotFit(f"{name} of {'/'.join(self.address)} is not as it was")
        if "name" in self.after and self.address[0] != "layers":
            raise DoesNotFit(f"{'/'.join(self.address)} cannot be named otherwise")

    def onto(self, project: Project) -> PartsRecord | None:
        item = project.item(self.address)
        if item is None or (self.of and self.of != item.kind):
            return None
        before = {name: getattr(item, name) for name in self.after}
        return replace(self, before=before) if before != self.after else None

    def inverted(self) -> PartsRecord:
        return replace(self, before=self.after, after=self.before)

    def dirty(self) -> Dirty:
        return self._whole.dirty()

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> PartsRecord:
        return self

    def unpacked(self) -> PartsRecord:
        return self

    def folded(self, later: Record) -> tuple[Record, ...]:
        if not isinstance(later, PartsRecord):
            return self, later
        before, after = later.before | self.before, self.after | later.after
        changed = [name for name in after if after[name] != before[name]]
        if not changed:
            return ()
        return (replace(self, before={n: before[n] for n in changed},
                        after={n: after[n] for n in changed}),)  # fmt: skip

    def plain(self) -> JsonRecord:
        sides = {side: to_plain(getattr(self, side)) for side in ("before", "after")}
        return {"record": self.kind, "address": list(self.address), "of": self.of, **sides}

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> PartsRecord:
        address, of = tuple(str(step) for step in plain["address"]), str(plain["of"])
        wanted = kind_at(address)
        kinds = KINDS.get(wanted, {})
        if of and of not in kinds:
            raise BadPlain(("of",), f"{of!r} is not known")
        hints = hints_of(kinds[of] if of else wanted)
        before, after = (
            {name: from_plain(hints[name], value, (*address, name))
             for name, value in dict(plain[side]).items()}
            for side in ("before", "after")
        )  # fmt: skip
        if before.keys() != after.keys():
            raise BadPlain(("after",), "must hold the same values as before")
        return cls(address, of, before, after)


def item_changed(address: Address, before: Item, after: Item) -> Record:
    """The smallest record of an item that comes, goes or changes."""
    kind = type(after)
    if before is None or after is None or type(before) is not kind or isinstance(after, Unread):
        return ItemRecord(address, before, after)
    if not dataclasses.is_dataclass(kind):
        return ItemRecord(address, before, after)
    names = [f.name for f in dataclasses.fields(kind) if f.init]
    changed = [n for n in names if getattr(before, n) != getattr(after, n)]
    of = str(after.kind) if kind_at(address) in KINDS else ""
    return PartsRecord(
        address,
        of,
        {name: getattr(before, name) for name in changed},
        {name: getattr(after, name) for name in changed},
    )
