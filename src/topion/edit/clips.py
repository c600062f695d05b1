"""What is copied, with all it needs from its library; and taking it into a project."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from topion.brushes.marks import Marks, Place
from topion.brushes.stamp import Stamp
from topion.edit.library import free_name, put_brush
from topion.edit.names import needed_by, put_any
from topion.edit.rooms import add_room, usual_layers
from topion.model.edit import Edit, joined, written
from topion.model.layer import LayerInfo
from topion.model.project import Project
from topion.model.refs import renamed
from topion.model.room import RoomInfo, View
from topion.model.scrap import Scrap
from topion.model.shelves import SHELVES, Item

Prefers = Literal["ours", "theirs"]
PASTED = "Pasted"


@dataclass(frozen=True, eq=False)
class Clip:
    """scrap : what was copied.  library : the items it needs by shelf and name.

    anchor : see Stamp.  name : what it is called, as a card.
    """

    scrap: Scrap
    library: Mapping[str, Mapping[str, Item]] = field(default_factory=dict)
    anchor: tuple[int, ...] = ()
    name: str = PASTED


def clip_of(
    project: Project, scrap: Scrap, name: str = PASTED, anchor: tuple[int, ...] = ()
) -> Clip:
    """The scrap with all items of the project that it needs."""
    library: dict[str, dict[str, Item]] = {}
    for shelf, item in needed_by(project, scrap):
        library.setdefault(shelf, {})[item] = project.named(shelf, item)
    return Clip(scrap, library, anchor, name)


def usual_anchor(scrap: Scrap, view: View) -> tuple[int, ...]:
    """The cell by which a scrap is held: its middle, at its foot where there is an up."""
    *_, height, width = scrap.size
    match view:
        case "top":
            return (height // 2, width // 2)
        case "side":
            return (height - 1, width // 2)
    return (0, height // 2, width // 2)


def stamp_of(clip: Clip, name: str) -> Stamp:
    """A card that lays what was copied."""
    return Stamp(name, scrap=clip.scrap, anchor=clip.anchor, repeat="once")


def conflicts(project: Project, clip: Clip) -> list[tuple[str, str]]:
    """(shelf, name) of what the clip brings that is another thing in the project."""
    return [
        (shelf, name)
        for shelf, items in clip.library.items()
        for name, item in items.items()
        if name in project.shelf(shelf) and project.shelf(shelf)[name] != item
    ]


def taken_in(project: Project, clip: Clip, prefers: Prefers, card: str = PASTED) -> Edit:
    """A card that lays the clip, with the items that the project lacks.

    What is there and equal is used as it is.  prefers : of what is there but another thing, whose
    is used; theirs come under other names then.  Raises TopionError for what cannot be put.
    """
    if prefers == "theirs":
        clip = _under_other_names(project, clip)
    scratch = project.scratch()
    edits = list(written(scratch, _lacking(scratch, clip)))
    known = project.brushes.get(card)
    stamp = stamp_of(clip, card)
    if isinstance(known, Stamp) and known.scrap is not None:  # as it was set, but for its turn
        stamp = replace(stamp, repeat=known.repeat, pitch=known.pitch, rate=known.rate,
                        onto=known.onto, colour=known.colour)  # fmt: skip
    edits.append(put_brush(scratch, stamp))
    label = f"Paste {clip.scrap.holds()}" if card == PASTED else f"New brush {card}"
    return joined(label, edits, stamp.colour)


def room_of_clip(project: Project, clip: Clip, prefers: Prefers, name: str) -> Edit:
    """A room that holds the clip and no more, with the items that the project lacks.

    Raises NameTaken, and BadValue for one that is larger than a room can be.
    """
    if prefers == "theirs":
        clip = _under_other_names(project, clip)
    scratch = project.scratch()
    edits = list(written(scratch, _lacking(scratch, clip)))
    info = RoomInfo(name, clip.scrap.size)
    layers = tuple(LayerInfo(one.name, one.kind, brush=one.brush) for one in clip.scrap.layers)
    edits += written(scratch, [add_room(scratch, info, layers or usual_layers(info))])
    stamp = stamp_of(clip, name)
    anchor = np.array([clip.anchor or (0,) * len(info.size)], np.intp)
    edits.append(stamp.plan(Place(scratch, name, ""), Marks(anchor)))
    return joined(f"Bring in {name}", edits)


def _lacking(project: Project, clip: Clip) -> Iterator[Edit]:
    """What puts the items of a clip that a project lacks on its shelves, one by one."""
    lacking = [
        (shelf, item)
        for shelf in SHELVES
        for name, item in clip.library.get(shelf, {}).items()
        if name not in project.shelf(shelf)
    ]
    return (put_any(project, *entry) for entry in lacking)


def _under_other_names(project: Project, clip: Clip) -> Clip:
    """The clip with what is another thing in the project called otherwise; what uses that is
    another thing too then."""
    while different := conflicts(project, clip):
        clip = _under_another_name(project, clip, *different[0])
    return clip


def _under_another_name(project: Project, clip: Clip, shelf: str, name: str) -> Clip:
    item = clip.library[shelf][name]
    names = [(shelf, name)]
    taken = [project.shelf(shelf), clip.library[shelf]]
    if shelf == "brushes" and item.material == name:
        names.append(("materials", name))
        taken.append(dict.fromkeys(project.materials))
    fresh = free_name(f"{name} 2", *taken)

    def again(value: Any) -> Any:
        for kind, old in names:
            value = renamed(value, kind, old, fresh)
        return value

    library = {at: {n: again(known) for n, known in items.items()}
               for at, items in clip.library.items()}  # fmt: skip
    library[shelf][fresh] = replace(library[shelf].pop(name), name=fresh)
    return replace(clip, scrap=again(clip.scrap), library=library)
