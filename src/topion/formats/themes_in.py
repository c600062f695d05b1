"""Sheets of themes from PNG files."""

from __future__ import annotations

from pathlib import Path

from topion.errors import BadFile, BadValue
from topion.model.theme_sheet import ThemeSheet, sheet_name
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import read_png_file


def theme_sheet_from_file(tileset: TileSet, path: Path, theme: str) -> ThemeSheet:
    """A picture as another sheet for the slots of a tile set, found at the same places.

    A sheet of another scale is cut by as much: of one twice as large each slot is.  Raises BadFile.
    """
    picture = read_png_file(path)
    cut = _cut_for(tileset, picture.size_px)
    if cut is None:
        (height, width), own = tileset.sheet.size_px, picture.size_px
        reason = (f"measures {own[1]} × {own[0]} px, which is no whole multiple of the sheet of "
                  f"{tileset.name}, {width} × {height} px")  # fmt: skip
        raise BadFile(path.name, reason)
    name = sheet_name(tileset.name, theme)
    try:
        return ThemeSheet(name, theme, tileset.name, picture, cut, two_tone=tileset.two_tone)
    except BadValue as problem:
        raise BadFile(path.name, str(problem)) from None


def theme_sheet_from_set(tileset: TileSet, other: TileSet, theme: str) -> ThemeSheet:
    """The sheet of another tile set as one for the slots that it has by the same names.

    Raises BadValue where no name is the same."""
    slots = {name: slot for name, slot in other.slots.items() if name in tileset.slots}
    if not slots:
        raise BadValue(f"the slots of {other.name}", "other names", f"names as in {tileset.name}")
    return ThemeSheet(
        sheet_name(tileset.name, theme), theme, tileset.name, other.sheet, other.cut, "name", slots,
        other.two_tone, other.mask,
    )  # fmt: skip


def _cut_for(tileset: TileSet, size_px: tuple[int, int]) -> Cut | None:
    """The cut of the first sheet, at the scale of another; None where none fits.

    A sheet of fewer or more rows of slots has the same scale."""
    first, cut = tileset.sheet.size_px, tileset.cut
    scale = size_px[1] / first[1]
    if scale <= 0 or (scale != int(scale) and size_px[1] % cut.tile[1]):
        return None
    times = int(scale) if scale == int(scale) and size_px[0] >= first[0] * scale * 0.5 else 1
    tile = (cut.tile[0] * times, cut.tile[1] * times)
    rects = tuple(tuple(v * times for v in rect) for rect in cut.rects)
    made = Cut(tile, cut.margin * times, cut.spacing * times, rects)  # type: ignore[arg-type]
    return made if all(made.grid_of(size_px)) else None
