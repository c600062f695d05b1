"""All changes between two versions of a project."""

from __future__ import annotations

from dataclasses import replace

from topion.comparing.change import Change
from topion.comparing.files import Told, file_changes
from topion.formats.text import parse_json
from topion.merging.trees import Tree, read_of
from topion.progress import step

_FIRST = ("project.json", "tilesets", "themes", "blocks", "brushes", "classes", "prefabs")


def changes(before: Tree, after: Tree) -> list[Change]:
    """The project first, then the library, then room by room.  Raises BadFile.

    Files that are the same are not looked into; those of a room that is in one version alone are
    not told one by one.
    """
    told, found = Told(), list[Change]()
    names = sorted(before.names | after.names, key=_order)
    lone: set[str] = set()
    for name in names:
        step(name)
        old, new = read_of(before, name), read_of(after, name)
        if name.endswith("/room.json"):
            path = name.rpartition("/")[0]
            for data in (old, new):
                _note(told, path, data, name)
            if old is None or new is None:
                lone.add(path)
        if name.rpartition("/")[0] in lone and not name.endswith("/room.json"):
            continue
        found += file_changes(name, old, new, told)
    return _without_listed(found)


def _order(name: str) -> tuple[int, str, int, str]:
    head, _, rest = name.partition("/")
    rank = _FIRST.index(head) if head in _FIRST else len(_FIRST) + (head == "rooms")
    room = rest.partition("/")[0] if head == "rooms" else head
    return rank, room, not name.endswith("/room.json"), name


def _note(told: Told, path: str, data: bytes | None, name: str) -> None:
    if data is None:
        return
    plain = parse_json(data, name)
    told.rooms[path] = str(plain.get("room", {}).get("name", ""))
    for line in plain.get("layers", []):
        told.layers[path, str(line["id"])] = str(line["layer"].get("name", line["id"]))


def _without_listed(found: list[Change]) -> list[Change]:
    """What comes or goes is told once: not by lists of it too, nor by what lay in it."""
    found = _renamed(found)
    own = {(one.shelf, one.name, one.what) for one in found if one.kind == "item"}
    own |= {("rooms", one.room, one.what) for one in found if one.kind == "room"}
    lone = {(one.shelf, one.name) for one in found
            if one.kind == "item" and one.what != "changed" and not one.values}  # fmt: skip
    gone = {(one.room, one.layer) for one in found if one.kind == "layer" and one.what == "removed"}
    return [one for one in found if not (
        (one.kind == "project" and (one.shelf, one.name, one.what) in own)
        or (one.kind == "item" and one.values and (one.shelf, one.name) in lone)
        or (one.kind in ("cells", "entries") and (one.room, one.layer) in gone)
    )]  # fmt: skip


def _renamed(found: list[Change]) -> list[Change]:
    """What came under a name for which another one was given up is the same under another name."""
    given = {}
    for one in found:
        if one.kind == "project" and one.shelf == "former" and one.values:
            of, old, new = (one.values[key][1] for key in ("of", "old", "new"))
            given[of, new] = old
    made: list[Change] = []
    taken: set[tuple[str, str]] = set()
    for one in found:
        at = ("rooms", one.room) if one.kind == "room" else (one.shelf, one.name)
        if one.kind in ("item", "room") and one.what == "added" and at in given:
            if at not in taken:
                made.append(replace(one, what="changed", values={"name": (given[at], at[1])}))
            taken |= {at, (at[0], given[at])}
        elif one.kind != "project" or one.shelf != "former":
            made.append(one)
    return [one for one in made if one.what != "removed"
            or (one.shelf or "rooms", one.name or one.room) not in taken]  # fmt: skip
