"""Scraps: cut out of a room, and turned.  How they are laid is in `stamping`."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from topion.brushes.groups import loosened
from topion.brushes.kind import brush_or_none
from topion.brushes.shape import ShapeKind
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.orient import angles_of, composed_turns
from topion.grid.turns import composed
from topion.grid.ways import Way, in_mirror, mirror
from topion.model.curve import Curve, Place
from topion.model.derived import Kept
from topion.model.layer import Layer, LayerInfo
from topion.model.palette import Tint
from topion.model.piece import Piece
from topion.model.plane import Plane
from topion.model.prefab import Thing, standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.model.scrap import Scrap, ScrapLayer
from topion.model.tileset import TileRef
from topion.weaving.pieces import compiled
from topion.weaving.settle import ref_of_tile

Taken = Mapping[str, Iterable[int]]  # numbers of things and pieces by the id of their layer


# --- cut out ------------------------------------------------------------------------------


def cut_out(
    project: Project, room: Room, area: Area | None, layer_ids: Iterable[str], taken: Taken
) -> Scrap | None:
    """What lies in an area of some layers, and some of the things and pieces of any layer.

    None where there is neither.  Raises BadValue for more than a scrap can hold.
    """
    entries = {layer_id: tuple(numbers) for layer_id, numbers in taken.items()}
    box = box_round(room, area, entries)
    if not box.size:
        return None
    tables = _Tables(project)
    wanted = set(layer_ids) if area is not None else set()
    layers = []
    for layer_id, layer in room.bottom_up():
        planes = _planes_of(layer, area, box, tables) if area and layer_id in wanted else {}
        found = _layer_of(layer, planes, entries.get(layer_id, ()), box)
        if not found.is_empty:
            layers.append(found)
    own = None
    if area is not None and not area.within(box).all():
        own = Plane(area.within(box).astype(np.uint16))
    return Scrap(box.shape, tuple(layers), tuple(tables.materials), tuple(tables.tiles), own,
                 tuple(tables.tints))  # fmt: skip


def box_round(room: Room, area: Area | None, entries: Taken) -> Box:
    """The smallest box round all that is cut out; empty for nothing."""
    axes = room.info.axes
    box = area.box if area else Box((0,) * axes, (0,) * axes)
    for layer_id, numbers in entries.items():
        layer = room.layers[layer_id]
        for number in numbers:
            piece, thing = layer.pieces.get(number), layer.things.get(number)
            curve = layer.curves.get(number)
            if piece is not None:
                box = box.union(piece.box)
            if thing is not None:
                cell = standing_cell(thing, axes)
                box = box.union(Box(cell, tuple(v + 1 for v in cell)))
            if curve is not None:
                box = box.union(curve.box)
    return box


@dataclass
class _Tables:
    """The names of a scrap, as they are met."""

    project: Project
    materials: dict[str, int] = field(default_factory=dict)
    tiles: dict[TileRef, int] = field(default_factory=dict)
    tints: dict[Tint, int] = field(default_factory=dict)

    def of_materials(self, values: np.ndarray) -> np.ndarray:
        """Numbers of the project as numbers of the scrap."""
        return self._mapped(values, lambda n: self.project.material_name(n), self.materials)

    def of_tiles(self, values: np.ndarray, layer: Layer) -> np.ndarray:
        return self._mapped(values, lambda n: ref_of_tile(self.project, layer, n), self.tiles)

    def of_tints(self, values: np.ndarray) -> np.ndarray:
        known = {tint.number: tint for tint in self.project.palette}
        return self._mapped(values, known.get, self.tints)

    @staticmethod
    def _mapped(values: np.ndarray, name_of: Any, table: dict[Any, int]) -> np.ndarray:
        used = np.unique(values)
        to = np.zeros(int(used.max(initial=0)) + 1, np.uint16)
        for number in used[used > 0].tolist():
            name = name_of(number)
            if name is not None:
                to[number] = table.setdefault(name, len(table) + 1)
        return to.take(values)


def _planes_of(layer: Layer, area: Area, box: Box, tables: _Tables) -> dict[str, Plane]:
    found = {}
    inside = box.clipped(Box.of_shape(layer.size))
    for name in layer.planes:
        lie = layer.info.traits.in_plan
        around, here = (_plan(box), _plan(inside)) if lie else (box, inside)
        mask = area.in_plan(len(here.lo)).within(here)
        values = np.where(mask, layer.plane(name)[here.slices], 0)
        if not values.any():
            continue
        if name == "pinned":
            values = tables.of_tiles(values, layer)
        elif name in ("material", "inlay"):
            values = tables.of_materials(values)
        elif name in ("fore", "back"):
            values = tables.of_tints(values)
        cells = np.zeros(around.shape, np.uint16)
        cells[here.slices_from(around.lo)] = values
        found[name] = Plane(cells)
    return found


def _plan(box: Box) -> Box:
    return Box(box.lo[-2:], box.hi[-2:])


def _layer_of(
    layer: Layer, planes: dict[str, Plane], numbers: tuple[int, ...], box: Box
) -> ScrapLayer:
    back = tuple(-v for v in box.lo)
    pieces = sorted((layer.pieces[n] for n in numbers if n in layer.pieces), key=lambda p: p.order)
    curves, things = loosened(
        {n: layer.curves[n] for n in numbers if n in layer.curves},
        [layer.things[n] for n in numbers if n in layer.things],
    )
    info = layer.info
    return ScrapLayer(
        info.name,
        info.kind,
        planes,
        tuple(piece.shifted(back) for piece in pieces),
        tuple(thing.shifted(back) for thing in things),
        info.brush,
        tuple(curve.shifted(back) for curve in curves),
    )


# --- turned -------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class Turned:
    """A scrap as it comes out of a turn.  notes : what could not be turned."""

    scrap: Scrap
    notes: tuple[str, ...] = ()


_TURNED: Kept[dict[tuple[int, Way], tuple[Scrap, Turned]]] = Kept()
_MOST_TURNED = 8


def turned(project: Project, scrap: Scrap, way: Way) -> Turned:
    """A scrap turned about its middle, and all that lies in it.

    Tiles that may not be turned so are woven anew and named.  A piece stays one at quarter turns;
    with another side up it becomes the cells that it shows.  Things turn as far as their prefabs
    allow.
    """
    if way.is_none:
        return Turned(scrap)
    stamp = project.stamp("blocks", "prefabs", "brushes")
    kept = _TURNED.of(project, stamp, dict)
    found = kept.get((id(scrap), way))
    if found is None or found[0] is not scrap:
        if len(kept) >= _MOST_TURNED:
            kept.clear()
        found = kept[id(scrap), way] = (scrap, _turned(project, scrap, way))
    return found[1]


def _turned(project: Project, scrap: Scrap, way: Way) -> Turned:
    notes: dict[str, None] = {}
    if way.tips:
        scrap = _with_pieces_as_cells(project, scrap)
    tiles, stays = _turned_tiles(project, scrap, way, notes)
    layers = []
    for layer in scrap.layers:
        planes = dict(_turned_planes(layer, way, stays, notes))
        pieces = tuple(_turned_piece(project, piece, scrap.size, way) for piece in layer.pieces)
        things = tuple(_turned_thing(project, thing, scrap.size, way) for thing in layer.things)
        curves = tuple(turned_curve(curve, scrap.size, way) for curve in layer.curves)
        layers.append(replace(layer, planes=planes, pieces=pieces, things=things, curves=curves))
    area = scrap.area and Plane(np.ascontiguousarray(way.array(scrap.area.cells)))
    made = replace(scrap, size=way.shape(scrap.size), layers=tuple(layers), tiles=tiles, area=area)
    return Turned(made, tuple(notes))


def _turned_tiles(
    project: Project, scrap: Scrap, way: Way, notes: dict[str, None]
) -> tuple[tuple[TileRef, ...], np.ndarray]:
    """The table of tiles, each turned, and which numbers stand for one that may be."""
    stays = np.ones(len(scrap.tiles) + 1, bool)
    made = []
    for number, ref in enumerate(scrap.tiles, 1):
        if ref.is_block:
            block = project.blocks.get(ref.slot)
            allowed = block is None or block.turns == "any" or (
                block.turns == "quarters" and not way.tips
            )  # fmt: skip
            if not allowed:
                stays[number] = False
                notes[f"{ref.slot} cannot be turned so, and is woven anew"] = None
        made.append(_turned_ref(ref, way))
    return tuple(made), stays


def _turned_ref(ref: TileRef, way: Way) -> TileRef:
    if ref.is_block:  # a block counts as its own picture in a mirror
        turn = int(composed_turns()[ref.turn, way.turn])
        return ref._replace(turn=in_mirror(turn) if way.mirrored else turn)
    turn, mirrored = composed((ref.turn, ref.mirrored), (way.turn, way.mirrored))
    return ref._replace(turn=turn, mirrored=mirrored)


def _turned_planes(
    layer: ScrapLayer, way: Way, stays: np.ndarray, notes: dict[str, None]
) -> Iterator[tuple[str, Plane]]:
    for name, plane in layer.planes.items():
        if plane.cells.ndim < way.axes:  # in plan
            if way.tips:
                notes[f"the density of {layer.brush or layer.name} lies flat and is left out"] = (
                    None
                )
                continue
            cells = Way(2, way.turn, way.mirrored).array(plane.cells)
        else:
            cells = way.array(plane.cells)
        if name == "pinned" and not stays.all():
            cells = np.where(stays.take(cells), cells, 0)
        yield name, Plane(np.ascontiguousarray(cells, np.uint16))


def _turned_piece(project: Project, piece: Piece, size: tuple[int, ...], way: Way) -> Piece:
    """At quarters alone; where its box comes to lie, with the turn its brush gives it."""
    goal = way.box(piece.box, size)
    brush = brush_or_none(project, piece.brush)
    if isinstance(brush, ShapeKind):
        piece = brush.turned_piece(piece, way.turn)
        if way.mirrored:
            piece = brush.mirrored_piece(piece, -1)
    else:
        points = np.rint(way.positions(np.array(piece.points, float), size)).astype(int)
        piece = replace(piece, points=tuple(map(tuple, points.tolist())))
    return piece.shifted(tuple(a - b for a, b in zip(goal.lo, piece.box.lo, strict=True)))


def _turned_thing(project: Project, thing: Thing, size: tuple[int, ...], way: Way) -> Thing:
    axes = len(size)
    at = way.positions(np.array([thing.at[-axes:]]), size)[0].tolist()
    *level, y, x = (round(v, 6) for v in at)
    moved = replace(thing, y=y, x=x, z=level[0] if level else thing.z)
    if thing.along is not None and way.mirrored:
        along = thing.along
        moved = replace(moved, along=replace(along, aside=-along.aside, turn=-along.turn))
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return moved
    turns = prefab.turns != "none"
    if axes == 3:
        if not turns or ((way.tips or thing.tip) and not prefab.tips):
            return moved
        mirrored = thing.mirrored != (way.mirrored and prefab.mirrors)
        return replace(turned_in_space(moved, way), mirrored=mirrored)
    turn = thing.turn + 90 * way.turn if turns else thing.turn
    if way.mirrored:
        turn = -turn if turns else turn
        moved = replace(moved, mirrored=thing.mirrored != prefab.mirrors)
    return replace(moved, turn=turn % 360 if turns else turn)


def turned_curve(curve: Curve, size: tuple[int, ...], way: Way) -> Curve:
    """A curve as it comes out of a turn; what fills it changes sides in a mirror."""

    def moved(at: Place) -> Place:
        return tuple(np.round(way.positions(np.array([at]), size)[0], 6).tolist())

    def pull(handle: Place) -> Place:
        return tuple(np.round(way.matrix @ np.array(handle), 6).tolist()) if handle else ()

    points = tuple(replace(point, at=moved(point.at), before=pull(point.before),
                           after=pull(point.after)) for point in curve.points)  # fmt: skip
    fill = curve.fill
    if fill is not None and way.mirrored:
        fill = replace(fill, aside=-fill.aside, turn=-fill.turn)
    return replace(curve, points=points, fill=fill)


def turned_in_space(thing: Thing, way: Way) -> Thing:
    """A thing as it comes out of a turn, where it stands; what lies between two quarters about up
    is kept."""
    if thing.lean or thing.roll:
        turned = way.matrix @ thing.directions
        if way.mirrored:
            turned = turned @ mirror(3)
        turn, lean, roll = (round(angle, 3) for angle in angles_of(turned))
        return replace(thing, turn=turn, lean=lean, roll=roll, tip=0)
    quarters = round(thing.turn / 90)
    rest = thing.turn - 90 * quarters
    after = int(composed_turns()[4 * thing.tip + quarters % 4, way.turn])
    if way.mirrored:
        after, rest = in_mirror(after), -rest
    return replace(thing, turn=(after % 4 * 90 + rest) % 360, tip=after // 4)


def _with_pieces_as_cells(project: Project, scrap: Scrap) -> Scrap:
    """The same with its pieces laid into its cells, as they show."""
    if not any(layer.pieces for layer in scrap.layers):
        return scrap
    tables = _Tables(project, {name: n for n, name in enumerate(scrap.materials, 1)},
                     {ref: n for n, ref in enumerate(scrap.tiles, 1)})  # fmt: skip
    layers = []
    for layer in scrap.layers:
        if layer.pieces:
            blank = Layer(LayerInfo(layer.name, layer.kind), scrap.size)
            over = compiled(project, blank, layer.pieces, scrap.box)
            planes = {name: np.array(layer.planes[name].cells) if name in layer.planes
                      else np.zeros(scrap.size, np.uint16)
                      for name in ("material", "pinned")}  # fmt: skip
            for name, values in (("material", tables.of_materials(over.material)),
                                 ("pinned", tables.of_tiles(over.tile, blank))):  # fmt: skip
                np.copyto(planes[name], values, where=over.covered)
            kept = {name: Plane(cells) for name, cells in planes.items()}
            layer = replace(layer, planes={**layer.planes, **kept}, pieces=())
        layers.append(layer)
    return replace(scrap, layers=tuple(layers), materials=tuple(tables.materials),
                   tiles=tuple(tables.tiles))  # fmt: skip
