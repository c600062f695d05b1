"""A field: what is sown and how; the strokes that paint its density are another matter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, Protocol, runtime_checkable

from topion.errors import BadValue
from topion.model.facets import Facet
from topion.model.layer import Layer
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.typed import Name, Seed, between, typed
from topion.things.densities.kind import DensityKind

Avoids = Literal["nothing", "things", "fields", "things and fields"]


@typed
@dataclass(frozen=True)
class Sown:
    """One prefab of a field.  spacing : cells to its nearest neighbour, times the field's own.

    size : range of scales, times that of the field.  turn : range in degrees; None for that of the
    field.  strays : up to so many cells it stands from its place, so it may come nearer to others.
    """

    prefab: Annotated[str, Ref("prefabs")]
    weight: float = 1.0
    spacing: float = 1.0
    size: tuple[float, float] = (1.0, 1.0)
    turn: tuple[float, float] | None = None
    strays: float = 0.0

    def __post_init__(self) -> None:
        if not 0 < self.weight <= 1e6:
            raise BadValue("the weight of a sown prefab", self.weight, "above 0")
        if not 1 <= self.spacing <= 8:
            raise BadValue("the spacing factor of a sown prefab", self.spacing, "1 to 8")
        if not 0.05 <= self.size[0] <= self.size[1] <= 20:
            raise BadValue("the size of a sown prefab", self.size, "a range within 0.05 to 20")
        if not 0 <= self.strays <= 1:
            raise BadValue("how far a sown prefab strays", self.strays, "0 to 1 cells")
        if self.turn is not None and not all(abs(v) <= 36_000 for v in self.turn):
            raise BadValue("the turn of a sown prefab", self.turn, "degrees")


@typed
@dataclass(frozen=True)
class Field:
    """All that decides what grows where, beside density and ground.

    spacing : least distance in cells.  size : range of scales.  turn : range in degrees.
    wanted : at most so many things in a room, 0 for no bound.  per_100 : at most so many on 100
    cells of full density, 0 likewise.  parts : layers of the density over the painted one, the
    lowest first.  avoids : of the layers below its own, what it keeps clear of, by `clear` cells
    from middle to middle.
    """

    name: Name
    sown: tuple[Sown, ...]
    spacing: float = 1.0
    size: tuple[float, float] = (1.0, 1.0)
    turn: tuple[float, float] = (0.0, 0.0)
    rules: tuple[PlacementRule, ...] = ()
    seed: Seed = 1
    wanted: int = 0
    per_100: Annotated[float, between(0, 100_000)] = 0.0
    parts: tuple[DensityKind, ...] = ()
    avoids: Avoids = "nothing"
    clear: Annotated[float, between(0, 100, "cells")] = 1.0


MOST_PARTS = 16  # layers of one density


@runtime_checkable
class Sows(Facet, Protocol):
    """The facet of brushes that paint the density of a field."""

    @property
    def field(self) -> Field: ...


def field_named(project: Project, brush: str) -> Field | None:
    """The field that a brush paints, if there is one of that name."""
    found = project.brushes.get(brush)
    return found.field if isinstance(found, Sows) else None


def field_of(project: Project, layer: Layer) -> Field | None:
    """The field that a layer sows."""
    return field_named(project, layer.info.brush)
