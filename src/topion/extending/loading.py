"""Finding extensions at start, and letting each add what it has."""

from __future__ import annotations

import os
from collections.abc import Iterable
from importlib.metadata import EntryPoint, entry_points

from topion.errors import one_sentence
from topion.extending.door import Door
from topion.extending.extension import EXTENSIONS, Extension
from topion.extending.off_check import ExtensionsOff
from topion.logbook import noted
from topion.survey.ledger import add_check

GROUP = "topion.extensions"
WITHOUT = "TOPION_WITHOUT_EXTENSIONS"  # set to anything: none is loaded
_loaded: list[bool] = []


def load_extensions() -> dict[str, Extension]:
    """Load all that are installed, once; what each is and whether it works, by name."""
    if not _loaded:
        _loaded.append(True)
        add_check(ExtensionsOff())
        if not os.environ.get(WITHOUT):
            take_in(entry_points(group=GROUP))
    return EXTENSIONS


def take_in(points: Iterable[EntryPoint]) -> None:
    """Let these add what they have, in the order of their names."""
    for point in sorted(points, key=lambda at: at.name):
        if point.name not in EXTENSIONS:
            EXTENSIONS[point.name] = _taken(point)


def _taken(point: EntryPoint) -> Extension:
    about = point.dist.metadata if point.dist is not None else None
    extension = Extension(point.name, str(about["Name"]) if about is not None else "",
                          str(about["Version"]) if about is not None else "")  # fmt: skip
    door = Door(extension)
    try:
        extend = point.load()
        extend(door)
    except Exception as problem:  # whatever it raises, the others are loaded
        door.take_back()
        noted(problem, f"extension {point.name}")
        extension.off = one_sentence(f"{type(problem).__name__} while it was loaded: {problem}")
    return extension
