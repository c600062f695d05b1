"""Names that one side gave up, given up in all three versions before they are put together."""

from __future__ import annotations

import tempfile
from pathlib import Path

from topion.edit.names import remembered, rename_item, renamed_everywhere
from topion.edit.rooms import rename_room
from topion.edit.slots import rename_slot
from topion.errors import TopionError
from topion.formats.files import INDEX, inside
from topion.formats.folder import read_index, read_project
from topion.merging.trees import Tree, tree_in_memory
from topion.merging.values import Three
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.shelves import SHELVES, Former
from topion.model.tileset import slot_kind


def alike_named(sides: Three[Tree]) -> Three[Tree]:
    """The same, in which what one side called otherwise is called so in all; where both did, as
    ours calls it."""
    known = sides.each(_former)
    ours = [one for one in known.ours if one not in known.base]
    theirs = [one for one in known.theirs if one not in known.base]
    if not ours and not theirs:
        return sides
    given = {(one.of, one.old): one for one in ours}
    both = [Former(one.of, one.new, given[one.of, one.old].new) for one in theirs
            if (one.of, one.old) in given and one not in ours]  # fmt: skip
    rest = [one for one in theirs if (one.of, one.old) not in given]
    return Three(_renamed(sides.base, [*ours, *rest]), _renamed(sides.ours, rest),
                 _renamed(sides.theirs, [*both, *ours]))  # fmt: skip


def _former(tree: Tree) -> tuple[Former, ...]:
    if INDEX not in tree.names:
        return ()
    found: tuple[Former, ...] = read_index(tree.read(INDEX)).values["former"]
    return found


def _renamed(tree: Tree, names: list[Former]) -> Tree:
    """The same project with other names, where it has what is meant."""
    if not names or INDEX not in tree.names:
        return tree
    project = project_of(tree)
    for one in names:
        for record in _edit(project, one).records:
            record.write(project)
    return tree_in_memory(project)


def project_of(tree: Tree) -> Project:
    """The project that the files of a tree are, with all its rooms.  Raises BadFile."""
    with tempfile.TemporaryDirectory(prefix="topion-") as folder:
        place = Path(folder) / "Merged.topion"
        for name in tree.names:  # nobody needs them after this: they are not flushed
            path = inside(place, name)
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(tree.read(name))
        project = read_project(place)
        for name in project.rooms:
            project.rooms[name]  # it is read while its files are there
    return project


def _edit(project: Project, one: Former) -> Edit:
    try:
        if one.of == "rooms":
            return rename_room(project, one.old, one.new)
        if one.of in SHELVES:
            return rename_item(project, one.of, one.old, one.new)
        for name in project.tilesets:
            if one.of == slot_kind(name):
                return rename_slot(project, name, one.old, one.new)
        if one.of == "materials" and one.old not in project.materials:
            return Edit("")
        names = [(one.of, one.old, one.new)]
        return Edit("", (*renamed_everywhere(project, names), *remembered(project, names)))
    except TopionError:  # it is not there, or the new name is taken
        return Edit("")
