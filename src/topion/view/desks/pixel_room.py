"""The pixels of a slot, or its tint mask, painted as a small room."""

from __future__ import annotations

from typing import Any

import numpy as np

from topion.edit.pixels import (
    CLEAR,
    LAYER,
    PARTS,
    mask_project,
    painted,
    palette_of,
    pixel_project,
    with_mask,
    with_pixels,
)
from topion.grid.arrays import Rgba
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.tileset import TileSet
from topion.view.desks.colour_room import ColourRoom
from topion.view.session import Session


class PixelRoom(ColourRoom):
    """masked : whether the tint mask is painted, not the pixels."""

    def __init__(self, main: Session, tileset: str, at: tuple[int, int]) -> None:
        super().__init__(main)
        self.tileset_name, self.at = tileset, at
        self.masked = False
        self.begin()

    @property
    def item(self) -> TileSet | None:
        """Whose slot it is; None once it was taken away."""
        return self.main.project.tilesets.get(self.tileset_name)

    @property
    def slot(self) -> str:
        """The name of the slot."""
        return self.item.name_at(self.at) if self.item is not None else ""

    def pixels(self) -> Rgba:
        """(h, w, 4) as the slot looks now."""
        tileset = self.item
        return tileset.pixels(self.at) if tileset else np.zeros((1, 1, 4), np.uint8)

    def _state(self) -> Any:
        return (self.item.sheet, self.item.mask) if self.item is not None else None

    def _project(self) -> Project:
        tileset = self.item
        assert tileset is not None
        if self.masked:
            self.colours = list(PARTS)
            return mask_project(tileset, self.at)
        own = palette_of(tileset, self.at)
        self.colours = own + [name for name in self.colours if name not in own
                              and name not in PARTS]  # fmt: skip
        return pixel_project(tileset, self.at, self.colours)

    def _begun(self) -> tuple[str, str, str]:
        if self.masked:
            return LAYER, self.colours[1], PARTS[0]
        return LAYER, self.colours[0], CLEAR

    def _edit(self, scratch: Project) -> Edit:
        project = self.main.project
        if self.masked:
            return with_mask(project, self.tileset_name, self.at, scratch)
        return with_pixels(project, self.tileset_name, self.at, painted(scratch))

    def show_mask(self, masked: bool) -> None:
        """Paint the tint mask, or the pixels."""
        if masked != self.masked:
            self.masked = masked
            self.colours = []
            self.renew()

    def show_slot(self, at: tuple[int, int]) -> None:
        """Paint another slot of the tile set."""
        self.at = at
        self.renew()

    def add_colour(self, name: str) -> None:
        if not self.masked:
            super().add_colour(name)
