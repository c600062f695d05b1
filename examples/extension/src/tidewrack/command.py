"""A command: puts a strandline of the first two materials on the rack."""

from __future__ import annotations

from tidewrack.strandline import Strandline
from topion.edit.library import put_brush
from topion.errors import TopionError
from topion.model.edit import Edit
from topion.model.project import Project


def strandline_brush(project: Project, room: str) -> Edit:
    """One Edit, which can be undone like any other."""
    if "Water" not in project.materials or len(project.materials) < 2:
        raise TopionError("a strandline needs the material Water, and one to lay beside it")
    lays = next(name for name in project.materials if name != "Water")
    return put_brush(project, Strandline("Strandline", lays))
