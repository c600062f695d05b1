"""Names that were given up, in files of others who did not know of it: each means what it meant.

Two people work in copies of one project; one renames a brush, the other one goes on laying it.  Put
together file by file, the files of the second speak of the old name.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from topion.model.conflict import NameInCells
from topion.model.layer import Layer
from topion.model.plain import TypeForm
from topion.model.project import Project
from topion.model.refs import uses, with_names
from topion.model.shelves import SHELVES, TABLES, shelves
from topion.model.tileset import slot_kind

Names = tuple[tuple[str, str, str], ...]  # (kind, old, new)


def former_names(project: Project) -> Names:
    """Those that nothing bears now, the oldest first."""
    found = []
    for one in project.former:
        if not _is_borne(project, one.of, one.old):
            found.append((one.of, one.old, one.new))
    return tuple(found)


def _is_borne(project: Project, of: str, name: str) -> bool:
    if of in SHELVES:
        return name in project.shelf(of)
    if of == "materials":
        return name in project.materials
    if of == "rooms":
        return name in project.rooms
    return any(of == slot_kind(t.name) and name in t.slots for t in project.tilesets.values())


def use_new_names(project: Project, names: Names) -> None:
    """In the library and the tables of a project that is being read."""
    kinds = {(kind, old) for kind, old, _ in names}
    for shelf in shelves():
        items = project.shelf(shelf.name)
        for name, item in items.items():
            if any(use[:2] in kinds for use in uses(item)):
                items[name] = with_names(item, names)
    for table in TABLES.values():
        if table.name not in ("name", "former"):
            before: Any = getattr(project, table.name)
            setattr(project, table.name, with_names(before, names, table.kind))


def with_new_names(layer: Layer, names: Names) -> None:
    """In a layer that is being read."""
    kinds = {(kind, old) for kind, old, _ in names}

    def newer(value: Any, wanted: TypeForm = None) -> Any:
        used = any(use[:2] in kinds for use in uses(value))
        return with_names(value, names, wanted) if used else value

    layer.info = newer(layer.info)
    for table, entries in layer.tables.items():
        layer.tables[table] = {number: newer(entry) for number, entry in entries.items()}


def cells_by_new_names(
    known: Mapping[int, NameInCells], wanted: Iterable[NameInCells], names: Names, plane: str
) -> dict[int, NameInCells]:
    """What the numbers of a plane stand for, by names that are wanted now."""
    there = {*wanted}
    return {number: name if name in there else _newer(name, names, plane)
            for number, name in known.items()}  # fmt: skip


def _newer(name: NameInCells, names: Names, plane: str) -> NameInCells:
    if len(name) > 1:
        for kind, old, new in names:
            if kind == "tilesets" and name[0] == old:
                name = (new, *name[1:])
            elif kind == slot_kind(name[0]) and name[1] == old:
                name = (name[0], new, *name[2:])
        return name
    of = "blocks" if plane == "pinned" else "materials"
    for kind, old, new in names:
        if kind == of and name == (old,):
            name = (new,)
    return name
