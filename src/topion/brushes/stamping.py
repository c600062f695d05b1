"""Laying scraps: cells, pieces, things and densities, at one corner or at many."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.brushes.marks import Place
from topion.brushes.stamped_entries import (
    Copies,
    Known,
    Target,
    allowed,
    cleared,
    entries_of,
    numbered,
)
from topion.errors import BadValue, UnknownName
from topion.grid.areas import Area
from topion.grid.arrays import CellList, CellMask
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.edit import Record
from topion.model.layer import Layer
from topion.model.palette import Palette, Tint, named, with_tint
from topion.model.plane import Plane
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed
from topion.model.scrap import Scrap, ScrapLayer
from topion.model.tileset import TileRef
from topion.weaving.looms import tile_id, tiles_with
from topion.weaving.settle import shown_materials

Onto = Literal["its cells", "open cells", "whole area"]


@dataclass(frozen=True)
class Laying:
    """onto : where cells are laid: wherever the scrap has some, only where the room is open, or
    in all of its area, so that what is open in the scrap is open then.

    within : cells beyond it stay as they are.  override : things are laid whatever rules say.
    asks : whether rules are asked at all.
    """

    onto: Onto = "its cells"
    within: Area | None = None
    override: bool = False
    asks: bool = True


@dataclass
class Stamped:
    """What lays scraps.  numbers : of the new things and pieces, by the id of their layer.

    refused : what was left out, in words.  notes : what came out otherwise.
    """

    records: list[Record] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    numbers: dict[str, list[int]] = field(default_factory=dict)


def stamped(place: Place, copies: Sequence[Copies], how: Laying) -> Stamped:
    """Lay scraps at their corners.

    Where copies meet, the one laid first stays.  What reaches beyond the room is left out.
    """
    out = Stamped()
    room, project = place.room, place.project
    known = [Known(own, tuple(_targets(place, own.scrap, out))) for own in copies]
    table = tiles_with(project, (ref for own in copies for ref in own.scrap.tiles
                                 if _is_known(project, ref, out)))  # fmt: skip
    if table != project.tiles:
        out.records.append(ItemRecord(("tiles",), project.tiles, table))
    palette = _palette_with(project, (tint for own in copies for tint in own.scrap.tints), out)
    if palette != project.palette:
        out.records.append(ItemRecord(("palette",), project.palette, palette))
    cells = _Cells(place, how, [(one, _numbers(project, one.copies.scrap, table, palette, out))
                                for one in known])  # fmt: skip
    for layer_id in dict.fromkeys(target[0] for one in known for target in one.targets):
        out.records += cells.records(layer_id)
    if how.onto == "whole area":
        out.records += cleared(room, known)
    added, left = entries_of(room, known, how.within), 0
    if how.asks:
        added, left = allowed(place, out.records, added, how.override)
    if left:
        out.refused.append(f"{several(left, 'thing')} refused")
    records, out.numbers = numbered(room, added)
    out.records += records
    return out


def _targets(place: Place, scrap: Scrap, out: Stamped) -> Iterator[Target]:
    """(id of a layer, layer of the scrap): where each layer of a scrap is laid."""
    room = place.room
    for one in scrap.layers:
        layer_id = _target(place, one)
        if layer_id is None:
            what = f"for a field of {one.brush}" if one.kind == "field" else f"of {one.kind}"
            out.refused.append(f"{room.info.name} has no layer {what}, so {one.name} is left out")
        elif room.layers[layer_id].info.locked:
            out.refused.append(f"layer {room.layers[layer_id].info.name} is locked")
        else:
            yield layer_id, one


def _target(place: Place, one: ScrapLayer) -> str | None:
    """The layer of its name and kind, else the one worked on, else the topmost of its kind."""
    layers = place.room.bottom_up(one.kind)
    if one.kind == "tints" and place.room.worn_tint is not None:
        return place.room.info.tint
    if one.kind == "field":
        layers = [(i, layer) for i, layer in layers if layer.info.brush == one.brush]
    for layer_id, layer in layers:
        if layer.info.name == one.name:
            return layer_id
    if not layers:
        return None
    return next((i for i, _ in layers if i == place.layer_id), layers[-1][0])


def _as_one(found: list[ScrapLayer]) -> ScrapLayer:
    """Layers of one kind that come into one, the upper over the lower."""
    if len(found) == 1:
        return found[0]
    names = list(dict.fromkeys(name for one in found for name in one.planes))
    shape = next(iter(found[0].planes.values())).shape
    planes = {name: np.zeros(shape, np.uint16) for name in names}
    for one in found:
        over = np.logical_or.reduce([plane.cells > 0 for plane in one.planes.values()])
        for name in names:
            upper = one.planes[name].cells if name in one.planes else np.uint16(0)
            planes[name] = np.where(over, upper, planes[name])
    return replace(found[-1], planes={name: Plane(cells) for name, cells in planes.items()})


# --- cells --------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class _Numbers:
    """By number in a scrap, the number in the project; 0 for what is not known there."""

    materials: NDArray[np.uint16]
    tiles: NDArray[np.uint16]
    tints: NDArray[np.uint16]

    def of(self, plane: str, values: np.ndarray) -> np.ndarray:
        match plane:
            case "material" | "inlay":
                return self.materials.take(values)
            case "pinned":
                return self.tiles.take(values)
            case "fore" | "back":
                return self.tints.take(values)
        return values


def _palette_with(project: Project, tints: Iterable[Tint], out: Stamped) -> Palette:
    """The palette with the colours of scraps that it has none of that name for."""
    found = project.palette
    for tint in tints:
        if named(found, tint.name) is None:
            try:
                found = with_tint(found, tint.name, tint.colour, tint.bright)
            except BadValue:
                out.refused.append(f"the palette is full, so {tint.name} is left out")
    return found


def _numbers(
    project: Project, scrap: Scrap, table: tuple[TileRef, ...], palette: Palette, out: Stamped
) -> _Numbers:
    materials = [0]
    for name in scrap.materials:
        if name not in project.materials:
            out.refused.append(f"material {name} is not known here")
        materials.append(project.materials.index(name) + 1 if name in project.materials else 0)
    ids = {ref: n for n, ref in enumerate(table, 1)}
    tiles = [tile_id(project, ref) if ref.is_block else ids.get(ref, 0) for ref in scrap.tiles]
    known = (named(palette, tint.name) for tint in scrap.tints)
    tints = [0, *(tint.number if tint is not None else 0 for tint in known)]
    return _Numbers(*(np.array(row, np.uint16) for row in (materials, [0, *tiles], tints)))


def _is_known(project: Project, ref: TileRef, out: Stamped) -> bool:
    try:
        if ref.is_block:
            project.block(ref.slot)
        else:
            project.tileset(ref.tileset).slot(ref.slot)
    except UnknownName as problem:
        out.notes.append(f"{problem}, so it is woven anew")
        return False
    return True


@dataclass(frozen=True, eq=False)
class _Cells:
    """Lays the cells of one layer of the room after the other."""

    place: Place
    how: Laying
    copies: list[tuple[Known, _Numbers]]

    def records(self, layer_id: str) -> tuple[Record, ...]:
        """What lays the cells of a layer."""
        layer = self.place.room.layers[layer_id]
        kinds = layer.info.traits.planes
        if not kinds:
            return ()
        shape = layer.shape(next(iter(kinds)))
        flats = [np.empty(0, np.intp)]
        found: list[tuple[ScrapLayer, _Numbers, NDArray[np.intp]]] = []
        for known, numbers in self.copies:
            mine = [one for at, one in known.targets if at == layer_id and one.planes]
            if mine:
                one = _as_one(mine)
                own = self._own(known.copies.scrap, one, numbers)
                flat, source = self._spread(own, known.copies.corners, shape)
                flats.append(flat)
                found.append((one, numbers, source))
        flat = np.concatenate(flats)
        after: dict[str, np.ndarray] = {
            plane: np.concatenate([np.empty(0, kinds[plane]), *(
                _values(plane, one, numbers, source) for one, numbers, source in found
            )]).astype(kinds[plane], copy=False)
            for plane in _written(layer, [one for one, _, _ in found])
        }  # fmt: skip
        return self._record(layer_id, layer, shape, flat, after)

    def _record(
        self, layer_id: str, layer: Layer, shape: tuple[int, ...], flat: NDArray[np.intp],
        after: dict[str, np.ndarray],
    ) -> tuple[Record, ...]:  # fmt: skip
        """Of copies that meet in a cell, the first counts."""
        if (flat[1:] <= flat[:-1]).any():
            flat, first = np.unique(flat, return_index=True)
            after = {plane: values[first] for plane, values in after.items()}
        if self.how.onto == "open cells":
            keep = self._is_open(layer)[flat]
            flat, after = flat[keep], {plane: values[keep] for plane, values in after.items()}
        before = {plane: layer.plane(plane).reshape(-1)[flat] for plane in after}
        return cells_changed(self.place.room_name, layer_id, shape, flat, before, after)

    def _is_open(self, layer: Layer) -> NDArray[np.bool_]:
        """(n,) by flat cell, whether nothing shows there."""
        if layer.info.traits.shows:
            return np.asarray(shown_materials(self.place.project, layer).reshape(-1) == 0)
        planes = [layer.plane(name).reshape(-1) for name in layer.info.traits.planes]
        return np.asarray(~np.logical_or.reduce([plane > 0 for plane in planes]))

    def _own(self, scrap: Scrap, one: ScrapLayer, numbers: _Numbers) -> CellMask:
        """The cells of a layer of a scrap that are laid; not those of materials that the project
        does not know."""
        planes = [plane.cells for plane in one.planes.values()]
        if self.how.onto == "whole area":
            mask = Area(scrap.box, np.asarray(scrap.mask)).in_plan(planes[0].ndim).mask
        else:
            mask = np.logical_or.reduce([plane > 0 for plane in planes])
        material = one.planes.get("material")
        if material is not None and (numbers.materials[1:] == 0).any():
            lost = (numbers.materials == 0).take(material.cells) & (material.cells > 0)
            mask = mask & ~lost
        return np.asarray(mask)

    def _spread(
        self, own: CellMask, corners: CellList, shape: tuple[int, ...]
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """(m,) flat cells of a layer, copy after copy, and the flat cell of the scrap that is
        laid in each."""
        corners, room = corners[:, -len(shape) :], Box.of_shape(shape)
        if len(corners) == 1:
            lo, hi = corners[0], corners[0] + own.shape
            return self._spread_once(own, Box(tuple(lo.tolist()), tuple(hi.tolist())), room)
        cells = np.argwhere(own)
        wanted = (corners[:, None] + cells).reshape(-1, len(shape))
        keep = room.holds(wanted)
        if self.how.within is not None:
            area = self.how.within.in_plan(len(shape))
            keep &= area.holds(wanted)
        source = np.ravel_multi_index(tuple(cells.T), own.shape).astype(np.intp)
        flat = np.ravel_multi_index(tuple(wanted[keep].T), shape).astype(np.intp)
        return flat, np.tile(source, len(corners))[keep]

    def _spread_once(
        self, own: CellMask, box: Box, room: Box
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        both = box.clipped(room)
        if not both.size:
            return np.empty(0, np.intp), np.empty(0, np.intp)
        mask = own[both.slices_from(box.lo)]
        if self.how.within is not None:
            mask = mask & self.how.within.in_plan(len(box.lo)).within(both)
        at = np.nonzero(mask)
        found = []
        for lo, shape in ((both.lo, room.shape), (_gap(box, both), own.shape)):
            moved = tuple(axis + a for axis, a in zip(at, lo, strict=True))
            found.append(np.ravel_multi_index(moved, shape).astype(np.intp))
        return found[0], found[1]


def _written(layer: Layer, ones: Sequence[ScrapLayer]) -> list[str]:
    """The planes that are written: where a cell gets a material, also what it had beside it."""
    always = set(layer.info.traits.planes) - {"inlay"}
    known = layer.planes.keys() | {plane for one in ones for plane in one.planes}
    return [name for name in layer.info.traits.planes if name in always or name in known]


def _values(plane: str, one: ScrapLayer, numbers: _Numbers, source: NDArray[np.intp]) -> np.ndarray:
    stored = one.planes.get(plane)
    if stored is None:
        return np.zeros(len(source), np.uint16)
    return numbers.of(plane, stored.cells.reshape(-1)[source])


def _gap(box: Box, part: Box) -> tuple[int, ...]:
    """How far the first cell of a part lies from that of its box."""
    return tuple(a - b for a, b in zip(part.lo, box.lo, strict=True))
