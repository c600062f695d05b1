"""The test ground of a desk: a small room with a session of its own, kept with the brush.

The room stands in a scratch project that follows the library of the real one.  What is painted on
it becomes an Edit of the brush that carries the ground, so that it is undone and kept as all else;
an Edit of that brush, from wherever it comes, is shown on the ground.
"""

from __future__ import annotations

from typing import Any, cast

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes import Lift
from topion.brushes.grounds import GROUND, OWN, Ruled, ground_room, ground_scrap, shaped
from topion.brushes.kind import BrushKind, brush_or_none
from topion.edit.library import free_name, put_brush
from topion.errors import TopionError
from topion.model.brush import Brush
from topion.model.edit import Dirty, Edit
from topion.model.rooms import Rooms
from topion.model.scrap import Scrap
from topion.model.shelves import TABLES, shelves
from topion.render.samples import ground_for
from topion.scripting import ProjectHandle
from topion.view.keeper import Keeper
from topion.view.session import Session

_LIFT = "Lift"


class NotKept(Keeper):
    """Nothing of a scratch project is kept by itself."""

    def __init__(self, handle: ProjectHandle) -> None:
        self._handle = handle
        self._journal = self._lock = self._mark = None
        self._on_problem = lambda _: None


class GroundSession(Session):
    """Paints on the scratch project; brushes are set in the real one."""

    def __init__(self, handle: ProjectHandle, main: Session) -> None:
        super().__init__(handle, NotKept(handle), gestures=main.gestures)
        self._main = main

    def put(self, brush: Brush, merge_key: object = None) -> bool:
        """Change a brush of the real library."""
        if brush.name not in self._main.project.brushes:
            return False  # what only lifts on the ground
        return self._main.try_(put_brush, brush, key=merge_key)


class Ground(QObject):
    """Signals: renewed() when another room is shown.

    session : on the scratch project; its left hand holds the brush, its right hand `lift_name`.
    """

    renewed = pyqtSignal()

    def __init__(self, main: Session, brush: str) -> None:
        super().__init__()
        self.main, self.brush_name = main, brush
        self._shown: Scrap | None = None
        self._storing = False
        self._scratch = main.project.scratch(Rooms())
        self.lift_name = self._follow()
        self._put_room()
        handle = ProjectHandle(self._scratch)
        self.session = GroundSession(handle, main)
        self.session.layer_id = OWN
        self.session.aside = main.aside
        self.session.asks = main.asks
        self.session.hands.take("right", self.lift_name)
        self.session.hands.take("left", brush)
        self.session.said.connect(main.said.emit)
        handle.history.listeners.append(self._store)
        main.changed.connect(self._on_main)

    @property
    def brush(self) -> Ruled | None:
        """The brush of the desk; None once it was taken away."""
        found: Any = brush_or_none(self.main.project, self.brush_name)
        return found if isinstance(found, Ruled) else None

    @property
    def deep(self) -> bool:
        """Whether it is a voxel room."""
        return self._scrap_of(self.brush).axes == 3

    def close(self) -> None:
        """Let go of the session."""
        self.main.changed.disconnect(self._on_main)
        self.session.close()

    # --- the scratch project --------------------------------------------------------------

    def _follow(self) -> str:
        """Have the library of the real project, with a brush that lifts; its name."""
        main, scratch = self.main.project, self._scratch
        for shelf in shelves():
            scratch.library[shelf.name] = dict(main.shelf(shelf.name))
        for table in TABLES:
            setattr(scratch, table, getattr(main, table))
        scratch.stamps.update(main.stamps)
        name = free_name(_LIFT, scratch.brushes)
        scratch.brushes[name] = Lift(name)
        return name

    def _scrap_of(self, brush: Ruled | None) -> Scrap:
        if brush is not None and brush.ground is not None:
            return brush.ground
        found = cast("BrushKind | None", brush)
        deep = found is not None and bool(found.lays_blocks())
        return shaped(found.material if found is not None else self.brush_name, deep=deep)

    def _put_room(self) -> None:
        """Put what the brush carries into the scratch project as its room."""
        brush = self.brush
        scrap = self._shown = self._scrap_of(brush)
        below = ground_for(self._scratch, cast(BrushKind, brush), deep=False) if brush else None
        base = below.material if below is not None else ""
        self._scratch.rooms[GROUND] = ground_room(self._scratch, scrap, self._cell_px(), base)

    def _cell_px(self) -> int:
        sets = self.main.project.tilesets
        brush = cast("BrushKind | None", self.brush)
        used = brush.tiles_used() if brush is not None else ()
        sizes = [max(sets[ref.tileset].cut.tile) for ref in used if ref.tileset in sets]
        return min(512, sizes[0]) if sizes else 16

    def _on_main(self, dirty: tuple[Dirty, ...]) -> None:
        """Something of the real project changed: the library follows, and the ground if it is
        another one."""
        if all(part.room for part in dirty) and dirty:
            return
        self.lift_name = self._follow()
        if self.brush is None:
            return
        if not self._storing and self._scrap_of(self.brush) != self._shown:
            self._put_room()
            self.session.handle.history.edits.clear()
            self.session.handle.history.at = 0
            self.session.warm.cool()
            self.session.room_changed.emit()
            self.renewed.emit()
        self.session.changed.emit(tuple(part for part in dirty if not part.room))

    # --- painting -------------------------------------------------------------------------

    def _store(self, dirty: tuple[Dirty, ...]) -> None:
        """What was painted is kept with the brush."""
        if not self._storing and GROUND in self._scratch.rooms:
            scrap = ground_scrap(self._scratch, self._scratch.room(GROUND))
            self._keep(scrap, f"Draw on the ground of {self.brush_name}")

    def _keep(self, scrap: Scrap, label: str) -> None:
        brush = self.brush
        if brush is None or scrap == brush.ground:
            return
        self._storing, self._shown = True, scrap
        try:
            project = self.main.project
            planned = put_brush(project, cast(BrushKind, brush).changed(ground=scrap))
            self.main.apply(Edit(label, planned.records, planned.colour))
        finally:
            self._storing = False

    def use_shape(self, shape: str) -> None:
        """Put one of the ready shapes there."""
        brush = cast("BrushKind | None", self.brush)
        if brush is None:
            return
        try:
            scrap = shaped(brush.material, shape, deep=self.deep)
            planned = put_brush(self.main.project, brush.changed(ground=scrap))
            self.main.apply(Edit(f"{shape} on the ground of {brush.name}", planned.records,
                                 planned.colour))  # fmt: skip
        except TopionError as problem:
            self.main.said.emit(str(problem))
