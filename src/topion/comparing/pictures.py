"""A picture for each room that two versions of a project have otherwise: before, and after."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.comparing.rooms import RoomChanged, room_changed
from topion.formats.stems import stem
from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.model.room import Room
from topion.pictures.png import png_bytes
from topion.progress import step
from topion.render.overview import overview

LONGEST_PX = 1024  # of one version
_PAPER = np.array((241, 237, 228), np.float32)
_PALE = 0.62  # how much of it lies over what is the same
_EDGE = {"before": (207, 74, 37), "after": (35, 120, 111)}
_GAP = 12  # px between the two


def change_pictures(before: Project, after: Project) -> Iterator[tuple[str, bytes]]:
    """(file name, PNG) of each room that differs, also of those that only one version has."""
    for name in dict.fromkeys((*after.rooms, *before.rooms)):
        step(name)
        old = before.rooms.passing(name) if name in before.rooms else None
        new = after.rooms.passing(name) if name in after.rooms else None
        picture = _picture((before, old), (after, new))
        if picture is not None:
            yield f"{stem(name)}.png", png_bytes(picture)


def _picture(
    before: tuple[Project, Room | None], after: tuple[Project, Room | None]
) -> Rgba | None:
    (old_project, old), (project, new) = before, after
    if old is None or new is None or old.info.axes != new.info.axes:
        one = new if new is not None else old
        assert one is not None
        alone = overview(project if one is new else old_project, one, LONGEST_PX)
        blank = np.broadcast_to(np.uint8(0), alone.shape)
        return _side_by_side(*((blank, alone) if one is new else (alone, blank)))
    found = room_changed((old_project, old), (project, new))
    if found.is_nothing:
        return None
    marks = found.marked
    shift = tuple(-v for v in found.box.lo[-2:])
    sides = []
    for version, room, side in ((old_project, old, "before"), (project, new, "after")):
        at = shift if room is new else _first(found, old, new)
        sides.append(_marked(version, room, marks, at, side))
    return _side_by_side(*sides)


def _first(found: RoomChanged, old: Room, new: Room) -> tuple[int, ...]:
    """Where the first cell of the earlier version lies in the box of both."""
    none = (0,) * new.info.axes
    pairs = zip(old.info.origin or none, new.info.origin or none, found.box.lo, strict=True)
    return tuple(a - b - lo for a, b, lo in pairs)[-2:]


def _marked(
    project: Project, room: Room, marks: NDArray[np.bool_], at: tuple[int, ...], side: str
) -> Rgba:
    """A room paled where it is the same, with an edge round what differs."""
    picture = overview(project, room, LONGEST_PX).copy()
    high, wide = room.info.plan
    own = marks[at[0] : at[0] + high, at[1] : at[1] + wide]
    tall, broad = picture.shape[:2]
    rows = np.arange(tall) * high // tall
    columns = np.arange(broad) * wide // broad
    mask = own[np.ix_(rows, columns)]
    rgb = picture[..., :3].astype(np.float32)
    pale = rgb * (1 - _PALE) + _PAPER * _PALE
    picture[..., :3] = np.where(mask[..., None], rgb, pale).astype(np.uint8)
    edge = scipy.ndimage.binary_dilation(mask, iterations=2) & ~mask
    picture[edge] = (*_EDGE[side], 255)
    return picture


def _side_by_side(one: Rgba, other: Rgba) -> Rgba:
    high = max(one.shape[0], other.shape[0])
    made = np.zeros((high, one.shape[1] + _GAP + other.shape[1], 4), np.uint8)
    made[: one.shape[0], : one.shape[1]] = one
    made[: other.shape[0], one.shape[1] + _GAP :] = other
    return made
