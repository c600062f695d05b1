"""The command line: what differs, putting two versions together, and git."""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from topion.cli_parser import Commands, command
from topion.errors import TopionError
from topion.parsing import place

if TYPE_CHECKING:
    from topion.merging.trees import Tree
    from topion.model.project import Project

_SAME, _DIFFERS = 0, 1


def add_team(commands: Commands) -> None:
    """The commands `diff`, `merge` and `git-setup`."""
    diff = command(commands, "diff", _diff,
                   "Say what changed between two versions of a project: 0 nothing, 1 something.",
                   "Say what changed between two versions of a project.")  # fmt: skip
    diff.add_argument("before", type=place, metavar="A", help="a project folder or packed file")
    diff.add_argument("after", type=place, metavar="B")
    diff.add_argument("--json", action="store_true", help="every change as JSON")
    diff.add_argument("--pictures", type=place, default=None, metavar="DIR",
                      help="write a picture of each room that differs")  # fmt: skip
    merge = command(commands, "merge", _merge,
                    "Put two versions together that grew out of a third one: by cell, thing and "
                    "item.  0 done, 1 with conflicts, which are kept in the project.",
                    "Put two versions of a project together.")  # fmt: skip
    merge.add_argument("base", type=place, metavar="BASE")
    merge.add_argument("ours", type=place, metavar="OURS")
    merge.add_argument("theirs", type=place, metavar="THEIRS")
    merge.add_argument("-o", "--out", type=place, default=None, metavar="DIR",
                       help="the merged project (default: OURS becomes it)")  # fmt: skip
    merge.add_argument("--file", default="", metavar="PATH",
                       help="the three are files that have this path in a project; OURS becomes "
                            "the merged one, as git wants it")  # fmt: skip
    told = "Let git put the projects of a repository together by cell, thing and item."
    setup = command(commands, "git-setup", _git_setup, told)
    setup.add_argument("folder", type=place, nargs="?", default=Path(),
                       help="in the repository (default: here)")  # fmt: skip


def add_git(commands: Commands) -> None:
    """The command `git-merge`."""
    finish = command(commands, "git-merge", _git_merge,
                     "Put projects together as wholes where git stopped with conflicts; then git "
                     "goes on.  0 done, 1 with conflicts, which are kept in the project.",
                     "Put projects together as wholes where git stopped.")  # fmt: skip
    finish.add_argument("folder", type=place, nargs="?", default=Path(),
                        help="in the repository (default: here)")  # fmt: skip


def add_git_diff(commands: Commands) -> None:
    """The command `git-diff`, as git calls it."""
    git = command(commands, "git-diff", _git_diff, "Say what changed in one file, for git.")
    git.add_argument("given", nargs="+", help="PATH OLD OLD-HEX OLD-MODE NEW NEW-HEX NEW-MODE")


@contextmanager
def _tree(path: Path) -> Iterator[Tree]:
    """The files of a project folder, or of a packed file or bundle, unpacked meanwhile."""
    from topion.merging.trees import tree_of

    if not path.is_file():
        yield tree_of(path)
        return
    from topion.formats.packing import unpack

    with tempfile.TemporaryDirectory(prefix="topion-") as folder:
        yield tree_of(unpack(path, Path(folder) / "Unpacked.topion"))


def _diff(args: argparse.Namespace) -> int:
    from topion.comparing import changes
    from topion.comparing.words import text_lines

    with _tree(args.before) as before, _tree(args.after) as after:
        found = changes(before, after)
        if args.json:
            plain = [one.plain() for one in found]
            print(json.dumps(plain, ensure_ascii=False, indent=1))
        else:
            print("\n".join(text_lines(found)) or "nothing changed")
        if args.pictures is not None:
            _write_pictures(before, after, args.pictures)
    return _DIFFERS if found else _SAME


