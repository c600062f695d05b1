"""CSV, one file a layer, and one that tells what the numbers mean."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator

import numpy as np

from topion.formats.stems import stem
from topion.model.layer import Layer
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things.sowings import sowing_of
from topion.weaving.settle import shown_materials, shown_tiles, tile_planes

_THING_HEAD = ("id", "prefab", "y", "x", "turn", "mirrored", "scale", "z")


def csv_files(project: Project, room: Room) -> Iterator[tuple[str, bytes]]:
    """(file name, contents): tiles as numbers, densities, and things as lines."""
    name = stem(room.info.name)
    for layer_id, layer in room.bottom_up():
        if layer.info.traits.shows:
            yield from _cells(f"{name}.{layer_id}", project, layer)
        elif layer.info.kind == "things":
            rows = ((n, *_thing_row(thing)) for n, thing in layer.things.items())
            yield f"{name}.{layer_id}.csv", _table([_THING_HEAD, *rows])
        elif layer.info.traits.worn or layer.info.kind == "region":
            for plane in layer.info.traits.planes:
                for where, cells in _levels(layer.plane(plane)):
                    yield f"{name}.{layer_id}{where}.{plane}.csv", _table(cells.tolist())
        else:
            sowing = sowing_of(project, room, layer_id)
            rows = ((n, *_thing_row(sowing.thing(n))) for n in range(len(sowing)))
            yield f"{name}.{layer_id}.csv", _table([_THING_HEAD, *rows])
            yield f"{name}.{layer_id}.density.csv", _table(layer.plane("density").tolist())
    tiles = [("number", "tileset", "slot", "turn", "mirrored")]
    tiles += [(n, r[0], r[1], r[2], int(r[3])) for n, r in enumerate(project.tiles, 1)]  # type: ignore[misc]
    yield "tiles.csv", _table(tiles)
    blocks = [("number", "block"), *enumerate(project.block_names, 1)]
    yield "blocks.csv", _table(blocks)
    materials = [("number", "material"), *enumerate(project.materials, 1)]
    yield "materials.csv", _table(materials)
    if project.palette:
        tints = [(t.number, t.name, t.colour, t.bright) for t in project.palette]
        yield "palette.csv", _table([("number", "name", "colour", "bright"), *tints])


def _cells(stem_: str, project: Project, layer: Layer) -> Iterator[tuple[str, bytes]]:
    """The tiles and materials of a flat room; of a voxel room the blocks, turns and materials
    of each level that is not empty."""
    shown = tile_planes(layer, shown_tiles(project, layer))
    planes = {**shown, "material": shown_materials(project, layer)}
    if "tile" in planes:
        yield f"{stem_}.csv", _table(planes["tile"].tolist())
        yield f"{stem_}.material.csv", _table(planes["material"].tolist())
        return
    for level in np.flatnonzero(planes["material"].any(axis=(1, 2))).tolist():
        for plane, cells in planes.items():
            yield f"{stem_}.{level:03}.{plane}.csv", _table(cells[level].tolist())


def _levels(cells: np.ndarray) -> Iterator[tuple[str, np.ndarray]]:
    """A flat plane, or each level of a deep one that is not empty, with its part of a name."""
    if cells.ndim == 2:
        yield "", cells
        return
    for level in np.flatnonzero(cells.any(axis=(1, 2))).tolist():
        yield f".{level:03}", cells[level]


def _thing_row(thing: Thing) -> tuple[object, ...]:
    numbers = (round(v, 6) for v in (thing.y, thing.x, thing.turn))
    rest = (int(thing.mirrored), round(thing.scale, 6), round(thing.z, 6))
    return (thing.prefab, *numbers, *rest)


def _table(rows: Iterable[Iterable[object]]) -> bytes:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows)
    return out.getvalue().encode()
