"""Things: places a prefab, where its placement rules allow it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np

from topion.brushes.gestures import cell_of
from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.hashing import seed_of, unit
from topion.model.brush import Marks, Place, Setting
from topion.model.edit import Edit, ThingsRecord
from topion.model.prefab import Prefab, Thing
from topion.things.ground import Ground, Spots, Standing, body_cells
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
        """(n, 2) where things would stand for these marks, each once."""
        points = marks.cells.astype(np.float64)
        if marks.path is not None and self.cell_parts > 1:
            points = np.concatenate([_snapped(marks.path, self.cell_parts), points[len(points) :]])
        _, first = np.unique(points, axis=0, return_index=True)
        return points[np.sort(first)]

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.layer_for("things", self.layer)
        if layer.info.locked:
            return Edit(self.name, (), self.colour, (f"layer {layer.info.name} is locked",))
        prefab = place.project.prefab(self.prefab)
        ground = Ground(place.project, place.room)
        spots = Spots(prefab, self.positions(marks), self.turn_of(prefab), self.mirrored_of(prefab))
        ok = allowed_spots(ground, spots)
        fresh = [True] * len(ok) if marks.override else ok.tolist()
        number = max(layer.things, default=0) + 1
        laid: dict[int, Thing] = {}
        for (y, x), allowed, may in zip(spots.positions.tolist(), ok.tolist(), fresh, strict=True):
            thing = self._thing(prefab, y, x, not allowed)
            if not may or _stands_already(layer.things, thing):
                continue
            if marks.override or _clear_of_own(place, prefab, thing, laid):
                laid[number + len(laid)] = thing
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

    def _thing(self, prefab: Prefab, y: float, x: float, overridden: bool) -> Thing:
        scale = self.scale
        if self.sway:
            place = float(unit(seed_of(self.prefab), round(y * 60), round(x * 60)))
            scale = round(scale * (1 + self.sway * (2 * place - 1)), 3)
        turn, mirrored = self.turn_of(prefab), self.mirrored_of(prefab)
        return Thing(self.prefab, y, x, turn, mirrored, scale, overridden)

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
    """Positions to the nearest middle of a part of a cell."""
    corner = (path + 0.5) * parts
    return np.round((np.floor(corner) + 0.5) / parts - 0.5, 6)


def _stands_already(things: dict[int, Thing], new: Thing) -> bool:
    """Whether the same prefab stands in the very same spot; copies never pile up."""
    return any(
        t.prefab == new.prefab and abs(t.y - new.y) < 1e-6 and abs(t.x - new.x) < 1e-6
        for t in things.values()
    )


def _clear_of_own(place: Place, prefab: Prefab, new: Thing, laid: dict[int, Thing]) -> bool:
    """Whether `new` keeps the prefab's rules also against what the same stroke laid."""
    bodies: set[tuple[int, int]] | None = None
    for rule in prefab.rules:
        match rule.kind:
            case "clear of":
                own = Standing.of(place.project, ((("", n), t) for n, t in laid.items()))
                near = own.positions[rule.concerns(own, prefab.name)]  # type: ignore[attr-defined]
                off = near - np.array([new.y, new.x])
                if len(off) and np.hypot(off[:, 0], off[:, 1]).min() < rule.cells - 1e-9:  # type: ignore[attr-defined]
                    return False
            case "keeps its cells":
                bodies = {cell for t in laid.values() for cell in body_cells(prefab, t)}
                if bodies.intersection(body_cells(prefab, new)):
                    return False
            case "at most":
                standing = Ground(place.project, place.room).standing
                here = int((standing.prefabs == prefab.name).sum())
                if here + len(laid) >= rule.count:  # type: ignore[attr-defined]
                    return False
    return True


def cell_under(y: float, x: float) -> tuple[int, int]:
    """The cell a position lies in."""
    row, column = cell_of(np.array([[y, x]]))[0]
    return int(row), int(column)
