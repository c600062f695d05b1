"""What the window remembers from one run to the next, in the XDG config folder."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRect, QSettings
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QMainWindow

LEAST_PX = (900, 600)  # width and height a window can be used at


def _settings() -> QSettings:
    base = os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config"
    return QSettings(str(Path(base) / "topion" / "window.ini"), QSettings.Format.IniFormat)


def is_dark() -> bool:
    """Whether the dark counterpart was in use."""
    return bool(_settings().value("dark", False, bool))


def remember_dark(dark: bool) -> None:
    _settings().setValue("dark", dark)


def last_folder() -> Path:
    """Where files were opened or saved last, if that is still there."""
    found = Path(str(_settings().value("folder", "")))
    return found if found.is_absolute() and found.is_dir() else Path.home()


def remember_folder(folder: Path) -> None:
    _settings().setValue("folder", str(folder.resolve()))


def source_of(digest: str) -> Path | None:
    """The file that a sheet with that digest was brought in from."""
    found = Path(str(_settings().value(f"sheets/{digest[:32]}", "")))
    return found if found.is_absolute() else None


def remember_source(digest: str, path: Path) -> None:
    _settings().setValue(f"sheets/{digest[:32]}", str(path.resolve()))


def slice_s() -> float:
    """The length of the slices that long strokes are kept in, in seconds; 0 for none."""
    found = float(_settings().value("slices", 0.0, float))
    return found if 0.2 <= found <= 5 else 0.0


def remember_slice_s(seconds: float) -> None:
    _settings().setValue("slices", seconds)


def detail() -> str:
    """In how much detail voxel rooms are drawn: full, half or quarter."""
    found = str(_settings().value("detail", "full"))
    return found if found in ("half", "quarter") else "full"


def remember_detail(word: str) -> None:
    _settings().setValue("detail", word)


def place_window(window: QMainWindow) -> None:
    """Where it was last, or 1280 × 800; in any case within the screen it opens on."""
    kept = _settings().value("geometry", QByteArray())
    if not isinstance(kept, QByteArray) or not window.restoreGeometry(kept):
        window.resize(1280, 800)
    screen = QGuiApplication.screenAt(window.geometry().center()) or QGuiApplication.primaryScreen()
    if screen is not None and not window.isMaximized() and not window.isFullScreen():
        window.setGeometry(fitting(window.geometry(), screen.availableGeometry()))


def remember_window(window: QMainWindow) -> None:
    _settings().setValue("geometry", window.saveGeometry())


def fitting(wanted: QRect, screen: QRect, title_px: int = 28) -> QRect:
    """A rectangle of a window's inside that lies, with its title bar, within a screen."""
    width = min(wanted.width(), screen.width())
    height = min(wanted.height(), screen.height() - title_px)
    left = max(screen.left(), min(wanted.left(), screen.left() + screen.width() - width))
    top = screen.top() + title_px
    top = max(top, min(wanted.top(), screen.top() + screen.height() - height))
    return QRect(left, top, width, height)
