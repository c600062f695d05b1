"""The figure in a room seen from the side: runs, jumps, climbs, swims and falls."""

from __future__ import annotations

from typing import cast

from topion.walk.keys import DOWN, JUMP, LEFT, RIGHT, UP
from topion.walk.side import Way
from topion.walk.terrain import CLIMB, SOLID, WATER
from topion.walk.walking import Walking
from topion.walk.ways import way_of

_SHORT = 3  # times as fast a jump ends once its key is up
_SWUM = 3  # times as low a stroke in water is


def move(walk: Walking) -> None:
    """One tick.  Where gravity pulls up, everything is done upside down."""
    way = cast(Way, way_of(walk.stage, walk.wide, walk.high, walk.in_the_way(), over=walk.over))
    _Mover(walk, way).move()


class _Mover:
    """y : of the top of the figure as gravity sees it; it falls towards larger ones."""

    def __init__(self, walk: Walking, way: Way) -> None:
        self.walk, self.way = walk, way
        self.x, self.y = walk.x, self._turned(walk.y)
        self.wet = bool(way.terrain.at(self.middle, self.y + walk.high // 2) & WATER)
        self.through = False  # ledges, at this tick

    def _turned(self, y: int) -> int:
        return self.walk.stage.size[1] - y - self.walk.high if self.walk.over else y

    @property
    def middle(self) -> int:
        """Across."""
        return self.x + self.walk.wide // 2

    @property
    def feet(self) -> int:
        """The height of its feet."""
        return self.y + self.walk.high

    def move(self) -> None:
        """All of a tick."""
        walk = self.walk
        self._climb_or_let_go()
        self._across()
        if walk.climbs:
            self._climb()
        else:
            self._jump()
            self._fall()
        walk.x, walk.y = self.x, self._turned(self.y)
        walk.air = 0 if walk.ground or walk.climbs else walk.air + 1

    # --- across ---------------------------------------------------------------------------

    def _across(self) -> None:
        walk, scale = self.walk, self.walk.scale
        ways = bool(walk.keys & RIGHT) - bool(walk.keys & LEFT)
        if ways:
            walk.looks = ways
        dx = ways * scale.speed // (2 if self.wet else 1)
        slide = self._slide() if walk.ground else 0
        if slide:
            dx = slide * scale.speed // 2
        if walk.thrown[0]:
            dx = walk.thrown[0]
        step = scale.step if walk.ground else 0
        before = self.x
        self.x, self.y = self.way.across(self.x, self.y, dx, step)
        if walk.thrown[0] and self.x != before + dx:
            walk.thrown = (0, 0)
        if walk.ground and walk.vy >= 0 and self.x != before:
            below = self.way.floor_below(self.x, self.feet, abs(dx) + 1)
            if below is not None:  # stays on a slope that goes down
                self.y = below - walk.high

    def _slide(self) -> int:
        """To which side a steep slope takes it."""
        if self.walk.world.figure.slopes != "slides":
            return 0
        for profile in self.way.profiles_at(self.x, self.feet):
            if abs(profile[-1] - profile[0]) >= self.way.terrain.cell:
                return 1 if profile[0] > profile[-1] else -1
        return 0

    # --- up and down ----------------------------------------------------------------------

    def _on_ladder(self, y: int) -> bool:
        return bool(self.way.terrain.at(self.middle, y) & CLIMB)

    def _climb_or_let_go(self) -> None:
        walk = self.walk
        held = walk.keys & (UP | DOWN)
        up, down = (DOWN, UP) if walk.over else (UP, DOWN)
        if walk.climbs:
            if walk.pressed(JUMP):
                walk.climbs, walk.vy, walk.ground = False, 0, True
            elif not self._on_ladder(self.feet - 1):
                walk.climbs = False
        elif held & up and self._on_ladder(self.feet - 1):
            walk.climbs, walk.vy, walk.thrown = True, 0, (0, 0)
        elif held & down and walk.ground and self._on_ladder(self.feet):
            solid = self.way.terrain.at(self.middle, self.feet) & SOLID
            walk.climbs, walk.vy = not solid, 0

    def _climb(self) -> None:
        walk, scale = self.walk, self.walk.scale
        up, down = (DOWN, UP) if walk.over else (UP, DOWN)
        walk.ground = False
        cell = self.way.terrain.cell
        if walk.keys & up:
            roof = self.way.roof_above(self.x, self.y, scale.climb)
            self.y = self.y - scale.climb if roof is None else roof
            if not self._on_ladder(self.feet - 1):  # over its top: stands on it
                self.y = -(-self.feet // cell) * cell - walk.high
                walk.climbs, walk.ground = False, True
        elif walk.keys & down:
            floor = self.way.floor_below(self.x, self.feet, scale.climb, through=True)
            self.y = self.y + scale.climb if floor is None else floor - walk.high
            if floor is not None:
                walk.climbs, walk.ground = False, True

    def _jump(self) -> None:
        walk, scale = self.walk, self.walk.scale
        if not walk.pressed(JUMP):
            return
        drops = walk.keys & (UP if walk.over else DOWN)
        if (
            drops
            and walk.ground
            and self.way.floor_below(self.x, self.feet, 0, through=True) is None
        ):
            self.y, self.through, walk.ground = self.y + 1, True, False
            return
        if walk.ground or (walk.air <= scale.coyote and walk.vy >= 0 and walk.air):
            walk.vy, walk.ground = -scale.jump, False
            walk.air = scale.coyote + 1
        elif self.wet:
            walk.vy = -scale.jump // _SWUM

    def _fall(self) -> None:
        walk = self.walk
        if walk.ground:
            if self.way.floor_below(self.x, self.feet, 0) is not None:
                walk.vy, walk.thrown = 0, (0, 0)
                return
            walk.ground = False
        if walk.vy < 0:
            roof = self.way.roof_above(self.x, self.y, -walk.vy)
            self.y = self.y + walk.vy if roof is None else roof
            if roof is not None and roof > self.y + walk.vy:
                walk.vy = 0
        else:
            floor = self.way.floor_below(self.x, self.feet, walk.vy, self.through)
            self.y = self.y + walk.vy if floor is None else floor - walk.high
            if floor is not None:
                walk.vy, walk.ground, walk.thrown = 0, True, (0, 0)
                return
        self._pull()

    def _pull(self) -> None:
        """Gravity, after the move: so a jump rises as high as it is said to."""
        walk, scale = self.walk, self.walk.scale
        gravity = scale.gravity
        if walk.vy < 0 and not walk.keys & JUMP and not walk.thrown[0] and not self.wet:
            gravity *= 1 if self._was_thrown() else _SHORT
        if self.wet:
            walk.vy = min(walk.vy + gravity // 4, scale.fastest // 6)
        else:
            walk.vy = min(walk.vy + gravity, scale.fastest)

    def _was_thrown(self) -> bool:
        """It rises faster than it can jump: something threw it."""
        return self.walk.vy < -self.walk.scale.jump
