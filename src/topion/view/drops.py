"""Files dropped on the window: each kind does what its menu entry would do with it."""

from __future__ import annotations

from collections.abc import Callable
from itertools import islice
from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import QMimeData
from PyQt6.QtWidgets import QDialog

from topion.formats.files import INDEX
from topion.formats.meshes.read import SUFFIXES
from topion.formats.store import SUFFIX
from topion.formats.symbols.texts import TEXT_SUFFIXES
from topion.view.files import Files
from topion.view.host import Host

_CAN = "A tile sheet (PNG), a mesh, texts of rooms or a project folder can be dropped here"
_PICTURES = (".jpg", ".jpeg", ".gif", ".bmp", ".webp", ".tif", ".tiff", ".tga", ".svg")


class AtHome(Protocol):
    """What is seen while no project is open."""

    @property
    def shown(self) -> bool: ...
    def begin_with_sheet(self, path: Path) -> None: ...
    def leave(self) -> None: ...


class Drops:
    """Says what a drop would do while it hangs over the window, and does it."""

    def __init__(
        self, host: Host, files: Files, bring_rooms: Callable[[list[Path]], object], home: AtHome
    ) -> None:
        """bring_rooms : shows what the symbols of some texts stand for.  home : takes a sheet while
        no project is open."""
        self.host, self.files, self._bring_rooms, self._home = host, files, bring_rooms, home
        self._waiting: list[Path] = []

    def hovers(self, data: QMimeData) -> None:
        """Something is dragged over the window."""
        paths = self._paths(data)
        words = [words for path in paths if (words := self._would(path))]
        self.host.say(words[0] if words else _CAN)

    def take(self, data: QMimeData) -> None:
        """Something was dropped."""
        paths = self._paths(data)
        if not paths:
            away = data.hasUrls() and bool(data.urls())
            self.host.fail(f"{_CAN}; files of other machines cannot" if away else _CAN)
            return
        known = [path for path in paths if self._would(path)]
        other = next((path for path in paths if path not in known), None)
        if other is not None and not known:
            self.host.fail(self._refusal(other))
            return
        projects = [path for path in known if _project(path)]
        if projects:  # it takes the place of what is open
            self._open(projects[0])
            return
        texts = [path for path in known if _has_rooms(path)]
        if texts:
            if self._home.shown:
                self._home.leave()
            self._bring_rooms(texts)
            return
        sheet = next((path for path in known if path.suffix.lower() == ".png"), None)
        if self._home.shown and sheet is not None:
            self._home.begin_with_sheet(sheet)
            return
        if self._home.shown:
            self._home.leave()
        self._waiting = known
        self._next()
        if other is not None:
            self.host.say(self._refusal(other))

    def _paths(self, data: QMimeData) -> list[Path]:
        """Files of this machine."""
        return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]

    def _would(self, path: Path) -> str:
        """What a drop of that file does, in words; nothing if it does nothing."""
        suffix = path.suffix.lower()
        if _project(path):
            return f"Drop to open {path.name}"
        if _has_rooms(path):
            return f"Drop to bring in the rooms of {path.name}"
        if suffix == ".png" and self._home.shown:
            return f"Drop to begin with {path.name}: it is cut, and brushes are made of it"
        if suffix == ".png":
            return f"Drop to cut {path.name} into tiles"
        return f"Drop to bring in the mesh {path.name}" if suffix in SUFFIXES else ""

    def _refusal(self, path: Path) -> str:
        if path.is_dir():
            return f"{path.name} is no project folder. {_CAN}"
        if path.suffix.lower() in _PICTURES:
            return f"{path.name}: pictures come in as PNG. {_CAN}"
        return f"{path.name} is nothing that can be brought in. {_CAN}"

    def _open(self, path: Path) -> None:
        if self.files.saves.may_leave():
            self.files.open(path.parent if path.name == INDEX else path)

    def _next(self) -> None:
        """The dialog of the first file that waits; those of the others follow when it closes."""
        while self._waiting:
            path = self._waiting.pop(0)
            make: Callable[[Path], QDialog | None] = (
                self.files.cut_sheet if path.suffix.lower() == ".png" else self.files.mesh_dialog
            )
            dialog = make(path)
            if dialog is not None:  # else it was refused, and that was said
                dialog.finished.connect(self._next)
                return


def _has_rooms(path: Path) -> bool:
    """Whether it is a text, or a folder with some."""
    if path.is_dir() and not _project(path):
        return any(found.suffix.lower() in TEXT_SUFFIXES for found in islice(path.iterdir(), 200))
    return path.suffix.lower() in TEXT_SUFFIXES


def _project(path: Path) -> bool:
    if path.name == INDEX:
        return True
    return path.is_dir() and (path.suffix == SUFFIX or (path / INDEX).is_file())
