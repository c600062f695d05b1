"""Door: leads into a room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.model.typed import between
from topion.roles.kind import BY, Me, RoleKind, Walk


@dataclass(frozen=True)
class Door(RoleKind):
    """Leads to a door of a room, or to where that room starts.

    room : its name; empty for nowhere yet.  door : the number of the thing there, 0 for the start.
    place : where on the plan that room is worn as it is then; empty for its first place.
    """

    kind: ClassVar[str] = "door"
    form: ClassVar[Form] = (
        "By ", BY, " it leads to ", Blank("room", "room", none="nowhere yet"), ", door ",
        Blank("door", "number", whole=True, highest=(1 << 31) - 1, none="none (its start)"),
        ", at ", Blank("place", "place", none="its first place"), "; ends the world: ",
        Blank("ends_world", "switch"), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("frame", "ink", ((0.1, 0.22), (0.9, 0.78))),
        Mark("dot", "ink", ((0.52, 0.64),), 0.06),
    )  # fmt: skip
    by: Literal["touching it", "acting on it"] = "touching it"
    room: Annotated[str, Ref("rooms", perhaps=True)] = ""
    door: Annotated[int, between(0, (1 << 31) - 1)] = 0
    ends_world: bool = False
    place: Annotated[str, Ref("placements", perhaps=True)] = ""

    def in_the_way(self, me: Me) -> bool:
        return not me.on and not me.gone

    def touched(self, me: Me, walk: Walk) -> None:
        if self.by == "touching it" and me.on:
            walk.enter(me, self.room, self.door, self.ends_world, self.place)

    def acted(self, me: Me, walk: Walk) -> None:
        if self.by == "acting on it" and me.on:
            walk.enter(me, self.room, self.door, self.ends_world, self.place)

    def done(self, me: Me) -> bool:
        return me.on

    def state(self, me: Me) -> str:
        return "open" if me.on else "shut"
