"""The things of a room that count as places to get to, and when the figure got to one."""

from __future__ import annotations

from collections.abc import Iterator

from topion.roles import Door, Goal, Pickup, Switch
from topion.roles.kind import Edges
from topion.walk.keys import ACT
from topion.walk.stage import Actor, Stage, grown, meets
from topion.walk.state import Key, State


def places_of(stage: Stage) -> Iterator[Actor]:
    """Goals, doors, pickups and switches."""
    return (
        actor for actor in stage.actors if isinstance(actor.role, Goal | Door | Pickup | Switch)
    )


def met_at(before: State, after: State) -> Iterator[Key]:
    """The keys of the places that the figure got to at a tick: taken, turned, reached, gone
    through."""
    stage = before.world.stage(before.room)
    if after.whereabouts != before.whereabouts or (after.ended == "world" and not before.ended):
        yield from _gone_through(stage, before, after)
        return
    if after.held & ACT and not before.held & ACT:
        yield from _tried(stage, after)
    if after.lives is before.lives and not after.touching:
        return
    for place in after.touching:
        role = stage.actors[place].role
        open_ = isinstance(role, Door) and after.lives[place].on
        if open_ or isinstance(role, Goal | Pickup):
            yield stage.actors[place].key
    for place, (was, now) in enumerate(zip(before.lives, after.lives, strict=True)):
        role = stage.actors[place].role
        if (
            was is not now
            and was != now
            and (
                (isinstance(role, Pickup) and now.gone and not was.gone and now.since == after.tick)
                or (isinstance(role, Goal) and now.on)
                or (isinstance(role, Switch) and now.on != was.on and now.on)
            )
        ):
            yield stage.actors[place].key


def _tried(stage: Stage, state: State) -> Iterator[Key]:
    """The doors that are open and were acted upon, though they lead nowhere yet."""
    for place, actor in enumerate(stage.actors):
        role = actor.role
        if isinstance(role, Door) and role.by == "acting on it" and state.lives[place].on:
            body = grown(_body_of(stage, state), state.world.scale.cell - 1)
            if not role.room and meets(body, actor.home):
                yield actor.key


def _body_of(stage: Stage, state: State) -> Edges:
    wide, high = state.world.sizes(stage.view)
    if stage.view == "voxel":
        plan = (state.x, state.y, state.x + wide, state.y + wide)
        return (*plan, state.z, state.z + high)
    return (state.x, state.y, state.x + wide, state.y + high)


def _gone_through(stage: Stage, before: State, after: State) -> Iterator[Key]:
    """The door that led on, or the goal: of those that would, the nearest."""
    body = _body_of(stage, before)
    reach = before.world.scale.cell * 3 // 2
    ends = after.ended == "world"
    found = []
    for actor in stage.actors:
        role = actor.role
        leads = ((isinstance(role, Door) and (role.ends_world if ends else role.room == after.room))
                 or (isinstance(role, Goal) and ends))  # fmt: skip
        if leads and meets(grown(body, reach), actor.home):
            away = max(actor.home[0] - body[2], body[0] - actor.home[2],
                       actor.home[1] - body[3], body[1] - actor.home[3])  # fmt: skip
            found.append((away, actor.key))
    if found:
        yield min(found)[1]
