"""Things arranged by expressions: what each comes to be, what refuses that, and the one Edit."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from topion.arrange.expression import NotAnExpression, read
from topion.arrange.names import Values
from topion.arrange.stand_ins import PIECE, POINT, put_back, stands_in
from topion.arrange.units import (
    PLACES,
    SPACE_TURNS,
    Picked,
    Unit,
    units_of,
    values_of,
    with_copies,
)
from topion.brushes.groups import apart
from topion.brushes.stamped_entries import numbered
from topion.edit.handling import LARGEST_SCALE, LEAST_SCALE
from topion.edit.picked import things_changed
from topion.edit.picked_moves import seated
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.curve import Along
from topion.model.edit import Edit, joined
from topion.model.layer import Entry
from topion.model.prefab import Thing, snapped_thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things.along import places_along
from topion.things.broken import broken
from topion.things.ground import Ground
from topion.things.spacing import spacing_of
from topion.things.verdict import Reason

MOST_COPIES = 10_000
_FARTHEST = 100_000.0  # cells
_QUARTER = 90.0


@dataclass(frozen=True)
class Arrangement:
    """What is asked for.  rows : the text of an expression by property; empty ones change nothing.

    copies : how many there shall be in all, before anything is arranged; 0 for none more.
    seed : of the random ones.  curve : that is picked beside the things.
    """

    rows: Mapping[str, str]
    copies: int = 0
    seed: int = 1
    curve: Pick | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.copies <= MOST_COPIES:
            raise BadValue("the number of copies", self.copies, f"0 to {MOST_COPIES}")


@dataclass(frozen=True, eq=False)
class Arranged:
    """What comes of it.

    units : before, copies among them.  after : the things of each.  values : by property.
    wrong : the rows that are not understood, which change nothing.
    refused : by the number of a unit, why it may not stand there.
    """

    units: tuple[Unit, ...]
    after: tuple[tuple[Thing, ...], ...]
    values: Mapping[str, Values]
    wrong: Mapping[str, NotAnExpression]
    refused: Mapping[int, tuple[Reason, ...]]
    curve: Pick | None = None

    @property
    def spacing(self) -> float:
        """The mean distance from each to its nearest, in cells; 0 for a single one."""
        found = spacing_of(np.array([things[0].at for things in self.after]).reshape(-1, 3))
        return found.mean if found is not None else 0.0


def arranged(project: Project, room_name: str, things: Picked, asked: Arrangement) -> Arranged:
    """Works out all rows; nothing is changed.  Raises UnknownName for a room."""
    room = project.room(room_name)
    units = with_copies(units_of(things), asked.copies) if things else []
    values, wrong = _worked_out(project, room, units, asked)
    after = tuple(_turned_into(project, room, unit, number, values)
                  for number, unit in enumerate(units))  # fmt: skip
    refused = _refused(project, room, units, after)
    return Arranged(tuple(units), after, values, wrong, refused, asked.curve)


def _worked_out(
    project: Project, room: Room, units: list[Unit], asked: Arrangement
) -> tuple[dict[str, Values], dict[str, NotAnExpression]]:  # fmt: skip
    values: dict[str, Values] = {}
    wrong: dict[str, NotAnExpression] = {}
    places = {name: values_of(project, units, name) for name in PLACES}
    curve = _on_curve(project, room, asked.curve)
    for name, text in asked.rows.items():
        if not text.strip():
            continue
        known = {**places, "value": values_of(project, units, name)}
        try:
            found = read(text).values(known, asked.seed, name, curve)
            if name in PLACES and len(found) and np.abs(found).max() > _FARTHEST:
                raise NotAnExpression(1, f"{name} is beyond {_FARTHEST:g} cells")
            values[name] = found
        except NotAnExpression as problem:
            wrong[name] = problem
    return values, wrong


def _on_curve(project: Project, room: Room, pick: Pick | None) -> Callable[[Values], Values] | None:
    """Shares of a curve's length as (n, 4) x, y, z and degrees; None without a curve."""
    layer = room.layers.get(pick.layer) if pick is not None else None
    curve = layer.curves.get(pick.number) if layer is not None and pick is not None else None
    if curve is None:
        return None

    def of(shares: Values) -> Values:
        at, turns = places_along(project, room, curve, [Along(float(v)) for v in shares])
        level = at[:, 0] if at.shape[1] == 3 else np.zeros(len(at))
        return np.column_stack([at[:, -1], at[:, -2], level, turns]).round(6)

    return of


# --- one unit -------------------------------------------------------------------------------


def _turned_into(
    project: Project, room: Room, unit: Unit, number: int, values: Mapping[str, Values]
) -> tuple[Thing, ...]:  # fmt: skip
    """The things of a unit as they come to be: moved, turned and sized together."""
    own = {name: float(found[number]) for name, found in values.items()}
    centre, first = unit.centre, unit.first
    to = tuple(own.get(name, centre[2 - axis]) for axis, name in enumerate(PLACES))  # x, y, z
    by = own.get("turn", first.turn) - first.turn
    factor = own.get("scale", first.scale) / first.scale
    found = []
    for _, thing in unit.things:
        moved = _about(
            thing, centre, (to[2], to[1], to[0]), by, factor, alone=len(unit.things) == 1
        )
        found.append(_settled(project, room, _with_rest(project, moved, own), own))
    return tuple(found)


