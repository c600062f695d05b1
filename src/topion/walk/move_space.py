"""The figure in a voxel room: eight ways, steps, jumps and falls."""

from __future__ import annotations

from typing import cast

from topion.walk.deep import DeepTerrain, DeepWay
from topion.walk.keys import JUMP
from topion.walk.move_top import plan_of
from topion.walk.walking import Walking
from topion.walk.ways import way_of

_SHORT, _SWUM = 3, 3  # see `move_side`


def move(walk: Walking) -> None:
    """One tick."""
    scale, terrain = walk.scale, cast(DeepTerrain, walk.stage.terrain)
    way = cast(DeepWay, way_of(walk.stage, walk.wide, walk.high, walk.in_the_way()))
    middle = (walk.x + walk.wide // 2, walk.y + walk.wide // 2)
    wet = terrain.is_wet(*middle, walk.z + walk.high // 2)
    x, y = plan_of(walk)
    by = (x // 2, y // 2) if wet else (x, y)
    if walk.thrown != (0, 0):
        by = walk.thrown
    step = scale.step if walk.ground else 0
    walk.x, walk.y, walk.z = way.across(walk.x, walk.y, walk.z, by, step)
    if walk.ground and walk.vy >= 0:
        below = way.floor_below(walk.x, walk.y, walk.z, scale.step)
        if below is not None:  # goes down steps as it goes up
            walk.z = below
    _jump(walk, wet)
    _fall(walk, way, wet)
    walk.air = 0 if walk.ground else walk.air + 1


def _jump(walk: Walking, wet: bool) -> None:
    if not walk.pressed(JUMP):
        return
    scale = walk.scale
    if walk.ground or (walk.air <= scale.coyote and walk.vy >= 0 and walk.air):
        walk.vy, walk.ground, walk.air = -scale.jump, False, scale.coyote + 1
    elif wet:
        walk.vy = -scale.jump // _SWUM


def _fall(walk: Walking, way: DeepWay, wet: bool) -> None:
    """vy : units a tick it falls."""
    scale = walk.scale
    if walk.ground:
        if way.floor_below(walk.x, walk.y, walk.z, 0) is not None:
            walk.vy, walk.thrown = 0, (0, 0)
            return
        walk.ground = False
    if walk.vy < 0:
        roof = way.roof_above(walk.x, walk.y, walk.z + walk.high, -walk.vy)
        rises = -walk.vy if roof is None else roof - walk.z - walk.high
        if roof is not None and rises < -walk.vy:
            walk.vy = 0
        walk.z += rises
    else:
        floor = way.floor_below(walk.x, walk.y, walk.z, walk.vy)
        walk.z = walk.z - walk.vy if floor is None else floor
        if floor is not None:
            walk.vy, walk.ground, walk.thrown = 0, True, (0, 0)
            return
    gravity = scale.gravity
    thrown = walk.vy < -scale.jump or walk.thrown != (0, 0)
    if walk.vy < 0 and not walk.keys & JUMP and not thrown and not wet:
        gravity *= _SHORT
    if wet:
        walk.vy = min(walk.vy + gravity // 4, scale.fastest // 6)
    else:
        walk.vy = min(walk.vy + gravity, scale.fastest)
