"""Things: places a prefab, where its placement rules allow it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np

from topion.brushes.laying import locked_edit
from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.model.brush import Marks, Place, Setting
from topion.model.edit import Edit, ThingsRecord
from topion.model.prefab import Prefab, Thing
from topion.things.ground import Ground, Spots
from topion.things.verdict import allowed_spots


@dataclass(frozen=True)
class ThingsBrush:
    """cell_parts : 1 stands in the middle of cells, 2 also on halves, 3 thirds, 4 quarters.

    sway : scales differ by so much, by position.
    """

    kind: ClassVar[str] = "things"
    name: str
    prefab: str
    layer: str = ""
    colour: str = "#22303a"
    turn: float = 0.0
    mirrored: bool = False
    scale: float = 1.0
    sway: float = 0.0
    cell_parts: Literal[1, 2, 3, 4] = 1
    material: ClassVar[str] = ""

    def __post_init__(self) -> None:
        if not 0.05 <= self.scale <= 20:
            raise BadValue("the scale", self.scale, "0.05 to 20")

    def positions(self, marks: Marks) -> Positions:
        """(n, axes) where things are asked to stand by these marks, each once."""
        points = marks.cells.astype(np.float64)
        if marks.path is not None and self.cell_parts > 1:
            points = np.concatenate([_snapped(marks.path, self.cell_parts), points[len(points) :]])
        _, first = np.unique(points, axis=0, return_index=True)
        return points[np.sort(first)]

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.layer_for("things", self.layer)
        if layer.info.locked:
            return locked_edit(self, layer)
        prefab = place.project.prefab(self.prefab)
        ground = Ground(place.project, place.room)
        asked = self.positions(marks)
        if not marks.override:
            asked = ground.floor.seated(asked)
        spots = Spots(prefab, asked, self.turn_of(prefab), self.mirrored_of(prefab))
        ok = allowed_spots(ground, spots)
        number = next(reversed(layer.things), 0) + 1  # things are kept in order of number
        laid: dict[int, Thing] = {}
        own = _OwnStroke(ground, prefab, spots)
        near = layer.things_near(Box.of_cells(spots.cells), 1.0).values()
        axes = spots.axes
        there = {(t.prefab, *(round(v, 6) for v in t.at[-axes:])) for t in near}
        for row in np.flatnonzero(ok | marks.override).tolist():
            at = spots.positions[row].tolist()
            if (self.prefab, *(round(v, 6) for v in at)) in there:
                continue  # copies never pile up in one spot
            if marks.override or own.allows(row):
                own.add(row)
                laid[number + len(laid)] = self._thing(prefab, at, not ok[row])
        refused = len(ok) - len(laid)
        reasons = (f"{refused} refused",) if refused else ()
        if not laid:
            return Edit(self.name, (), self.colour, reasons)
        label = self.name if len(laid) == 1 else f"{self.name} ×{len(laid)}"
        record = ThingsRecord(place.room_name, layer_id, {}, laid)
        return Edit(label, (record,), self.colour, reasons)

    def turn_of(self, prefab: Prefab) -> float:
        """The turn it gives to a prefab, as far as that may be turned."""
        match prefab.turns:
            case "none":
                return 0.0
            case "quarters":
                return round(self.turn / 90) % 4 * 90.0
        return self.turn % 360

    def mirrored_of(self, prefab: Prefab) -> bool:
        """Whether it mirrors a prefab, if that may be mirrored."""
        return self.mirrored and prefab.mirrors

    def _thing(self, prefab: Prefab, at: list[float], overridden: bool) -> Thing:
        *level, y, x = at
        scale = self.scale
        if self.sway:
            place = float(unit(seed_of(self.prefab), round(y * 60), round(x * 60)))
            scale = round(scale * (1 + self.sway * (2 * place - 1)), 3)
        turn, mirrored = self.turn_of(prefab), self.mirrored_of(prefab)
        z = level[0] if level else 0.0
        return Thing(self.prefab, y, x, turn, mirrored, scale, overridden, z=z)

    def summary(self) -> str:
        return "thing"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("turn", "Turn", "number", 0, 360, 15, "°", hint="Degrees clockwise"),
            Setting("mirrored", "Mirrored", "switch", hint="Left and right change places"),
            Setting("scale", "Scale", "number", 0.25, 3, 0.05, "×", hint="1 is its own size"),
            Setting("sway", "Sway", "number", 0, 0.5, 0.01, "", hint="How far scales differ"),
        )

    def tiles_used(self) -> tuple[Any, ...]:
        return ()


def _snapped(path: Positions, parts: int) -> Positions:
    """Positions to the nearest middle of a part of a cell, seen from above."""
    corner = (path[:, -2:] + 0.5) * parts
    plan = np.round((np.floor(corner) + 0.5) / parts - 0.5, 6)
    return np.concatenate([np.floor(path[:, :-2] + 0.5), plan], axis=1)


class _OwnStroke:
    """What one stroke has laid so far: it keeps the prefab's rules also against itself."""

    def __init__(self, ground: Ground, prefab: Prefab, spots: Spots) -> None:
        self._positions = spots.positions
        rules: tuple[Any, ...] = prefab.rules
        like = {"", "anything", prefab.name, prefab.class_name}
        gaps = [r.cells for r in rules if r.kind == "clear of" and r.of in like]
        self._gap = max(gaps, default=0.0)
        keeps = any(r.kind == "keeps its cells" for r in rules)
        self._bodies = spots.bodies if keeps else None
        here = int((ground.standing.prefabs == prefab.name).sum())
        self._left = min((r.count - here for r in rules if r.kind == "at most"), default=1 << 30)
        self._taken: set[tuple[int, ...]] = set()
        self._near: dict[tuple[int, int], list[int]] = {}  # rows by square of the gap's side

    def _square(self, row: int) -> tuple[int, int]:
        y, x = self._positions[row, -2:] // self._gap
        return int(y), int(x)

    def allows(self, row: int) -> bool:
        if self._left <= 0:
            return False
        if self._bodies is not None and self._taken.intersection(self._body(row)):
            return False
        if self._gap:
            sy, sx = self._square(row)
            squares = ((sy + dy, sx + dx) for dy in (-1, 0, 1) for dx in (-1, 0, 1))
            others = [r for square in squares for r in self._near.get(square, ())]
            off = self._positions[others] - self._positions[row]
            return not len(off) or float((off**2).sum(axis=1).min()) >= (self._gap - 1e-9) ** 2
        return True

    def add(self, row: int) -> None:
        self._left -= 1
        if self._bodies is not None:
            self._taken.update(self._body(row))
        if self._gap:
            self._near.setdefault(self._square(row), []).append(row)

    def _body(self, row: int) -> list[tuple[int, ...]]:
        return [] if self._bodies is None else list(map(tuple, self._bodies[row].tolist()))
