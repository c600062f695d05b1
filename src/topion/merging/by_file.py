"""Three versions of one file of a project put together, whatever it holds.

Files of a project can be read by themselves, so each can be merged by itself, as version control
does; `whole` merges projects with all that their files say of each other.
"""

from __future__ import annotations

import struct

from topion.errors import BadFile, TopionError
from topion.formats.files import FOREIGN, INDEX, is_own
from topion.merging.files import MergedFile


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


def _foreign(name: str) -> tuple[str, ...]:
    """The shelf of a path, which may be of an extension that is missing."""
    shelf = name.partition("/")[0]
    return (shelf,) if FOREIGN.fullmatch(shelf) and shelf != "rooms" else ()


def _merged(name: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    # git starts us once for each file: only what that one needs is loaded
    if not is_own(name, _foreign(name)):
        raise BadFile(name, "is no file of a project")
    if name.endswith(".rows"):
        from topion.merging.planes import merged_plane

        return merged_plane(name, base, ours, theirs)
    if name.startswith("rooms/") and not name.endswith("/room.json"):
        from topion.merging.entries import merged_entries

        return merged_entries(name, base, ours, theirs)
    if name.endswith(".png"):
        from topion.merging.pictures import merged_picture

        return merged_picture(name, base, ours, theirs)
    from topion.merging import records

    if name == INDEX:
        return records.merged_index(base, ours, theirs)
    merge = records.merged_room if name.startswith("rooms/") else records.merged_item
    return merge(name, base, ours, theirs)
