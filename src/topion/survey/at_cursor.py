"""What lies in a cell, top to bottom, and why."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from topion.brushes.kind import brush_or_none
from topion.brushes.shape import ShapeKind
from topion.edit.picking import brush_of_prefab, curves_at
from topion.edit.pieces import rank_of
from topion.grid.boxes import Box
from topion.grid.orient import turn_words
from topion.model.layer import Layer
from topion.model.prefab import Thing, standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.model.tileset import TileRef
from topion.things.density import density_at
from topion.things.ground import WIDEST_BODY, body_cells
from topion.things.sowings import sown_in
from topion.weaving.looms import loom_for
from topion.weaving.pieces import pieces_at
from topion.weaving.settle import ref_of_tile, shown_materials, shown_over, shown_ref
from topion.weaving.why import Why

_TURNS = ("", "turned 90°", "turned 180°", "turned 270°")
_NEAR_CELLS = 2
_MOST_BELOW = 6  # runs of blocks named below a cell


@dataclass(frozen=True)
class Lying:
    """One thing, piece or tile in a cell.  brush : the one that lays it, for picking it up."""

    name: str
    why: str
    layer: str
    brush: str = ""
    tile: TileRef | None = None
    prefab: str = ""
    thing: int | None = None
    detail: str = ""
    piece: int | None = None
    curve: int | None = None
    colours: tuple[str, str] = ("", "")  # foreground and background of a tint


Cell = tuple[int, ...]


def lying_at(
    project: Project,
    room: Room,
    cell: Cell,
    has: Callable[[Project, Layer], bool] = lambda project, layer: True,
) -> list[Lying]:
    """All that lies in the cell, uppermost first; nothing outside the room.

    has : whether what a field layer sows can be told at once; one that cannot is left out.

    In a voxel room that also names what lies below it, like blocks together.
    """
    if not room.box.holds(np.array([cell], np.intp)).all():
        return []
    found: list[Lying] = []
    for layer_id, layer in reversed(room.drawn()):
        if layer.info.traits.shows:
            found += _column(project, layer_id, layer, cell)
        elif layer.info.kind == "things":
            found += _things(project, room, layer_id, layer, cell)
            found += _curves(layer_id, layer, cell)
        elif has(project, layer):
            found += _sown(project, room, layer_id, layer, cell)
    return found + _tint(project, room, cell)


def _tint(project: Project, room: Room, cell: Cell) -> list[Lying]:
    """The colours that the worn tint map gives to the cell."""
    layer = room.worn_tint
    if layer is None or not layer.planes:
        return []
    fore, back, bright = (int(layer.plane(name)[cell]) for name in ("fore", "back", "bright"))
    if not fore and not back:
        return []
    known = {tint.number: tint for tint in project.palette}
    names = {number: tint.name for number, tint in known.items()}
    forms = {n: tint.bright if bright else tint.colour for n, tint in known.items()}
    words = [
        names.get(number, "own" if not number else f"colour {number}") for number in (fore, back)
    ]
    told = f"{words[0]} over {words[1]}{', bright' if bright else ''}"
    colours = (forms.get(fore, ""), forms.get(back, ""))
    return [Lying(told, f"tint · {layer.info.name}", room.info.tint, colours=colours)]


def _column(project: Project, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    """What lies in the cell and, where there are levels, below it."""
    found = _pieces(project, layer_id, layer, cell)
    if len(cell) == 2:
        inlay = _inlay(project, layer_id, layer, cell)
        return found + inlay + _tile(project, layer_id, layer, cell)
    top, y, x = cell
    column = layer.plane("material")[: top + 1, y, x]
    ends = np.flatnonzero(np.diff(column, prepend=0xFFFF, append=0xFFFF))
    for low, high in reversed(list(itertools.pairwise(ends.tolist()))):
        for lying in _tile(project, layer_id, layer, (high - 1, y, x)):
            levels = f"level {low}" if high - low == 1 else f"levels {low}–{high - 1}"
            found.append(replace(lying, detail=levels, why=_with(lying.why, lying.detail)))
    return found[:_MOST_BELOW]


def _pieces(project: Project, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    """The pieces that lie in the cell, nearest first."""
    found = []
    for number, piece in pieces_at(project, layer, cell):
        brush = brush_or_none(project, piece.brush)
        words = brush.words(piece) if isinstance(brush, ShapeKind) else "piece"
        rank, count = rank_of(layer, number)
        why = f"{words} · {layer.info.name}, {rank} of {count}"
        tile = _own_tile(project, piece.brush)
        found.append(Lying(piece.brush, why, layer_id, piece.brush, tile, piece=number))
    return found


def _with(why: str, detail: str) -> str:
    return f"{why}: {detail}" if detail else why


def _tile(project: Project, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    """What is painted there, be it under a piece or not."""
    material = int(layer.plane("material")[cell])
    if not material:
        return []
    name = project.material_name(material)
    covered = bool(pieces_at(project, layer, cell))
    ref = None if covered else shown_ref(project, layer, cell)
    brush = next((b.name for b in project.brushes.values() if b.material == name), "")
    if layer.plane("pinned")[cell]:
        kind = "block" if ref and ref.is_block else "tile"
        turned = f", {turn_words(ref.turn)}" if ref and ref.is_block and ref.turn else ""
        why = f"{kind} {ref.slot if ref else ''}{turned}, laid by hand and pinned"
        return [Lying(name, why, layer_id, brush, ref)]
    if covered:
        return [Lying(name, "painted, beneath", layer_id, brush, _own_tile(project, brush))]
    first = layer.from_origin((0,) * len(cell))
    reason = loom_for(project, layer).why(shown_materials(project, layer), *cell, first=first)
    return [Lying(name, _why_words(reason), layer_id, brush, ref, detail=_detail(reason))]


def _inlay(project: Project, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    """The second material of the cell, if it has one."""
    number = int(layer.plane("inlay")[cell]) if "inlay" in layer.planes else 0
    if not number:
        return []
    name = project.material_name(number)
    brush = next((b.name for b in project.brushes.values() if b.material == name), "")
    over = shown_over(project, layer, Box(cell, tuple(v + 1 for v in cell)))
    tile = int(over[0, 0]) if over is not None else 0
    ref = ref_of_tile(project, layer, tile)
    return [Lying(name, "inlaid over the ground", layer_id, brush, ref)]


def _own_tile(project: Project, name: str) -> TileRef | None:
    """One of the tiles of a brush, to show what is not seen."""
    brush = brush_or_none(project, name)
    return next(iter(brush.tiles_used()), None) if brush is not None else None


def _detail(why: Why | None) -> str:
    return why.rule if why and why.number else ""


def _why_words(why: Why | None) -> str:
    if why is None:
        return "no rules for this material"
    if not why.number:
        return "no rule fits: last resort" if why.tile else "no rule fits, so nothing shows"
    parts = [f"rule {why.number}"]
    if why.book != why.material:
        parts[0] += f" of {why.book}"
    if why.turn:
        parts.append(_TURNS[why.turn])
    if why.mirrored:
        parts.append("mirrored")
    if why.variants > 1:
        parts.append(f"variant {why.variant + 1} of {why.variants}")
    return ", ".join(parts)


def _things(project: Project, room: Room, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    found = []
    axes = room.info.axes
    here = Box(cell[-2:], (cell[-2] + 1, cell[-1] + 1))
    for number, thing in layer.things_near(here, _widest_body(project)).items():
        prefab = project.prefabs.get(thing.prefab)
        if cell in (body_cells(prefab, thing, axes) if prefab else [standing_cell(thing, axes)]):
            why = f"thing {number}{_thing_words(thing)}"
            brush = brush_of_prefab(project, thing.prefab)
            found.append(Lying(thing.prefab, why, layer_id, brush, None, thing.prefab, number))
    return list(reversed(found))


def _curves(layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    """The curves that pass there."""
    found = []
    for number in curves_at(layer, cell):
        curve = layer.curves[number]
        form = "closed" if curve.closed else f"{len(curve.points)} points"
        why = f"curve {number}, {curve.length:.1f} c, {form}"
        found.append(Lying(curve.brush or "Curve", why, layer_id, curve.brush, curve=number))
    return found


def _widest_body(project: Project) -> float:
    """How far, in cells, a body of any prefab reaches from the cell it stands in."""
    sides = (max(len(p.footprint), len(p.footprint[0])) for p in project.prefabs.values())
    return min(WIDEST_BODY, max(sides, default=1) + 1)


def _thing_words(thing: Thing) -> str:
    words = ""
    if thing.turn:
        words += f", turned {thing.turn:g}°"
    if thing.mirrored:
        words += ", mirrored"
    if thing.overridden:
        words += ", laid against its rules"
    return words


def _sown(project: Project, room: Room, layer_id: str, layer: Layer, cell: Cell) -> list[Lying]:
    column = cell[-2:]
    density = float(density_at(project, room, layer_id, np.array([column]))[0])
    if not density and not layer.table("held"):
        return []
    brush = brush_or_none(project, layer.info.brush)
    name = layer.info.brush
    window = Box(column, (column[0] + 1, column[1] + 1)).grown(_NEAR_CELLS)
    sowing = sown_in(project, room, layer_id, window)
    rows = sowing.at(*cell) if brush else []
    why = f"field “{layer.info.name}”, {density:.2f} dense here"
    if not rows and not density:
        return []
    if not rows:
        return [Lying(name, why, layer_id, name, detail="nothing sown")]
    found = []
    for row in rows:
        thing, number = sowing.thing(row), int(sowing.held[row]) if len(sowing.held) else 0
        told = f"{why}, held" if number else why
        found.append(Lying(thing.prefab, told, layer_id, name, None, thing.prefab,
                           number or None))  # fmt: skip
    return found
