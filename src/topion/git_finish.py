"""Finishing what git left off: projects that it could not put together file by file."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from topion.formats.files import own_path
from topion.merging.git import GitTrouble, git
from topion.merging.git_trees import Repository
from topion.merging.naming import project_of
from topion.merging.trees import FilesTree, write_tree
from topion.merging.whole import merged_trees
from topion.model.project import Project

_THEIRS = ("MERGE_HEAD", "REBASE_HEAD", "CHERRY_PICK_HEAD")


def finish(folder: Path) -> Iterator[tuple[Path, Project]]:
    """Put the projects together that git left with conflicts, as wholes, and add them to what it
    will commit; each with its folder.

    Raises GitTrouble where there is nothing to finish.
    """
    root = Path(git(folder, "rev-parse", "--show-toplevel").rstrip("\n"))
    listed = git(root, "diff", "--name-only", "--diff-filter=U", "-z")
    projects = {_project_in(name) for name in listed.split("\0") if name}
    projects.discard(None)
    if not projects:
        raise GitTrouble("there is no merge with conflicts to be finished")
    theirs = _theirs(root)
    base = _base(root, theirs)
    for path in sorted(str(found) for found in projects):
        place = root / path
        repository = Repository(root, "" if path == "." else f"{path}/")
        before = repository.tree(base) if base else FilesTree()
        merged = merged_trees(before, repository.tree("HEAD"), repository.tree(theirs))
        project = project_of(merged.files)
        write_tree(merged.files, place)
        git(root, "add", "--all", "--", path)
        yield place, project


def _project_in(name: str) -> str | None:
    """The folder of the project that a file in a repository belongs to."""
    own = own_path(name)
    return None if own is None else name[: -len(own)].rstrip("/") or "."


def _theirs(root: Path) -> str:
    for name in _THEIRS:
        try:
            return git(root, "rev-parse", "--verify", "--quiet", f"{name}^{{commit}}").strip()
        except GitTrouble:
            continue
    raise GitTrouble("no merge, rebase or pick is under way")


def _base(root: Path, theirs: str) -> str:
    """What both grew out of; of one commit that is laid elsewhere, what it was laid on."""
    try:
        if (Path(git(root, "rev-parse", "--absolute-git-dir").strip()) / "MERGE_HEAD").exists():
            return git(root, "merge-base", "HEAD", theirs).split()[0]
        return git(root, "rev-parse", "--verify", "--quiet", f"{theirs}^").strip()
    except (GitTrouble, IndexError):
        return ""
