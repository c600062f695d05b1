"""Another name for a room, in its place among the others."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from topion.errors import BadValue
from topion.model.edit import Dirty, DoesNotFit, EntryChange
from topion.model.plain import JsonRecord, from_plain
from topion.model.project import Project


@dataclass(frozen=True)
class RoomNameRecord:
    """before, after : names."""

    kind: ClassVar[str] = "room name"
    ordered: ClassVar[bool] = True
    before: str
    after: str

    @property
    def target(self) -> tuple[str, ...]:
        return ("room name", self.after)

    @property
    def cells_written(self) -> int:
        return 0

    def write(self, project: Project) -> None:
        project.rooms.rename(self.before, self.after)

    def check(self, project: Project) -> None:
        if self.before not in project.rooms or self.after in project.rooms:
            raise DoesNotFit(f"room {self.before} cannot be called {self.after}")
        try:
            replace(project.room(self.before).info, name=self.after)
        except BadValue as problem:
            raise DoesNotFit(str(problem)) from None

    def onto(self, project: Project) -> RoomNameRecord | None:
        fits = self.before in project.rooms and self.after not in project.rooms
        return self if fits else None

    def inverted(self) -> RoomNameRecord:
        return RoomNameRecord(self.after, self.before)

    def dirty(self) -> Dirty:
        return Dirty(self.after)

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> RoomNameRecord:
        return self

    def unpacked(self) -> RoomNameRecord:
        return self

    def folded(self, later: RoomNameRecord) -> tuple[RoomNameRecord, ...]:
        return (self, later)

    def plain(self) -> JsonRecord:
        return {"record": self.kind, "before": self.before, "after": self.after}

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> RoomNameRecord:
        before, after = (from_plain(str, plain[side], (side,)) for side in ("before", "after"))
        return cls(before, after)
