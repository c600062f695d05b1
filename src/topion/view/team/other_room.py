"""Another version of the open room, drawn over the table left of the divider."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from topion.comparing.rooms import RoomChanged, islands, room_changed
from topion.grid.boxes import Box
from topion.model.project import Project
from topion.model.room import Room
from topion.render.eye import Eye
from topion.render.solid_scene import picture_of_eye
from topion.view import style
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.chunks import Chunks
from topion.view.table.compose import image_of
from topion.view.table.mask_marks import draw_edges, seen_part, wash
from topion.view.table.overlay import label
from topion.view.tasks import Worker
from topion.view.voxel.conflict_marks import draw_boxes

_MARK, _EDGE = 46, 210  # how solid cells that differ are washed, and their edge
_QUICK_CELLS, _QUICK_ENTRIES = 1 << 19, 10_000  # of a room that is compared at once


class OtherRoom:
    """over : draws it, with the camera or the eye of the table.  found : what differs; None while
    the other version has no such room."""

    def __init__(self, session: Session, project: Project, update: Callable[[], object]) -> None:
        """update : paints the table anew."""
        self.session, self.project, self._update = session, project, update
        self.found: RoomChanged | None = None
        self.room: Room | None = None
        self._name = ""
        self._chunks: Chunks | None = None
        self.solid: tuple[Eye, QImage] | None = None
        self._worker: Worker | None = None
        self._wanted: Eye | None = None
        self._finder: Worker | None = None
        self._stale = False
        self._boxes: tuple[RoomChanged, list[Box]] | None = None
        self.refresh()

    def refresh(self) -> None:
        """This version changed, or another room is open."""
        session = self.session
        name = session.room_name if session.has_room else ""
        if name != self._name or self.room is None:
            self._name, self._chunks, self.solid = name, None, None
            known = self.project.rooms.get(name)
            alike = known is not None and known.info.axes == session.room.info.axes
            self.room = known if alike else None
        if self.room is None:
            self.found = None
        elif _is_small(session.room):
            self.found = room_changed((self.project, self.room), (session.project, session.room))
        else:
            self._find_soon()

    def renew(self) -> None:
        """What fields sow can be drawn now."""
        if self._chunks is not None:
            self._chunks.renew()
        self._update()

    def _find_soon(self) -> None:
        """What differs in a large room is found on a thread; until then the marks are the old ones,
        and of changes meanwhile the last counts."""
        self._stale = True
        if self._finder is not None or self.room is None:
            return
        self._stale = False
        session = self.session
        here = session.project.frozen(), session.room.frozen()
        there = self.project, self.room
        self._finder = Worker(lambda _: room_changed(there, here), "Compare")
        self._finder.finished.connect(self._take_found)
        self._finder.begin()

    def _take_found(self) -> None:
        worker, self._finder = self._finder, None
        if worker is not None and isinstance(worker.result, RoomChanged):
            self.found = worker.result
            self._update()
        if self._stale:
            self._find_soon()

    def over(self, painter: QPainter, looks: Any, edge: float, titles: tuple[str, str]) -> bool:
        """Draw it left of `edge` (px), and mark what differs; False where it wants more frames."""
        size = painter.device()
        assert size is not None
        high, wide = float(size.height()), float(size.width())
        left = QRectF(0, 0, edge, high)
        done = True
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setClipRect(left, Qt.ClipOperation.IntersectClip)
        if self.room is None:
            painter.fillRect(left, style.ink("table"))
        elif isinstance(looks, Camera):
            done = self._draw_flat(painter, looks, left)
        else:
            self._draw_solid(painter, looks, left)
        painter.restore()
        if self.found is not None and isinstance(looks, Camera):
            self._draw_marks(painter, looks, QRectF(0, 0, wide, high), edge)
        elif self.found is not None:
            draw_boxes(painter, looks, self._deep_boxes(), style.ink("tidal"))
        for text, at in zip(titles, (edge - 14 - 8 * len(titles[0]), edge + 14), strict=True):
            label(painter, QPointF(max(4.0, at), high - 30), text)
        return done

    def _draw_flat(self, painter: QPainter, camera: Camera, left: QRectF) -> bool:
        assert self.room is not None
        if self._chunks is None:
            self._chunks = Chunks(self.project, self.room, self.session.ahead.has)
        painter.fillRect(left, style.ink("table"))
        y, x = self._shift()
        return self._chunks.paint(painter, _moved(camera, y, x), left)

    def _shift(self) -> tuple[int, int]:
        """Where its first cell lies in this version of the room."""
        assert self.room is not None
        own, here = self.room.info.origin or (0, 0), self.session.room.info.origin or (0, 0)
        return own[-2] - here[-2], own[-1] - here[-1]

    def _draw_solid(self, painter: QPainter, eye: Eye, left: QRectF) -> None:
        """The latest picture of it; one from where the eye is now is made on a thread."""
        if self.solid is not None:
            painter.drawImage(QPointF(0, 0), self.solid[1])
        if self.solid is None or self.solid[0] != eye:
            self._wanted = eye
            self._begin()

    def _begin(self) -> None:
        if self._worker is not None or self._wanted is None or self.room is None:
            return
        eye, project, room = self._wanted, self.project, self.room.frozen()

        def work(step: object) -> tuple[Eye, Any]:
            return eye, picture_of_eye(project, room, eye)

        self._worker = Worker(work, "The other version")
        self._worker.finished.connect(self._take)
        self._worker.begin()

    def _take(self) -> None:
        worker, self._worker = self._worker, None
        if worker is None or worker.result is None:
            return
        eye, rgba = worker.result
        self.solid = eye, image_of(rgba)
        self._update()
        if self._wanted != eye:
            self._begin()

    def _deep_boxes(self) -> list[Box]:
        """Round each part of a voxel room that differs."""
        assert self.found is not None
        if self._boxes is None or self._boxes[0] is not self.found:
            self._boxes = self.found, islands(self.found.cells, self.found.box)
        return self._boxes[1]

    def _draw_marks(self, painter: QPainter, camera: Camera, view: QRectF, edge: float) -> None:
        """A wash and an edge round what differs: red where it was, green where it is."""
        assert self.found is not None
        mask, seen = seen_part(self.found.marked, self.found.plan_box, camera, view)
        if not mask.any():
            return
        then = QRectF(0, 0, edge, view.height())
        now = QRectF(edge, 0, view.width() - edge, view.height())
        for ink, part in (("buoy", then), ("tidal", now)):
            colour = QColor(style.ink(ink))
            painter.save()
            painter.setClipRect(part, Qt.ClipOperation.IntersectClip)
            wash(painter, mask, seen, camera, colour, _MARK)
            colour.setAlpha(_EDGE)
            painter.setPen(QPen(colour, 1.8))
            draw_edges(painter, mask, seen, camera)
            painter.restore()


def _is_small(room: Room) -> bool:
    """Whether it is compared within a frame."""
    entries = sum(len(table) for layer in room.layers.values() for table in layer.tables.values())
    return room.box.size <= _QUICK_CELLS and entries <= _QUICK_ENTRIES


def _moved(camera: Camera, y: int, x: int) -> Camera:
    """The camera as a room sees it whose first cell lies at (y, x)."""
    left, top = round(camera.left + x * camera.px), round(camera.top + y * camera.px)
    return replace(camera, left=left, top=top)
