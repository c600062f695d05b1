"""Things: places a prefab, where its placement rules allow it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, Self

import numpy as np

from topion.brushes.kind import DEEP_SCRAP, FLAT_SCRAP, BrushKind, CannotTurn, Sample, Setting
from topion.brushes.laying import refusal
from topion.brushes.marks import Marks, Place
from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.model.edit import Edit
from topion.model.prefab import Prefab, Thing, turned_offsets
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.refs import Ref
from topion.model.typed import Colour, Name
from topion.things.ground import Ground, Spots
from topion.things.rules.kind import known_rules
from topion.things.verdict import allowed_spots


@dataclass(frozen=True)
class ThingsBrush(BrushKind):
    """cell_parts : 1 stands in the middle of cells, 2 also on halves, 3 thirds, 4 quarters.

    sway : scales differ by so much, by position.
    """

    kind: ClassVar[str] = "things"
    bay: ClassVar[str] = "Things"
    name: Name
    prefab: Annotated[str, Ref("prefabs")]
    layer: str = ""
    colour: Colour = "#22303a"
    turn: float = 0.0
    mirrored: bool = False
    scale: float = 1.0
    sway: float = 0.0
    cell_parts: Literal[1, 2, 3, 4] = 1

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
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        prefab = place.project.prefab(self.prefab)
        ground = Ground(place.project, place.room)
        spots = self.spots(place, marks)
        ok = allowed_spots(ground, spots)
        wanted = ok | marks.override
        if marks.within is not None:
            wanted &= marks.within.holds(spots.cells)
        number = place.room.next_number()
        laid: dict[int, Thing] = {}
        found = (rule.among(ground, spots) for rule in known_rules(prefab.rules))
        own = [rule for rule in found if rule is not None]
        near = layer.things_near(Box.of_cells(spots.cells), 1.0).values()
        axes = spots.axes
        there = {(t.prefab, *(round(v, 6) for v in t.at[-axes:])) for t in near}
        for row in np.flatnonzero(wanted).tolist():
            at = spots.positions[row].tolist()
            if (self.prefab, *(round(v, 6) for v in at)) in there:
                continue  # copies never pile up in one spot
            if marks.override or all(rule.allows(row) for rule in own):
                for rule in own:
                    rule.add(row)
                laid[number + len(laid)] = self._thing(prefab, at, not ok[row])
        left = len(ok) - len(laid)
        reasons = (f"{left} refused",) if left else ()
        if not laid:
            return Edit(self.name, (), self.colour, reasons)
        label = self.name if len(laid) == 1 else f"{self.name} ×{len(laid)}"
        records = entries_changed(place.room, layer_id, "things", laid)
        return Edit(label, records, self.colour, reasons)

    def spots(self, place: Place, marks: Marks) -> Spots:
        """Each seated on what carries there, unless it is laid whatever the rules say."""
        prefab = place.project.prefab(self.prefab)
        asked = self.positions(marks)
        if not marks.override:
            asked = Ground(place.project, place.room).floor.seated(asked)
        return Spots(prefab, asked, self.turn_of(prefab), self.mirrored_of(prefab))

    def reach(self, project: Project, marks: Marks) -> Box:
        prefab = project.prefabs.get(self.prefab)
        box = super().reach(project, marks)
        if prefab is None or not box.size:
            return box
        own = turned_offsets(prefab, self.turn_of(prefab), self.mirrored_of(prefab), len(box.lo))
        lo, hi = own.min(axis=0), own.max(axis=0)
        return Box(tuple((np.array(box.lo) + lo).tolist()), tuple((np.array(box.hi) + hi).tolist()))

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

    def places(self) -> Mapping[str, float]:
        return {self.prefab: 1.0}

    def said(self) -> str:
        return f"thing · places {self.prefab}"

    def sample(self, project: Project, *, deep: bool) -> Sample:
        own = self.at_home("things")
        if deep:
            marks = Marks(np.array([[1, 3, 3]]), override=True)
            return Sample(own, marks, DEEP_SCRAP, near=Box((1, 2, 2), (3, 5, 5)))
        cell = (FLAT_SCRAP[0] - 2, FLAT_SCRAP[1] // 2)
        return Sample(own, Marks(np.array([cell]), override=True))

    def turned(self, project: Project) -> Self:
        """A quarter, or a little where the prefab may be turned by any angle."""
        prefab = project.prefabs.get(self.prefab)
        if prefab is None or prefab.turns == "none":
            raise CannotTurn(self.prefab)
        step = 15 if prefab.turns == "any" else 90
        return self.changed(turn=(self.turn + step) % 360)

    def flipped(self) -> Self:
        return self.changed(mirrored=not self.mirrored)

    def straightened(self) -> Self:
        return self.changed(turn=0.0, mirrored=False, scale=1.0, sway=0.0)


def _snapped(path: Positions, parts: int) -> Positions:
    """Positions to the nearest middle of a part of a cell, seen from above."""
    corner = (path[:, -2:] + 0.5) * parts
    plan = np.round((np.floor(corner) + 0.5) / parts - 0.5, 6)
    return np.concatenate([np.floor(path[:, :-2] + 0.5), plan], axis=1)
