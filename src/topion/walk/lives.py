"""The things of a room at one tick, made to be changed as they are asked for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from topion.roles import RoleKind
from topion.roles.kind import Edges
from topion.walk.stage import Actor, Stage
from topion.walk.state import Now


class Live:
    """A thing that does something, as it is now; see `roles.kind.Me`.

    place : its number among the things of its room.
    """

    __slots__ = ("actor", "gone", "home", "mirrored", "name", "number", "on", "place", "role",
                 "since", "turn", "way", "x", "y", "z")  # fmt: skip

    def __init__(self, actor: Actor, now: Now, place: int = 0) -> None:
        self.actor, self.role, self.home, self.place = actor, actor.role, actor.home, place
        self.name, self.number = actor.prefab, actor.key[1]
        self.turn, self.mirrored = actor.turn, actor.mirrored
        self.x, self.y, self.z, self.way, self.on, self.gone, self.since = now

    def now(self) -> Now:
        """It, as it is kept."""
        return Now(self.x, self.y, self.z, self.way, self.on, self.gone, self.since)

    @property
    def edges(self) -> Edges:
        """Where it is now."""
        home, x, y = self.home, self.x, self.y
        plan = (home[0] + x, home[1] + y, home[2] + x, home[3] + y)
        return plan if len(home) == 4 else (*plan, home[4] + self.z, home[5] + self.z)

    def stands_in_the_way(self) -> bool:
        """Whether nothing goes through it."""
        return self.role is not None and not self.gone and self.role.in_the_way(self)


class Lives:
    """The things of a stage; only those that are asked for are made, and kept if they changed."""

    def __init__(self, stage: Stage, now: tuple[Now, ...]) -> None:
        self._stage, self._before = stage, now
        self._made: dict[int, Live] = {}

    def __getitem__(self, place: int) -> Live:
        found = self._made.get(place)
        if found is None:
            found = Live(self._stage.actors[place], self._before[place], place)
            self._made[place] = found
        return found

    def some(self, places: Iterable[int]) -> Iterator[Live]:
        """Those of some numbers."""
        return (self[place] for place in places)

    def near(self, box: Edges) -> Iterator[Live]:
        """All that may meet a box or its edge, and more."""
        return self.some(self._stage.near.near(box))

    def in_the_way(self, box: Edges) -> list[Live]:
        """Those that nothing goes through and that may meet a box, and more."""
        close = self.some(self._stage.near_solid.near(box))
        return [live for live in close if live.stands_in_the_way()]

    def now(self) -> tuple[Now, ...]:
        """All of them, as they are kept."""
        after: list[Now] | None = None
        for place, live in self._made.items():
            now = live.now()
            if now != self._before[place]:
                after = [*self._before] if after is None else after
                after[place] = now
        return self._before if after is None else tuple(after)


def is_done(live: Live) -> bool:
    """Whether a thing that counts for clearing its room is done."""
    role = live.role
    return role.done(live) if isinstance(role, RoleKind) else live.gone
