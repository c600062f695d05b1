"""The size of a room: all planes of its layers grow, or lose cells that are open."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from topion.errors import BadValue
from topion.model.edit import Dirty, DoesNotFit, EntryChange
from topion.model.plain import JsonRecord, from_plain
from topion.model.project import Project
from topion.model.room import LONGEST_SIDE


@dataclass(frozen=True)
class SizeRecord:
    """before, after : sizes in cells.  shift : where the old first cell comes to lie.

    What is cut off must be open: the Edit empties it by a record before.  Things are moved by
    records of their own.
    """

    kind: ClassVar[str] = "size"
    ordered: ClassVar[bool] = True
    room: str
    before: tuple[int, ...]
    after: tuple[int, ...]
    shift: tuple[int, ...]

    @property
    def target(self) -> tuple[str, ...]:
        return ("size", self.room)

    @property
    def cells_written(self) -> int:
        return 0

    def write(self, project: Project) -> None:
        room = project.rooms[self.room]
        done = []
        try:
            for layer in room.layers.values():
                layer.resize(self.after, self.shift)
                done.append(layer)
        except BaseException:  # no layer is left in another size than its room
            for layer in done:
                layer.resize(self.before, tuple(-step for step in self.shift))
            raise
        origin = room.info.moved_origin(self.shift)
        room.info = replace(room.info, size=self.after, origin=origin)
        room.changed()

    def check(self, project: Project) -> None:
        room = project.room(self.room)
        if room.info.size != self.before:
            raise DoesNotFit(f"room {self.room} is of another size by now")
        if len(self.after) != len(self.before):
            raise DoesNotFit(f"room {self.room} has {len(self.before)} axes")
        if len(self.shift) != len(self.after) or max(map(abs, self.shift)) > LONGEST_SIDE:
            raise DoesNotFit(f"room {self.room} cannot be moved by {self.shift}")
        try:
            replace(room.info, size=self.after, origin=room.info.moved_origin(self.shift))
        except BadValue as problem:
            raise DoesNotFit(str(problem)) from None

    def onto(self, project: Project) -> SizeRecord | None:
        here = self.room in project.rooms and project.room(self.room).info.size == self.before
        return self if here else None

    def inverted(self) -> SizeRecord:
        back = tuple(-step for step in self.shift)
        return replace(self, before=self.after, after=self.before, shift=back)

    def dirty(self) -> Dirty:
        return Dirty(self.room)

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> SizeRecord:
        return self

    def unpacked(self) -> SizeRecord:
        return self

    def folded(self, later: SizeRecord) -> tuple[SizeRecord, ...]:
        shift = tuple(a + b for a, b in zip(self.shift, later.shift, strict=True))
        if self.before == later.after and not any(shift):
            return ()
        return (replace(self, after=later.after, shift=shift),)

    def plain(self) -> JsonRecord:
        sides = {side: list(getattr(self, side)) for side in ("before", "after", "shift")}
        return {"record": self.kind, "room": self.room, **sides}

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> SizeRecord:
        sides = (
            from_plain(tuple[int, ...], plain[side], (side,))
            for side in ("before", "after", "shift")
        )
        return cls(str(plain["room"]), *sides)