def _write_pictures(before: Tree, after: Tree, folder: Path) -> None:
    from topion.comparing.pictures import change_pictures
    from topion.formats.out import write_out
    from topion.merging.naming import project_of

    folder.mkdir(parents=True, exist_ok=True)
    count = 0
    for name, data in change_pictures(project_of(before), project_of(after)):
        write_out(folder / name, data)
        count += 1
    told = f"wrote {count} picture{'s' * (count != 1)} to {folder}"
    print(told, file=sys.stderr)


def _merge(args: argparse.Namespace) -> int:
    if args.file:
        return _merge_file(args)
    from topion.merging.trees import write_tree
    from topion.merging.whole import merged_trees

    target = args.out or args.ours
    if args.out is not None and target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise TopionError(f"{target} is there already and not empty")
    with _tree(args.base) as base, _tree(args.ours) as ours, _tree(args.theirs) as theirs:
        if args.out is None and args.ours.is_file():
            raise TopionError(f"{args.ours} is one file; say with -o where the merged project goes")
        merged = merged_trees(base, ours, theirs)
        project = _checked(merged.files)
        write_tree(merged.files, target)
    lines = list(_sentences(project))
    print("\n".join(lines) if lines else f"merged into {target}; nothing was changed by both")
    return 1 if lines else 0


def _checked(tree: Tree) -> Project:
    """The merged project, opened whole before anything is written over."""
    from topion.merging.naming import project_of

    return project_of(tree)


def _sentences(project: Project) -> Iterator[str]:
    from topion.edit.conflicts import open_conflicts
    from topion.survey.both_changed import sentence_of

    for room in ("", *project.rooms):
        for open_ in open_conflicts(project, room):
            yield f"{room or 'project'}: {sentence_of(project, open_)}"


def _merge_file(args: argparse.Namespace) -> int:
    from topion.formats.files import own_path
    from topion.formats.out import write_over
    from topion.git_setup import merge_lines
    from topion.merging.by_file import merged_file

    name = own_path(args.file)
    if name is None:  # somebody else's file that lies among ours
        return merge_lines(args.base, args.ours, args.theirs)
    base, ours, theirs = (path.read_bytes() for path in (args.base, args.ours, args.theirs))
    found = merged_file(name, base or None, ours, theirs)
    write_over(args.ours, found.data)
    for conflict in found.conflicts:
        print(f"topion: both changed {_told(conflict)} ({args.file})", file=sys.stderr)
    return 1 if found.conflicts else 0


def _told(conflict: dict[str, object]) -> str:
    from topion.model.conflict import Conflict, ItemConflict
    from topion.model.plain import from_plain

    kind = Conflict if "kind" in conflict else ItemConflict
    return str(from_plain(kind, conflict).told())


def _git_setup(args: argparse.Namespace) -> None:
    from topion.git_setup import set_up

    for line in set_up(args.folder):
        print(line)


def _git_merge(args: argparse.Namespace) -> int:
    from topion.git_finish import finish

    lines: list[str] = []
    for folder, project in finish(args.folder):
        lines += _sentences(project)
        print(f"{folder} is put together and added; git can go on")
    print("\n".join(lines) if lines else "nothing was changed by both")
    return 1 if lines else 0


def _git_diff(args: argparse.Namespace) -> int:
    from topion.comparing.files import file_changes
    from topion.comparing.words import text_lines
    from topion.formats.files import own_path

    given = [*args.given, *[""] * 7]
    path, old, new = given[0], given[1], given[4]
    name = own_path(path)
    print(f"topion: {path}")
    if name is None:
        print("  is no file of a project")
        return 0
    for line in text_lines(file_changes(name, _version(old), _version(new))):
        print(f"  {line}")
    return 0


def is_plain(args: argparse.Namespace) -> bool:
    """Whether git asks, once for each file: no extension is loaded for that."""
    return args.run is _git_diff or (args.run is _merge and bool(args.file))


def _version(path: str) -> bytes | None:
    """A version of a file as git gives it; None where there is none."""
    return Path(path).read_bytes() if path not in ("", os.devnull) else None
