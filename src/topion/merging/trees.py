"""The files of a project, wherever they lie."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from topion.errors import BadFile
from topion.formats.files import INDEX, inside, own_files
from topion.formats.folder import read_index
from topion.formats.items import item_names
from topion.formats.room_files import room_path
from topion.formats.saving import finish_save, holds, staged
from topion.formats.store import FORMAT, foreign_part, index_part, item_part, room_parts
from topion.model.project import Project
from topion.model.shelves import shelves
from topion.pictures.png import read_bytes
from topion.progress import step


class Tree(Protocol):
    """names : paths of the project's own files.  read : what lies at one; raises BadFile."""

    @property
    def names(self) -> frozenset[str]: ...
    def read(self, name: str) -> bytes: ...


@dataclass(frozen=True)
class FolderTree:
    """A project folder, of which nothing is read before it is asked for."""

    folder: Path
    names: frozenset[str]

    def read(self, name: str) -> bytes:
        return read_bytes(inside(self.folder, name))


@dataclass(frozen=True)
class FilesTree:
    """Files in memory."""

    files: Mapping[str, bytes] = field(default_factory=dict)

    @property
    def names(self) -> frozenset[str]:
        return frozenset(self.files)

    def read(self, name: str) -> bytes:
        return self.files[name]


@dataclass(frozen=True)
class ChangedTree:
    """Another tree with some files changed; None for those that are not there."""

    tree: Tree
    changed: Mapping[str, bytes | None]

    @property
    def names(self) -> frozenset[str]:
        there = {name for name, data in self.changed.items() if data is not None}
        return (self.tree.names - self.changed.keys()) | there

    def read(self, name: str) -> bytes:
        data = self.changed.get(name)
        return self.tree.read(name) if data is None else data


def tree_of(folder: Path) -> FolderTree:
    """The files of a project folder.  Raises BadFile if it is none."""
    if not folder.is_dir():
        raise BadFile(folder, "is not a project folder" if folder.exists() else "is missing")
    finish_save(folder)
    if not (folder / INDEX).is_file():
        raise BadFile(folder, f"holds no {INDEX}, so it is not a project")
    return FolderTree(folder, frozenset(own_files(folder)))


def tree_in_memory(project: Project) -> FilesTree:
    """The files that a project would be saved as; reads every room."""
    files: dict[str, bytes] = {}
    for shelf in shelves():
        for item in project.shelf(shelf.name).values():
            files.update(item_part(shelf, item).files())
    for key, foreign in project.foreign.items():
        files.update(foreign_part(key, foreign).files())
    for room in project.rooms.each():
        for part in room_parts(project, room):
            files.update(part.files())
    files.update(index_part(project, FORMAT).files())
    return FilesTree(files)


def write_tree(tree: Tree, folder: Path) -> None:
    """Write the files of a project into a folder, which holds that alone afterwards.

    All of it is staged and put in place as one.  Raises BadFile, OSError.
    """
    stage = staged(folder)
    try:
        for name in sorted(tree.names):
            step(name)
            data = tree.read(name)
            if stage.is_first or not holds(stage.folder / name, data):
                stage.put(name, data)
        stage.gone = [] if stage.is_first else sorted({*own_files(stage.folder)} - tree.names)
        stage.place()
    except BaseException:
        if stage.is_listed:
            stage.close()
        else:
            stage.drop()
        raise


def read_of(tree: Tree, name: str) -> bytes | None:
    """What lies at a path; None where nothing does."""
    return tree.read(name) if name in tree.names else None


@dataclass(frozen=True)
class Owner:
    """A room, or an item of a shelf."""

    shelf: str
    name: str


def owners_of(tree: Tree) -> tuple[Owner, ...]:
    """What the index of a project lists.  Raises BadFile."""
    if INDEX not in tree.names:
        return ()
    values = read_index(tree.read(INDEX)).values
    found = [Owner("rooms", name) for name in values["rooms"]]
    for shelf in shelves():
        found += [Owner(shelf.name, name) for name in values[shelf.numbers or shelf.name]]
    return tuple(found)


def files_of(owner: Owner, names: Iterable[str]) -> set[str]:
    """Which of the names are files of a room or an item."""
    if owner.shelf == "rooms":
        lead = room_path(owner.name) + "/"
        return {name for name in names if name.startswith(lead)}
    known = next((shelf for shelf in shelves() if shelf.name == owner.shelf), None)
    return set() if known is None else {*item_names(known, owner.name)} & {*names}
