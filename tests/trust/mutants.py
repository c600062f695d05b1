"""Sound files made unsound by chance, and what must come of them: one sentence, or a project.

Every mutant follows from its seed, so a failure can be looked at again.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

import topion
from tests.both_kinds import both_kinds
from tests.rooms import small_room
from tests.trust.sentences import outcome
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.formats.bundle import bundle_bytes, read_bundle
from topion.formats.meshes.read import read_mesh
from topion.model.compare import differences

ODD: list[Any] = [
    None, True, False, -1, 0, 1, 2**31, 2**63, -(2**63), 10**401, 1e308, -1e308, 1e-320, 0.5, "",
    "x" * 300, "\ud800", "a\nb", "\0", "../../etc", [], {}, [[]], [1, 2, 3], {"kind": []},
    {"kind": "nobody"}, {"name": 3}, [None] * 50, "é" * 100, "#12", "#zzzzzz", ["#"], 24, 255, 65536,
]  # fmt: skip


def sample_project(folder: Path) -> Path:
    """A small project with every kind of file, saved."""
    project = both_kinds()
    room = project.room("Yard")
    room.lay("Water", box=((2, 2), (5, 6)))
    room.lay("Lamp", cells=[(4, 4), (6, 8)])
    room.lay("Reeds", box=((0, 0), (7, 9)))
    project.room("Isle").lay("Post", cells=[(3, 2, 2)])
    return project.save(folder, over=True)


def deep(levels: int) -> Any:
    value: Any = 1
    for _ in range(levels):
        value = [value]
    return value


def _again(value: Any) -> Any:
    """The same once more, so that no case changes what others, or itself elsewhere, have."""
    return json.loads(json.dumps(value))


def mutated_json(value: Any, chance: random.Random) -> Any:
    """One place of a JSON value replaced, doubled, removed or renamed."""
    places: list[tuple[Any, Any]] = []
    left = [value] if isinstance(value, dict | list) else []
    while left:
        item = left.pop()
        for key, part in item.items() if isinstance(item, dict) else enumerate(item):
            places.append((item, key))
            if isinstance(part, dict | list):
                left.append(part)
    if not places:
        return _again(chance.choice(ODD))
    holder, key = chance.choice(places)
    match chance.randrange(6):
        case 0:
            del holder[key]
        case 1 if isinstance(holder, dict):
            holder[chance.choice(("", "x" * 400, "kind", "name", "\ud800", "id"))] = holder.pop(key)
        case 2 if isinstance(holder, list):
            holder.insert(chance.randrange(len(holder) + 1), _again(holder[key]))
        case 3:
            holder[key] = deep(chance.choice((3, 60, 400)))
        case 4 if isinstance(holder[key], int | float) and not isinstance(holder[key], bool):
            holder[key] = holder[key] * chance.choice((-1, 1000, 10**6, 10**12, 0.5)) + 1
        case _:
            holder[key] = _again(chance.choice(ODD))
    return value


def mutated_bytes(data: bytes, chance: random.Random) -> bytes:
    """Some bytes changed, removed, doubled or put in."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 8))):
        at = chance.randrange(len(out) + 1)
        match chance.randrange(6):
            case 0:
                out[at : at + 1] = bytes([chance.randrange(256)])
            case 1:
                del out[at : at + chance.choice((1, 4, 40))]
            case 2:
                out[at:at] = out[at : at + chance.choice((1, 16))]
            case 3:
                out[at:at] = chance.choice((b"\0", b"\xff\xfe", b"9" * 450, b"[" * 3000, b"1e999"))
            case 4:
                del out[at:]
            case _:
                word = chance.choice((b"-", b"0", b"999999999", b"NaN", b"null", b'"', b"*"))
                out[at : at + 1] = word
    return bytes(out)


def mutate_file(path: Path, chance: random.Random) -> None:
    """One file of a folder made another one, or another kind of thing."""
    kind = chance.randrange(12)
    if kind < 5 and path.suffix == ".json":
        try:
            text = json.dumps(mutated_json(json.loads(path.read_bytes()), chance))
        except (ValueError, RecursionError):
            text = "["
        path.write_bytes(text.encode("utf-8", "surrogatepass"))
    elif kind < 8:
        path.write_bytes(mutated_bytes(path.read_bytes(), chance))
    else:
        path.unlink()
        if kind == 8:
            path.mkdir()
        elif kind == 9:
            os.symlink(path.name, path)  # a ring
        elif kind == 10:
            os.mkfifo(path)
        elif kind == 11 and chance.random() < 0.5:
            os.symlink(chance.choice(("/etc/hostname", "../../..", "/dev/zero", "gone")), path)


