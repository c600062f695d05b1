"""Random edits of every kind, undone and redone: equal bytes at every place they come back to."""

from __future__ import annotations

import random
from contextlib import suppress
from pathlib import Path
from typing import Any

from tests.both_kinds import both_kinds
from topion.edit.history import History
from topion.edit.library import moved_card
from topion.edit.rooms import move_layer
from topion.errors import TopionError
from topion.scripting import ProjectHandle

CELL_BRUSHES = ("Mud", "Water", "Stones", "Ground", "Rock", "Box", "Slabs", "Heap", "Lift")
OTHERS = ("Lamp", "Bush", "Cart", "Post", "Reeds", "Tufts")


def take(handle: ProjectHandle, chance: random.Random) -> None:
    """One random edit; what is refused changes nothing."""
    kinds = ("lay",) * 12 + ("slide", "room", "layer", "order", "resize", "remove", "rename",
                             "card", "hide")  # fmt: skip
    names = handle.rooms()
    if not names:
        handle.add_room(f"Room {chance.randrange(99)}", (7, 8), 4)
        return
    room = handle.room(chance.choice(names))
    layers = [layer.info.name for layer in room.data.layers.values()]
    history, data = handle.history, handle.data
    match chance.choice(kinds):
        case "lay":
            size = room.size
            a = tuple(chance.randrange(-1, side + 1) for side in size)
            b = tuple(min(side, v + chance.randrange(4)) for v, side in zip(a, size, strict=True))
            way: dict[str, Any] = chance.choice(
                ({"cells": [a, b]}, {"box": (a, b)}, {"line": (a, b)})
            )
            brush = chance.choice((*CELL_BRUSHES, *OTHERS))
            room.lay(brush, override=chance.random() < 0.2, **way)
        case "slide":
            mud = data.brush("Mud") if "Mud" in data.brushes else None
            if mud is not None:
                handle.add_brush(mud.changed(seed=chance.randrange(99)))  # type: ignore[attr-defined]
        case "room":
            size = chance.choice(((5, 6), (3, 5, 6)))
            handle.add_room(f"Room {chance.randrange(20)}", size, 4)
        case "layer":
            kind = chance.choice(("tiles", "things", "blocks"))
            room.add_layer(f"L{chance.randrange(9)}", kind)  # type: ignore[arg-type]
        case "order" if layers:
            at = chance.choice(list(room.data.layers))
            history.apply(move_layer(data, room.name, at, chance.randrange(4)))
        case "resize":
            new = tuple(max(1, side + chance.randrange(-2, 3)) for side in room.size)
            room.resize(new, tuple(chance.randrange(-1, 2) for _ in new))
        case "remove":
            if chance.random() < 0.5 or not layers:
                handle.remove_room(room.name)
            else:
                room.remove_layer(chance.choice(layers))
        case "rename":
            shelf = chance.choice(("brushes", "prefabs", "blocks", "tilesets"))
            name = chance.choice(list(data.shelf(shelf)))
            handle.rename(shelf, name, f"{name[:20]} {chance.randrange(9)}")
        case "card":
            bay = chance.choice(data.bays).name
            brush = chance.choice(list(data.brushes))
            history.apply(moved_card(data, brush, bay, chance.randrange(5)))
        case "hide" if layers:
            room.set_layer(chance.choice(layers), shown=chance.random() < 0.5)


def bytes_of(handle: ProjectHandle, folder: Path) -> dict[str, bytes]:
    """All files of a fresh copy."""
    handle.save(folder, over=True)
    return {
        path.relative_to(folder).as_posix(): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file()
    }


def life(seed: int, place: Path, steps: int) -> str:
    """Random edits with random jumps; what came back other than it was, or nothing."""
    chance = random.Random(f"edits {seed}")
    handle = both_kinds()
    handle.history = History(handle.data)
    handle.data.id = "randoms"
    history = handle.history
    at_start = bytes_of(handle, place / "start")
    kept: dict[int, dict[str, bytes]] = {}
    for number in range(steps):
        with suppress(TopionError):
            take(handle, chance)
        if chance.random() < 0.15:
            history.jump(chance.randrange(len(history.edits) + 1))
        kept = {at: kept[at] for at in kept if at <= history.at}
        if chance.random() < 0.1:
            kept[history.at] = bytes_of(handle, place / f"at {number}")
    end = history.at
    history.jump(0)
    if bytes_of(handle, place / "undone") != at_start:
        return f"edits {seed}: undone to the start, other bytes"
    for at, before in kept.items():
        history.jump(at)
        if bytes_of(handle, place / f"again {at}") != before:
            return f"edits {seed}: at stroke {at} of {end}, other bytes"
    return ""
