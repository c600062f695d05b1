"""Pictures of rooms kept on disk, in the XDG cache, as long as nothing that they show changes.

A room that was changed since it was read or saved has none: what is kept is told by the files.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

from topion.errors import TopionError
from topion.formats.folder import FolderRooms
from topion.formats.items import item_names
from topion.formats.room_files import room_path
from topion.formats.store import Same, Store, room_parts, store_of
from topion.grid.arrays import Rgba
from topion.logbook import cache_home
from topion.model.plain import to_plain
from topion.model.project import Project
from topion.model.shelves import shelves
from topion.pictures.png import png_bytes, read_png_file

MOST_FILES = 4000  # kept at once
_LIFTED = 500  # fewer after there were too many
_DRAWN_AS = 1  # raised when pictures are drawn otherwise
_SHOWN = ("tilesets", "themes", "prefabs", "classes", "blocks", "brushes")
_TABLES = ("materials", "tiles", "block_names", "palette")


def library_print(project: Project) -> str | None:
    """Tells all of the library that pictures show; None where some of it is not saved."""
    store = store_of(project)
    if store is None:
        return None
    names: list[str] = []
    for shelf in shelves():
        if shelf.name not in _SHOWN:
            continue
        for name, item in project.shelf(shelf.name).items():
            parts = store.owners.get((shelf.name, name), {})
            kept = parts.get((shelf.name, name))
            if kept is None or kept.token != Same(item):
                return None
            names += kept.names or item_names(shelf, name)
    tables = json.dumps([to_plain(getattr(project, table)) for table in _TABLES])
    return _digest((tables, *_marks(store.folder, names)))


def room_print(project: Project, room_name: str) -> str | None:
    """Tells all that a room holds, which need not be read; None where it is not saved."""
    store, source = store_of(project), project.rooms.source
    if store is None:
        return None
    room = project.rooms.peek(room_name)
    if room is not None:
        parts = store.owners.get(("rooms", room_name), {})
        own = {part.key: part.token for part in room_parts(project, room)}
        if own != {key: kept.token for key, kept in parts.items()}:
            return None
    # rooms that were made here and saved lie where they are written
    path = source.path(room_name) if isinstance(source, FolderRooms) else room_path(room_name)
    with suppress(OSError):
        names = sorted(f"{path}/{name}" for name in os.listdir(store.folder / path))
        return _digest(_marks(store.folder, names))
    return None


def _marks(folder: Path, names: Iterable[str]) -> Iterator[str]:
    for name in names:
        try:
            about = os.stat(folder / name)
            yield f"{name}\0{about.st_size}\0{about.st_mtime_ns}\0{about.st_ino}"
        except OSError:
            yield name


def _digest(parts: Iterable[str]) -> str:
    whole = hashlib.sha256(str(_DRAWN_AS).encode())
    for part in parts:
        whole.update(part.encode() + b"\n")
    return whole.hexdigest()


class Shelved:
    """The pictures of one project on disk."""

    def __init__(self, project: Project) -> None:
        store: Store | None = store_of(project)
        self.folder = None if store is None else (
            cache_home() / "rooms" / _digest([project.id, str(store.folder)])[:24]
        )  # fmt: skip

    def path_of(self, *key: object) -> Path | None:
        """Where the picture of a key lies; None where nothing is kept."""
        if self.folder is None or None in key[:2]:
            return None
        return self.folder / f"{_digest(map(str, key))[:40]}.png"

    def read(self, *key: object) -> Rgba | None:
        """The picture of a key, whose first two parts are the prints; None where there is none."""
        path = self.path_of(*key)
        if path is None:
            return None
        with suppress(TopionError, OSError):
            return read_png_file(path).rgba
        return None

    def write(self, picture: Rgba, *key: object) -> None:
        """Keep a picture; where there is no place for it, it is made again the next time."""
        path = self.path_of(*key)
        if path is None:
            return
        aside = path.with_name(f".{uuid4().hex[:12]}")
        with suppress(OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            aside.write_bytes(png_bytes(picture))
            os.replace(aside, path)
        with suppress(OSError):
            aside.unlink(missing_ok=True)

    def tidy(self) -> None:
        """Let go of the oldest where there are too many."""
        if self.folder is None:
            return
        with suppress(OSError):
            files = [(entry.stat().st_mtime, entry.path) for entry in os.scandir(self.folder)]
            if len(files) > MOST_FILES:
                for _, path in sorted(files)[: len(files) - MOST_FILES + _LIFTED]:
                    os.unlink(path)