_PENDING = (
    b"", b"\0" * 200, b"{}", b"[]", b'{"rename": [[]], "remove": []}',
    b'{"rename": {"project.json": 3}, "remove": []}',
    b'{"rename": ["../outside"], "remove": []}', b'{"rename": ["\\u0000"], "remove": []}',
    b'{"rename": {}, "remove": ["project.json/x", "rooms"]}',
    b'{"rename": {"' + b"n" * 300 + b'": ""}, "remove": ["."]}', b"[" * 5000,
)  # fmt: skip


def use_folder(folder: Path) -> None:
    """Whatever a designer does first: look at all of it, ask the survey, save it elsewhere."""
    handle = topion.open(folder)
    for name in handle.rooms():
        handle.ready_room(name)
    handle.check()
    copy = handle.save(folder.with_name("Copy.topion"), over=True)
    again = topion.open(copy)
    assert differences(handle.data, again.data) == []


def folders(seed: int, place: Path, count: int, told: Callable[[str], None]) -> int:
    """So many mutated folders; tells of each that came to anything but one sentence."""
    sound = sample_project(place / "Sound.topion")
    bad = 0
    for number in range(count):
        chance = random.Random(f"folder {seed} {number}")
        folder = place / "Mutant.topion"
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(sound, folder)
        files = sorted(path for path in folder.rglob("*") if path.is_file())
        for path in chance.sample(files, chance.choice((1, 1, 1, 2))):
            mutate_file(path, chance)
        if chance.random() < 0.05:
            (folder / "saving.json").write_bytes(chance.choice(_PENDING))
        bad += _judged(f"folder {seed} {number}", lambda f=folder: use_folder(f), told)
    return bad


def edits(seed: int, count: int, told: Callable[[str], None]) -> int:
    """Mutated Edits as text, laid: refused in a sentence with nothing changed, or undone again."""
    bad = 0
    for number in range(count):
        chance = random.Random(f"edit {seed} {number}")
        room = small_room((6, 7))
        project = room.project
        kept = _some_edit(room, chance)
        project.undo()
        before = project.data.frozen()
        plain = mutated_json(edit_to_plain(kept), chance)
        if chance.random() < 0.3 and isinstance(plain, dict):
            plain = mutated_json(plain, chance)

        def lay(plain: Any = plain, project: Any = project, before: Any = before) -> None:
            edit = edit_from_plain(plain)
            at = project.history.at
            project.history.take_up(edit)
            for name in project.rooms():
                project.ready_room(name)
            project.check()
            project.history.jump(at)

        bad += _judged(f"edit {seed} {number}", lay, told)
        found = differences(before, project.data)
        if found:
            bad += 1
            told(f"edit {seed} {number}: left {found[0]}")
    return bad


def _some_edit(room: Any, chance: random.Random) -> Any:
    """One of several kinds of Edits, put on."""
    match chance.randrange(6):
        case 0:
            return room.lay("Water", box=((1, 1), (4, 4)))
        case 1:
            return room.lay("Lamp", cells=[(2, 2), (5, 6)])
        case 2:
            room.add_layer("More", "tiles")
        case 3:
            room.resize((5, 9), (-1, 1))
        case 4:
            room.project.remove_room("Yard")
        case _:
            mud = room.project.data.brush("Mud")
            room.project.add_brush(mud.changed(seed=chance.randrange(99), colour="#112233"))
    return room.project.history.edits[-1]


def bundles(seed: int, place: Path, count: int, told: Callable[[str], None]) -> int:
    """Mutated bundles, read."""
    sound = json.loads(bundle_bytes(topion.open(sample_project(place / "S.topion")).data))
    bad = 0
    for number in range(count):
        chance = random.Random(f"bundle {seed} {number}")
        data = json.dumps(sound)
        if chance.random() < 0.7:
            data = json.dumps(mutated_json(json.loads(data), chance))
            raw = data.encode("utf-8", "surrogatepass")
        else:
            raw = mutated_bytes(data.encode(), chance)
        path = place / "mutant.json"
        path.write_bytes(raw)
        bad += _judged(f"bundle {seed} {number}", lambda p=path: read_bundle(p), told)
    return bad


