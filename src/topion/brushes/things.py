"""Things: places a prefab, or a pattern of prefabs, where placement rules allow it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import DEEP_SCRAP, FLAT_SCRAP, CannotTurn, Sample, Setting
from topion.brushes.laying import refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.pattern import Pattern, Spot
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.prefab import Prefab, Thing, snapped_to, turned_offsets
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.refs import Ref
from topion.model.room import View
from topion.model.typed import Colour, Name
from topion.things.ground import Ground, Spots
from topion.things.piling import middles_of, nearest_free
from topion.things.rules.kind import rules_of, turned_by_rules
from topion.things.surfaces import Surface, stance_on, surfaces, underside
from topion.things.verdict import allowed_spots

# what a surface is in a mirror: between west and east (-1), north and south (-2), up and down (0)
_IN_MIRROR: dict[tuple[int, str], Surface] = {
    (-1, "west wall"): "east wall", (-1, "east wall"): "west wall",
    (-2, "north wall"): "south wall", (-2, "south wall"): "north wall",
    (0, "floor"): "ceiling", (0, "ceiling"): "floor",
}  # fmt: skip
_SURFACES = ("floor", "ceiling", "north wall", "south wall", "west wall", "east wall")


@dataclass(frozen=True)
class ThingsBrush(Spaced):
    """cell_parts : 1 stands in the middle of cells, 2 also on halves, 3 thirds, 4 quarters.

    sway, swing, strays : scales, turns (degrees) and places (cells) differ by so much to either
    side, by position; flips : some are mirrored.  pattern : of several places, each perhaps with
    another prefab.  surface : what it is held by, in rooms that have it.  piles : where something
    stands already, it stands as near as it can without touching.  lean, roll : degrees by which
    what may be turned anyhow is tipped in voxel rooms, south and east.
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
    swing: float = 0.0
    strays: float = 0.0
    flips: bool = False
    cell_parts: Literal[1, 2, 3, 4] = 1
    pattern: Pattern = field(default_factory=Pattern)
    surface: Surface = "floor"
    piles: bool = False
    lean: float = 0.0
    roll: float = 0.0

    def __post_init__(self) -> None:
        if not 0.05 <= self.scale <= 20:
            raise BadValue("the scale", self.scale, "0.05 to 20")

    # --- where ----------------------------------------------------------------------------

    def positions(self, marks: Marks, snaps: int = 0) -> Positions:
        """(n, axes) where things are asked to stand by these marks, each once.  snaps : parts of a
        cell that the prefab insists on."""
        points = marks.cells.astype(np.float64)
        parts = snaps or self.cell_parts
        if marks.path is not None and parts > 1:
            points = np.concatenate([_snapped(marks.path, parts), points[len(points) :]])
        _, first = np.unique(points, axis=0, return_index=True)
        return points[np.sort(first)]

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.layer_for("things", self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        planner = _Planner(place, layer)
        for brush, own in self.copies(place.room.info.view, marks):
            for spot in brush.pattern.places():
                planner.lay(brush, own, spot)
            planner.end_copy()
        laid, left = planner.laid, planner.left
        reasons = (f"{left} refused",) if left else ()
        if not laid:
            return Edit(self.name, (), self.colour, reasons)
        label = self.name if len(laid) == 1 else f"{self.name} ×{len(laid)}"
        records = entries_changed(place.room, layer_id, "things", laid)
        return Edit(label, records, self.colour, reasons)

    def copies(self, view: View, marks: Marks) -> Iterator[tuple[Self, Marks]]:
        """Each mirror picture of a stroke by itself, with the brush as it is seen in it."""
        parts = len(marks.parts)
        if parts < 2:
            yield self, marks
            return
        each = 0 if marks.path is None else len(marks.path) // parts
        for number, (cells, flips) in enumerate(marks.flipped_copies()):
            path = None if marks.path is None else marks.path[number * each : (number + 1) * each]
            brush = self
            for axis in flips:
                brush = brush.seen_in_mirror(axis, view)
            yield brush, replace(marks, cells=cells, path=path, parts=(), flips=(), knots=())

    def seen_in_mirror(self, axis: int, view: View) -> Self:
        """As it lays where a mirror divides west from east (-1), or north from south (-2)."""
        surface = _IN_MIRROR.get((axis, self.surface), self.surface)
        if view == "side" and axis == -2:
            surface = _IN_MIRROR.get((0, self.surface), self.surface)
        turned = 180.0 if axis == -2 and view != "side" else 0.0
        return self.changed(turn=(turned - self.turn) % 360, mirrored=not self.mirrored,
                            surface=surface, roll=-self.roll)  # fmt: skip

    def spots(self, place: Place, marks: Marks) -> Spots:
        """Of its first place, each seated on what carries there, unless it is laid whatever the
        rules say."""
        first = next(self.pattern.places(), Spot(0, 0))
        return self.spots_of(first, place, marks)

    def spots_of(self, spot: Spot, place: Place, marks: Marks) -> Spots:
        """Where a place of its pattern is asked for by these marks.  Raises UnknownName."""
        prefab = place.project.prefab(spot.prefab or self.prefab)
        view = place.room.info.view
        asked = self.positions(marks, prefab.snaps)
        step = np.array(self.pattern.step(spot, self.turn, self.mirrored))
        asked = asked.copy()
        asked[:, -2:] = np.round(asked[:, -2:] + step, 6)
        if self.strays and not prefab.snaps:
            asked[:, -2:] = np.round(asked[:, -2:] + self._astray(asked), 3)
        if prefab.snaps:
            asked[:, -2:] = snapped_to(asked[:, -2:], prefab.snaps)
        turn, tip = self.stance_of(prefab, view, spot)
        if not (marks.override or prefab.floats):
            down = underside(view, turn, tip) if self.surface != "floor" else None
            asked = Ground(place.project, place.room).floor.seated(asked, down)
        return Spots(prefab, asked, turn, self.mirrored_of(prefab), tip=tip)

    def _astray(self, asked: Positions) -> NDArray[np.float64]:
        """(n, 2) how far each stands from where it is asked, in cells, by place."""
        y, x = np.round(asked[:, -2:] * 60).astype(np.int64).T
        ways = [unit(seed_of(f"{self.prefab} {axis}"), y, x) for axis in "yx"]
        return np.asarray(self.strays * (2 * np.stack(ways, axis=1) - 1))

    def stance_of(self, prefab: Prefab, view: View, spot: Spot) -> tuple[float, int]:
        """(degrees, side up) it gives to a prefab, as far as that may be turned."""
        more, tip = stance_on(self.surface, view)
        turn = self.turn + (-spot.turn if self.mirrored else spot.turn) + more
        match prefab.turns:
            case "none":
                return 0.0, tip if prefab.tips else 0
            case "quarters":
                turn = round(turn / 90) % 4 * 90.0
        return turn % 360, tip if prefab.tips else 0

    def mirrored_of(self, prefab: Prefab) -> bool:
        """Whether it mirrors a prefab, if that may be mirrored."""
        return self.mirrored and prefab.mirrors

    def thing_at(self, spots: Spots, spot: Spot, at: list[float], overridden: bool) -> Thing:
        """The thing that stands there."""
        *level, y, x = at
        scale, name = round(self.scale * spot.scale, 6), spots.prefab.name
        if self.sway:
            place = float(unit(seed_of(name), round(y * 60), round(x * 60)))
            scale = round(scale * (1 + self.sway * (2 * place - 1)), 3)
        z = level[0] if level else 0.0
        turn, mirrored = self._by_chance(spots, y, x)
        leans = bool(level) and spots.prefab.tips and spots.prefab.turns == "any"
        lean, roll = (self.lean, self.roll) if leans else (0.0, 0.0)
        return Thing(name, y, x, turn, mirrored, scale, overridden, z=z, tip=spots.tip,
                     lean=lean, roll=roll)  # fmt: skip

    def _by_chance(self, spots: Spots, y: float, x: float) -> tuple[float, bool]:
        """(degrees, mirrored) of the thing there.  Only what keeps the cells of its body differs:
        a turn beyond an eighth, or a mirror, is for those of one cell."""
        prefab, turn, mirrored = spots.prefab, spots.turn, spots.mirrored
        one = len(prefab.offsets) == 1
        at = round(y * 60), round(x * 60)
        if self.swing and prefab.turns != "none":
            most = self.swing if one else min(self.swing, 44.0)
            more = most * (2 * float(unit(seed_of(f"{prefab.name} swing"), *at)) - 1)
            more = round(more / 90) * 90 if prefab.turns == "quarters" else more
            turn = round((turn + more) % 360, 1)
        if self.flips and prefab.mirrors and one:
            mirrored ^= bool(unit(seed_of(f"{prefab.name} flips"), *at) < 0.5)
        return turn, mirrored

    def reach(self, project: Project, marks: Marks) -> Box:
        box = super().reach(project, marks)
        if not box.size:
            return box
        found = Box((0,) * len(box.lo), (0,) * len(box.lo))
        view: View = "voxel" if len(box.lo) == 3 else "top"
        for spot in self.pattern.places():
            prefab = project.prefabs.get(spot.prefab or self.prefab)
            if prefab is not None:
                turn, tip = self.stance_of(prefab, view, spot)
                own = turned_offsets(prefab, turn, self.mirrored_of(prefab), len(box.lo), tip)
                step = np.zeros(len(box.lo))
                step[-2:] = self.pattern.step(spot, self.turn, self.mirrored)
                lo = np.floor(np.array(box.lo) + own.min(axis=0) + step + 0.5).astype(int)
                hi = np.floor(np.array(box.hi) + own.max(axis=0) + step + 0.5).astype(int)
                found = found.union(Box(tuple(lo.tolist()), tuple(hi.tolist())))
        return found

    # --- on the rack ----------------------------------------------------------------------

    def summary(self) -> str:
        if self.pattern.is_one:
            return "thing"
        return f"things · {self.pattern.columns} × {self.pattern.rows}"

    def state(self) -> str:
        turn = f"{self.turn % 360:g}°" if self.turn % 360 else ""
        scale = f"× {self.scale:g}" if self.scale != 1 else ""
        surface = self.surface if self.surface != "floor" else ""
        parts = (surface, turn, "mirrored" if self.mirrored else "", scale)
        return ", ".join(part for part in parts if part)

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("turn", "Turn", "number", 0, 360, 15, "°", hint="Degrees clockwise (T)"),
            Setting("mirrored", "Mirrored", "switch", hint="Left and right change places (M)"),
            Setting("scale", "Scale", "number", 0.25, 3, 0.05, "×", hint="1 is its own size"),
            Setting("sway", "Sway", "number", 0, 0.5, 0.01, "", hint="How far scales differ"),
            Setting("swing", "Swing", "number", 0, 180, 5, "°", hint="How far turns differ"),
            Setting("strays", "Strays", "number", 0, 1, 0.05, "c",
                    hint="How far things stand from where they are asked"),
            Setting("flips", "Flips", "switch", hint="Some are mirrored, by their place"),
            Setting("surface", "Held by", "choice", choices=_SURFACES,
                    hint="Floor, ceiling or wall of a side view or voxel room (Q)"),
            Setting("lean", "Lean", "number", -90, 90, 5, "°",
                    hint="Tipped south, in voxel rooms, where the prefab may be turned anyhow"),
            Setting("roll", "Roll", "number", -90, 90, 5, "°", hint="Tipped east, likewise"),
            Setting("piles", "Piles", "switch",
                    hint="Beside what stands there already, as near as it can"),
            PITCH,
            RATE,
            Setting("pattern", "Pattern", "pattern", hint="Several places at once"),
        )  # fmt: skip

    def places(self) -> Mapping[str, float]:
        names = (spot.prefab or self.prefab for spot in self.pattern.places())
        return dict.fromkeys((self.prefab, *names), 1.0)

    def said(self) -> str:
        return f"thing · places {', '.join(self.places())}"

    def sample(self, project: Project, *, deep: bool) -> Sample:
        pattern = self.pattern
        own = self.at_home("things").changed(piles=False, surface="floor")
        wide = (pattern.rows - 1) * pattern.apart_y, (pattern.columns - 1) * pattern.apart_x
        grown = tuple(int(np.ceil(side)) for side in wide)
        row, column = pattern.pivot
        back = (round(row * pattern.apart_y), round(column * pattern.apart_x))
        if deep:
            large = (DEEP_SCRAP[0], DEEP_SCRAP[1] + grown[0], DEEP_SCRAP[2] + grown[1])
            marks = Marks(np.array([[1, 3 + back[0], 3 + back[1]]]), override=True)
            near = Box((1, 2, 2), (3, 5 + grown[0], 5 + grown[1]))
            return Sample(own, marks, large, near=near)
        high, across = _scrap_for(project.prefabs.get(self.prefab))
        size = (high + grown[0], across + grown[1])
        cell = (high - 2 + back[0], across // 2 + back[1])
        return Sample(own, Marks(np.array([cell]), override=True), size)

    # --- turned ---------------------------------------------------------------------------

    def turned(self, project: Project) -> Self:
        """A quarter, or a little where the prefab may be turned by any angle."""
        prefab = project.prefabs.get(self.prefab)
        if self.pattern.is_one and (prefab is None or prefab.turns == "none"):
            raise CannotTurn(self.prefab)
        any_ = self.pattern.is_one and prefab is not None and prefab.turns == "any"
        return self.changed(turn=(self.turn + (15 if any_ else 90)) % 360)

    def flipped(self) -> Self:
        return self.changed(mirrored=not self.mirrored)

    def straightened(self) -> Self:
        return self.changed(
            turn=0.0,
            mirrored=False,
            scale=1.0,
            sway=0.0,
            swing=0.0,
            strays=0.0,
            flips=False,
            surface="floor",
            lean=0.0,
            roll=0.0,
        )

    def held_by_next(self, place: Place, cell: tuple[int, ...]) -> Self:
        """Held by the next surface that carries it near that cell; by the next, if none does.

        Raises CannotTurn for a prefab that may not be turned so."""
        view, prefab = place.room.info.view, place.project.prefab(self.prefab)
        if view == "top":
            raise CannotTurn(self.prefab, "held by walls in a room seen from above")
        if not (prefab.tips if view == "voxel" else prefab.turns != "none"):
            raise CannotTurn(self.prefab, "held by walls and ceilings")
        known = surfaces(view)
        start = known.index(self.surface) if self.surface in known else 0
        rest = [known[(start + n) % len(known)] for n in range(1, len(known))]
        tried = [self.changed(surface=surface) for surface in rest]
        ground = Ground(place.project, place.room)
        marks = Marks(np.array([cell]))
        return next((b for b in tried if allowed_spots(ground, b.spots(place, marks))[0]), tried[0])


class _Planner:
    """Lays one place of a pattern after the other, of one mirror picture after the other."""

    def __init__(self, place: Place, layer: Layer) -> None:
        self.place, self.layer = place, layer
        self.ground = Ground(place.project, place.room)
        self.laid: dict[int, Thing] = {}
        self.left = 0
        self._first = place.room.next_number()
        self._here: set[tuple[float, ...]] = set()  # where this picture asks
        self._before: set[tuple[float, ...]] = set()  # and where others did

    def end_copy(self) -> None:
        """What was asked so far is not asked for by the next picture."""
        self._before |= self._here

    def lay(self, brush: ThingsBrush, marks: Marks, spot: Spot) -> None:
        """All marks of one place, turned as rules ask."""
        asked = brush.spots_of(spot, self.place, marks)
        for spots, _ in turned_by_rules(self.ground, asked):
            self._lay_turned(brush, marks, spots, spot)

    def _lay_turned(self, brush: ThingsBrush, marks: Marks, spots: Spots, spot: Spot) -> None:
        ground = self.ground.with_things(self.laid.values()) if self.laid else self.ground
        ok = allowed_spots(ground, spots)
        wanted = np.ones(len(ok), bool)
        if marks.within is not None:
            wanted &= marks.within.holds(spots.cells)
        asked = [tuple(at) for at in np.round(spots.positions, 6).tolist()]
        wanted &= np.array([at not in self._before for at in asked], bool)
        self._here.update(asked)
        found = (rule.among(ground, spots) for rule in rules_of(ground.project, spots.prefab))
        own = [rule for rule in found if rule is not None]
        near = self.layer.things_near(Box.of_cells(spots.cells), 1.0).values()
        axes = spots.axes
        there = {(t.prefab, *(round(v, 6) for v in t.at[-axes:])) for t in near}
        for row in np.flatnonzero(wanted).tolist():
            at = spots.positions[row].tolist()
            if brush.piles and not marks.override:
                self._pile(brush, spots, spot, row)
            elif not (ok[row] or marks.override):
                self.left += 1
            elif (spots.prefab.name, *(round(v, 6) for v in at)) in there:
                self.left += 1  # copies never pile up in one spot
            elif marks.override or all(rule.allows(row) for rule in own):
                for rule in own:
                    rule.add(row)
                self._add(brush.thing_at(spots, spot, at, not ok[row]))
            else:
                self.left += 1

    def _add(self, thing: Thing) -> None:
        self.laid[self._first + len(self.laid)] = thing

    def _pile(self, brush: ThingsBrush, spots: Spots, spot: Spot, row: int) -> None:
        """As near as it can stand to one of the spots."""
        one = Spots(spots.prefab, spots.positions[[row]], spots.turn, spots.mirrored, tip=spots.tip)
        standing = [*self.ground.standing.things, *self.laid.values()]
        taken = middles_of(self.place.project, standing, spots.axes)
        parts = spots.prefab.snaps or brush.cell_parts
        at = nearest_free(self.ground, one, parts, taken)
        if at is None:
            self.left += 1
        else:
            self._add(brush.thing_at(spots, spot, list(at), False))


def _snapped(path: Positions, parts: int) -> Positions:
    """Positions to the nearest middle of a part of a cell, seen from above."""
    plan = snapped_to(path[:, -2:], parts)
    return np.concatenate([np.floor(path[:, :-2] + 0.5), plan], axis=1)


def _scrap_for(prefab: Prefab | None) -> tuple[int, int]:
    """(rows, columns) of a flat scrap on which a thing is seen whole, in the proportions of a
    card."""
    rows, columns = FLAT_SCRAP
    if prefab is None:
        return FLAT_SCRAP
    high = rows + max(0, len(prefab.footprint) - 2)
    wide = columns + max(0, len(prefab.footprint[0]) - 2)
    high = max(high, -(-wide * rows // columns))
    return high, max(wide, round(high * columns / rows))
