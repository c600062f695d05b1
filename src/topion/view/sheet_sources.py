"""The files that sheets came from, watched: what was painted elsewhere is offered here."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.errors import TopionError
from topion.formats.files import digest_of
from topion.formats.items import picture_path
from topion.model.shelves import shelf_named
from topion.model.tileset import TileSet
from topion.pictures.png import read_bytes
from topion.scripting import ProjectHandle
from topion.view import settings

_EVERY_MS = 2000


class SheetSources(QObject):
    """Signals: found(name of a tile set) when its file is another one now.

    waiting : the files that are other ones, by tile set.
    """

    found = pyqtSignal(str)

    def __init__(self, handle: ProjectHandle) -> None:
        super().__init__()
        self.waiting: dict[str, Path] = {}
        self._handle = handle
        self._paths: dict[str, Path] = {}  # of each tile set, where it was brought in from
        self._seen: dict[Path, tuple[int, int]] = {}  # when and how long a file was
        self._clock = QTimer(self)
        self._clock.setInterval(_EVERY_MS)
        self._clock.timeout.connect(self.look)
        self._clock.start()

    def use(self, handle: ProjectHandle) -> None:
        """Watch the sheets of another project."""
        self._handle = handle
        for kept in (self.waiting, self._paths, self._seen):
            kept.clear()
        self.look()

    def stop(self) -> None:
        """Watch no longer."""
        self._clock.stop()

    def came_from(self, tileset: TileSet, path: Path) -> None:
        """A sheet was brought in from a file, or taken from it again."""
        settings.remember_source(digest_of(tileset.sheet.png), path)
        self._paths[tileset.name] = path.resolve()
        self.waiting.pop(tileset.name, None)
        self._note(path.resolve())

    def leave(self, name: str) -> None:
        """What a file shows now is not wanted; the next change of it is told again."""
        self.waiting.pop(name, None)

    def look(self) -> None:
        """Look whether any file is another one now."""
        for name, tileset in self._handle.data.tilesets.items():
            for path, own in self._files(name, tileset):
                known = self._seen.get(path)
                if not self._note(path) or self._seen[path] == known:
                    continue
                try:
                    same = read_bytes(path) == tileset.sheet.png
                except TopionError:
                    continue  # it is being written, or was taken away
                if same:
                    self.waiting.pop(name, None)
                elif known is not None or not own:
                    self.waiting[name] = path
                    self.found.emit(name)

    def _note(self, path: Path) -> bool:
        """Remember how a file is now; False for one that is not there."""
        try:
            about = os.stat(path)
        except OSError:
            return False
        self._seen[path] = about.st_mtime_ns, about.st_size
        return True

    def _files(self, name: str, tileset: TileSet) -> Iterator[tuple[Path, bool]]:
        """Where a sheet may be painted: the file it came from, and that of the project itself."""
        if name not in self._paths:
            source = settings.source_of(digest_of(tileset.sheet.png))
            self._paths[name] = source or Path()
        if self._paths[name] != Path():
            yield self._paths[name], False
        if self._handle.folder is not None:
            shelf = shelf_named("tilesets")
            yield self._handle.folder / picture_path(shelf, name, shelf.pictures[0]), True