def meshes(seed: int, place: Path, count: int, told: Callable[[str], None]) -> int:
    """Mutated meshes, read and made voxels of."""
    from topion.formats.meshes.voxels import model_from_file

    sound = sample_meshes()
    bad = 0
    for number in range(count):
        chance = random.Random(f"mesh {seed} {number}")
        suffix = chance.choice(sorted(sound))
        path = place / f"mutant{suffix}"
        data = sound[suffix]
        if suffix == ".gltf" and chance.random() < 0.7:
            text = json.dumps(mutated_json(json.loads(data), chance))
            path.write_bytes(text.encode("utf-8", "surrogatepass"))
        else:
            path.write_bytes(mutated_bytes(data, chance))
        bad += _judged(f"mesh {seed} {number}", lambda p=path: model_from_file(p, 6), told)
    return bad


def sample_meshes() -> dict[str, bytes]:
    """A box in each format, by suffix."""
    import trimesh

    box = trimesh.creation.box((2, 3, 1))
    made = {}
    for suffix in (".obj", ".ply", ".stl", ".gltf", ".glb"):
        found = box.export(file_type=suffix[1:])
        if isinstance(found, dict):  # glTF with its buffers beside: put them inside
            import base64

            head = json.loads(found.pop("model.gltf"))
            for buffer in head["buffers"]:
                text = base64.b64encode(found[buffer["uri"]]).decode()
                buffer["uri"] = f"data:application/octet-stream;base64,{text}"
            found = json.dumps(head)
        made[suffix] = found if isinstance(found, bytes) else found.encode()
    return made


def journals(seed: int, place: Path, count: int, told: Callable[[str], None]) -> int:
    """Mutated journals, taken up: the project is as saved, or strokes further, and always sound."""
    from tests.trust.runs import Run

    folder = sample_project(place / "J.topion")
    state = place / "journals"
    shutil.rmtree(state, ignore_errors=True)
    run = Run(folder, state)
    run.room.lay("Water", box=((0, 0), (3, 3)))
    run.save()
    for step in range(6):
        run.room.lay(("Lamp", "Water", "Stones")[step % 3], cells=[(step, 5)])
    run.handle.undo()
    run.journal.close()
    (path,) = state.glob("*.sqlite")
    sound = path.read_bytes()
    bad = 0
    for number in range(count):
        chance = random.Random(f"journal {seed} {number}")
        shutil.rmtree(state)
        state.mkdir()
        _mutate_journal(path, sound, chance)

        def take_up() -> None:
            again = Run(folder, state)
            try:
                again.handle.check()
                while again.handle.undo():
                    pass
                while again.handle.redo():
                    pass
                again.handle.save(folder.with_name("Copy.topion"), over=True)
                topion.open(folder.with_name("Copy.topion")).check()
            finally:
                again.journal.close()

        bad += _judged(f"journal {seed} {number}", take_up, told)
    return bad


def _mutate_journal(path: Path, sound: bytes, chance: random.Random) -> None:
    if chance.random() < 0.3:
        path.write_bytes(mutated_bytes(sound, chance))
        return
    path.write_bytes(sound)
    with sqlite3.connect(path) as base:
        rows = base.execute("SELECT seq, at, edit FROM log").fetchall()
        seq, _, text = chance.choice(rows)
        match chance.randrange(5):
            case 0:
                base.execute("DELETE FROM log WHERE seq = ?", (seq,))
            case 1:
                wild = chance.choice((-1, 99, 2**40, "x", None, 0))
                base.execute("UPDATE OR IGNORE log SET at = ? WHERE seq = ?", (wild, seq))
            case 2:
                base.execute("UPDATE states SET after = ?", (chance.choice((-3, 0, 2, 999)),))
            case _ if text:
                plain = mutated_json(json.loads(text), chance)
                raw = json.dumps(plain)
                base.execute("UPDATE log SET edit = ? WHERE seq = ?", (raw, seq))
    base.close()


def _judged(name: str, work: Callable[[], object], told: Callable[[str], None]) -> int:
    wrong = outcome(work)
    if wrong:
        told(f"{name}: {wrong}")
    return bool(wrong)


__all__ = ["bundles", "edits", "folders", "journals", "meshes", "read_mesh", "sample_project"]
