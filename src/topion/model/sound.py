"""What may stand in a project: the highest numbers in cells, and names that must be known."""

from __future__ import annotations

import numpy as np

from topion.errors import TopionError
from topion.grid.orient import TURNS
from topion.model.layer import FULL_DENSITY, Layer
from topion.model.palette import MOST_TINTS, checked
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS, TURN_MASK, block_ref


class NotSound(TopionError):
    """Parts of a project that do not fit each other."""


def highest(project: Project, layer: Layer, plane: str) -> int:
    """The largest number that may stand in a plane."""
    match plane:
        case "material" | "inlay":
            return len(project.materials)
        case "density" | "size":
            return FULL_DENSITY
        case "fore" | "back":
            return MOST_TINTS
        case "bright":
            return 1
    if layer.info.kind == "tiles":
        return len(project.tiles)
    return len(project.block_names) << TURN_BITS | TURNS


def strays(project: Project, layer: Layer, plane: str, values: np.ndarray) -> np.ndarray:
    """Which of the values may not stand in a plane: a mask of their shape."""
    bad = values > highest(project, layer, plane)
    if plane == "pinned" and layer.info.kind == "blocks":
        number = values >> TURN_BITS
        bad |= (values & TURN_MASK >= TURNS) | (number > len(project.block_names))
        bad |= (values > 0) & (number == 0)
    return np.asarray(bad)


def check_library(project: Project) -> None:
    """Every name one part of the library uses for another must be known.  Raises NotSound."""
    try:
        checked(project.palette)
        _check_tiles(project)
        _check_themes(project)
    except TopionError as problem:
        raise NotSound(str(problem)) from None


def _check_themes(project: Project) -> None:
    for sheet in project.shelf("themes").values():
        if sheet.tileset not in project.tilesets:
            raise NotSound(f"tile set “{sheet.tileset}” of {sheet.name} is not listed")


def _check_tiles(project: Project) -> None:
    for ref in project.tiles:
        project.tileset(ref.tileset).slot(ref.slot)
    known = {*project.tiles, *map(block_ref, project.block_names)}
    for name in project.block_names:
        for ref in project.block(name).tiles():
            project.tileset(ref.tileset).slot(ref.slot)
    if len(project.blocks) > len(project.block_names):
        lost = next(name for name in project.blocks if name not in project.block_names)
        raise NotSound(f"block “{lost}” is not listed")
    materials = set(project.materials)
    for brush in project.brushes.values():
        if brush.material and brush.material not in materials:
            raise NotSound(f"material “{brush.material}” of a brush is not listed")
        used = (block_ref(ref.slot) if ref.is_block else ref for ref in brush.tiles_used())
        missing = next((ref for ref in used if ref not in known), None)
        if missing:
            name = f"{missing.tileset or 'block'} {missing.slot}"
            raise NotSound(f"tile {name} is not listed")


def check_room(project: Project, name: str, room: Room) -> None:
    """A room holds what its settings say, and no numbers that mean nothing.  Raises NotSound."""
    if room.info.name != name:
        raise NotSound(f"room “{name}” is named “{room.info.name}”")
    if sorted(room.order) != sorted(room.layers):
        raise NotSound(f"the order of the layers of {name} leaves some out")
    for layer in room.layers.values():
        if not room.info.may_hold(layer.info) or layer.size != room.info.size:
            raise NotSound(f"layer {layer.info.name} does not fit into {name}")
        for plane, cells in layer.planes.items():
            if cells.size and int(cells.max()) and strays(project, layer, plane, cells).any():
                raise NotSound(f"layer {layer.info.name} of {name} holds unknown numbers")
