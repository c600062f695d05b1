"""What there is to tell of a walk: its things and their state, what is done, what happened."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

from topion.roles import Pickup, RoleKind, Switch
from topion.walk.lives import Live, is_done
from topion.walk.scale import TICKS
from topion.walk.state import Key, State

_DONE = ("on", "open", "reached", "taken", "cleared")
_NO_WAY = "no way found"
_TOLD_TICKS = 60 * TICKS  # of the way so far that is looked through for news
_LEAST_RISE = 0.25  # cells of a jump that is told


@dataclass(frozen=True)
class Member:
    """One thing of a row: where it was placed, and its state in words.  missed : no way to it was
    found."""

    key: Key
    where: str
    words: str
    done: bool
    missed: bool = False


@dataclass(frozen=True)
class Row:
    """The things of one prefab in one layer.  words : what they are.  state : how they are now.

    ink : of the state, for the eye.
    """

    layer: str
    prefab: str
    words: str
    state: str
    ink: str
    members: tuple[Member, ...]

    @property
    def title(self) -> str:
        """The prefab, and how many."""
        return f"{self.prefab} ×{len(self.members)}" if len(self.members) > 1 else self.prefab


def rows_of(state: State, missed: frozenset[Key] = frozenset()) -> list[Row]:
    """Things of one prefab and layer together, in the order of the room.  missed : those to which
    no way was found."""
    stage = state.world.stage(state.room)
    groups: dict[tuple[str, str], list[Live]] = {}
    for place, (actor, now) in enumerate(zip(stage.actors, state.lives, strict=True)):
        live = Live(actor, now, place)
        groups.setdefault((actor.key[0], actor.prefab), []).append(live)
    return [_row(state, *key, lives, missed) for key, lives in groups.items()]


def _row(
    state: State, layer_id: str, prefab: str, lives: list[Live], missed: frozenset[Key]
) -> Row:
    layer, role = state.world.room(state.room).layers[layer_id].info.name, lives[0].role
    states = [_state_of(live) for live in lives]
    done = sum(1 for live in lives if is_done(live))
    counting = any(live.actor.counts for live in lives)
    if len(lives) > 1 and done and (isinstance(role, Pickup | Switch) or counting):
        words = f"{done} of {len(lives)}"
    else:
        words = ", ".join(sorted(set(states)))
    good = (done == len(lives) and counting) or all(word in _DONE for word in states)
    ink = "tidal" if good else "ochre" if "shut" in states else "soft"
    members = tuple(_member(state, live, told, missed)
                    for live, told in zip(lives, states, strict=True))  # fmt: skip
    far = sum(member.missed for member in members)
    if far and far == len(members):
        words, ink = _NO_WAY, "buoy"
    return Row(layer, prefab, _about(lives), words, ink, members)


def _about(lives: list[Live]) -> str:
    """The role, what it waits for, and when something changed last."""
    role, when = lives[0].role, lives[0].actor.when
    kind = role.kind if role is not None else "waits"
    if when.all_of:
        return f"{kind} · {when.sentence().rstrip('.').lower()}"
    since = max(live.since for live in lives)
    return f"{kind} · at {since / TICKS:.1f} s" if since else kind


def _member(state: State, live: Live, told: str, missed: frozenset[Key]) -> Member:
    room = state.world.room(state.room)
    thing = room.layers[live.actor.key[0]].things.get(live.number)
    at = thing.at[-room.info.axes :] if thing is not None else ()
    where = ", ".join(f"{value:g}" for value in at)
    words = f"{told} at {live.since / TICKS:.1f} s" if live.since else told
    far = live.actor.key in missed and told not in _DONE
    return Member(live.actor.key, where, _NO_WAY if far else words, told in _DONE, far)


def _state_of(live: Live) -> str:
    if live.gone and not live.since:
        return "not yet"
    return live.role.state(live) if isinstance(live.role, RoleKind) else "there"


def cleared_of(state: State) -> tuple[int, int]:
    """(done, all) of what counts for clearing the room."""
    stage = state.world.stage(state.room)
    counting = [Live(stage.actors[n], state.lives[n]) for n in stage.counting]
    return sum(is_done(live) for live in counting), len(counting)


def news(states: Sequence[State], at: int, most: int) -> list[tuple[float, str]]:
    """(seconds, words) of what happened until the state `at`, and of its jumps, the latest
    first."""
    found: list[tuple[float, str]] = []
    for tick in range(at, max(0, at - _TOLD_TICKS), -1):
        told = [*reversed(states[tick].news)]
        if states[tick].ground and not states[tick - 1].ground:
            told += [words for words in (jump_told(states, tick),) if words]
        found += [(tick / TICKS, words) for words in told]
        if len(found) >= most:
            break
    return found[:most]


def jump_told(states: Sequence[State], landed: int) -> str:
    """How far and how high the jump was that ended there; nothing of a fall or a step."""
    end, first = states[landed], landed - 1
    while first > 0 and not states[first].ground:
        if states[first].room != end.room or states[first].backs != end.backs:
            return ""
        first -= 1
    begun = states[first]
    if begun.room != end.room or begun.over != end.over or begun.backs != end.backs:
        return ""
    cell = end.world.scale.cell
    deep = end.world.stage(end.room).view == "voxel"
    heights = [s.z if deep else s.y if s.over else -s.y for s in states[first : landed + 1]]
    up = (max(heights) - heights[0]) / cell
    along = hypot(end.x - begun.x, end.y - begun.y if deep else 0) / cell
    return f"jumped {along:.1f} along, {up:.1f} up" if up >= _LEAST_RISE else ""
