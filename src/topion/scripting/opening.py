"""New projects, and those of a folder."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from topion.brushes import Lift
from topion.edit.history import History as History
from topion.edit.library import BAYS
from topion.errors import BadValue, TopionError
from topion.extending import load_extensions
from topion.formats.folder import read_project
from topion.formats.store import SUFFIX
from topion.model.project import Project
from topion.model.shelves import Bay
from topion.model.typed import NAME
from topion.scripting.handles import ProjectHandle


def new(path: str | Path | None = None, name: str = "") -> ProjectHandle:
    """A new project; saved at once if a path is given.  Raises TopionError if one is there."""
    folder = Path(path) if path is not None else None
    title = name or (name_of(folder) if folder else "Untitled")
    if not NAME.holds(title):
        raise BadValue("the name of the project", title, NAME.wanted)
    load_extensions()
    project = Project(title, bays=tuple(Bay(bay) for bay in BAYS))
    handle = ProjectHandle(project, None)
    handle.add_brush(Lift(), "Stamps")
    handle.history = History(project)
    if folder is not None:
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise TopionError(f"{folder} is there already and not empty")
        handle.save(folder)
    return handle


def name_of(folder: Path) -> str:
    """What a project in that folder is called, whatever letters that has."""
    text = folder.name.removesuffix(SUFFIX).encode("utf-8", "replace").decode()
    return text.strip() or "Untitled"


def open(
    path: str | Path, each: Callable[[str], None] | None = None, clone: str = ""
) -> ProjectHandle:
    """Open a project folder.  Raises BadFile and builds nothing if it is not sound.

    clone : of a repository in which others work too; see `read_project`.
    """
    load_extensions()
    folder = Path(path)
    return ProjectHandle(read_project(folder, each, clone), folder)
