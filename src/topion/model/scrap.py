"""Scraps: what was cut out of a room, to be laid again anywhere.

A scrap stands by itself: its cells hold places in tables of its own names, so it means the same in
every project.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.curve import Curve
from topion.model.layer import KINDS_OF_LAYERS, LayerKind
from topion.model.palette import Tint
from topion.model.piece import Piece
from topion.model.plane import Plane, check_size
from topion.model.prefab import Thing
from topion.model.refs import Ref
from topion.model.tileset import TileRef
from topion.model.typed import Name, typed

MOST_SCRAP_LAYERS = 64
_TABLES = {"material": "materials", "inlay": "materials", "pinned": "tiles", "fore": "tints",
           "back": "tints"}  # fmt: skip
_MOST = {"bright": 1}


@typed
@dataclass(frozen=True)
class ScrapLayer:
    """One layer of a scrap.

    name, kind, brush : of the layer it was taken from.  planes : what is stored, with places in
    the tables of the scrap from 1; a density as it is.  pieces, things, curves : counted from its
    first cell.  A thing that belongs to a curve is attached to nothing by name, and to the number
    of the curve in this row, from 1.
    """

    name: Name
    kind: LayerKind
    planes: dict[str, Plane] = field(default_factory=dict, hash=False)
    pieces: tuple[Piece, ...] = ()
    things: tuple[Thing, ...] = ()
    brush: Annotated[str, Ref("brushes")] = ""
    curves: tuple[Curve, ...] = ()

    @property
    def is_empty(self) -> bool:
        """Whether nothing lies in it."""
        filled = any(plane.cells.any() for plane in self.planes.values())
        return not (filled or self.pieces or self.things or self.curves)


@typed
@dataclass(frozen=True)
class Scrap:
    """size : cells in array order, two or three axes.  layers : from bottom to top.

    materials, tiles, tints : what numbers in its planes stand for, from 1.  area : 1 in the cells
    that belong to it, where not all of the box do.
    """

    size: tuple[int, ...]
    layers: tuple[ScrapLayer, ...] = ()
    materials: tuple[Annotated[str, Ref("materials")], ...] = ()
    tiles: tuple[TileRef, ...] = ()
    area: Plane | None = None
    tints: tuple[Tint, ...] = ()

    def __post_init__(self) -> None:
        check_size(self.size)
        if len(self.layers) > MOST_SCRAP_LAYERS:
            raise BadValue(
                "the layers of a scrap", len(self.layers), f"at most {MOST_SCRAP_LAYERS}"
            )
        if self.area is not None and self.area.shape != self.size:
            raise BadValue("the area of a scrap", self.area.shape, f"of its size, {self.size}")
        if any(ref.is_block != (self.axes == 3) for ref in self.tiles):
            wanted = "blocks" if self.axes == 3 else "tiles of tile sets"
            raise BadValue("the tiles of a scrap", "of the other kind", wanted)
        for layer in self.layers:
            self._check(layer)

    def _check(self, layer: ScrapLayer) -> None:
        kind = KINDS_OF_LAYERS[layer.kind]
        if kind.shows and (layer.kind == "blocks") != (self.axes == 3):
            raise BadValue(f"layer {layer.name} of a scrap", layer.kind, "of its kind of room")
        for name, plane in layer.planes.items():
            shape = self.size[-2:] if kind.in_plan else self.size
            if name not in kind.planes or plane.shape != shape:
                raise BadValue(f"{name} of layer {layer.name}", plane.shape, f"a plane of {shape}")
            most = len(getattr(self, _TABLES[name])) if name in _TABLES else _MOST.get(name, 255)
            if plane.cells.size and int(plane.cells.max()) > most:
                raise BadValue(f"{name} of layer {layer.name}", int(plane.cells.max()),
                               f"at most {most}")  # fmt: skip
        strange = (layer.pieces and not kind.laid_over) or (
            (layer.things or layer.curves) and kind.planes
        )
        if strange:
            raise BadValue(f"layer {layer.name} of a scrap", layer.kind, "what such a layer holds")
        axes = {piece.axes for piece in layer.pieces} | {curve.axes for curve in layer.curves}
        if axes - {self.axes}:
            raise BadValue(f"a piece of layer {layer.name}", "of the other kind", "of its room")

    @property
    def axes(self) -> int:
        """2 of flat rooms, 3 of voxel rooms."""
        return len(self.size)

    @property
    def box(self) -> Box:
        return Box.of_shape(self.size)

    @cached_property
    def mask(self) -> NDArray[np.bool_]:
        """The cells that belong to it; to be read."""
        if self.area is None:
            return np.broadcast_to(np.True_, self.size)
        return self.area.cells > 0

    @property
    def is_empty(self) -> bool:
        """Whether nothing lies in it."""
        return all(layer.is_empty for layer in self.layers)

    def holds(self) -> str:
        """What lies in it, in a few words: `214 cells, 3 pieces, 5 things`."""
        counts = {"cell": self.count_cells(), "piece": 0, "thing": 0, "curve": 0}
        for layer in self.layers:
            counts["piece"] += len(layer.pieces)
            counts["thing"] += len(layer.things)
            counts["curve"] += len(layer.curves)
        said = (f"{n} {word}{'' if n == 1 else 's'}" for word, n in counts.items() if n)
        fields = [layer.brush or layer.name for layer in self.layers if layer.kind == "field"
                  and not layer.is_empty]  # fmt: skip
        return ", ".join((*said, *fields)) or "nothing"

    def count_cells(self) -> int:
        """Of materials, in all layers."""
        planes = (layer.planes.get("material") for layer in self.layers)
        return sum(int(np.count_nonzero(plane.cells)) for plane in planes if plane is not None)
