"""What is arranged: single things, and groups that count as one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.edit.pieces import Pick
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project

PLACES = ("x", "y", "z")
SPACE_TURNS = ("lean", "roll")  # in voxel rooms
Picked = Mapping[Pick, Thing]


@dataclass(frozen=True)
class Unit:
    """One thing, or those of a group.  source : which of the picked it is a copy of; None for the
    picked themselves."""

    things: tuple[tuple[Pick, Thing], ...]
    source: int | None = None

    @property
    def first(self) -> Thing:
        """The one whose turn, size and properties are those of the unit."""
        return self.things[0][1]

    @property
    def centre(self) -> tuple[float, float, float]:
        """(z, y, x) of the middle of its box."""
        at = np.array([thing.at for _, thing in self.things])
        z, y, x = ((at.min(axis=0) + at.max(axis=0)) / 2).tolist()
        return float(at[:, 0].min()) if len(at) > 1 else z, y, x


def units_of(things: Picked) -> list[Unit]:
    """The picked, those of one outermost group together, in the order of their first ones."""
    together: dict[object, list[tuple[Pick, Thing]]] = {}
    for pick, thing in things.items():
        key: object = ("group", thing.groups[0]) if thing.groups else pick
        together.setdefault(key, []).append((pick, thing))
    return [Unit(tuple(own)) for own in together.values()]


def with_copies(units: list[Unit], count: int) -> list[Unit]:
    """The same and copies of them, one after the other, until there are `count`."""
    more = range(len(units), max(count, len(units)))
    return [*units, *(Unit(units[n % len(units)].things, n % len(units)) for n in more)]


def properties_of(project: Project, units: Iterable[Unit], axes: int) -> list[str]:
    """What can be arranged: places, turns, size, and the numbers that all of them have."""
    units = list(units)
    if units and all(thing.prefab not in project.prefabs and not thing.prefab.strip()
                     for unit in units for _, thing in unit.things):  # fmt: skip
        return [*PLACES[: 3 if axes == 3 else 2]]  # what stands in for pieces and points
    found = [*PLACES[: 3 if axes == 3 else 2], "turn"]
    found += [*SPACE_TURNS] if axes == 3 else []
    found.append("scale")
    names: list[str] | None = None
    for unit in units:
        for _, thing in unit.things:
            prefab = project.prefabs.get(thing.prefab)
            own = numbers_of(prefab)
            names = own if names is None else [name for name in names if name in own]
    return [*found, *(name for name in names or [] if name not in found)]


def numbers_of(prefab: Prefab | None) -> list[str]:
    """The names of the properties of a prefab that are numbers."""
    return [p.name for p in prefab.properties if p.kind == "number"] if prefab is not None else []


def value_of(project: Project, unit: Unit, name: str) -> float:
    """What a unit has of a property now."""
    if name in PLACES:
        return unit.centre[2 - PLACES.index(name)]
    if name in ("turn", "scale", *SPACE_TURNS):
        return float(getattr(unit.first, name))
    prefab = project.prefabs.get(unit.first.prefab)
    told = unit.first.properties.get(name, "")
    known = next((p.value for p in prefab.properties if p.name == name), "0") if prefab else "0"
    try:
        return float(told or known)
    except ValueError:
        return 0.0


def values_of(project: Project, units: list[Unit], name: str) -> NDArray[np.float64]:
    """(n,) the same of all."""
    return np.array([value_of(project, unit, name) for unit in units], np.float64)
