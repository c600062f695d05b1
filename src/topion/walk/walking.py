"""One tick of a walk while it happens: a copy of the state that roles and moves change."""

from __future__ import annotations

from collections.abc import Iterator
from typing import cast

from topion.roles import Pickup
from topion.roles.kind import Edges, Track, Walk
from topion.walk.deep import DeepWay
from topion.walk.entering import coming_out
from topion.walk.keys import Keys
from topion.walk.lives import Live, Lives, is_done
from topion.walk.side import Way
from topion.walk.stage import Stage, grown, meets
from topion.walk.state import Now, Sent, State
from topion.walk.ways import way_of
from topion.walk.world import World


class Walking:
    """The state of a tick in the making; see `roles.kind.Walk` for what roles may ask of it."""

    def __init__(self, state: State, keys: Keys) -> None:
        self.world: World = state.world
        self.scale = self.world.scale
        self.before, self.keys = state, keys
        self.tick = state.tick + 1
        self.x, self.y, self.z, self.vy, self.thrown = (
            state.x,
            state.y,
            state.z,
            state.vy,
            state.thrown,
        )
        self.looks, self.ground, self.air = state.looks, state.ground, state.air
        self.climbs, self.over, self.sent = state.climbs, state.over, [*state.sent]
        self.rooms, self.taken = dict(state.rooms), state.taken
        self.safe, self.ended, self.backs = state.safe, state.ended, state.backs
        self.inside, self.cleared, self.worn = state.inside, state.cleared, state.worn
        self.touching: set[int] = set()
        self.news: list[str] = []
        self.left = False  # the room, or the place: nothing else is touched at this tick
        self._use(state.room, state.lives)

    def _use(self, room: str, lives: tuple[Now, ...]) -> None:
        self.room = room
        self.stage: Stage = self.world.stage(room)
        self.deep, self.side = self.stage.view == "voxel", self.stage.view == "side"
        self.wide, self.high = self.world.sizes(self.stage.view)
        self.lives = Lives(self.stage, lives)

    def state(self) -> State:
        """What came of it."""
        return State(
            self.world, self.room, self.tick, self.x, self.y, self.z, self.lives.now(), self.vy,
            self.thrown, self.looks, self.ground, self.air, self.climbs, self.over, self.keys,
            tuple(self.sent), tuple(sorted(self.rooms.items())), self.taken, self.safe, self.ended,
            self.backs, self.inside, tuple(sorted(self.touching)), self.cleared, self.worn,
            tuple(self.news),
        )  # fmt: skip

    # --- the figure -----------------------------------------------------------------------

    @property
    def edges(self) -> Edges:
        """Of the figure."""
        plan = (self.x, self.y, self.x + self.wide,
                self.y + (self.wide if self.deep else self.high))  # fmt: skip
        return (*plan, self.z, self.z + self.high) if self.deep else plan

    def pressed(self, key: Keys) -> bool:
        """Whether a key came down at this tick."""
        return bool(self.keys & key) and not self.before.held & key

    def in_the_way(self) -> list[Edges]:
        """The boxes of things that nothing goes through and that it may meet at this tick."""
        if not self.stage.actors:
            return []
        scale = self.scale
        far = 2 * scale.cell + scale.fastest + scale.jump + scale.speed + scale.step + scale.climb
        far += abs(self.vy) + sum(map(abs, self.thrown))
        return [live.edges for live in self.lives.in_the_way(grown(self.edges, far))]

    def fresh(self, me: Live) -> bool:
        """Whether the figure did not touch it at the tick before."""
        return me.place not in self.before.touching

    def stands_on(self, me: Live) -> bool:
        """Whether the figure stands on it, or in it."""
        if not self.ground:
            return False
        mine, edges = self.edges, me.edges
        over = mine[0] < edges[2] and edges[0] < mine[2]
        if self.deep:
            return over and mine[1] < edges[3] and edges[1] < mine[3] and (
                edges[4] <= mine[4] <= edges[5])  # fmt: skip
        if not self.side:
            return meets(mine, edges)
        feet = mine[1] if self.over else mine[3]
        return over and edges[1] <= feet <= edges[3]

    def asked(self) -> Walk:
        """The same, as roles and conditions know it."""
        return cast(Walk, self)

    # --- what roles bring about -----------------------------------------------------------

    def a_tick(self, speed: float) -> int:
        """Units a tick of cells a second."""
        return self.scale.a_tick(speed)

    def units(self, cells: float) -> int:
        """A length in cells."""
        return self.scale.units(cells)

    def say(self, words: str) -> None:
        """Tell what happened."""
        self.news.append(words)

    def take(self, me: Live) -> None:
        """Take it away, and remember it as taken."""
        me.gone, me.since = True, self.tick
        self.taken = tuple(sorted({*self.taken, (self.room, *me.actor.key)}))

    def switch(self, me: Live, on: bool) -> None:
        """Turn it on or off."""
        me.on, me.since = on, self.tick

    def turn_over(self) -> None:
        """Let gravity pull the other way; there is none seen from above."""
        if self.side:
            self.over = not self.over
            self.vy, self.ground, self.climbs = 0, False, False
            self.say("gravity turned over")

    def throw(self, me: Live, up: float, on: float) -> None:
        """Throw the figure so many cells up and on."""
        self.vy = -self.scale.thrown(up)
        ticks = 2 * max(1, -self.vy // self.scale.gravity)
        far = self.scale.units(on) // ticks
        quarters = round(me.turn / 90) % 4
        if me.mirrored:
            far = -far
        ways = ((far, 0), (0, far), (-far, 0), (0, -far))
        self.thrown = ways[quarters] if self.deep else (far, 0)
        self.ground, self.climbs = False, False

    def bring_back(self, why: str) -> None:
        """Put the figure where it stood safely last."""
        room, self.x, self.y, self.z, self.over = self.safe
        if room != self.room:
            self._change_room(room)
        self.vy, self.thrown, self.ground, self.climbs, self.left = 0, (0, 0), False, False, True
        self.backs += 1
        self.say(f"brought back by {why}")

    def enter(self, me: Live, room: str, door: int, ends_world: bool, place: str) -> None:
        """Go through a door; not at once through the one it came out of."""
        if self.inside == me.actor.key or self.left:
            self.inside = me.actor.key
            return
        if ends_world:
            self.inside = me.actor.key
            self.say(f"through {me.name}")
            self.end("world")
            return
        if not room or room not in self.world.project.rooms:
            return
        self._change_room(room)
        self.worn = self.world.placed_as(room, place)
        there = self.stage.actor_numbered(door) or self.stage.start()
        if there is not None:
            self.x, self.y, self.z = coming_out(self.world, self.stage, there.home)
            self.inside = there.key
        else:
            begun = self.world.begin(room)
            self.x, self.y, self.z, self.inside = begun.x, begun.y, begun.z, None
        self.over, self.vy, self.thrown = self.world.falls_up(self.stage), 0, (0, 0)
        self.safe = (room, self.x, self.y, self.z, self.over)
        self.left = True
        self.say(f"through {me.name} into {room}")

    def _change_room(self, room: str) -> None:
        self.rooms[self.room] = self.lives.now()
        stage = self.world.stage(room)
        self.sent = []
        self._use(room, self.rooms.pop(room, ()) or stage.first())

    def end(self, what: str) -> None:
        """`room` or `world` is done."""
        if self.ended != "world":
            self.ended = what

    def free_ahead(self, me: Live, dx: int, dy: int, edges_too: bool) -> bool:
        """Whether it can go so far; edges_too : with ground below it there."""
        edges = me.edges
        reached = grown(edges, abs(dx) + abs(dy))
        others = [live.edges for live in self.lives.in_the_way(reached) if live is not me]
        wide, high = edges[2] - edges[0], edges[3] - edges[1]
        if self.deep:
            return self._free_in_space(edges, dx, dy, others, edges_too)
        way = cast(Way, way_of(self.stage, wide, high, others))
        x, y = edges[0] + dx, edges[1] + dy
        if way.blocked(x, y) or x < 0 or x + wide > self.stage.size[0]:
            return False
        if not (edges_too and self.side):
            return True
        foot = cast(Way, way_of(self.stage, 1, high, others))
        return foot.floor_below(x + wide - 1 if dx > 0 else x, edges[3], 0) is not None

    def _free_in_space(
        self, edges: Edges, dx: int, dy: int, others: list[Edges], edges_too: bool
    ) -> bool:
        wide, high = max(edges[2] - edges[0], edges[3] - edges[1]), edges[5] - edges[4]
        way = cast(DeepWay, way_of(self.stage, wide, high, others))
        x, y, z = edges[0] + dx, edges[1] + dy, edges[4]
        if way.blocked(x, y, z):
            return False
        if not edges_too:
            return True
        foot = cast(DeepWay, way_of(self.stage, 1, high, others))
        ahead_x = x + (wide - 1 if dx > 0 else 0 if dx < 0 else wide // 2)
        ahead_y = y + (wide - 1 if dy > 0 else 0 if dy < 0 else wide // 2)
        return foot.floor_below(ahead_x, ahead_y, z, 0) is not None

    def middle_of_group(self, me: Live) -> tuple[int, int]:
        """(x, y) of the middle of its innermost group, where that was placed."""
        home, groups = me.home, me.actor.groups
        alone = ((home[0] + home[2]) // 2, (home[1] + home[3]) // 2)
        return self.stage.middles.get(groups[-1], alone) if groups else alone

    def track_of(self, me: Live) -> Track | None:
        """The curve that it goes along."""
        return me.actor.track

    def send(self, me: Live, prefab: str, speed: tuple[int, int, int], lasts: int) -> None:
        """Send out a thing of a prefab, at so many units a tick, for so many ticks."""
        edges = me.edges
        x, y = (edges[0] + edges[2]) // 2, (edges[1] + edges[3]) // 2
        z = (edges[4] + edges[5]) // 2 if len(edges) == 6 else 0
        self.sent.append(Sent(me.place, x, y, z, *speed, self.tick + lasts))

    # --- what conditions ask --------------------------------------------------------------

    def count_of(self, of: str) -> int:
        """What taken things of a prefab or a class count together."""
        return sum(counts for names, counts in self._taken() if of in names)

    def _taken(self) -> Iterator[tuple[tuple[str, ...], int]]:
        for room, layer_id, number in self.taken:
            stage = self.world.stage(room)
            place = stage.by_key.get((layer_id, number))
            if place is not None:
                actor = stage.actors[place]
                counts = actor.role.counts if isinstance(actor.role, Pickup) else 1
                yield self.world.counted_as(actor.prefab), counts

    def is_on(self, number: int) -> bool:
        """Whether the switch of that number is on."""
        keys = ((layer_id, number) for layer_id in self.stage.layers)
        places = (self.stage.by_key.get(key) for key in keys)
        return any(self.lives[place].on for place in places if place is not None)

    def is_cleared(self) -> bool:
        """Whether all that counts for clearing the room is done, and something does."""
        counting = self.stage.counting
        return bool(counting) and all(is_done(live) for live in self.lives.some(counting))

    def is_inside(self, region: str) -> bool:
        """Whether the middle of the figure is in a region of the room."""
        deep = self.wide if self.deep else self.high
        x, y, z = self.x + self.wide // 2, self.y + deep // 2, self.z + self.high // 2
        return self.stage.is_in(region, x, y, z)