def _about(
    thing: Thing, centre: tuple[float, ...], to: tuple[float, ...], by: float, factor: float, *,
    alone: bool,
) -> Thing:  # fmt: skip
    """A thing of a unit that comes to lie at `to`, turned by degrees clockwise and sized about its
    centre."""
    dz, dy, dx = (a - b for a, b in zip(thing.at, centre, strict=True))
    way = math.radians(by)
    y = (dy * math.cos(way) + dx * math.sin(way)) * factor
    x = (dx * math.cos(way) - dy * math.sin(way)) * factor
    scale = min(max(thing.scale * factor, LEAST_SCALE), LARGEST_SCALE)
    turn = round((thing.turn + by) % 360, 3)
    place = (to[0] + (0.0 if alone else dz), to[1] + y, to[2] + x)
    z, y, x = (round(v, 6) for v in place)
    return replace(thing, z=z, y=y, x=x, turn=turn, scale=round(scale, 4))


def _with_rest(project: Project, thing: Thing, own: Mapping[str, float]) -> Thing:
    """Leaning, and numbers of its own."""
    lean, roll = (round(own.get(name, getattr(thing, name)) % 360, 3) for name in SPACE_TURNS)
    prefab = project.prefabs.get(thing.prefab)
    numbers = {p.name: p for p in prefab.properties if p.kind == "number"} if prefab else {}
    told = {}
    for name, value in own.items():
        if name in numbers:
            kept = min(max(value, numbers[name].lowest), numbers[name].highest)
            told[name] = f"{kept:g}"
    return replace(thing, lean=lean, roll=roll, properties={**thing.properties, **told})


def _settled(project: Project, room: Room, thing: Thing, own: Mapping[str, float]) -> Thing:
    """As its prefab lets it stand: on its parts of cells, turned as it turns, seated."""
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return thing
    turn = {"none": 0.0, "quarters": round(thing.turn / _QUARTER) * _QUARTER % 360}.get(
        prefab.turns, thing.turn
    )
    found = snapped_thing(replace(thing, turn=turn), prefab.snaps)
    if room.info.axes == 3 and "z" not in own and ("x" in own or "y" in own):
        found = seated(project, room, found)
    return found


# --- verdicts and the Edit ------------------------------------------------------------------


def _refused(
    project: Project, room: Room, units: list[Unit], after: Iterable[tuple[Thing, ...]]
) -> dict[int, tuple[Reason, ...]]:  # fmt: skip
    """Why some units may not stand where they come to, all of them standing there."""
    moved: dict[Pick, Thing] = {}
    new: list[Thing] = []
    owner: dict[tuple[str, int], int] = {}
    for number, (unit, things) in enumerate(zip(units, after, strict=True)):
        for (pick, _), thing in zip(unit.things, things, strict=True):
            if unit.source is None:
                moved[pick] = thing
                owner[pick.layer, pick.number] = number
            else:
                owner["", -1 - len(new)] = number
                new.append(thing)
    ground = Ground(project, room).with_moved(moved)
    ground = ground.with_things(new) if new else ground
    asked = {row: owner[key] for row, key in enumerate(ground.standing.keys) if key in owner}
    found: dict[int, tuple[Reason, ...]] = {}
    for row, reasons in broken(ground, asked):
        if not ground.standing.things[row].overridden:
            found[asked[row]] = (*found.get(asked[row], ()), *reasons)
    return found


def arrange(
    project: Project, room_name: str, found: Arranged, *, all_the_same: bool = False
) -> Edit:
    """One Edit for all of it.  Refused ones stay as they were, or are not made; or they go there
    all the same."""
    moved: dict[Pick, Thing] = {}
    added: dict[tuple[str, str], list[Entry]] = {}
    for number, pick, thing in _entries(found):
        if number in found.refused:
            if not all_the_same:
                continue
            thing = replace(thing, overridden=True)
        unit = found.units[number]
        if unit.source is None:
            moved[pick] = thing
        else:
            if stands_in(thing):
                continue
            copy = replace(thing, groups=apart(thing.groups, number), attached=None,
                           along=None)  # fmt: skip
            added.setdefault((pick.layer, "things"), []).append(copy)
    others = {pick: thing for pick, thing in moved.items() if stands_in(thing)}
    moved = {pick: thing for pick, thing in moved.items() if pick not in others}
    edits = [things_changed(project, room_name, moved, "Arrange")] if moved else []
    edits += put_back(project, room_name, others, found.curve) if others else []
    if added:
        records, _ = numbered(project.room(room_name), added)
        edits.append(Edit("Copies", tuple(records)))
    return replace(joined(_label(found), edits), colour="#cf4a25")


def _entries(found: Arranged) -> Iterator[tuple[int, Pick, Thing]]:
    for number, (unit, things) in enumerate(zip(found.units, found.after, strict=True)):
        for (pick, _), thing in zip(unit.things, things, strict=True):
            yield number, pick, thing


def _label(found: Arranged) -> str:
    names = {things[0].prefab for things in found.after}
    kinds = {PIECE: "pieces", POINT: "points"}
    what = next((kinds.get(name, name) for name in names), "") if len(names) == 1 else "things"
    return f"Arrange {len(found.after)} {what}: {', '.join(found.values) or 'copies'}"
