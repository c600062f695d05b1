"""The picture on a brush's card: the brush itself, laid on a scrap."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import BrushKind
from topion.brushes.marks import Marks
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.model.curve import Curve
from topion.model.layer import Layer, LayerInfo
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.render.atlas import mean_colours
from topion.render.samples import ground_for, is_solid, lay_sample
from topion.render.scene import render_room
from topion.render.solid_cards import solid_card
from topion.render.sprites import mean_colour
from topion.weaving.settle import shown_at

_EDGE_PX, _EDGE_SHARE, _WASH_SHARE = 2, 0.95, 0.4  # of a region


def card_picture(
    project: Project, brush: BrushKind, theme: str = "", *, flat: bool = False
) -> Rgba:
    """(h, w, 4) what the brush lays on a scrap, worn in a theme; only the backdrop if it cannot
    lay there.  flat : as it is laid in a flat room, if it can be."""
    colours = brush.colours(project)
    if colours is not None:
        return colour_card(*colours)
    if is_solid(project, brush, flat=flat):
        return solid_card(project, brush, theme)
    sample = brush.sample(project, deep=False)
    infos = {
        "base": LayerInfo("base", "tiles"),
        "own": LayerInfo("own", "tiles"),
        "things": LayerInfo("things", "things"),
    }
    room = Room(RoomInfo("scrap", sample.size, _cell_px(project), theme=theme))
    room.layers = {key: Layer.empty(info, sample.size) for key, info in infos.items()}
    room.order = tuple(room.layers)
    scrap = project.scratch(Rooms([("scrap", room)]))
    scrap.shelf("brushes").setdefault(brush.name, brush)  # one that is not kept is a material, too
    base = ground_for(project, brush, deep=False) if sample.ground else None
    if base is not None:
        lay_sample(scrap, base.at_home("base"), Marks(Box.of_shape(sample.size).cells()))
    lay_sample(scrap, sample.brush, sample.marks)
    picture = render_room(scrap, room)
    project.derived.update(scrap.derived)  # of the same library
    for _, region in room.regions():
        picture = washed(picture, region.plane("inside") > 0, brush.colour)
    for curve in (c for _, layer in room.bottom_up("things") for c in layer.curves.values()):
        if not any(thing.along for thing in room.layers["things"].things.values()):
            picture = lined(picture, curve, room.info.cell_px, brush.colour)
    return picture


def lined(picture: Rgba, curve: Curve, cell_px: int, colour: str) -> Rgba:
    """A picture with a curve drawn over it, dark at its sides."""
    at = ((curve.line.samples(0.05)[:, -2:] + 0.5) * cell_px).astype(np.intp)
    out = picture.copy()
    for wide, rgb in ((2, (250, 248, 240)), (1, tuple(_rgb(colour).tolist()))):
        steps = np.indices((2 * wide + 1, 2 * wide + 1)).reshape(2, -1).T - wide
        cells = (at[:, None] + steps).reshape(-1, 2)
        cells = cells[((cells >= 0) & (cells < picture.shape[:2])).all(axis=1)]
        out[cells[:, 0], cells[:, 1], :3] = rgb
    return out


def washed(picture: Rgba, inside: NDArray[np.bool_], colour: str) -> Rgba:
    """A picture with a colour over the (h, w) cells of a region, stronger at their edge."""
    px = picture.shape[0] // inside.shape[0]
    own = inside.repeat(px, 0).repeat(px, 1)
    padded = np.pad(own, _EDGE_PX)
    core = own.copy()
    for y, x in ((0, 1), (2, 1), (1, 0), (1, 2)):
        top, left = y * _EDGE_PX, x * _EDGE_PX
        core &= padded[top : top + own.shape[0], left : left + own.shape[1]]
    share = np.where(own & ~core, _EDGE_SHARE, np.where(own, _WASH_SHARE, 0.0))[..., None]
    out = picture.copy()
    out[..., :3] = np.round(picture[..., :3] * (1 - share) + _rgb(colour) * share)
    return out


def _rgb(colour: str) -> NDArray[np.uint8]:
    return np.array(tuple(bytes.fromhex(colour[1:])), np.uint8)


def colour_card(fore: str, back: str) -> Rgba:
    """Foreground and background as two halves, with a screen of dots where one is left as it is."""
    height, width = 64, 80
    ys, xs = np.indices((height, width))
    out = np.full((height, width, 4), 255, np.uint8)
    dots = ((ys // 4 + xs // 4) % 2 == 0)[..., None]
    for half, colour in (
        (xs * height < (height - ys) * width, fore),
        (xs * height >= (height - ys) * width, back),
    ):
        plain = np.where(dots, (214, 206, 190), (230, 224, 211))
        rgb = plain if not colour else _rgb(colour)
        out[half, :3] = np.broadcast_to(rgb, (height, width, 3))[half]
    return out


def _cell_px(project: Project) -> int:
    """As rooms have it that were read; else as large as tiles are."""
    sizes = [room.info.cell_px for room in project.rooms.read_ones()]
    sizes += [max(t.cut.tile) for t in project.tilesets.values()]
    return min(64, sizes[0]) if sizes else 16


def thumbnail(project: Project, room: Room, layer_id: str, most_px: int) -> np.ndarray:
    """(h, w) premultiplied words of one layer, about one pixel for every few cells."""
    layer = room.layers[layer_id]
    step = max(1, -(-max(room.info.size) // most_px))
    height, width = (-(-side // step) for side in room.info.size)
    if layer.info.kind == "tiles":
        cells = np.indices((height, width)).reshape(2, -1).T * step
        tiles = shown_at(project, layer, cells)
        return np.asarray(mean_colours(project, room.info.theme)[tiles.reshape(height, width)])
    out = np.zeros((height, width), np.uint32)
    if layer.info.kind == "field":
        density = layer.plane("density")[::step, ::step] / 255.0
        ys, xs = np.indices(density.shape)
        brush = project.brushes.get(layer.info.brush)
        colour = int(brush.colour[1:], 16) if brush else 0x6F8F3F
        out[unit(seed_of("thumbnail"), ys, xs) < density * 0.7] = 0xFF000000 | colour
        return out
    names = [thing.prefab for thing in layer.things.values()]
    colours = {name: mean_colour(project, name) for name in set(names)}
    words = np.array([colours[name] for name in names], np.uint32)
    cells = np.floor(layer.positions()[1][:, -2:] + 0.5).astype(np.intp) // step
    inside = ((cells >= 0) & (cells < (height, width))).all(axis=1)
    for dy, dx in ((0, 0), (0, 1), (1, 0), (1, 1)):  # a thing is two pixels wide
        down = np.minimum(cells[inside, 0] + dy, height - 1)
        right = np.minimum(cells[inside, 1] + dx, width - 1)
        out[down, right] = words[inside]
    return out
