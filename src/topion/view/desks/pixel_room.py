"""The pixels of a slot, painted as a small room; each stroke is an Edit of the sheet."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from topion.edit.pixels import (
    CLEAR,
    LAYER,
    PARTS,
    ROOM,
    mask_project,
    painted,
    palette_of,
    pixel_project,
    with_mask,
    with_pixels,
)
from topion.errors import TopionError
from topion.grid.arrays import Rgba
from topion.model.edit import Dirty
from topion.model.project import Project
from topion.model.tileset import TileSet
from topion.scripting import ProjectHandle
from topion.view.desks.ground import NotKept
from topion.view.session import Session


class PixelRoom(QObject):
    """Signals: renewed() when another slot, or its mask, is shown; painted() when its pixels are
    others.

    session : on the room; it is another one whenever `renewed` was sent.  masked : whether the
    tint mask is painted, not the pixels.
    """

    renewed = pyqtSignal()
    painted = pyqtSignal()

    def __init__(self, main: Session, tileset: str, at: tuple[int, int]) -> None:
        super().__init__()
        self.main, self.tileset_name, self.at = main, tileset, at
        self.masked = False
        self.colours: list[str] = []
        self._known: tuple[object, object] = (None, None)
        self._storing = False
        self.session = self._made()
        main.changed.connect(self._on_main)

    @property
    def tileset(self) -> TileSet | None:
        """Whose slot it is; None once it was taken away."""
        return self.main.project.tilesets.get(self.tileset_name)

    @property
    def slot(self) -> str:
        """The name of the slot."""
        return self.tileset.name_at(self.at) if self.tileset is not None else ""

    def pixels(self) -> Rgba:
        """(h, w, 4) as the slot looks now."""
        tileset = self.tileset
        return tileset.pixels(self.at) if tileset else np.zeros((1, 1, 4), np.uint8)

    def _made(self) -> Session:
        """A session on a room with what the slot has now."""
        tileset = self.tileset
        assert tileset is not None
        if self.masked:
            self.colours = list(PARTS)
            project = mask_project(tileset, self.at)
        else:
            own = palette_of(tileset, self.at)
            self.colours = own + [name for name in self.colours if name not in own
                                  and name not in PARTS]  # fmt: skip
            project = pixel_project(tileset, self.at, self.colours)
        self._known = tileset.sheet, tileset.mask
        return self._session_of(project)

    def _session_of(self, project: Project) -> Session:
        handle = ProjectHandle(project)
        session = Session(handle, NotKept(handle), gestures=self.main.gestures)
        session.layer_id = LAYER
        session.aside = self.main.aside
        session.said.connect(self.main.said.emit)
        session.hands.take("right", CLEAR if not self.masked else PARTS[0])
        session.hands.take("left", self.colours[1 if self.masked else 0])
        handle.history.listeners.append(self._store)
        return session

    def _renew(self) -> None:
        names = dict(self.session.hands.names())
        self.session.close()
        self.session = self._made()
        for hand in ("right", "left"):
            if self.session.hands.can_take(names[hand]):
                self.session.hands.take(hand, names[hand])
        self.renewed.emit()

    def show_mask(self, masked: bool) -> None:
        """Paint the tint mask, or the pixels."""
        if masked != self.masked:
            self.masked = masked
            self.colours = []
            self._renew()

    def show_slot(self, at: tuple[int, int]) -> None:
        """Paint another slot of the tile set."""
        self.at = at
        self._renew()

    def add_colour(self, name: str) -> None:
        """Have one more colour, in the left hand."""
        if self.masked:
            return
        if name not in self.colours:
            self.colours.append(name)
            self._renew()
        self.session.hands.take("left", name)

    def _store(self, dirty: tuple[Dirty, ...]) -> None:
        """A stroke: onto the sheet."""
        if self._storing:
            return
        self._storing = True
        try:
            scratch, project = self.session.project, self.main.project
            if self.masked:
                edit = with_mask(project, self.tileset_name, self.at, scratch)
            else:
                edit = with_pixels(project, self.tileset_name, self.at, painted(scratch))
            self.main.apply(edit)
        except TopionError as problem:
            self.main.said.emit(str(problem))
        finally:
            self._storing = False
        if self.tileset is not None:
            self._known = self.tileset.sheet, self.tileset.mask
        self.painted.emit()

    def _on_main(self, dirty: tuple[Dirty, ...]) -> None:
        """Something else changed the sheet, as undo does."""
        tileset = self.tileset
        if self._storing or tileset is None:
            return
        if (tileset.sheet, tileset.mask) != self._known:
            self._renew()
            self.painted.emit()

    def close(self) -> None:
        """Let go of the session."""
        self.main.changed.disconnect(self._on_main)
        self.session.close()


__all__ = ["ROOM", "PixelRoom"]
