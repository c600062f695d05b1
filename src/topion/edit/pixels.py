"""The pixels of a slot as a small room of colours, and back onto the sheet.

Every colour is a material with a brush of its own name; what is clear is open.  The room stands in
a project of its own, so that every gesture, picking and mirrors work on it as on any room.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from topion.brushes import Lift, Mosaic
from topion.brushes.kind import BrushKind
from topion.edit.library import put_brush, put_item
from topion.errors import BadValue
from topion.grid.arrays import Rgba
from topion.model.edit import Edit, written
from topion.model.layer import Layer, LayerInfo
from topion.model.plane import Plane
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.weaving.rules import Variant

ROOM, LAYER, COLOURS = "pixels", "pixels", "colours"
CLEAR = "Clear"  # the brush that lifts
MOST_COLOURS = 1024
_SIDE = 8  # px of a tile that shows a colour
PARTS = ("Own colour", "Foreground", "Background")  # of a tint, as the mask tells them
_PART_COLOURS = ((150, 150, 150, 70), (207, 74, 37, 255), (35, 120, 111, 255))


def colour_name(rgba: tuple[int, ...]) -> str:
    """`#rrggbb`, with its opacity behind it where it is not whole."""
    text = "#" + "".join(f"{v:02x}" for v in rgba[:3])
    return text if rgba[3] == 255 else f"{text}{rgba[3]:02x}"


def colour_of(name: str) -> tuple[int, int, int, int]:
    """The opposite of `colour_name`.  Raises BadValue."""
    try:
        parts = tuple(bytes.fromhex(name.removeprefix("#")))
    except ValueError:
        parts = ()
    if len(parts) not in (3, 4):
        raise BadValue("a colour", name, "written as #rrggbb or #rrggbbaa")
    red, green, blue, *alpha = parts
    return red, green, blue, alpha[0] if alpha else 255


def palette_of(tileset: TileSet, at: tuple[int, int], most: int = 64) -> list[str]:
    """Colours of a slot, then the commonest of its sheet; at most `most` beyond those of the slot.

    Raises BadValue for a slot with too many colours.
    """
    own = _counted(tileset.pixels(at))
    if len(own) > MOST_COLOURS:
        raise BadValue("the colours of the slot", len(own), f"at most {MOST_COLOURS}")
    rest = [name for name in _counted(tileset.sheet.rgba) if name not in set(own)]
    return own + rest[:most]


def _counted(rgba: Rgba) -> list[str]:
    """The colours of a picture by name, commonest first; clear ones are none."""
    words = np.ascontiguousarray(rgba).view("<u4").reshape(-1)
    values, counts = np.unique(words, return_counts=True)
    order = values[np.argsort(-counts, kind="stable")]
    colours = (tuple(int(v).to_bytes(4, "little")) for v in order)
    return [colour_name(colour) for colour in colours if colour[3]]


def pixel_project(tileset: TileSet, at: tuple[int, int], colours: list[str]) -> Project:
    """A project with the room of a slot, and a brush for each colour."""
    pixels = tileset.pixels(at)
    project = _project_of([(name, colour_of(name)) for name in colours])
    words = np.ascontiguousarray(pixels).view("<u4")[..., 0]
    material = np.zeros(words.shape, np.uint16)
    for number, name in enumerate(colours, 1):
        material[words == int.from_bytes(bytes(colour_of(name)), "little")] = number
    material[pixels[..., 3] == 0] = 0
    _put_room(project, material)
    return project


def mask_project(tileset: TileSet, at: tuple[int, int]) -> Project:
    """The same of the tint mask of a slot: which pixels take which part of a tint."""
    project = _project_of(list(zip(PARTS, _PART_COLOURS, strict=True)))
    part = _mask_part(tileset, at)
    _put_room(project, part.astype(np.uint16) + 1)
    return project


def _mask_part(tileset: TileSet, at: tuple[int, int]) -> NDArray[np.uint16]:
    y, x = tileset.cut.corner_px(at)
    height, width = tileset.cut.size_of(at)
    if tileset.mask is None:
        return np.zeros((height, width), np.uint16)
    return tileset.mask.cells[y : y + height, x : x + width]


def _project_of(colours: list[tuple[str, tuple[int, ...]]]) -> Project:
    project = Project(COLOURS)
    sheet = np.zeros((_SIDE, _SIDE * max(1, len(colours)), 4), np.uint8)
    for number, (_, rgba) in enumerate(colours):
        sheet[:, number * _SIDE : (number + 1) * _SIDE] = rgba
    tiles = TileSet(COLOURS, picture_of(sheet), Cut((_SIDE, _SIDE)))
    list(written(project, [put_item(project, "tilesets", tiles)]))
    for number, (name, rgba) in enumerate(colours):
        hexed = "#" + "".join(f"{v:02x}" for v in rgba[:3])
        ref = TileRef(COLOURS, f"0,{number}")
        brush: BrushKind = Mosaic(name, (Variant(ref),), colour=hexed)
        list(written(project, [put_brush(project, brush, "Colours")]))
    list(written(project, [put_brush(project, Lift(CLEAR), "Colours")]))
    return project


def _put_room(project: Project, material: NDArray[np.uint16]) -> None:
    shape = (int(material.shape[0]), int(material.shape[1]))
    layer = Layer.empty(LayerInfo(LAYER, "tiles"), shape)
    layer.put_planes({"material": material})
    room = Room(RoomInfo(ROOM, shape, _SIDE))
    room.layers, room.order = {LAYER: layer}, (LAYER,)
    project.rooms = Rooms([(ROOM, room)])


def painted(project: Project) -> Rgba:
    """(h, w, 4) the pixels that a room of colours shows."""
    material = project.room(ROOM).layers[LAYER].plane("material")
    table = np.zeros((len(project.materials) + 1, 4), np.uint8)
    for number, name in enumerate(project.materials, 1):
        table[number] = colour_of(name)
    return np.asarray(table[material])


def with_pixels(
    project: Project, tileset_name: str, at: tuple[int, int], pixels: Rgba, label: str = ""
) -> Edit:
    """Write the pixels of a slot onto its sheet."""
    tileset = project.tileset(tileset_name)
    y, x = tileset.cut.corner_px(at)
    height, width = tileset.cut.size_of(at)
    rgba = np.array(tileset.sheet.rgba)
    own = _own_part(pixels, (height, width))
    if np.array_equal(rgba[y : y + height, x : x + width], own):
        return Edit(tileset_name)
    rgba[y : y + height, x : x + width] = own
    edit = put_item(project, "tilesets", replace(tileset, sheet=picture_of(rgba)))
    return replace(edit, label=label or f"Pixels of {tileset.name_at(at)}")


def _own_part(pixels: Rgba, size: tuple[int, int]) -> Rgba:
    """What of a whole tile a smaller slot takes from the sheet: its middle, on the ground."""
    height, width = size
    left = (pixels.shape[1] - width) // 2
    return pixels[pixels.shape[0] - height :, left : left + width]


def with_mask(project: Project, tileset_name: str, at: tuple[int, int], scratch: Project) -> Edit:
    """Write the tint mask of a slot as it is painted in a room of parts."""
    tileset = project.tileset(tileset_name)
    material = scratch.room(ROOM).layers[LAYER].plane("material")
    part = np.maximum(material.astype(int) - 1, 0).astype(np.uint16)
    y, x = tileset.cut.corner_px(at)
    height, width = tileset.cut.size_of(at)
    cells = np.zeros(tileset.sheet.size_px, np.uint16)
    if tileset.mask is not None:
        cells[...] = tileset.mask.cells
    if np.array_equal(cells[y : y + height, x : x + width], part):
        return Edit(tileset_name)
    cells[y : y + height, x : x + width] = part
    mask = Plane(cells) if cells.any() else None
    edit = put_item(project, "tilesets", replace(tileset, mask=mask))
    return replace(edit, label=f"Tint mask of {tileset.name_at(at)}")
