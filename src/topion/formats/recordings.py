"""A recording of a walk as a file by itself; see `items` for those of a project."""

from __future__ import annotations

from pathlib import Path

from topion.errors import BadFile
from topion.formats.text import MOST_JSON, parse_json, read_value
from topion.model.recording import Recording
from topion.pictures.png import read_bytes


def read_recording(path: Path) -> Recording:
    """Raises BadFile for a file that is missing or is no recording."""
    try:
        data = read_bytes(path, MOST_JSON)
    except OSError as problem:
        missing = isinstance(problem, FileNotFoundError)
        reason = "is missing" if missing else f"cannot be read: {problem.strerror or problem}"
        raise BadFile(path.name, reason) from None
    found: Recording = read_value(Recording, parse_json(data, path.name), data, path.name)
    return found
