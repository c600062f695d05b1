"""All that changes while a room is walked."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from topion.walk.keys import Keys

if TYPE_CHECKING:
    from topion.walk.world import World

Key = tuple[str, int]  # layer id, number of a thing


class Now(NamedTuple):
    """What becomes of a thing.  x, y, z : units from where it was placed.  way : 1 or -1, for what
    goes to and fro.  on : a switch is on, a door is open, something acts.  gone : taken, cleared,
    or not there yet.  since : the tick of the last change."""

    x: int = 0
    y: int = 0
    z: int = 0
    way: int = 1
    on: bool = False
    gone: bool = False
    since: int = 0


class Sent(NamedTuple):
    """Something that an emitter sent out: by which of the room's live things, where its middle is,
    in units, where it goes a tick, and when it was sent."""

    by: int
    x: int
    y: int
    z: int
    vx: int
    vy: int
    vz: int
    tick: int


class State(NamedTuple):
    """One moment of a walk.  Two states of one world that are equal go on alike.

    x, y, z : left, top (in rooms seen from above: north) and lower edge of the figure, in units.
    vy : units a tick it falls.  thrown : units a tick it is thrown along x, and y in a voxel room.
    looks : -1 left, 1 right.  ground : it stands.  air : ticks since it stood.  climbs : on a
    ladder.  over : gravity pulls up.  held : keys of the last tick.  lives : of the room's things.
    rooms : those of rooms that were left.  taken : pickups, as (room, layer id, number).
    safe : room, x, y, z, over where it stood last.  ended : "room" or "world" once a goal was
    reached.  backs : how often it was brought back.  inside : the door it stands in.
    touching : the things it touches, by their place among the room's.  cleared : all that counts
    was done once.  worn : the place on the plan that the room was entered as; empty for none.
    news : what happened at this tick, in words.
    """

    world: World
    room: str
    tick: int
    x: int
    y: int
    z: int
    lives: tuple[Now, ...]
    vy: int = 0
    thrown: tuple[int, int] = (0, 0)
    looks: int = 1
    ground: bool = False
    air: int = 0
    climbs: bool = False
    over: bool = False
    held: Keys = 0
    sent: tuple[Sent, ...] = ()
    rooms: tuple[tuple[str, tuple[Now, ...]], ...] = ()
    taken: tuple[tuple[str, str, int], ...] = ()
    safe: tuple[str, int, int, int, bool] = ("", 0, 0, 0, False)
    ended: str = ""
    backs: int = 0
    inside: Key | None = None
    touching: tuple[int, ...] = ()
    cleared: bool = False
    worn: str = ""
    news: tuple[str, ...] = ()

    @property
    def whereabouts(self) -> tuple[str, str]:
        """The room it is in, and as which place on the plan."""
        return self.room, self.worn

    def place(self) -> tuple[float, float, float]:
        """(z, y, x) of the middle of its feet in cells, whole numbers in the middle of cells."""
        return self.world.place_of(self)

    def told(self) -> tuple[object, ...]:
        """All that decides how it goes on, as plain values, without the world and the tick."""
        return tuple(self)[1:2] + tuple(self)[3:-1]
