"""The figure in a room seen from above: eight ways, along walls."""

from __future__ import annotations

from typing import cast

from topion.walk.keys import DOWN, LEFT, RIGHT, UP
from topion.walk.terrain import WATER, Terrain
from topion.walk.top import TopWay
from topion.walk.walking import Walking
from topion.walk.ways import way_of

_ACROSS = (181, 256)  # the share of its speed along each axis on a slanted way


def move(walk: Walking) -> None:
    """One tick."""
    way = cast(TopWay, way_of(walk.stage, walk.wide, walk.high, walk.in_the_way()))
    x, y = plan_of(walk)
    if (
        cast(Terrain, walk.stage.terrain).at(walk.x + walk.wide // 2, walk.y + walk.high // 2)
        & WATER
    ):
        x, y = x // 2, y // 2
    if walk.thrown != (0, 0):
        x, y = walk.thrown
        walk.thrown = (0, 0)
    walk.x, walk.y = way.across(walk.x, walk.y, (x, y))
    walk.ground, walk.vy = True, 0


def plan_of(walk: Walking) -> tuple[int, int]:
    """(x, y) units a tick that its keys ask for, east and south; it looks there."""
    right = bool(walk.keys & RIGHT) - bool(walk.keys & LEFT)
    down = bool(walk.keys & DOWN) - bool(walk.keys & UP)
    if right:
        walk.looks = right
    speed = walk.scale.speed
    if right and down:
        speed = speed * _ACROSS[0] // _ACROSS[1]
    return right * speed, down * speed
