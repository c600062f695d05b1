"""Where the figure stands that comes out of a door."""

from __future__ import annotations

from topion.walk.lives import Lives
from topion.walk.stage import Stage, grown
from topion.walk.ways import is_free
from topion.walk.world import World

_FAR = 3  # cells from a door
# (y, x) from the nearest on; to the south first, as most doors are seen from there
_BESIDE = sorted(((y, x) for y in range(-_FAR, _FAR + 1) for x in range(-_FAR, _FAR + 1)),
                 key=lambda at: (at[0] ** 2 + at[1] ** 2, -at[0], at[1]))[1:]  # fmt: skip


def coming_out(world: World, stage: Stage, home: tuple[int, ...]) -> tuple[int, int, int]:
    """(x, y, z) of the figure: in the door, or where that is set into a wall, in the nearest cell
    beside it in which the figure fits.  home : the edges of the door, in units."""
    at, cell = world.standing_in(stage, home), world.scale.cell
    solid = Lives(stage, stage.first()).in_the_way(grown(home, (_FAR + 2) * cell))
    others = [live.home for live in solid if live.home != home]
    for y, x in ((0, 0), *_BESIDE):
        beside = at[0] + x * cell, at[1] + y * cell, at[2]
        if is_free(world, stage, *beside, others if (y, x) != (0, 0) else ()):
            return beside
    return at
