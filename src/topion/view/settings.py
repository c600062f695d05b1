"""What the window remembers from one run to the next, in the XDG config folder."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QByteArray, QRect, QSettings
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QMainWindow

if TYPE_CHECKING:
    from pathlib import Path  # not loaded before something is seen

LEAST_PX = (900, 600)  # width and height a window can be used at


def _settings() -> QSettings:
    base = os.environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    return QSettings(os.path.join(base, "topion", "window.ini"), QSettings.Format.IniFormat)


def is_dark() -> bool:
    """Whether the dark counterpart was in use."""
    return bool(_settings().value("dark", False, bool))


def remember_dark(dark: bool) -> None:
    _settings().setValue("dark", dark)


def last_folder() -> Path:
    """Where files were opened or saved last, if that is still there."""
    from pathlib import Path

    found = Path(str(_settings().value("folder", "")))
    return found if found.is_absolute() and found.is_dir() else Path.home()


def remember_folder(folder: Path) -> None:
    _settings().setValue("folder", str(folder.resolve()))


def source_of(digest: str) -> Path | None:
    """The file that a sheet with that digest was brought in from."""
    from pathlib import Path

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


# --- what a designer can set --------------------------------------------------------------------

Pen = Literal["nib", "strength", "nothing"]
SCALES = (1.0, 1.25, 1.5, 2.0)
_KNOWN: dict[str, object] = {}  # read for each turn of the wheel and each move of a pen


def _kept(name: str, usual: object) -> object:
    if name not in _KNOWN:
        _KNOWN[name] = _settings().value(name, usual, type(usual))
    return _KNOWN[name]


def _keep(name: str, value: object) -> None:
    _KNOWN[name] = value
    _settings().setValue(name, value)


def forget_known() -> None:
    """Read all from the file again: for tests that use other files."""
    _KNOWN.clear()


def scale() -> float:
    """How large the interface is, from the next start on; 1 is its own size."""
    found = _kept("scale", 1.0)
    return next((times for times in SCALES if times == found), 1.0)


def remember_scale(times: float) -> None:
    _keep("scale", times)


def swapped() -> bool:
    """Whether the right mouse button holds the left hand."""
    return bool(_kept("swapped", False))


def remember_swapped(on: bool) -> None:
    _keep("swapped", on)


def wheel_scrolls() -> bool:
    """Whether the wheel moves the room up and down, and zooms with Ctrl; else the other way."""
    return bool(_kept("wheel", False))


def remember_wheel_scrolls(on: bool) -> None:
    _keep("wheel", on)


def pen() -> Pen:
    """What the pressure of a pen scales."""
    words: tuple[Pen, ...] = ("nib", "strength", "nothing")
    return next((word for word in words if word == _kept("pen", "nib")), "nib")


def remember_pen(word: Pen) -> None:
    _keep("pen", word)


def changed_keys() -> dict[str, tuple[str, ...]]:
    """The keys of commands that were changed, by the name of the command."""
    kept = _settings()
    kept.beginGroup("keys")
    found = {name: tuple(str(kept.value(name, "")).split()) for name in kept.childKeys()}
    kept.endGroup()
    return found


def remember_keys(command: str, keys: tuple[str, ...] | None) -> None:
    """Keep other keys for a command; None for its own."""
    kept = _settings()
    if keys is None:
        kept.remove(f"keys/{command}")
    else:
        kept.setValue(f"keys/{command}", " ".join(keys))


def done_hints() -> frozenset[str]:
    """Hints that need not be shown any longer."""
    return frozenset(str(_kept("hints", "")).split())


def remember_hints(done: frozenset[str]) -> None:
    _keep("hints", " ".join(sorted(done)))
