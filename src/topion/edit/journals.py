"""The journals of a machine: those of a project, and those of projects without a folder."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from topion.edit.journal import SUFFIX, remove, state_folder
from topion.edit.lock import PathLock
from topion.edit.resume import Kept
from topion.grid.told import several

_INDEX = "project.json"


def journals_of(id_: str, folder: Path, place: Path | None = None) -> list[Kept]:
    """What earlier runs left of the project in a folder, the latest first; also from where the
    folder lay before it was moved."""
    found = []
    for path in _newest(place, f"{id_[:32]}-*{SUFFIX}"):
        kept = Kept.read(path)
        if kept is not None and _is_about(kept, folder):
            found.append(kept)
    return found


def _is_about(kept: Kept, folder: Path) -> bool:
    named = [Path(kept.about.get(key, "")) for key in ("folder", "promised") if kept.about.get(key)]
    if folder in named:
        return True
    moved = not any((path / _INDEX).exists() for path in named)
    return bool(named) and moved


@dataclass(frozen=True)
class Unsaved:
    """A project that was never saved and that no window has open."""

    kept: Kept

    @property
    def name(self) -> str:
        return self.kept.about.get("name", "") or "Untitled"

    @property
    def strokes(self) -> int:
        """Those that were undone count too: they can be laid again."""
        base = self.kept.stack(self.kept.base_at)
        redoable = len(self.kept.stack().rows) - len(base.rows)
        return max(self.kept.unsaved(self.kept.base_at), redoable)


def strokes(count: int) -> str:
    """A number of strokes in words."""
    return several(count, "stroke")


def unsaved(place: Path | None = None) -> list[Unsaved]:
    """Projects without a folder that have strokes, the latest first; empty ones are let go."""
    found = []
    for path in _newest(place, f"*{SUFFIX}"):
        lock = PathLock(lock_path(path))
        if lock_path(path).exists() and not lock.take():
            continue  # a window has it open
        kept = Kept.read(path)
        lock.release()
        if kept is None or kept.folder or not kept.about.get("base"):
            continue
        promised = kept.about.get("promised", "")
        if promised and (Path(promised) / _INDEX).exists():
            continue  # its first save was done
        if Unsaved(kept).strokes:
            found.append(Unsaved(kept))
        elif kept.whole:
            remove(path)
            lock_path(path).unlink(missing_ok=True)
    return found


def lock_path(journal: Path) -> Path:
    """The file whose lock tells that a window has the project of a journal open."""
    return journal.with_suffix(".lock")


def take_lock(journal: Path) -> PathLock:
    """Hold the lock of a journal."""
    path = lock_path(journal)
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch()
    lock = PathLock(path)
    lock.take()
    return lock


def _newest(place: Path | None, pattern: str) -> Iterator[Path]:
    folder = place or state_folder()
    found = []
    with suppress(OSError):
        found = [(path.stat().st_mtime_ns, path) for path in folder.glob(pattern)]
    return (path for _, path in sorted(found, reverse=True))
