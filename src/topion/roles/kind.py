"""What every kind of role answers, and what it may ask of a walk."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from typing import ClassVar, Protocol

from topion.model.form import Blank, Form, Mark, told

Edges = tuple[int, ...]  # left, top, right, bottom in units, half-open; in space also foot and head


class Me(Protocol):
    """The thing that has a role, while a room is walked.

    x, y, z : units from where it was placed.  way : 1 or -1.  on, gone, since : see `walk.state`.
    home : its edges where it was placed.  turn : degrees clockwise.
    """

    name: str
    number: int
    home: Edges
    turn: float
    mirrored: bool
    x: int
    y: int
    z: int
    way: int
    on: bool
    gone: bool
    since: int

    @property
    def edges(self) -> Edges:
        """Where it is now."""


@dataclass(frozen=True)
class Track:
    """The curve that a thing goes along.  stops : units from where it was placed, (x, y, z), close
    together; far : the length up to each.  before : that up to its own place.  closed : the last
    stop is the first."""

    stops: tuple[tuple[int, int, int], ...]
    far: tuple[int, ...]
    before: int
    closed: bool

    @property
    def whole(self) -> int:
        """Its length in units."""
        return self.far[-1] if self.far else 0

    def place(self, at: int) -> tuple[int, int, int]:
        """Where it is after so many units."""
        n = min(max(bisect_right(self.far, at) - 1, 0), len(self.far) - 2)
        leg, rest = self.far[n + 1] - self.far[n], at - self.far[n]
        if not leg:
            return self.stops[n]
        (ax, ay, az), (bx, by, bz) = self.stops[n], self.stops[n + 1]
        return tuple(a + (b - a) * rest // leg for a, b in ((ax, bx), (ay, by), (az, bz)))  # type: ignore[return-value]


class Walk(Protocol):
    """What a role may ask of a walk, and bring about.  tick : now.  deep : a voxel room.
    side : seen from the side."""

    tick: int
    deep: bool
    side: bool

    def a_tick(self, speed: float) -> int:
        """Units a tick of cells a second."""

    def units(self, cells: float) -> int:
        """A length in cells."""

    def say(self, words: str) -> None:
        """Tell what happened."""

    def fresh(self, me: Me) -> bool:
        """Whether the figure did not touch it at the tick before."""

    def take(self, me: Me) -> None:
        """Take it away, and remember it as taken."""

    def switch(self, me: Me, on: bool) -> None:
        """Turn it on or off."""

    def turn_over(self) -> None:
        """Let gravity pull the other way."""

    def throw(self, me: Me, up: float, on: float) -> None:
        """Throw the figure so many cells up and on."""

    def bring_back(self, why: str) -> None:
        """Put the figure where it stood safely last."""

    def enter(self, me: Me, room: str, door: int, ends_world: bool, place: str) -> None:
        """Go through a door, into a room as it is worn at a place on the plan."""

    def end(self, what: str) -> None:
        """`room` or `world` is done."""

    def stands_on(self, me: Me) -> bool:
        """Whether the figure stands on it."""

    def free_ahead(self, me: Me, dx: int, dy: int, edges_too: bool) -> bool:
        """Whether it can go so far; edges_too : with ground below it there."""

    def middle_of_group(self, me: Me) -> tuple[int, int]:
        """(x, y) of the middle of its innermost group, where that was placed."""

    def track_of(self, me: Me) -> Track | None:
        """The curve that it goes along; None for none."""

    def send(self, me: Me, prefab: str, speed: tuple[int, int, int], lasts: int) -> None:
        """Send out a thing of a prefab, at so many units a tick, for so many ticks."""

    def count_of(self, of: str) -> int:
        """What taken things of a prefab or a class count together."""

    def is_on(self, number: int) -> bool:
        """Whether the switch of that number is on."""

    def is_cleared(self) -> bool:
        """Whether all that counts for clearing the room is done."""

    def is_inside(self, region: str) -> bool:
        """Whether the middle of the figure is in a region of the room."""


@dataclass(frozen=True)
class RoleKind:
    """A role: a small dataclass with a plain sentence, whose blanks are its properties.

    form : its sentence with what can be set in it.  drawing : its mark, in a square.
    wanders : it leaves its place, so that it is looked for everywhere.
    """

    kind: ClassVar[str]
    form: ClassVar[Form] = ()
    drawing: ClassVar[tuple[Mark, ...]] = ()
    wanders: ClassVar[bool] = False

    def harmful(self) -> bool:
        """Whether touching it brings the figure back."""
        return False

    def sentence(self) -> str:
        """The role in plain words."""
        return told(self, self.form)

    # --- in the walk ----------------------------------------------------------------------

    def in_the_way(self, me: Me) -> bool:
        """Whether nothing goes through it."""
        return False

    def acts_by_itself(self) -> bool:
        """Whether it is asked at each tick, wherever the figure is."""
        return type(self).moves is not RoleKind.moves

    def moves(self, me: Me, walk: Walk) -> None:
        """What it does at each tick."""

    def touched(self, me: Me, walk: Walk) -> None:
        """The figure is where it is, or stands on it."""

    def acted(self, me: Me, walk: Walk) -> None:
        """The figure acted, and it was within reach."""

    def done(self, me: Me) -> bool:
        """Whether it is done, where it counts for clearing its room."""
        return me.gone

    def state(self, me: Me) -> str:
        """How it is now, in a word."""
        return "gone" if me.gone else "still"


def choices(*words: str) -> tuple[tuple[object, str], ...]:
    """Values that are their own words."""
    return tuple((word, word) for word in words)


BY = Blank("by", "choice", choices=choices("touching it", "acting on it"))
