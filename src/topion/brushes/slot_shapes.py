"""Shape brushes from a marked block of slots: what arrangement it may be, likeliest first.

An arrangement is rows of names, one a slot; an empty name is a slot that says nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from topion.brushes.panel import Panel
from topion.brushes.ramp import Ramp
from topion.brushes.run import Run
from topion.brushes.shape import ShapeKind
from topion.brushes.slots import colour_of, free_in, ref_at
from topion.brushes.trail import Trail
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.tileset import TileRef, TileSet

Names = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Arrangement:
    """words : what it is, for a button.  names : of parts, row by row.  make : of a name, parts
    and colour the brush."""

    words: str
    names: Names
    make: Callable[[str, dict[str, TileRef], str], ShapeKind]

    @property
    def shape(self) -> tuple[int, int]:
        """(rows, columns) of slots."""
        return len(self.names), len(self.names[0])

    def part_names(self) -> tuple[str, ...]:
        """The parts it has slots for."""
        return tuple(name for row in self.names for name in row if name)


def _rows(*rows: str) -> Names:
    """Names parted by blanks; `.` for a slot that says nothing."""
    return tuple(tuple("" if name == "." else name for name in row.split()) for row in rows)


def _of(kind: Any, **more: Any) -> Callable[[str, dict[str, TileRef], str], ShapeKind]:
    def make(name: str, parts: dict[str, TileRef], colour: str) -> ShapeKind:
        brush: ShapeKind = kind(name, parts, colour=colour, **more)
        return brush

    return make


_PANEL, _RUN, _TRAIL = _of(Panel), _of(Run), _of(Trail)


def _ramp(rise: int, run: int) -> Callable[[str, dict[str, TileRef], str], ShapeKind]:
    return partial(_of(Ramp, rise=rise, run=run))


ARRANGEMENTS: tuple[Arrangement, ...] = (
    Arrangement("panel, nine parts", _rows("nw nm ne", "mw mm me", "sw sm se"), _PANEL),
    Arrangement("panel, and thin forms to the right and below",
                _rows("nw nm ne na", "mw mm me ma", "sw sm se sa", "aw am ae aa"), _PANEL),
    Arrangement("panel, one wide and one high to the right",
                _rows("nw nm ne na aw", "mw mm me ma am", "sw sm se sa ae"), _PANEL),
    Arrangement("run: start, middle, end", _rows("start middle end"), _RUN),
    Arrangement("run: start, middle, end, alone", _rows("start middle end alone"), _RUN),
    Arrangement("run: alone, start, middle, end", _rows("alone start middle end"), _RUN),
    Arrangement("run that stands: top, upright, bottom", _rows("top", "upright", "bottom"), _RUN),
    Arrangement("run that stands, and alone", _rows("top", "upright", "bottom", "single"), _RUN),
    Arrangement("run: start and middle", _rows("start middle"), _RUN),
    Arrangement("panel, one high", _rows("aw am ae"), _PANEL),
    Arrangement("panel, one wide", _rows("na", "ma", "sa"), _PANEL),
    Arrangement("trail: straight, corner, end, tee, cross, alone",
                _rows("ew es e esw nesw alone"), _TRAIL),
    Arrangement("trail: straight, corner, end; tee, cross, alone",
                _rows("ew es e", "esw nesw alone"), _TRAIL),
    Arrangement("trail: straight, corner, end", _rows("ew es e"), _TRAIL),
    Arrangement("trail as it lies: a ring with a cross",
                _rows("es esw sw", "nes nesw nsw", "ne new nw"), _TRAIL),
    Arrangement("trail, all sixteen", _rows("es esw sw s", "nes nesw nsw ns", "ne new nw n",
                                            "e ew w alone"), _TRAIL),
    Arrangement("ramp 2 : 1", _rows("slope_1 slope_2"), _ramp(1, 2)),
    Arrangement("ramp 2 : 1, filled below",
                _rows("slope_1 slope_2", "under_1 under_2"), _ramp(1, 2)),
    Arrangement("ramp 2 : 1, with fill and head",
                _rows("slope_1 slope_2 head", "under_1 under_2 fill"), _ramp(1, 2)),
    Arrangement("ramp 1 : 1 over its fill", _rows("slope_1", "fill"), _ramp(1, 1)),
    Arrangement("ramp 1 : 2", _rows("slope_2", "slope_1"), _ramp(2, 1)),
    Arrangement("ramp 3 : 1", _rows("slope_1 slope_2 slope_3"), _ramp(1, 3)),
    Arrangement("ramp 1 : 1: foot, slope, head", _rows("foot slope_1 head"), _ramp(1, 1)),
    Arrangement("ramp 1 : 1", _rows("slope_1"), _ramp(1, 1)),
)  # fmt: skip


def arrangements_for(tileset: TileSet, box: Box) -> list[Arrangement]:
    """Those of the size of the marked block, likeliest first: fewest empty slots among parts."""
    known = [a for a in ARRANGEMENTS if a.shape == box.shape]
    return sorted(known, key=lambda a: len(a.part_names()) - len(parts_in(tileset, box, a)))


def parts_in(tileset: TileSet, box: Box, arrangement: Arrangement) -> dict[str, TileRef]:
    """The tile of each part that is not empty."""
    return dict(_parts(tileset, box, arrangement.names))


def _parts(tileset: TileSet, box: Box, names: Names) -> Iterator[tuple[str, TileRef]]:
    for y, row in enumerate(names):
        for x, name in enumerate(row):
            ref = ref_at(tileset, (box.lo[0] + y, box.lo[1] + x))
            if name and ref is not None:
                yield name.replace("_", " "), ref


def shape_of_slots(
    tileset: TileSet,
    box: Box,
    arrangement: Arrangement,
    taken: set[str],
    instead: Mapping[str, TileRef] | None = None,
) -> ShapeKind:
    """The brush.  instead : other tiles for some of its parts.  Raises BadValue for none."""
    parts = {**parts_in(tileset, box, arrangement), **(instead or {})}
    if not parts:
        raise BadValue("the marked block", box.shape, "at least one slot that is not empty")
    kind = arrangement.words.split(",")[0].split(":")[0].split()[0]
    return arrangement.make(
        free_in(f"{tileset.name} {kind}", taken), parts, colour_of(tileset, box)
    )
