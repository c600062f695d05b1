"""Files that are written for others: exports and pictures."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

from topion.errors import TopionError
from topion.formats.files import belongs_to

Contents = bytes | Iterator[bytes]  # of a file, whole or part by part


def check_out(path: Path) -> None:
    """Raises TopionError for a file that a project is made of."""
    owner = belongs_to(path)
    if owner is not None:
        raise TopionError(f"{path} is a file of the project {owner.name}; choose another place")


def write_over(path: Path, data: bytes) -> None:
    """Write a file that is not a project's, such as those git lends, in its own place."""
    with path.open("wb") as out:
        out.write(data)


def write_out(path: Path, contents: Contents) -> None:
    """Write a file whole or not at all, and never over one that a project is made of.

    Raises OSError, TopionError for a file of a project, and whatever making a part raises.
    """
    check_out(path)
    parts = (contents,) if isinstance(contents, bytes) else contents
    if path.exists() and not path.is_file():  # a device or a pipe is written to as it is
        _write(path, parts)
        return
    place = Path(os.path.realpath(path))
    aside = place.with_name(f".{place.name[:80]}.{uuid4().hex[:8]}.part")
    try:
        _write(aside, parts)
        if place.exists():
            shutil.copymode(place, aside)
        os.replace(aside, place)
    except BaseException:
        with suppress(OSError):
            aside.unlink(missing_ok=True)
        raise


def _write(path: Path, parts: Iterable[bytes]) -> None:
    with path.open("wb") as file:
        for part in parts:
            file.write(part)
