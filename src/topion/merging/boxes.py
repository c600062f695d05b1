"""The size of a room that both sides may have changed."""

from __future__ import annotations

from topion.grid.boxes import Box


def merged_box(base: Box, ours: Box, theirs: Box) -> Box:
    """The cells of a room, counted from where its first cell was when it was made: as the side has
    it that changed it; where both did, all cells that one of them has."""
    if ours in (base, theirs):
        return theirs
    if theirs == base:
        return ours
    if len(ours.lo) != len(theirs.lo):
        return ours
    return ours.union(theirs)
