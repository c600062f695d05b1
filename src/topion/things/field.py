"""A field: what is sown and how; the strokes that paint its density are another matter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Protocol, runtime_checkable

from topion.errors import BadValue
from topion.model.layer import Layer
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.typed import Name, Seed, typed


@typed
@dataclass(frozen=True)
class Sown:
    """One prefab of a field.  spacing : cells to its nearest neighbour, times the field's own."""

    prefab: Annotated[str, Ref("prefabs")]
    weight: float = 1.0
    spacing: float = 1.0

    def __post_init__(self) -> None:
        if not 0 < self.weight <= 1e6:
            raise BadValue("the weight of a sown prefab", self.weight, "above 0")
        if not 1 <= self.spacing <= 8:
            raise BadValue("the spacing factor of a sown prefab", self.spacing, "1 to 8")


@typed
@dataclass(frozen=True)
class Field:
    """All that decides what grows where, beside density and ground.

    spacing : least distance in cells.  size : range of scales.  turn : range in degrees.
    wanted : at most so many things in a room, 0 for no bound.
    """

    name: Name
    sown: tuple[Sown, ...]
    spacing: float = 1.0
    size: tuple[float, float] = (1.0, 1.0)
    turn: tuple[float, float] = (0.0, 0.0)
    rules: tuple[PlacementRule, ...] = ()
    seed: Seed = 1
    wanted: int = 0


@runtime_checkable
class Sows(Protocol):
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
