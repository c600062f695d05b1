"""A room made ready to be walked: its terrain, and the things in it that do something."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from math import isqrt
from typing import TypeAlias

import numpy as np

from topion.model.condition import When
from topion.model.prefab import Prefab, Thing, turned_offsets
from topion.model.project import Project
from topion.model.room import Room
from topion.roles import Door, Mover, RoleKind, Start
from topion.roles.kind import Edges, Track
from topion.things.along import curve_under, track_along
from topion.walk.deep import DeepTerrain, deep_terrain
from topion.walk.places import Places
from topion.walk.scale import Scale
from topion.walk.state import Key, Now
from topion.walk.terrain import Terrain, side_terrain, top_terrain

AnyTerrain: TypeAlias = Terrain | DeepTerrain


@dataclass(frozen=True)
class Actor:
    """A thing that does something, as it was placed.  home : its edges, in units.  track : of
    those that go along a curve.

    role : None where it only appears, or counts for nothing else than being there.
    """

    key: Key
    prefab: str
    role: RoleKind | None
    when: When
    counts: bool
    home: Edges
    turn: float
    mirrored: bool
    groups: tuple[int, ...]
    track: Track | None = None

    @cached_property
    def harmful(self) -> bool:
        """Whether touching it brings the figure back."""
        return self.role is not None and self.role.harmful()


@dataclass(frozen=True, eq=False)
class Stage:
    """view : of the room.  size : its edges at the far ends, (x, y, z) in units.

    near : all things by their places; near_solid : those that may stand in the way.  acting :
    the places of those that do something at each tick; waiting : that have conditions; counting :
    that count for clearing the room.  by_key : the place of each.
    """

    room: str
    view: str
    terrain: AnyTerrain
    actors: tuple[Actor, ...]
    size: tuple[int, int, int]
    middles: dict[int, tuple[int, int]]  # of groups, where they were placed
    regions: dict[str, bytes]  # by name, a byte a cell, 1 inside
    near: Places
    near_solid: Places
    acting: tuple[int, ...]
    waiting: tuple[int, ...]
    counting: tuple[int, ...]
    by_key: dict[Key, int]

    def is_in(self, region: str, x: int, y: int, z: int) -> bool:
        """Whether a point, in units, lies in a region of the room."""
        inside, cell = self.regions.get(region), self.terrain.cell
        columns, rows = self.size[0] // cell, self.size[1] // cell
        column, row, level = x // cell, y // cell, z // cell
        if inside is None or not (0 <= column < columns and 0 <= row < rows):
            return False
        if self.view != "voxel":
            level = 0
        elif not 0 <= level < self.size[2] // cell:
            return False
        return bool(inside[(level * rows + row) * columns + column])

    @cached_property
    def harming(self) -> bool:
        """Whether anything in it harms."""
        return any(actor.harmful for actor in self.actors)

    @cached_property
    def layers(self) -> tuple[str, ...]:
        """The ids of the layers its things lie in."""
        return tuple(dict.fromkeys(actor.key[0] for actor in self.actors))

    def first(self) -> tuple[Now, ...]:
        """How all of them are when the room is entered for the first time."""
        return tuple(Now(on=_open(actor), gone=_hidden(actor)) for actor in self.actors)

    def start(self) -> Actor | None:
        """The thing that the figure begins at."""
        return next((a for a in self.actors if isinstance(a.role, Start)), None)

    def actor_numbered(self, number: int) -> Actor | None:
        """The one of that number."""
        return next((a for a in self.actors if a.key[1] == number), None)


def _open(actor: Actor) -> bool:
    """Whether it is a door that nothing keeps shut."""
    return isinstance(actor.role, Door) and not (actor.when.effect == "opens" and
                                                 actor.when.all_of)  # fmt: skip


def _hidden(actor: Actor) -> bool:
    """Whether it is not there yet; only doors can be shut instead."""
    shut = actor.when.effect == "opens" and isinstance(actor.role, Door)
    return bool(actor.when.all_of) and not shut


def stage_of(project: Project, room: Room, scale: Scale) -> Stage:
    """A room made ready for a figure of that scale."""
    view, cell = room.info.view, scale.cell
    terrain: AnyTerrain
    if view == "voxel":
        terrain = deep_terrain(project, room, cell)
    else:
        make = side_terrain if view == "side" else top_terrain
        terrain = make(project, room, cell)
    actors = tuple(_actors(project, room, scale))
    *level, rows, columns = room.info.size
    size = (columns * cell, rows * cell, level[0] * cell if level else 0)
    regions = {layer.info.name: layer.plane("inside").tobytes() for _, layer in room.regions()}
    plain = RoleKind.in_the_way
    solid = [n for n, a in enumerate(actors) if a.role and type(a.role).in_the_way is not plain]
    return Stage(
        room.info.name, view, terrain, actors, size, _middles(actors), regions,
        near=_places(actors, range(len(actors)), cell),
        near_solid=_places(actors, solid, cell),
        acting=tuple(n for n, a in enumerate(actors) if a.role and a.role.acts_by_itself()),
        waiting=tuple(n for n, actor in enumerate(actors) if actor.when.all_of),
        counting=tuple(n for n, actor in enumerate(actors) if actor.counts),
        by_key={actor.key: n for n, actor in enumerate(actors)},
    )  # fmt: skip


def alone(stage: Stage) -> Stage:
    """The same room with nothing in it."""
    nothing = Places.of((), (), stage.terrain.cell)
    return replace(stage, actors=(), near=nothing, near_solid=nothing, acting=(), waiting=(),
                   counting=(), by_key={})  # fmt: skip


def _places(actors: tuple[Actor, ...], of: Iterable[int], cell: int) -> Places:
    staying, moving = [], []
    for number in of:
        role = actors[number].role
        if role is not None and role.wanders:
            moving.append(number)
        else:
            staying.append((number, actors[number].home))
    return Places.of(staying, moving, cell)


def _actors(project: Project, room: Room, scale: Scale) -> list[Actor]:
    found, bodies = [], dict[tuple[object, ...], _Body]()
    for layer_id, layer in room.bottom_up("things"):
        for number, thing in layer.things.items() if layer.info.shown else ():
            prefab = project.prefabs.get(thing.prefab)
            if prefab is None:
                continue
            role = thing.role if thing.role is not None else prefab.role
            when = thing.when if thing.when is not None else prefab.when
            counts = prefab.counts if thing.counts is None else thing.counts
            known = role if isinstance(role, RoleKind) else None
            if known is not None or when.all_of or counts:
                key = (prefab.name, *thing.stance)
                body = bodies.get(key) or bodies.setdefault(key, _body(prefab, thing, room))
                home = _edges(body, thing, scale)
                track = None
                if isinstance(known, Mover) and known.goes == "along its curve":
                    track = _track(project, room, thing, scale)
                found.append(Actor((layer_id, number), prefab.name, known, when, counts, home,
                                   thing.turn, thing.mirrored, thing.groups, track))  # fmt: skip
    return found


def _track(project: Project, room: Room, thing: Thing, scale: Scale) -> Track | None:
    """The curve that a thing is attached to, as far aside as it stands."""
    curve = curve_under(room, thing)
    if curve is None:
        return None
    places, own = track_along(project, room, curve, thing)
    at = np.round(places - np.array(thing.at[-places.shape[1] :]), 4)
    stops = []
    for *level, y, x in at.tolist():
        stops.append((scale.units(x), scale.units(y), scale.units(level[0]) if level else 0))
    far = [0]
    for one, two in pairwise(stops):
        far.append(far[-1] + isqrt(sum((b - a) ** 2 for a, b in zip(one, two, strict=True))))
    return Track(tuple(stops), tuple(far), far[own], curve.closed)


_Body = tuple[tuple[int, ...], tuple[int, ...]]


def _body(prefab: Prefab, thing: Thing, room: Room) -> _Body:
    """The first and the end of the cells that a thing so turned stands in, from its own."""
    _, turn, mirrored, tip = thing.stance
    offsets = turned_offsets(prefab, turn, mirrored, room.info.axes, tip)
    return tuple(offsets.min(axis=0).tolist()), tuple((offsets.max(axis=0) + 1).tolist())


def _edges(body: _Body, thing: Thing, scale: Scale) -> Edges:
    """The edges of the box round the cells that a thing stands in, between cells too, in units."""
    lo, hi = body
    x, y, cell = scale.units(thing.x), scale.units(thing.y), scale.cell
    plan = (x + lo[-1] * cell, y + lo[-2] * cell, x + hi[-1] * cell, y + hi[-2] * cell)
    if len(lo) == 2:
        return plan
    foot = scale.units(thing.z) + lo[0] * cell
    return (*plan, foot, foot + (hi[0] - lo[0]) * cell)


def _middles(actors: tuple[Actor, ...]) -> dict[int, tuple[int, int]]:
    """The middle of the box round the homes of each innermost group."""
    homes: dict[int, list[Edges]] = {}
    for actor in actors:
        if actor.groups:
            homes.setdefault(actor.groups[-1], []).append(actor.home)
    found = {}
    for group, boxes in homes.items():
        edges = np.array([box[:4] for box in boxes], object)
        x = (int(edges[:, 0].min()) + int(edges[:, 2].max())) // 2
        y = (int(edges[:, 1].min()) + int(edges[:, 3].max())) // 2
        found[group] = (x, y)
    return found


def meets(one: Edges, other: Edges) -> bool:
    """Whether two boxes share more than an edge."""
    return (
        one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]
        and (len(one) == 4 or len(other) == 4 or (one[4] < other[5] and other[4] < one[5]))
    )  # fmt: skip


def grown(edges: Edges, far: int) -> Edges:
    """A box so many units larger on all its sides."""
    plan = (edges[0] - far, edges[1] - far, edges[2] + far, edges[3] + far)
    return plan if len(edges) == 4 else (*plan, edges[4] - far, edges[5] + far)
