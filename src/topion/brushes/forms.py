"""Forms of a shape: what it shows in each kind of place, found among the parts it has.

A part is named by letters that tell its place, and turning it turns the name.  So a form without a
part of its own shows another one mirrored or turned; where there is none either, the nearest part
stands in for it, and is named.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from topion.model.tileset import TileRef
from topion.weaving.rules import Orientation, oriented_ref

# How a part may come to its place, likeliest to look right first: light falls from above.
FLAT_WAYS = tuple(
    Orientation(turn, mirrored)
    for turn, mirrored in ((0, False), (0, True), (2, True), (2, False),
                           (1, False), (3, False), (1, True), (3, True))
)  # fmt: skip
DEEP_WAYS = tuple(Orientation(turn, False) for turn in range(4))
Found = Literal["own", "turned", "stand-in"]


@dataclass(frozen=True)
class Form:
    """tile : what shows.  found : as a part of its own, one turned or mirrored, or a stand-in."""

    tile: TileRef
    found: Found


def form_of(
    wanted: Iterable[str],
    parts: Mapping[str, TileRef],
    oriented: Callable[[str, Orientation], str],
    ways: tuple[Orientation, ...] = FLAT_WAYS,
) -> Form:
    """The tile for the first of the `wanted` names that a part comes to.

    oriented : the name of the place that a part comes to when it is oriented.  There is at least
    one part; the first stands in where nothing else does.
    """
    for rank, name in enumerate(wanted):
        for way in ways:
            for part, tile in parts.items():
                if oriented(part, way) == name:
                    kind: Found = "stand-in" if rank else "turned" if way != ways[0] else "own"
                    return Form(oriented_ref(tile, way), kind)
    return Form(next(iter(parts.values())), "stand-in")


_CLOCKWISE = {"n": "e", "e": "s", "s": "w", "w": "n"}
_MIRRORED = {"e": "w", "w": "e"}


def turned_side(side: str, way: Orientation) -> str:
    """What one of the letters n e s w becomes; all others stay."""
    for _ in range(way.turn % 4):
        side = _CLOCKWISE.get(side, side)
    return _MIRRORED.get(side, side) if way.mirrored else side
