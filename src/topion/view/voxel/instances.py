"""Where models stand: shaped blocks, things, sown things and the things of the ghost."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import VoxelModel
from topion.render.sprites import things_in
from topion.render.volume import Shaped, block_matrix, shape_of, thing_matrix
from topion.things.verdict import Verdict
from topion.view.table.compose import Has
from topion.view.voxel.ghost import Ghost

Rgb = tuple[float, float, float]
Standing = tuple[VoxelModel, NDArray[np.float64], NDArray[np.float64]]
Places = dict[int, tuple[VoxelModel, NDArray[np.float32]]]
_PICKED = (0.81, 0.29, 0.145, 0.34)
_LIKE = (0.95, 0.70, 0.16, 0.30)
_REFUSED = (0.81, 0.29, 0.145, 0.55)


@dataclass(frozen=True)
class Lit:
    """picked : things that are picked.  prefabs : whose instances light up softly."""

    picked: frozenset[Pick] = frozenset()
    prefabs: frozenset[str] = frozenset()

    def tint(self, prefab: str, pick: Pick | None = None) -> tuple[float, ...]:
        """What an instance is tinted with."""
        if pick is not None and pick in self.picked:
            return _PICKED
        return _LIKE if prefab in self.prefabs else (0, 0, 0, 0)


class _Places:
    def __init__(self) -> None:
        self._rows: dict[int, tuple[VoxelModel, list[list[float]]]] = {}

    def add(
        self, model: VoxelModel, matrix: NDArray[np.float64], by: NDArray[np.float64],
        tint: tuple[float, ...] = (0, 0, 0, 0),
    ) -> None:  # fmt: skip
        """matrix and place over (z, y, x); the card has (x, y, z)."""
        turned = matrix[::-1, ::-1]
        row = [*turned.T.reshape(-1).tolist(), *by[::-1].tolist(), *tint]
        self._rows.setdefault(id(model), (model, []))[1].append(row)

    def done(self) -> Places:
        return {
            key: (model, np.array(rows, np.float32)) for key, (model, rows) in self._rows.items()
        }


def instances(
    project: Project,
    room: Room,
    shaped: list[Shaped],
    ghost: Ghost,
    refused: Verdict | None,
    colour: Rgb,
    has: Has,
    lit: Lit | None = None,
    more: Iterable[Standing] = (),
) -> Places:
    """All models of the room, by the id of the model, with those of the ghost tinted.

    has : whether what a field layer sows can be stood there at once; see `Ahead`.
    more : models that stand there, too.
    """
    lit = lit or Lit()
    places = _Places()
    for part in shaped:
        for cell, turn in zip(part.cells, part.turns.tolist(), strict=True):
            matrix, by = block_matrix(part.model, turn)
            places.add(part.model, matrix, by + cell)
    for layer_id, layer in room.drawn():
        if not layer.info.shown or layer.info.traits.shows:
            continue
        if layer.info.kind == "field":
            if not has(project, layer):
                continue
            for thing in things_in(project, room, layer_id, None):
                _stand(places, project, thing, lit.tint(thing.prefab))
        else:
            for number, thing in layer.things.items():
                gone = (layer_id, number) in ghost.gone
                tint = lit.tint(thing.prefab, Pick(layer_id, number))
                _stand(places, project, thing, _REFUSED if gone else tint)
    for thing in ghost.things:
        _stand(places, project, thing, (*colour, 0.22))
    if refused is not None and not ghost.things:
        z, y, x = refused.at
        _stand(places, project, Thing(refused.prefab, y, x, z=z), _REFUSED)
    for model, matrix, by in more:
        places.add(model, matrix, by)
    return places.done()


def _stand(
    places: _Places, project: Project, thing: Thing, tint: tuple[float, ...] = (0, 0, 0, 0)
) -> None:
    prefab = project.prefabs.get(thing.prefab)
    if prefab is not None:
        model = shape_of(project, prefab)
        places.add(model, *thing_matrix(prefab, model, thing), tint)
