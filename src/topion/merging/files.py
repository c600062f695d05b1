"""What comes of putting files together."""

from __future__ import annotations

from dataclasses import dataclass

from topion.merging.values import Three
from topion.model.plain import Json


@dataclass(frozen=True)
class MergedFile:
    """A file put together.  conflicts : those that came new, as they stand in it."""

    data: bytes
    conflicts: tuple[Json, ...] = ()


def kept_conflicts(sides: Three[list[Json]]) -> list[Json]:
    """Of conflicts that earlier merges left in three versions, those that nobody settled."""
    base, ours, theirs = sides
    known = [one for one in ours if one in theirs or one not in base]
    return known + [one for one in theirs if one not in ours and one not in base]
