"""Files that are written for others: exports and pictures."""

from __future__ import annotations

import os
import shutil
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

from topion.errors import TopionError
from topion.formats.files import belongs_to


def check_out(path: Path) -> None:
    """Raises TopionError for a file that a project is made of."""
    owner = belongs_to(path)
    if owner is not None:
        raise TopionError(f"{path} is a file of the project {owner.name}; choose another place")


def write_out(path: Path, data: bytes) -> None:
    """Write a file whole or not at all, and never over one that a project is made of.

    Raises OSError, and TopionError for a file of a project.
    """
    check_out(path)
    if path.exists() and not path.is_file():  # a device or a pipe is written to as it is
        path.write_bytes(data)
        return
    place = Path(os.path.realpath(path))
    aside = place.with_name(f".{place.name[:80]}.{uuid4().hex[:8]}.part")
    try:
        aside.write_bytes(data)
        if place.exists():
            shutil.copymode(place, aside)
        os.replace(aside, place)
    except BaseException:
        with suppress(OSError):
            aside.unlink(missing_ok=True)
        raise
