"""Clips: what is copied in one room as JSON, with all that it needs from its library.

The text stands by itself: it can be read in any editor, kept in a file, and pasted into another
project or another running Topion.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import topion.brushes
import topion.things.rules  # noqa: F401  (registers the kinds of rules)
from topion.edit.clips import PASTED, Clip
from topion.errors import BadFile, BadValue, TopionError
from topion.formats.text import json_text, parse_json
from topion.model.plain import BadPlain, JsonRecord, TypeForm, from_plain, to_plain
from topion.model.scrap import Scrap
from topion.model.shelves import SHELVES, Item
from topion.model.typed import Name, typed

MEDIA_TYPE = "application/vnd.topion.clip+json"
FORMAT: Literal["topion-clip"] = "topion-clip"
VERSION: Literal[1] = 1
MOST_BYTES = 1 << 26
_WHERE = "what was pasted"


@typed
@dataclass(frozen=True)
class ClipFile:
    """A clip as it is written.  library : items by their shelf."""

    format: Literal["topion-clip"]
    version: Literal[1]
    scrap: Scrap
    name: Name = PASTED
    anchor: tuple[int, ...] = ()
    library: dict[str, Any] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        if self.anchor and len(self.anchor) != self.scrap.axes:
            raise BadValue("the anchor", self.anchor, f"{self.scrap.axes} numbers")


def clip_text(clip: Clip) -> str:
    """The clip as JSON."""
    library = {
        shelf: [to_plain(item) for item in items.values()] for shelf, items in clip.library.items()
    }
    found = ClipFile(FORMAT, VERSION, clip.scrap, clip.name, clip.anchor, library)
    return json_text(to_plain(found))


def read_clip(data: bytes | str, where: str = _WHERE) -> Clip:
    """Raises BadFile, in one sentence, for anything but a clip.  where : it came from."""
    data = data.encode("utf-8", "replace") if isinstance(data, str) else data
    if len(data) > MOST_BYTES:
        most = MOST_BYTES >> 20
        raise BadFile(where, f"has {len(data) >> 20} MiB, more than the {most} of a clip")
    if not data.lstrip().startswith(b"{"):
        raise BadFile(where, "is nothing that was copied in Topion")
    plain = parse_json(data, where)
    if plain.get("format") != FORMAT:
        raise BadFile(where, "is nothing that was copied in Topion")
    if isinstance(plain.get("version"), int) and plain["version"] > VERSION:
        raise BadFile(where, f"has version {plain['version']:.6g}; this Topion reads {VERSION}")
    try:
        return _clip(plain)
    except TopionError as problem:
        raise BadFile(where, f"is no sound clip: {problem}") from None


def _clip(plain: JsonRecord) -> Clip:
    found: ClipFile = from_plain(ClipFile, plain)
    library: dict[str, dict[str, Item]] = {}
    for shelf, items in found.library.items():
        if shelf not in SHELVES:
            raise BadPlain(("library", f"{shelf:.40}"), "is no shelf that is known here")
        wanted: TypeForm = tuple[SHELVES[shelf].item, ...]  # type: ignore[misc]
        library[shelf] = {item.name: item for item in from_plain(wanted, items, ("library", shelf))}
    return Clip(found.scrap, library, found.anchor, found.name)
