"""Three versions of one file of a project put together, whatever it holds.

Files of a project can be read by themselves, so each can be merged by itself, as version control
does; `whole` merges projects with all that their files say of each other.
"""

from __future__ import annotations

import struct

from topion.errors import BadFile, TopionError
from topion.formats.files import INDEX, is_own
from topion.merging.entries import merged_entries
from topion.merging.files import MergedFile
from topion.merging.pictures import merged_picture
from topion.merging.planes import merged_plane
from topion.merging.records import merged_index, merged_item, merged_room


def merged_file(name: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """name : its path in the project folder.  base : None where there was none.

    Raises BadFile for a version that is not sound.
    """
    if ours == theirs or theirs == base:
        return MergedFile(ours)
    if ours == base:
        return MergedFile(theirs)
    try:
        return _merged(name, base, ours, theirs)
    except TopionError:
        raise
    except (KeyError, TypeError, ValueError, AttributeError, IndexError, struct.error) as problem:
        reason = f"cannot be put together: {type(problem).__name__} {problem}"
        raise BadFile(name, reason) from None


def _merged(name: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    if not is_own(name):
        raise BadFile(name, "is no file of a project")
    if name == INDEX:
        return merged_index(base, ours, theirs)
    if name.endswith(".rows"):
        return merged_plane(name, base, ours, theirs)
    if name.endswith(".png"):
        return merged_picture(name, base, ours, theirs)
    if not name.startswith("rooms/"):
        return merged_item(name, base, ours, theirs)
    if name.endswith("/room.json"):
        return merged_room(name, base, ours, theirs)
    return merged_entries(name, base, ours, theirs)
