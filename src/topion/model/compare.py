"""In what two projects differ, in words; nothing for equal ones."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.project import Project
from topion.model.room import Room

_PARTS = (
    "name", "materials", "tiles", "block_names", "bays", "tilesets", "blocks", "brushes", "prefabs",
)  # fmt: skip


def differences(a: Project, b: Project) -> list[str]:
    """One line for each part that differs; derived data does not count."""
    found = []
    for part in _PARTS:
        if getattr(a, part) != getattr(b, part):
            found.append(f"{part} differ")
    for name in sorted({*a.rooms, *b.rooms}):
        if name not in a.rooms or name not in b.rooms:
            found.append(f"room {name} is only in one")
        else:
            found += [f"room {name}: {line}" for line in _in_rooms(a.rooms[name], b.rooms[name])]
    return found


def _in_rooms(a: Room, b: Room) -> Iterator[str]:
    if a.info != b.info:
        yield "its settings differ"
    if a.order != b.order or set(a.layers) != set(b.layers):
        yield "its layers differ"
        return
    for layer_id in a.order:
        one, other = a.layers[layer_id], b.layers[layer_id]
        if one.info != other.info:
            yield f"layer {layer_id} is set otherwise"
        if one.things != other.things:
            yield f"layer {layer_id} holds other things"
        for plane, cells in one.planes.items():
            if not np.array_equal(cells, other.planes[plane]):
                count = int((cells != other.planes[plane]).sum())
                yield f"layer {layer_id} differs in {plane} of {count} cells"
