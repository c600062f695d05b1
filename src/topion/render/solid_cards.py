"""The pictures on the cards of brushes that lay blocks or shape the ground."""

from __future__ import annotations

from dataclasses import replace

from topion.brushes.kind import DEEP_SCRAP, BrushKind
from topion.brushes.marks import Marks
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.layer import Layer, LayerInfo
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.render.eye import Eye
from topion.render.pixels import halved
from topion.render.raster import draw, sky
from topion.render.samples import ground_for, lay_sample
from topion.render.volume import room_faces
from topion.render.wear import wear_of
from topion.render.worn_blocks import worn_book

_PX = (61, 83)  # of the card's picture


def solid_card(project: Project, brush: BrushKind, theme: str = "") -> Rgba:
    """(h, w, 4) what the brush lays on a scrap of ground, worn in a theme."""
    sample = brush.sample(project, deep=True)
    room = Room(RoomInfo("scrap", sample.size, theme=theme))
    for kind in ("blocks", "things"):
        room.layers[kind] = Layer.empty(LayerInfo(kind, kind), sample.size)
    room.order = tuple(room.layers)
    scrap = project.scratch(Rooms([("scrap", room)]))
    base = ground_for(project, brush, deep=True)
    marks = sample.marks
    if base is not None:
        floor = Box((0, 0, 0), (sample.levels, *sample.size[1:]))
        lay_sample(scrap, base, Marks(floor.cells()))
    elif sample.on_ground:
        marks = replace(marks, cells=marks.cells - (sample.levels, 0, 0))
    lay_sample(scrap, sample.brush, marks)
    picture = halved(_drawn(scrap, room, sample.near))
    project.derived.update(scrap.derived)  # of the same library
    return picture


def _drawn(scrap: Project, room: Room, shown: Box | None) -> Rgba:
    height, width = (2 * side for side in _PX)
    eye = Eye(height=height, width=width, yaw=-38.0, pitch=34.0)
    eye = eye.framing(shown or Box((0, 0, 0), (3, *DEEP_SCRAP[1:])), 1.12)
    faces = room_faces(scrap, room)
    return draw(faces, worn_book(scrap, wear_of(room)).pictures, eye, sky)
