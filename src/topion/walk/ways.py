"""Where the figure, or another box, can go in a room of any kind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeAlias, cast

from topion.roles.kind import Edges
from topion.walk.deep import DeepTerrain, DeepWay
from topion.walk.side import Way
from topion.walk.stage import Stage
from topion.walk.terrain import Terrain
from topion.walk.top import TopWay
from topion.walk.world import World

AnyWay: TypeAlias = Way | TopWay | DeepWay


def way_of(stage: Stage, wide: int, high: int, others: Sequence[Edges], *, over: bool = False
           ) -> AnyWay:  # fmt: skip
    """Of a box in a room.  over : a room seen from the side, upside down."""
    if stage.view == "voxel":
        return DeepWay(cast(DeepTerrain, stage.terrain), wide, high, others)
    terrain = cast(Terrain, stage.terrain)
    if stage.view == "top":
        return TopWay(terrain, wide, high, others)
    if not over:
        return Way(terrain, wide, high, others)
    end = stage.size[1]
    turned = [(box[0], end - box[3], box[2], end - box[1]) for box in others]
    return Way(terrain.over, wide, high, turned)


def is_free(
    world: World, stage: Stage, x: int, y: int, z: int, others: Sequence[Edges] = ()
) -> bool:
    """Whether the figure fits there, beside others."""
    way = way_of(stage, *world.sizes(stage.view), others)
    return not (way.blocked(x, y, z) if isinstance(way, DeepWay) else way.blocked(x, y))
