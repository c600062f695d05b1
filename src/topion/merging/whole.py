"""Two versions of a project that grew out of a third one, put together as a whole.

File by file (see `by_file`), after the two were made to agree: entries that both numbered alike get
other numbers in theirs, with all that speaks of them; and what one side took away while the other
one changed it is put back, and named.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from topion.formats.files import INDEX
from topion.formats.items import UNSETTLED
from topion.formats.layer_files import split_entries
from topion.formats.room_files import room_path
from topion.formats.text import json_lines, json_text, parse_json
from topion.merging.by_file import merged_file
from topion.merging.naming import alike_named
from topion.merging.numbers import led_elsewhere, renumbered
from topion.merging.records import UNITED, conflict_name
from topion.merging.trees import ChangedTree, FilesTree, Owner, Tree, files_of, owners_of, read_of
from topion.merging.values import Three
from topion.model.conflict import ItemConflict, SettingConflict, Side
from topion.model.plain import Json, JsonRecord, to_plain
from topion.model.shelves import SHELVES
from topion.progress import step


@dataclass(frozen=True)
class Merged:
    """files : of the merged project, by path.  conflicts : (path of the file, what it is), as JSON,
    of those that came new."""

    files: FilesTree
    conflicts: tuple[tuple[str, JsonRecord], ...]


def merged_trees(base: Tree, ours: Tree, theirs: Tree) -> Merged:
    """Raises BadFile for a version that is not sound."""
    sides = alike_named(Three(base, ours, theirs))
    sides = sides._replace(theirs=_numbered_apart(sides))
    work = _Restoring(sides)
    work.run()
    sides = work.sides
    files: dict[str, bytes] = {}
    conflicts: list[tuple[str, JsonRecord]] = []
    for name in sorted({*sides.ours.names, *sides.theirs.names}):
        step(name)
        data, found = _merged_at(name, sides)
        conflicts += ((name, one) for one in found)
        if data is not None:
            files[name] = data
    for name, conflict in work.notes():
        files[name] = _with_note(name, files[name], conflict)
        conflicts.append((name, conflict))
    return Merged(FilesTree(files), tuple(conflicts))


def _merged_at(name: str, sides: Three[Tree]) -> tuple[bytes | None, tuple[JsonRecord, ...]]:
    base, ours, theirs = sides.each(lambda tree: read_of(tree, name))
    if ours == theirs or theirs == base:
        return ours, ()
    if ours == base:
        return theirs, ()
    known = [data for data in (base, ours, theirs) if data is not None]
    if ours is None or theirs is None:
        empty = _emptied(name, known[-1])
        if empty is None:  # a file that one side does without, such as a second picture
            return known[-1], ()
        ours, theirs = (empty if data is None else data for data in (ours, theirs))
    found = merged_file(name, base, ours, theirs)
    return found.data, found.conflicts


def _emptied(name: str, data: bytes) -> bytes | None:
    """A file of a layer that holds nothing, as large as another version of it."""
    if name.startswith("rooms/") and name.endswith(".rows"):
        head, _, rows = data.partition(b"\n") if data.startswith(b"{") else (b"", b"", data)
        plain: JsonRecord = parse_json(head, name) if head else {}
        plain.pop("names", None)
        lines = rows.split(b"\nconflict ")[0].splitlines()
        wide = plain["size"][-1] if head else 0
        text = json.dumps(plain).encode() + b"\n" if head else b""
        return text + (b"%d*0\n" % wide if wide != 1 else b"0\n") * len(lines) if wide else None
    if name.startswith("rooms/") and not name.endswith("/room.json"):
        found = split_entries(parse_json(data, name), name)
        return json_lines([{"from": list(found.start)}] if found.start else []).encode()
    return None


def _with_note(name: str, data: bytes, conflict: JsonRecord) -> bytes:
    plain = parse_json(data, name)
    key = UNSETTLED if name == INDEX else "conflicts"
    plain[key] = [*plain.get(key, []), conflict]
    return json_text(plain).encode()


# --- numbers ------------------------------------------------------------------------------


def _numbered_apart(sides: Three[Tree]) -> Tree:
    """Theirs, with other numbers for entries that both sides added under the same one."""
    moved: dict[str, dict[int, int]] = {}
    for room in {owner.name for owner in owners_of(sides.theirs) if owner.shelf == "rooms"}:
        numbers = _twice_given(sides, room)
        if numbers:
            moved[room] = numbers
    if not moved:
        return sides.theirs
    changed: dict[str, bytes | None] = {}
    for owner in owners_of(sides.theirs):
        for name in files_of(owner, sides.theirs.names):
            data = sides.theirs.read(name)
            other = _with_numbers(owner, name, data, moved, read_of(sides.base, name) or b"")
            if other != data:
                changed[name] = other
    return ChangedTree(sides.theirs, changed)


def _entries(tree: Tree, room: str) -> Iterator[tuple[str, JsonRecord]]:
    """(path of its file, entry) of all entries of a room."""
    for name in sorted(files_of(Owner("rooms", room), tree.names)):
        if name.endswith(".json") and not name.endswith("/room.json"):
            for entry in split_entries(parse_json(tree.read(name), name), name).entries:
                yield name, entry


def _twice_given(sides: Three[Tree], room: str) -> dict[int, int]:
    """Where both gave a number to other entries: what those that theirs added are called instead,
    as if they had come after ours."""
    if room_path(room) + "/room.json" not in sides.ours.names:
        return {}
    known = sides.each(lambda tree: {e["id"]: (name, e) for name, e in _entries(tree, room)})
    added = [number for number in sorted(known.theirs) if number not in known.base]
    twice = [n for n in added if n in known.ours and known.ours[n] != known.theirs[n]]
    if not twice:
        return {}
    own = [n for n in added if n in twice or n not in known.ours]
    first = max((_numbers(sides.ours, room), *known.ours, *known.base)) + 1
    return {number: first + rank for rank, number in enumerate(own)}


def _numbers(tree: Tree, room: str) -> int:
    name = f"{room_path(room)}/room.json"
    data = read_of(tree, name)
    found = parse_json(data, name).get("numbers", 0) if data is not None else 0
    return found if isinstance(found, int) else 0


def _with_numbers(
    owner: Owner, name: str, data: bytes, moved: dict[str, dict[int, int]], base: bytes
) -> bytes:
    """A file of theirs in which entries have other numbers, or are spoken of by these."""
    if not name.endswith(".json") or name.endswith("/room.json"):
        return data
    plain = parse_json(data, name)
    if owner.shelf != "rooms":
        if not isinstance(plain, dict) or "role" not in plain:
            return data
        role = _led(plain["role"], moved)
        return data if role == plain["role"] else json_text({**plain, "role": role}).encode()
    before = parse_json(base, name) if base else []
    numbers, made = moved.get(owner.name, {}), []
    for entry in plain:
        if entry not in before:
            entry = renumbered(entry, numbers)
            if "role" in entry:
                entry = {**entry, "role": _led(entry["role"], moved)}
        made.append(entry)
    if made == plain:
        return data
    heads = [entry for entry in made if "id" not in entry]
    rows = sorted((entry for entry in made if "id" in entry), key=lambda entry: int(entry["id"]))
    return json_lines([*heads, *rows]).encode()


def _led(role: Json, moved: dict[str, dict[int, int]]) -> Json:
    for room, numbers in moved.items():
        role = led_elsewhere(role, room, numbers)
    return role


# --- what one side took away --------------------------------------------------------------


@dataclass
class _Restoring:
    """Puts back what one side took away while the other one changed it."""

    sides: Three[Tree]
    owners: list[tuple[Owner, Side]] = field(default_factory=list)
    layers: list[tuple[str, str, Side]] = field(default_factory=list)

    def run(self) -> None:
        known = self.sides.each(lambda tree: {*owners_of(tree)})
        for owner in owners_of(self.sides.base):
            for side in ("ours", "theirs"):
                other = _other(side)
                gone = owner not in getattr(known, side) and owner in getattr(known, other)
                if gone and self._changed(owner, other):
                    self._put_back(owner, side)
                    self.owners.append((owner, side))
        for owner in known.ours & known.theirs:
            if owner.shelf == "rooms":
                self._layers(owner)

    def _changed(self, owner: Owner, side: Side) -> bool:
        tree = getattr(self.sides, side)
        names = files_of(owner, self.sides.base.names | tree.names)
        return _differ(tree, self.sides.base, names)

    def _set(self, side: Side, changed: dict[str, bytes | None]) -> None:
        tree = ChangedTree(getattr(self.sides, side), changed)
        self.sides = self.sides._replace(**{side: tree})

    def _put_back(self, owner: Owner, side: Side) -> None:
        base, tree = self.sides.base, getattr(self.sides, side)
        names = files_of(owner, base.names)
        changed: dict[str, bytes | None] = {name: base.read(name) for name in names}
        index, before = (parse_json(t.read(INDEX), INDEX) for t in (tree, base))
        if owner.shelf in SHELVES and SHELVES[owner.shelf].numbers:
            _united(index, before, SHELVES[owner.shelf].numbers)
        else:
            listed = [*index.get(owner.shelf, [])]
            at = before[owner.shelf].index(owner.name)
            index[owner.shelf] = [*listed[:at], owner.name, *listed[at:]]
        if owner.shelf == "brushes":  # what it lays may be called otherwise by now
            for table in UNITED:
                _united(index, before, table)
        changed[INDEX] = json_text(index).encode()
        self._set(side, changed)

    def _layers(self, owner: Owner) -> None:
        """Layers that one side took away while the other one painted in them."""
        name = f"{room_path(owner.name)}/room.json"
        if not all(name in tree.names for tree in self.sides):
            return
        heads = self.sides.each(lambda tree: parse_json(tree.read(name), name))
        known = heads.each(lambda head: {line["id"]: line for line in head.get("layers", [])})
        for layer_id in known.base:
            for side in ("ours", "theirs"):
                if layer_id in getattr(known, side) or layer_id not in getattr(known, _other(side)):
                    continue
                lead = f"{room_path(owner.name)}/{layer_id}."
                other, base = getattr(self.sides, _other(side)), self.sides.base
                names = {n for n in base.names | other.names if n.startswith(lead)}
                line = getattr(known, _other(side))[layer_id]
                if line != known.base[layer_id] or _differ(other, base, names):
                    head = getattr(heads, side)
                    head["layers"] = [*head.get("layers", []), known.base[layer_id]]
                    files = {n: base.read(n) for n in names if n in base.names}
                    self._set(side, {**files, name: json_text(head).encode()})
                    self.layers.append((owner.name, layer_id, side))

    def notes(self) -> Iterator[tuple[str, JsonRecord]]:
        """(path of the file it belongs in, conflict) of what was put back."""
        for owner, side in self.owners:
            if owner.shelf == "rooms":
                conflict = SettingConflict("", gone=True, side=side)
                yield f"{room_path(owner.name)}/room.json", to_plain(conflict)
            else:
                name = conflict_name(owner.shelf, owner.name, ())
                yield (
                    INDEX,
                    to_plain(ItemConflict(name, owner.shelf, owner.name, gone=True, side=side)),
                )
        for room, layer_id, side in self.layers:
            conflict = SettingConflict(layer_id, gone=True, side=side)
            yield f"{room_path(room)}/room.json", to_plain(conflict)


def _differ(one: Tree, other: Tree, names: Iterable[str]) -> bool:
    return any(read_of(one, name) != read_of(other, name) for name in names)


def _united(index: JsonRecord, before: JsonRecord, table: str) -> None:
    """Put behind a table what it no longer holds."""
    known = [*index.get(table, [])]
    known += [item for item in before.get(table, []) if item not in known]
    if known:
        index[table] = known


def _other(side: Side) -> Side:
    return "theirs" if side == "ours" else "ours"
