"""Themes: other sheets for the slots of tile sets, by which rooms look otherwise."""

from __future__ import annotations

from collections.abc import Iterator

from topion.model.project import Project
from topion.model.theme_sheet import ThemeSheet
from topion.model.tileset import Slot, TileSet


def theme_sheets(project: Project) -> Iterator[ThemeSheet]:
    """All of them."""
    yield from project.shelf("themes").values()


def sheet_for(project: Project, tileset: str, theme: str) -> ThemeSheet | None:
    """The sheet of a theme for a tile set; None where it looks as in the first."""
    if not theme:
        return None
    return next(
        (s for s in theme_sheets(project) if (s.tileset, s.theme) == (tileset, theme)), None
    )


def theme_names(project: Project) -> tuple[str, ...]:
    """The themes besides the first, as they were met."""
    names = [sheet.theme for sheet in theme_sheets(project)]
    names += [name for block in project.blocks.values() for name in block.themes]
    return tuple(dict.fromkeys(names))


def picture_source(project: Project, tileset: str, slot: str, theme: str) -> tuple[TileSet, Slot]:
    """The tile set and slot that a tile is drawn from in a theme.  Raises UnknownName."""
    first = project.tileset(tileset)
    found = first.slot(slot)
    sheet = sheet_for(project, tileset, theme)
    other = sheet.slot_for(first, first.name_at(found.at)) if sheet is not None else None
    return (first, found) if sheet is None or other is None else (sheet.as_tileset, other)
