"""The demo as it was built last: kept in the XDG cache under a digest of what builds it.

Building it lays all its strokes by scripts; what is kept is the project and those strokes as data.
"""

from __future__ import annotations

import hashlib
import json
import os
import platform
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

import numpy as np

import topion
from topion.demo.brinehollow import brinehollow
from topion.edit.history import History, Moment
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.edit.whole import project_of, whole
from topion.errors import TopionError
from topion.logbook import cache_home
from topion.pictures.png import read_bytes
from topion.scripting import ProjectHandle

_MOST_BYTES = 1 << 25
_NOT_MADE_BY = ("view",)  # packages that have no part in building it


def kept_demo() -> ProjectHandle:
    """`brinehollow()`, read from the cache where it is there and sound; else built and kept."""
    path = cache_home() / f"demo-{_digest()}.json"
    with suppress(TopionError, OSError, ValueError, KeyError, TypeError, RecursionError):
        return _read(path)
    demo = brinehollow()
    with suppress(OSError):  # without a cache it is built the next time too
        _write(path, demo)
    return demo


def _digest() -> str:
    """Of the code and the pictures that build it, and of what runs them."""
    root = Path(topion.__file__).parent
    found = hashlib.sha256(f"{platform.python_version()} {np.__version__}".encode())
    for path in sorted([*root.rglob("*.py"), *root.glob("demo/art/*.png")]):
        if path.relative_to(root).parts[0] not in _NOT_MADE_BY:
            found.update(path.read_bytes())
    return found.hexdigest()[:16]


def _read(path: Path) -> ProjectHandle:
    kept = json.loads(read_bytes(path, _MOST_BYTES))
    handle = ProjectHandle(project_of(edit_from_plain(kept["whole"])))
    edits = [edit_from_plain(edit) for edit in kept["strokes"]]
    handle.history = History(handle.data, edits, len(edits), unproven=len(edits))
    handle.history.saved = Moment(len(edits), edits[-1])
    return handle


def _write(path: Path, demo: ProjectHandle) -> None:
    strokes = [edit_to_plain(edit) for edit in demo.history.edits]
    text = json.dumps({"whole": edit_to_plain(whole(demo.data)), "strokes": strokes})
    path.parent.mkdir(parents=True, exist_ok=True)
    aside = path.with_name(f".{path.name}.{uuid4().hex[:8]}")
    try:
        aside.write_text(text, encoding="utf-8")
        os.replace(aside, path)
    finally:
        aside.unlink(missing_ok=True)
    for old in path.parent.glob("demo-*.json"):
        if old != path:
            old.unlink(missing_ok=True)
