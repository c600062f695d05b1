"""Things as sprites: scaled, turned and placed pictures."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.frames import STILL, FrameSet
from topion.model.layer import Layer
from topion.model.model_frames import ModelSet, set_of
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.render.pixels import Words, as_words, resized
from topion.things.sowings import sown_in
from topion.things.sown import SownSpot

_SIZE_STEPS = 24  # sprites of a field share pictures: scales are rounded to 1/24
_TURN_STEP_DEG = 5.0
_SEATS = ((0.5, 0.0), (0.0, -0.5), (-0.5, 0.0), (0.0, 0.5))  # by quarters, from the middle
DOT_PX = 2  # cells up to this size show their things as dots


@dataclass(frozen=True, eq=False)
class Sprite:
    """Pixels and the pixel that comes to the thing's seat."""

    words: Words  # (h, w)
    anchor: tuple[float, float]  # (y, x) in px


@dataclass(frozen=True, eq=False)
class Placed:
    """A sprite with its top left corner, in px from the room's corner."""

    sprite: Sprite
    top: int
    left: int


def sprite_of(
    project: Project, prefab: Prefab, thing: Thing | SownSpot, px: float, cell_px: int
) -> Sprite:
    """The picture of a thing at `px` a cell, kept for the next one like it."""
    cache = _SPRITES.of(project, None, dict)
    scale = round(thing.scale * _SIZE_STEPS) / _SIZE_STEPS
    turn = round(thing.turn / _TURN_STEP_DEG) * _TURN_STEP_DEG % 360
    picture, own = shown_picture(project, prefab), prefab.picture_turned(thing.turn, thing.mirrored)
    if own is not None and turn:
        picture, turn = own, 0.0
    key = (id(picture), prefab.foot_px, scale, turn, thing.mirrored, px, cell_px)
    found = cache.get(key)
    if found is None:
        if len(cache) > 4096:
            cache.clear()
        drawn = _drawn(picture, prefab.foot_px, scale * px / cell_px, turn, thing.mirrored)
        found = cache[key] = drawn, picture
    return found[0]


# with the picture, which therefore keeps its id
_SPRITES: Kept[dict[object, tuple[Sprite, Picture]]] = Kept()


_FRAMES: Kept[dict[str, int]] = Kept()  # by prefab, which of its still ones shows now


def shown_picture(project: Project, prefab: Prefab) -> Picture:
    """The picture of a prefab at the time that was set last; the first frame until then."""
    still = prefab.frame_set(STILL)
    if still is None:
        return prefab.picture
    return still.pictures[frame_number(project, prefab.name) % len(still.pictures)]


def frame_number(project: Project, prefab: str) -> int:
    """Which frame of a prefab shows at the time that was set last; the first until then."""
    return _FRAMES.of(project, None, dict).get(prefab, 0)


def set_time(project: Project, time_ms: float) -> frozenset[str]:
    """Let animated prefabs move on; those that look otherwise now."""
    shown = _FRAMES.of(project, None, dict)
    moved = set()
    for name, prefab in project.prefabs.items():
        still: FrameSet | ModelSet | None = prefab.frame_set(STILL) if prefab.frames else None
        if prefab.model_frames:
            still = set_of(prefab.model_frames, STILL) or still
        if still is not None and shown.get(name, 0) != (frame := still.frame_at(time_ms)):
            shown[name] = frame
            moved.add(name)
    return frozenset(moved)


def _drawn(
    picture: Picture, anchor: tuple[int, int], scale: float, turn: float, mirrored: bool
) -> Sprite:
    rgba, (ay, ax) = picture.rgba, anchor
    if mirrored:
        rgba, ax = rgba[:, ::-1], rgba.shape[1] - ax
    if turn:
        return _turned(rgba, (ay, ax), scale, turn)
    height = max(1, round(rgba.shape[0] * scale))
    width = max(1, round(rgba.shape[1] * scale))
    words = resized(as_words(np.ascontiguousarray(rgba)), height, width)
    return Sprite(words, (ay * height / rgba.shape[0], ax * width / rgba.shape[1]))


def _turned(rgba: Rgba, anchor: tuple[float, float], scale: float, turn: float) -> Sprite:
    """Turned clockwise about its anchor."""
    image = Image.fromarray(np.ascontiguousarray(rgba)).rotate(
        -turn, resample=Image.Resampling.NEAREST, expand=True
    )
    angle = math.radians(turn)
    off_y = anchor[0] - rgba.shape[0] / 2
    off_x = anchor[1] - rgba.shape[1] / 2
    ay = image.height / 2 + off_x * math.sin(angle) + off_y * math.cos(angle)
    ax = image.width / 2 + off_x * math.cos(angle) - off_y * math.sin(angle)
    height, width = max(1, round(image.height * scale)), max(1, round(image.width * scale))
    words = resized(as_words(np.array(image)), height, width)
    return Sprite(words, (ay * scale, ax * scale))


