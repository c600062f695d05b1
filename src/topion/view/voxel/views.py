"""How a voxel room is looked at: fixed views, orbiting, zooming, framing."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QWheelEvent

from topion.model.prefab import standing_cell
from topion.render.eye import Eye, View
from topion.render.volume import outline_points
from topion.view.session import Session

_ORBIT_DEG_PER_PX = 0.4
_ZOOM_A_STEP = 1.18
_BESIDE = 1.0  # of its sides, that the view may be pushed beside a room


class Views:
    """Mixed into the voxel table, which gives `picture_size`, `full_cells` and `stale_ghost`."""

    session: Session
    eye: Eye

    if TYPE_CHECKING:  # given by the table

        def picture_size(self) -> tuple[int, int]:
            """(height, width) of the view in px."""

        def full_cells(self) -> np.ndarray:
            """(d, h, w) bool: cells that stop a ray."""

        def stale_ghost(self) -> None:
            """Plan and draw the ghost anew at the next frame."""

    def held(self, eye: Eye) -> Eye:
        """The same eye, looking at the room or beside it, however far it was pushed."""
        if not self.session.has_room or self.session.room.info.axes != 3:
            return eye
        far = [-_BESIDE * side for side in self.session.room.info.size]
        near = [(1 + _BESIDE) * side for side in self.session.room.info.size]
        target = np.clip(np.array(eye.target), far, near)
        return replace(eye, target=tuple(target.tolist()))

    def set_eye(self, eye: Eye) -> None:
        """Look through that eye."""
        self.eye = self.held(eye)
        self.stale_ghost()

    def fit(self) -> None:
        """Show what the room holds, from where it is seen now."""
        room = self.session.room
        eye = replace(self.eye, height=self.picture_size()[0], width=self.picture_size()[1])
        framed = eye.framing_points(outline_points(self.full_cells()))
        reach = eye.framing(room.box).reach * 1.5  # of all that may come
        self.set_eye(replace(framed, reach=reach))

    def fit_selection(self) -> None:
        """Show the selected thing close by; the room if nothing is selected."""
        picking = self.session.picking
        cell: tuple[int, ...] | None = None
        if picking.area is not None:
            lo, hi = picking.area.box.lo, picking.area.box.hi
            cell = tuple((a + b - 1) // 2 for a, b in zip(lo, hi, strict=True))
        elif things := picking.things():
            cell = standing_cell(things[0][1], 3)
        if cell is None:
            self.fit()
        else:
            self.centre_on(cell)
            self.set_eye(replace(self.eye, px=max(self.eye.px, 40.0)))

    def look_from(self, view: View) -> None:
        """From a corner, from above, or from a side."""
        self.set_eye(self.eye.looking(view))

    def turn_to(self, yaw: float, pitch: float) -> None:
        """From any other place; degrees as for Eye."""
        self.set_eye(replace(self.eye, yaw=yaw, pitch=pitch))

    def next_corner(self) -> None:
        """From the next of the four corners, clockwise."""
        yaw = (round((self.eye.yaw + 45) / 90) * 90 + 45) % 360
        self.set_eye(replace(self.eye.turned(yaw - self.eye.yaw, 0.0), pitch=30.0))

    def toggle_perspective(self) -> None:
        """Perspective, or parallel."""
        self.set_eye(replace(self.eye, perspective=not self.eye.perspective))

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """Bring a cell to the middle of the view."""
        target = tuple(v + 0.5 for v in cell)
        self.set_eye(replace(self.eye, target=target if len(target) == 3 else self.eye.target))

    def zoom(self, steps: int) -> None:
        """Zoom by steps, at a point or the middle."""
        height, width = self.picture_size()
        middle = (height / 2, width / 2)
        self.set_eye(self.eye.zoomed(_ZOOM_A_STEP**steps, *middle))

    def drag_view(self, by: QPointF, turning: bool) -> None:
        """Move the camera by px, or turn it."""
        if turning:
            degrees = _ORBIT_DEG_PER_PX
            self.set_eye(self.eye.turned(-by.x() * degrees, by.y() * degrees))
        else:
            self.set_eye(self.eye.panned(by.y(), by.x()))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turned = event.angleDelta()
        step = 1 if (turned.y() or turned.x()) > 0 else -1
        modifiers = event.modifiers()
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            self.session.planes.set(level=self.session.planes.here.level + step)
        elif modifiers & Qt.KeyboardModifier.ShiftModifier:
            self.set_eye(self.eye.turned(15.0 * step, 0.0))
        else:
            at = event.position()
            self.set_eye(self.eye.zoomed(_ZOOM_A_STEP**step, at.y(), at.x()))
        event.accept()
