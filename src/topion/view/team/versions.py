"""Other versions of a project: the saved one, a folder or packed file, a revision of git."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from topion.comparing import Change, changes
from topion.errors import TopionError
from topion.formats.packing import unpack
from topion.merging.git import GitTrouble
from topion.merging.git_trees import Repository
from topion.merging.naming import project_of
from topion.merging.trees import FilesTree, Tree, tree_in_memory, tree_of
from topion.model.project import Project

Step = Callable[[str], None]


@dataclass(frozen=True, eq=False)
class Version:
    """Another version.  title : what it is called.  found : what this one has otherwise."""

    title: str
    project: Project
    tree: Tree
    found: list[Change]

    def again(self, project: Project) -> Version:
        """Compared with what this one holds by now."""
        return Version(self.title, self.project, self.tree,
                       changes(self.tree, tree_in_memory(project)))  # fmt: skip


def saved_version(folder: Path, project: Project, step: Step) -> Version:
    """As it lies in its folder."""
    return _version("as it was saved", _in_memory(tree_of(folder)), project, step)


def version_at(path: Path, project: Project, step: Step) -> Version:
    """A project folder, packed file or bundle.  Raises BadFile."""
    if path.is_dir():
        return _version(path.name, _in_memory(tree_of(path)), project, step)
    with tempfile.TemporaryDirectory(prefix="topion-") as folder:
        tree = _in_memory(tree_of(unpack(path, Path(folder) / "Unpacked.topion")))
    return _version(path.name, tree, project, step)


def revision_of(folder: Path, revision: str, project: Project, step: Step) -> Version:
    """As git keeps it.  Raises GitTrouble."""
    tree = Repository.of(folder).tree(revision)
    if not tree.names:
        raise TopionError(f"{revision} does not hold this project")
    return _version(revision, tree, project, step)


def revisions(folder: Path | None) -> list[tuple[str, str]]:
    """(name, day and subject) of what git keeps of a project, the latest first; none without."""
    if folder is None:
        return []
    try:
        return Repository.of(folder).history()
    except (GitTrouble, ValueError):
        return []


def _in_memory(tree: Tree) -> FilesTree:
    return FilesTree({name: tree.read(name) for name in tree.names})


def _version(title: str, tree: FilesTree, project: Project, step: Step) -> Version:
    step(title)
    other = project_of(tree)
    step("comparing")
    return Version(title, other, tree, changes(tree, tree_in_memory(project)))
