"""The density of a field in its cells: what was painted, and the layers over it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.model.layer import FULL_DENSITY, Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.things.densities.kind import Asked, DensityKind, Shares, joined
from topion.things.field import Field, field_of


def parts_of(field: Field | None) -> tuple[DensityKind, ...]:
    """The layers over the painted density that are on."""
    return tuple(part for part in field.parts if isinstance(part, DensityKind) and part.on) if (
        field is not None) else ()  # fmt: skip


def density_at(
    project: Project, room: Room, layer_id: str, cells: CellList,
    behind: frozenset[str] = frozenset(),
) -> Shares:  # fmt: skip
    """(n,) 0 to 1 in (n, 2) cells of the plan, all inside it.

    behind : field layers that ask for this one; a circle of fields ends at the first of them.
    """
    *_, (_, found) = steps_of(project, room, layer_id, cells, behind)
    return found


def steps_of(
    project: Project, room: Room, layer_id: str, cells: CellList,
    behind: frozenset[str] = frozenset(),
) -> Iterator[tuple[DensityKind | None, Shares]]:  # fmt: skip
    """What was painted, and what comes of it with each layer more."""
    layer = room.layers[layer_id]
    found: Shares = layer.plane("density")[tuple(cells.T)] / FULL_DENSITY
    yield None, found
    parts = parts_of(field_of(project, layer))
    if not parts:
        return

    def ask(other: str, at: CellList, known: frozenset[str]) -> Shares:
        return density_at(project, room, other, at, known)

    asked = Asked(project, room, layer_id, cells, first_of(layer), behind, ask)
    for part in parts:
        found = joined(found, part, part.shares(asked))
        yield part, found


def thumbnails(project: Project, room: Room, layer_id: str, size: tuple[int, int]) -> list[Shares]:
    """(h, w) pictures of what was painted, and of what comes of it with each layer that is on."""
    rows, columns = size
    high, wide = room.info.plan
    ys = (np.arange(rows) * high // rows).clip(0, high - 1)
    xs = (np.arange(columns) * wide // columns).clip(0, wide - 1)
    cells = np.stack(np.meshgrid(ys, xs, indexing="ij"), axis=-1).reshape(-1, 2)
    return [found.reshape(size) for _, found in steps_of(project, room, layer_id, cells)]


def first_of(layer: Layer) -> tuple[int, int]:
    """The first cell of the room as chance counts it for a field that has moved along."""
    y, x = layer.from_origin((0, 0))
    dy, dx = layer.info.drift or (0, 0)
    return y - dy, x - dx


def may_sow(layer: Layer, field: Field | None) -> Box:
    """The columns in which the field may be dense at all."""
    plan = Box.of_shape(layer.shape("density"))
    if any(part.joins in ("plus", "at least") for part in parts_of(field)):
        return plan
    density = layer.planes.get("density")
    if density is None:
        return Box((0, 0), (0, 0))
    rows = np.flatnonzero(density.any(axis=1))
    if not len(rows):
        return Box((0, 0), (0, 0))
    columns = np.flatnonzero(density[rows[0] : rows[-1] + 1].any(axis=0))
    return Box((int(rows[0]), int(columns[0])), (int(rows[-1]) + 1, int(columns[-1]) + 1))
