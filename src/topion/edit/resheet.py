"""Another sheet, or another cut, for a tile set, without losing what its slots are used for.

Slots are found again by their pixels; where those are new, by their place.  What is in use but is
not on the new sheet is kept in rows at its foot.  All of it is listed before it is taken.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from topion.edit.library import free_name
from topion.edit.names import renamed_everywhere
from topion.edit.slots import used_slots
from topion.errors import BadValue
from topion.grid.arrays import Rgba
from topion.grid.told import several
from topion.model.edit import Edit
from topion.model.picture import Picture
from topion.model.plane import Plane
from topion.model.project import Project
from topion.model.records import ItemRecord
from topion.model.theme_sheet import ThemeSheet
from topion.model.themes import theme_sheets
from topion.model.tileset import Cut, Slot, TileSet, slot_kind
from topion.pictures.png import picture_of

Place = tuple[int, int]
How = Literal["same", "moved", "redrawn", "kept below", "gone", "new"]


@dataclass(frozen=True)
class SlotChange:
    """How a slot fares.  name : before; of a new one, after.  old, new : its places; None where it
    has none."""

    how: How
    name: str
    old: Place | None
    new: Place | None


@dataclass(frozen=True, eq=False)
class Resheet:
    """A tile set before and after.  changes : of all slots, in the order of the sheet."""

    before: TileSet
    after: TileSet
    changes: tuple[SlotChange, ...]

    @cached_property
    def counts(self) -> Counter[str]:
        """How many slots fare how."""
        return Counter(change.how for change in self.changes)

    @cached_property
    def places(self) -> dict[Place, Place]:
        """The new place of each slot that is still there, by the old one."""
        found = ((change.old, change.new) for change in self.changes)
        return {old: new for old, new in found if old is not None and new is not None}


def resheet(project: Project, tileset_name: str, sheet: Picture, cut: Cut) -> Resheet:
    """What becomes of the slots of a tile set on another sheet, or cut otherwise.

    Raises BadValue for a cut without a whole tile, and where slots in use would be lost.
    """
    before = project.tileset(tileset_name)
    after = TileSet(tileset_name, sheet, cut, two_tone=before.two_tone)
    found = dict(_found_again(before, after))
    used = _used_places(project, before)
    rest = [at for at in _filled(before) if at not in found]
    below = [at for at in rest if at in used]
    grown, places = _grown(after, [before.pixels(at) for at in below])
    found.update(zip(below, places, strict=True))
    changes = [_change(before, grown, at, found.get(at), set(below)) for at in _filled(before)]
    taken = set(found.values())
    changes += [SlotChange("new", grown.name_at(at), None, at) for at in _filled(after)
                if at not in taken]  # fmt: skip
    whole = replace(grown, slots=dict(_slots(before, found)), mask=_mask(before, grown, found))
    return Resheet(before, whole, tuple(changes))


def take(project: Project, change: Resheet) -> Edit:
    """Take it: the tile set, and the names of places that moved wherever they are used."""
    before, after = change.before, change.after
    if before == after:
        return Edit(before.name)
    own = ItemRecord(("tilesets", before.name), before, after)
    rest = renamed_everywhere(project, _renames(change))
    themes = (ItemRecord(("themes", sheet.name), sheet, new)
              for sheet in theme_sheets(project)
              if (new := _followed(sheet, change)) != sheet)  # fmt: skip
    return Edit(f"Another sheet for {before.name}", (own, *rest, *themes))


def with_pictures(project: Project, tileset_name: str, pictures: Mapping[str, Rgba]) -> Edit:
    """More slots, each of a picture of its own, in rows at the foot of the sheet.

    pictures : by the names the slots get.  Raises BadValue for one larger than a tile.
    """
    before = project.tileset(tileset_name)
    grown, places = _grown(before, list(pictures.values()), list(pictures))
    slots = dict(before.slots)
    for wanted, at in zip(pictures, places, strict=True):
        slots[free_name(wanted.replace(",", " "), slots)] = Slot(at)
    mask = _mask(before, grown, {at: at for at in _filled(before)})
    after = replace(grown, slots=slots, mask=mask)
    count = len(pictures)
    label = f"{several(count, 'slot')} more in {tileset_name}"
    return Edit(label, (ItemRecord(("tilesets", tileset_name), before, after),))


# --- finding slots again --------------------------------------------------------------------


def _filled(tileset: TileSet) -> list[Place]:
    return [(int(y), int(x)) for y, x in np.argwhere(tileset.filled)]


def _found_again(before: TileSet, after: TileSet) -> Iterator[tuple[Place, Place]]:
    """The new place of slots: of equal pixels, first at their own place, then at the nearest;
    then, as others moved, at a place whose pixels are new."""
    if before.cut.tile != after.cut.tile:
        yield from _by_corners(before, after)
        return
    olds, free = _filled(before), set(_filled(after))
    looks = {at: after.pixels(at).tobytes() for at in free}
    where: dict[bytes, list[Place]] = {}
    for at in sorted(free):
        where.setdefault(looks[at], []).append(at)
    wanted = {at: before.pixels(at).tobytes() for at in olds}
    shifts: Counter[Place] = Counter()
    found: dict[Place, Place] = {at: at for at in olds if looks.get(at) == wanted[at]}
    free -= set(found.values())
    for at in (at for at in olds if at not in found):
        near = [new for new in where.get(wanted[at], ()) if new in free]
        if near:
            new = min(near, key=lambda to: abs(to[0] - at[0]) + abs(to[1] - at[1]))
            found[at] = new
            free.discard(new)
            shifts[new[0] - at[0], new[1] - at[1]] += 1
    ways = [way for way, count in shifts.most_common(1) if count > len(olds) // 4]
    for at in (at for at in olds if at not in found):
        for y, x in (*ways, (0, 0)):
            if (new := (at[0] + y, at[1] + x)) in free:
                found[at] = new
                free.discard(new)
                break
    yield from found.items()


def _by_corners(before: TileSet, after: TileSet) -> Iterator[tuple[Place, Place]]:
    """Slots of another size are found by where they begin in the sheet."""
    corners = {after.cut.corner_px(at): at for at in _filled(after)}
    for at in _filled(before):
        if (new := corners.get(before.cut.corner_px(at))) is not None:
            yield at, new


def _used_places(project: Project, tileset: TileSet) -> set[Place]:
    """The places of slots that anything lays, or that are frames of such."""
    names = used_slots(project, tileset.name)
    names |= {ref.slot for ref in project.tiles if ref.tileset == tileset.name}
    slots = [tileset.slot(name) for name in names
             if name in tileset.slots or name in set(tileset.filled_slots())]  # fmt: skip
    return {place for slot in slots for place in (slot.at, *slot.frames)}


def _change(
    before: TileSet, after: TileSet, old: Place, new: Place | None, below: set[Place]
) -> SlotChange:
    name = before.name_at(old)
    if new is None:
        return SlotChange("gone", name, old, None)
    if old in below:
        return SlotChange("kept below", name, old, new)
    if not np.array_equal(before.pixels(old), after.pixels(new)):
        return SlotChange("redrawn", name, old, new)
    return SlotChange("same" if old == new else "moved", name, old, new)


# --- the tile set after ---------------------------------------------------------------------


def _grown(
    tileset: TileSet, pictures: list[Rgba], names: Iterable[str] = ()
) -> tuple[TileSet, list[Place]]:
    """The sheet with more rows at its foot for these, and the places they get."""
    cut, sheet = tileset.cut, tileset.sheet.rgba
    tile_h, tile_w = cut.tile
    lost = [p.shape[:2] for p in pictures if p.shape[0] > tile_h or p.shape[1] > tile_w]
    if lost:
        what = f"{len(lost)} slots in use" if not names else "a picture for a slot"
        size = f"{lost[0][1]} × {lost[0][0]} px"
        raise BadValue(what, size, f"at most {tile_w} × {tile_h} px, as the tiles of the new cut")
    if not pictures:
        return tileset, []
    rows, columns = tileset.grid_shape
    if cut.rects:
        return _grown_loose(tileset, pictures)
    more = -(-len(pictures) // columns)
    height = max(sheet.shape[0], cut.margin * 2 + (rows + more) * (tile_h + cut.spacing)
                 - cut.spacing)  # fmt: skip
    rgba = np.zeros((height, sheet.shape[1], 4), np.uint8)
    rgba[: sheet.shape[0]] = sheet
    places = [(rows + n // columns, n % columns) for n in range(len(pictures))]
    for at, picture in zip(places, pictures, strict=True):
        y, x = cut.corner_px(at)
        _draw_in(rgba[y : y + tile_h, x : x + tile_w], picture)
    return replace(tileset, sheet=picture_of(rgba), mask=None), places


def _grown_loose(tileset: TileSet, pictures: list[Rgba]) -> tuple[TileSet, list[Place]]:
    """The same for a cut round each drawing: one below the other."""
    sheet, cut = tileset.sheet.rgba, tileset.cut
    width = max(sheet.shape[1], *(p.shape[1] for p in pictures))
    height = sheet.shape[0] + sum(p.shape[0] for p in pictures)
    rgba = np.zeros((height, width, 4), np.uint8)
    rgba[: sheet.shape[0], : sheet.shape[1]] = sheet
    rects, y = list(cut.rects), sheet.shape[0]
    for picture in pictures:
        high, wide = picture.shape[:2]
        rgba[y : y + high, :wide] = picture
        rects.append((y, 0, high, wide))
        y += high
    places = [(0, len(cut.rects) + n) for n in range(len(pictures))]
    new = replace(cut, rects=tuple(rects))
    return replace(tileset, sheet=picture_of(rgba), cut=new, mask=None), places


def _draw_in(tile: Rgba, picture: Rgba) -> None:
    """Put a picture into a tile: in its middle, on its ground."""
    high, wide = picture.shape[:2]
    left = (tile.shape[1] - wide) // 2
    tile[...] = 0
    tile[tile.shape[0] - high :, left : left + wide] = picture


def _slots(before: TileSet, found: Mapping[Place, Place]) -> Iterator[tuple[str, Slot]]:
    """What is known of slots, at their new places; frames that are gone are left out."""
    for name, slot in before.slots.items():
        if slot.at in found:
            frames = tuple(found[at] for at in slot.frames if at in found)
            yield name, replace(slot, at=found[slot.at], frames=frames)


def _mask(before: TileSet, after: TileSet, found: Mapping[Place, Place]) -> Plane | None:
    """The painted mask, slot by slot."""
    if before.mask is None:
        return None
    cells = np.zeros(after.sheet.size_px, np.uint16)
    for old, new in found.items():
        (y, x), (high, wide) = before.cut.corner_px(old), before.cut.size_of(old)
        to_y, to_x = after.cut.corner_px(new)
        high, wide = (
            min(sides) for sides in zip((high, wide), after.cut.size_of(new), strict=True)
        )
        part = before.mask.cells[y : y + high, x : x + wide]
        cells[to_y : to_y + high, to_x : to_x + wide] = part
    return Plane(cells) if cells.any() else None


# --- what speaks of it ----------------------------------------------------------------------


def _renames(change: Resheet) -> list[tuple[str, str, str]]:
    """New names for places that moved: through names of nobody, as two may change places."""
    kind, before, after = slot_kind(change.before.name), change.before, change.after
    pairs = [(before.name_at(old), after.name_at(new)) for old, new in change.places.items()]
    moved = [(old, new) for old, new in pairs if old != new]
    between = [f"{old} to {new}" for old, new in moved]
    there = [(kind, old, mid) for (old, _), mid in zip(moved, between, strict=True)]
    return there + [(kind, mid, new) for (_, new), mid in zip(moved, between, strict=True)]


def _followed(sheet: ThemeSheet, change: Resheet) -> ThemeSheet:
    """The sheet of a theme, by names where places have moved."""
    before, after, places = change.before, change.after, change.places
    if sheet.tileset != before.name or all(old == new for old, new in places.items()):
        return sheet
    slots: dict[str, Slot] = {}
    for old, new in places.items():
        own = sheet.slot_for(before, before.name_at(old))
        if own is not None:
            slots[after.name_at(new)] = own
    return replace(sheet, by="name", slots=slots)
