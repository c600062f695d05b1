"""Formats that rooms are written in, one module each; command line and window list them all.

Every format defined in a module of this folder is found by itself: to add one, write its module
after `csv.py`.
"""

from __future__ import annotations

from collections.abc import Iterator

from topion.errors import UnknownName
from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.model.project import Project
from topion.modules import classes_in

EXPORTS: dict[str, ExportKind] = {found.kind: found() for found in classes_in(__name__, ExportKind)}


def export_files(
    project: Project, rooms: tuple[str, ...], kind: str, scale: float = 1.0
) -> Iterator[tuple[str, Contents]]:
    """(file name, contents) in one of the EXPORTS.  Raises UnknownName and BadValue."""
    if kind not in EXPORTS:
        raise UnknownName("export", kind, EXPORTS)
    for name in rooms:
        if name not in project.rooms:
            raise UnknownName("room", name, project.rooms)
    return EXPORTS[kind].files(project, rooms, scale)


def export_all(
    project: Project, rooms: tuple[str, ...], *, whole: bool = True
) -> Iterator[tuple[str, Contents]]:
    """(file name, contents) in every format that suits, each in a folder of its own.

    whole : also in those that write the project rather than rooms.  Raises UnknownName.
    """
    for kind, export in EXPORTS.items():
        if export.whole:
            suited = tuple(project.rooms) if whole else ()
        else:
            suited = tuple(name for name in rooms if export.suits(project, name))
        if suited and export.ready(project):
            for name, contents in export_files(project, suited, kind):
                yield f"{kind}/{name}", contents


__all__ = ["EXPORTS", "ExportKind", "export_all", "export_files"]
