"""Test grounds: the small room of a desk, on which the rules of a brush are tried.

A ground is a scrap that the brush carries; it is painted as a room of its own and read back.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from topion.brushes.scraps import cut_out
from topion.grid.areas import Area
from topion.grid.neighbours import bits_of, cases_47
from topion.model.facets import Facet
from topion.model.layer import Layer, LayerInfo, LayerKind
from topion.model.plane import Plane
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.scrap import Scrap, ScrapLayer
from topion.weaving.cover import FACES
from topion.weaving.looms import tile_id
from topion.weaving.rules import RuleBook

OWN, BASE = "own", "base"  # layers of the room: what is tried, and what lies under it
GROUND = "ground"  # the name of the room
_SIDE, _LEVELS = 12, 6


@runtime_checkable
class Ruled(Facet, Protocol):
    """The facet of brushes whose tiles are chosen by rules that a desk shows.

    ground : what lies on their test ground; None for the first of the ready ones.
    """

    name: str
    rules: RuleBook
    ground: Scrap | None


def _drawn(*rows: str) -> NDArray[np.bool_]:
    return np.array([[sign == "#" for sign in row] for row in rows])


def _blob() -> NDArray[np.bool_]:
    return _drawn("............", "....##......", "...####.....", "..######....", "..#######...",
                  ".##########.", ".##########.", "..###.#####.", "..###..###..", "...##...##..",
                  "............", "..#####.....")  # fmt: skip


def _ring() -> NDArray[np.bool_]:
    ys, xs = np.indices((_SIDE, _SIDE)) - (_SIDE - 1) / 2
    far = np.hypot(ys, xs)
    return np.asarray((far < 5.2) & (far > 2.4))


def _stairs() -> NDArray[np.bool_]:
    return _drawn("............", ".........##.", ".........##.", ".......####.", ".......####.",
                  ".....######.", ".....######.", "...########.", "...########.", ".##########.",
                  ".##########.", "............")  # fmt: skip


def _islands() -> NDArray[np.bool_]:
    return _drawn("............", ".#..##..###.", ".....##.....", ".##.....#.#.", ".#..###.###.",
                  "....###.....", ".#..#....##.", "...##..#.##.", ".#....###...", ".#.##..#..#.",
                  "...##....##.", "............")  # fmt: skip


def _all_cases() -> NDArray[np.bool_]:
    """Each of the 47 cases by itself, seven in a row."""
    cells = np.zeros((29, 29), bool)
    for number, mask in enumerate(cases_47()):
        y, x = (1 + 4 * v for v in divmod(number, 7))
        cells[y : y + 3, x : x + 3] = bits_of(mask)
    return cells


def _all_faces() -> NDArray[np.bool_]:
    """Each of the 64 cases of faces by itself, sixteen on a level."""
    cells = np.zeros((17, 17, 17), bool)
    for mask in range(64):
        z, y, x = (1 + 4 * v for v in (mask // 16, mask // 4 % 4, mask % 4))
        part = cells[z : z + 3, y : y + 3, x : x + 3]
        part[1, 1, 1] = True
        for bit, place in enumerate(FACES):
            part[place] = bool(mask >> bit & 1)
    return cells


SHAPES: dict[str, Callable[[], NDArray[np.bool_]]] = {
    "Blob": _blob,
    "Ring": _ring,
    "Stairs": _stairs,
    "Islands": _islands,
    "All cases": _all_cases,
}


def shaped(material: str, shape: str = "Blob", *, deep: bool = False) -> Scrap:
    """A ready ground of one material; in voxel rooms the shape rises and narrows as it does."""
    cells = _risen(shape) if deep else SHAPES[shape]()
    layer = ScrapLayer(OWN, "blocks" if deep else "tiles", {"material": Plane(_numbers(cells))})
    return Scrap(cells.shape, (layer,), (material,))


def _numbers(cells: NDArray[np.bool_]) -> NDArray[np.uint16]:
    return cells.astype(np.uint16)


def _risen(shape: str) -> NDArray[np.bool_]:
    from scipy import ndimage

    if shape == "All cases":
        return _all_faces()
    level = SHAPES[shape]()
    cells = np.zeros((_LEVELS, *level.shape), bool)
    for z in range(_LEVELS - 2):
        cells[z + 1] = level
        if z % 2:
            level = ndimage.binary_erosion(level)
    return cells


def ground_room(project: Project, scrap: Scrap, cell_px: int, base: str = "") -> Room:
    """A scrap as a room to be painted in.  base : the material that lies under a flat one."""
    kind: LayerKind = "blocks" if scrap.axes == 3 else "tiles"
    room = Room(RoomInfo(GROUND, scrap.size, cell_px, "top"))
    if base and scrap.axes == 2:
        below = Layer.empty(LayerInfo(BASE, kind, locked=True), scrap.size)
        number = project.material_id(base)
        below.put_planes({"material": np.full(scrap.size, number, np.uint16)})
        room.layers[BASE] = below
    own = Layer.empty(LayerInfo(OWN, kind), scrap.size)
    own.put_planes(dict(_planes(project, scrap)))
    room.layers[OWN] = own
    room.order = tuple(room.layers)
    return room


def _planes(project: Project, scrap: Scrap) -> Iterator[tuple[str, NDArray[np.uint16]]]:
    materials = [0] + [_material(project, name) for name in scrap.materials]
    tiles = [0] + [tile_id(project, ref) for ref in scrap.tiles]
    for layer in scrap.layers:
        for name, plane in layer.planes.items():
            table = {"material": materials, "inlay": materials, "pinned": tiles}.get(name)
            if table is not None:
                yield name, np.array(table, np.uint16)[plane.cells]


def _material(project: Project, name: str) -> int:
    return project.materials.index(name) + 1 if name in project.materials else 0


def ground_scrap(project: Project, room: Room) -> Scrap:
    """What was painted, to be kept."""
    found = cut_out(project, room, Area.of_box(room.box), (OWN,), {})
    return found or Scrap(room.info.size)