def placed_sprites(
    project: Project, room: Room, layer: Layer, things: Iterable[Thing | SownSpot], px: float
) -> list[Placed]:
    """Sprites at `px` a cell, those farther back first."""
    placed = []
    off_y, off_x = layer.info.offset
    known: dict[tuple[object, ...], tuple[Sprite, float, float] | None] = {}
    for thing in sorted(things, key=lambda t: (t.y, t.x)):
        key = (thing.prefab, thing.turn, thing.mirrored, round(thing.scale * _SIZE_STEPS))
        found = known.get(key, _UNKNOWN)
        if found is _UNKNOWN:
            found = known[key] = _seated_sprite(project, room, thing, px)
        if found is None:
            continue
        sprite, down, right = found
        top, left = (thing.y + 0.5 + down + off_y) * px, (thing.x + 0.5 + right + off_x) * px
        ay, ax = sprite.anchor
        placed.append(Placed(sprite, round(top - ay), round(left - ax)))
    return placed


_UNKNOWN: Any = object()


def _seated_sprite(
    project: Project, room: Room, thing: Thing | SownSpot, px: float
) -> tuple[Sprite, float, float] | None:
    """The picture of a thing, and how far down and right of the middle of its cell its seat is."""
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return None
    sprite = sprite_of(project, prefab, thing, px, room.info.cell_px)
    # the seat is the bottom middle of the thing's cell, which turns with it by quarters
    stands = prefab.picture_turned(thing.turn, thing.mirrored) is not None
    down, right = _SEATS[0 if stands else round(thing.turn / 90) % 4]
    return sprite, down, right


def drawn_in(project: Project, room: Room, layer_id: str, box: Box) -> Iterator[Thing | SownSpot]:
    """The things of a layer whose anchors lie in `box`, as far as they are drawn."""
    layer = room.layers[layer_id]
    if layer.info.kind != "field":
        yield from layer.things_near(box).values()
        return
    sowing = sown_in(project, room, layer_id, box)
    inside = (sowing.positions >= box.lo) & (sowing.positions < box.hi)
    yield from sowing.spots(np.flatnonzero(inside.all(axis=1)))


def things_in(project: Project, room: Room, layer_id: str, box: Box | None) -> Iterator[Thing]:
    """Placed or sown things of a layer whose anchors lie in `box`, or all."""
    layer = room.layers[layer_id]
    if layer.info.kind == "field":
        sowing = sown_in(project, room, layer_id, box)
        rows = np.arange(len(sowing))
        if box is not None:
            inside = (sowing.positions >= box.lo) & (sowing.positions < box.hi)
            rows = np.flatnonzero(inside.all(axis=1))
        yield from (sowing.thing(row) for row in rows.tolist())
        return
    yield from (layer.things if box is None else layer.things_near(box)).values()


def overhang_cells(project: Project, room: Room) -> int:
    """How far, in cells, a sprite may reach beyond its own cell."""
    reach = 1.0
    for prefab in project.prefabs.values():
        reach = max(reach, max(prefab.picture.size_px) / room.info.cell_px)
    return math.ceil(reach * 2)


def mean_colour(project: Project, prefab: str) -> int:
    """One word for a prefab: the mean of its solid pixels."""
    known = project.prefabs.get(prefab)
    if known is None:
        return 0xFFCF4A25
    cache = _MEANS.of(project, project.stamp("prefabs"), dict)
    found = cache.get(prefab)
    if found is None:
        solid = known.picture.rgba[known.picture.rgba[..., 3] > 200][:, :3]
        red, green, blue = solid.mean(axis=0).astype(int) if len(solid) else (128, 128, 128)
        found = cache[prefab] = int(0xFF << 24 | red << 16 | green << 8 | blue)
    return found


_MEANS: Kept[dict[str, int]] = Kept()


def dots_in(
    project: Project, room: Room, layer_id: str, box: Box, side: int
) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.uint32]]:
    """Things of a layer as single pixels of a picture of `box`: (n,) rows, columns, words.

    For cells of one or two px, where a sprite would be a pixel or two itself.
    """
    layer = room.layers[layer_id]
    if layer.info.kind == "field":
        sowing = sown_in(project, room, layer_id, box)
        at = sowing.positions
        colours = np.array([mean_colour(project, name) for name in sowing.names], np.uint32)
        words = colours[sowing.prefabs] if len(at) else np.empty(0, np.uint32)
    else:
        at = layer.positions()[1][:, -2:]
        known = [mean_colour(project, thing.prefab) for thing in layer.things.values()]
        words = np.array(known, np.uint32)
    shifted = (at + 0.5 + np.array(layer.info.offset) - np.array(box.lo)) * side
    ys, xs = np.floor(shifted).astype(np.intp).T
    shown = (ys >= 0) & (xs >= 0) & (ys < box.shape[0] * side) & (xs < box.shape[1] * side)
    return ys[shown], xs[shown], words[shown]
