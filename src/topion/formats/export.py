"""What an export writes, by kind; the command line and the window share it."""

from __future__ import annotations

from collections.abc import Iterator

from topion.errors import BadValue, UnknownName
from topion.formats.bundle import bundle_bytes
from topion.formats.csv_layers import csv_files
from topion.formats.folder import stem
from topion.formats.gltf import gltf_bytes
from topion.model.project import Project
from topion.pictures.png import png_bytes
from topion.render.scene import render_room

KINDS = ("json", "csv", "png", "gltf")


def export_files(
    project: Project, rooms: tuple[str, ...], kind: str, scale: float = 1.0
) -> Iterator[tuple[str, bytes]]:
    """(file name, contents).  png: each room, and each layer of flat ones alone; gltf: the
    voxel rooms among them.  Raises BadValue if there is none."""
    if kind == "json":
        yield f"{stem(project.name)}.json", bundle_bytes(project, rooms)
    elif kind == "csv":
        for name in rooms:
            yield from csv_files(project, project.room(name))
    elif kind == "png":
        for name in rooms:
            room = project.room(name)
            yield f"{stem(name)}.png", png_bytes(render_room(project, room, scale))
            for layer_id, _ in room.bottom_up() if room.info.axes == 2 else ():
                picture = render_room(project, room, scale, layer_id)
                yield f"{stem(name)}.{layer_id}.png", png_bytes(picture)
    elif kind == "gltf":
        solid = [name for name in rooms if project.room(name).info.axes == 3]
        if not solid:
            raise BadValue("the rooms for glTF", ", ".join(rooms), "voxel rooms")
        for name in solid:
            yield f"{stem(name)}.glb", gltf_bytes(project, project.room(name))
    else:
        raise UnknownName("export", kind, KINDS)
