"""In what two projects differ, in words; nothing for equal ones."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.model.shelves import TABLES, shelves


def differences(a: Project, b: Project) -> list[str]:
    """One line for each part that differs; what is derived does not count."""
    found = [f"{table} differ" for table in TABLES if getattr(a, table) != getattr(b, table)]
    found += ["what is of missing extensions differs"] * (a.foreign != b.foreign)
    for shelf in shelves():
        one, other = a.shelf(shelf.name), b.shelf(shelf.name)
        for name in sorted({*one, *other}):
            if name not in one or name not in other:
                found.append(f"{shelf.word} {name} is only in one")
            elif one[name] != other[name]:
                found.append(f"{shelf.word} {name} differs")
    for name in sorted({*a.rooms, *b.rooms}):
        if name not in a.rooms or name not in b.rooms:
            found.append(f"room {name} is only in one")
        else:
            found += [
                f"room {name}: {line}"
                for line in differences_in_rooms(a.rooms[name], b.rooms[name])
            ]
    return found


def differences_in_rooms(a: Room, b: Room) -> Iterator[str]:
    """The same for two rooms."""
    if a.info != b.info:
        yield "its settings differ"
    if a.numbers != b.numbers:
        yield "it gave other numbers"
    if a.conflicts != b.conflicts:
        yield "other conflicts are to be settled in it"
    if a.order != b.order or set(a.layers) != set(b.layers):
        yield "its layers differ"
        return
    for layer_id in a.order:
        yield from _in_layers(layer_id, a.layers[layer_id], b.layers[layer_id])


def _in_layers(layer_id: str, a: Layer, b: Layer) -> Iterator[str]:
    if a.info != b.info:
        yield f"layer {layer_id} is set otherwise"
        return
    for table in a.info.traits.tables:
        if a.table(table) != b.table(table):
            yield f"layer {layer_id} holds other {table}"
    for plane in a.info.traits.planes:
        if plane not in a.planes and plane not in b.planes:
            continue  # nothing in either
        one, other = a.plane(plane), b.plane(plane)
        if not np.array_equal(one, other):
            count = int((one != other).sum()) if one.shape == other.shape else "all"
            yield f"layer {layer_id} differs in {plane} of {count} cells"
