"""Pieces compiled: what they lay over the painted cells of their layer, farthest to nearest."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.layer import Layer
from topion.model.piece import Piece
from topion.model.project import Project
from topion.weaving.looms import tile_id
from topion.weaving.shapes import Coded, Shapes


@dataclass(frozen=True, eq=False)
class _Shape:
    """A brush ready to compile its pieces.  tiles : (codes,) by code, that of 0 being 0.

    known : what it compiled, as long as the brush is the same.
    """

    brush: Shapes
    material: int
    tiles: TileIds
    number: int
    known: dict[Piece, Coded] = field(default_factory=dict)

    def coded(self, piece: Piece) -> Coded:
        """The form in each cell of a piece."""
        found = self.known.get(piece)
        if found is None:
            if len(self.known) >= _MOST_KNOWN:
                self.known.clear()
            found = self.known[piece] = self.brush.coded(piece)
        return found


_MOST_KNOWN = 4096
_SHAPES: Kept[dict[str, _Shape]] = Kept()


def _shapes(project: Project) -> dict[str, _Shape]:
    def make() -> dict[str, _Shape]:
        found = {}
        for number, brush in enumerate(project.brushes.values(), 1):
            if isinstance(brush, Shapes):
                ids = [0, *(tile_id(project, ref) if ref else 0 for ref in brush.forms)]
                material = project.material_id(brush.material)
                found[brush.name] = _Shape(brush, material, np.array(ids, np.uint16), number)
        return found

    stamp = project.stamp("brushes", "materials", "tiles", "block_names")
    return _SHAPES.of(project, stamp, make)


def shape_brush(project: Project, piece: Piece) -> Shapes | None:
    """The brush of a piece, if there is one that lays such shapes in such rooms."""
    shape = _shapes(project).get(piece.brush)
    return shape.brush if shape is not None and shape.brush.axes == piece.axes else None


@dataclass(frozen=True, eq=False)
class Over:
    """A box of a layer with its pieces over the painted cells.

    material : what shows.  covered : where a piece does.  tile : what it shows there.
    """

    material: MaterialIds
    covered: NDArray[np.bool_]
    tile: TileIds


def laid_over(project: Project, layer: Layer, box: Box) -> Over | None:
    """The cells of `box`, which lies in the room, with the pieces over them; None if there are
    none."""
    pieces = layer.pieces_in(box)
    return compiled(project, layer, [piece for _, piece in pieces], box) if pieces else None


def compiled(project: Project, layer: Layer, pieces: Iterable[Piece], box: Box) -> Over:
    """The same with other pieces, farthest first, whether they are in the layer or not."""
    known = _shapes(project)
    codes = np.zeros(box.shape, np.uint16)
    owner = np.zeros(box.shape, np.uint16)
    material = layer.plane("material")[box.slices].copy()
    tile = np.zeros(box.shape, np.uint16)
    counted = Box(layer.from_origin(box.lo), layer.from_origin(box.hi))
    moved = any(layer.origin)
    for piece in pieces:
        shape = known.get(piece.brush)
        if shape is not None and shape.brush.axes == len(box.lo):
            there = piece.shifted(layer.origin) if moved else piece
            _lay(shape, shape.coded(there), counted, codes, owner, material, tile)
    return Over(material, owner > 0, tile)


def _lay(
    shape: _Shape,
    coded: Coded,
    box: Box,
    codes: NDArray[np.uint16],
    owner: NDArray[np.uint16],
    material: MaterialIds,
    tile: TileIds,
) -> None:
    """Lay one piece over those that were laid before it; writes into the last four."""
    met_in = []  # this runs for each piece at each move of a pull, so it makes no boxes
    for lo, hi, corner, side in zip(box.lo, box.hi, coded.corner, coded.codes.shape, strict=True):
        first, last = max(lo, corner), min(hi, corner + side)
        if first >= last:
            return
        met_in.append((slice(first - lo, last - lo), slice(first - corner, last - corner)))
    here = tuple(own for own, _ in met_in)
    code = coded.codes[tuple(its for _, its in met_in)]
    covers = code > 0
    if shape.brush.joins:
        met = covers & (owner[here] == shape.number)
        code = np.where(met, code | codes[here], code)
        np.copyto(codes[here], code, where=covers)
    np.copyto(owner[here], np.uint16(shape.number), where=covers)
    np.copyto(material[here], np.uint16(shape.material), where=covers)
    np.copyto(tile[here], shape.tiles.take(code), where=covers)


def covers_cells(project: Project, piece: Piece, cells: CellList) -> NDArray[np.bool_]:
    """(n,) which of (n, axes) cells a piece lays by itself."""
    out = np.zeros(len(cells), bool)
    near = np.flatnonzero(piece.touched.holds(cells))
    if len(near):
        box = Box.of_cells(cells[near])
        out[near] = covers(project, piece, box)[tuple((cells[near] - np.array(box.lo)).T)]
    return out


def covers(project: Project, piece: Piece, box: Box) -> NDArray[np.bool_]:
    """Which cells of `box` a piece lays by itself; none if its brush is not known."""
    out = np.zeros(box.shape, bool)
    brush = shape_brush(project, piece)
    if brush is not None:
        coded = brush.coded(piece)
        both = coded.box.clipped(box)
        if both.size:
            out[both.slices_from(box.lo)] = coded.codes[both.slices_from(coded.corner)] > 0
    return out


def pieces_at(project: Project, layer: Layer, cell: tuple[int, ...]) -> list[tuple[int, Piece]]:
    """(number, piece) of all that lay something in a cell, nearest first."""
    box = Box(cell, tuple(v + 1 for v in cell))
    near = reversed(layer.pieces_in(box))
    return [(number, piece) for number, piece in near if covers(project, piece, box).any()]
