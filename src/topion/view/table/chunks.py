"""Chunks: squares of the room drawn once and kept, at every size of cell."""

from __future__ import annotations

import time
from collections import OrderedDict

from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from topion.grid.boxes import Box
from topion.model.project import Project
from topion.model.room import Room
from topion.render.atlas import atlas_of
from topion.render.sprites import overhang_cells, set_time
from topion.view.table.camera import Camera
from topion.view.table.compose import Has, always, composed, sown_ahead
from topion.weaving.settle import shown_tiles

CHUNK_PX = 512
_MOST_CHUNKS = 320
_BUDGET_S = 0.025  # of drawing missing chunks within one frame
_BUDGET_OLD_S = 0.010  # of moving animated ones on
Key = tuple[float, int, int]  # px of a cell, row, column


def cells_of(side: float) -> int:
    """How many cells a chunk holds along one side."""
    return max(1, int(CHUNK_PX // side))


class Chunks:
    """The drawn squares of one room.  Where a pixel shows several cells, they are drawn at 1 px
    each and then averaged, once."""

    def __init__(self, project: Project, room: Room, has: Has = always) -> None:
        """has : see `composed`."""
        self.project, self.room, self._has = project, room, has
        self.kept: OrderedDict[Key, QImage] = OrderedDict()
        self._animated: set[Key] = set()
        self._moving: dict[Key, set[str]] = {}  # prefabs with frames that stand there
        self._old: set[Key] = set()  # kept, but their animation has moved on
        self.stale: dict[Key, Box] = {}  # kept, but some of their cells changed

    def side_for(self, camera: Camera) -> int:
        """The whole px a cell is drawn at for this zoom."""
        return max(1, min(self.room.info.cell_px, round(camera.px)))

    def _size_for(self, camera: Camera) -> float:
        """The px a cell has in the chunks kept for this zoom; a power of ½ below 1."""
        return camera.px if camera.px < 1 else self.side_for(camera)

    def paint(self, painter: QPainter, camera: Camera, view: QRectF) -> bool:
        """Draw what is in view; False if chunks are missing and another frame is wanted."""
        side = self._size_for(camera)
        cells = cells_of(side)
        first, last = self._in_view(camera, view, cells)
        rows, columns = range(first[0], last[0]), range(first[1], last[1])
        keys: list[Key] = [(side, row, column) for row in rows for column in columns]
        complete = self._draw_missing(keys, cells) and self._draw_old(keys, cells)
        for key in keys:
            box = self._box(key[1], key[2], cells)
            target = camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
            image = self.kept.get(key)
            if image is None:
                self._stand_in(painter, target, key, cells)
            else:
                self.kept.move_to_end(key)
                painter.drawImage(target, image, QRectF(image.rect()))
        return complete

    def _draw_missing(self, keys: list[Key], cells: int) -> bool:
        """Draw chunks that are not there, as long as the frame allows; False if some are left."""
        until = time.perf_counter() + _BUDGET_S
        for key in keys:
            if key not in self.kept or key in self.stale:
                if time.perf_counter() > until:
                    return False
                if key in self.kept:
                    self._patch(key, cells)
                elif not self._draw_until(key, cells, until):
                    return False
        return True

    def _draw_until(self, key: Key, cells: int, until: float) -> bool:
        """Draw a chunk; False if what fields sow there took the time, which is kept."""
        side, row, column = key
        box = self._box(row, column, cells)
        for _ in sown_ahead(self.project, self.room, box, max(1, round(side)), self._has):
            if time.perf_counter() > until:
                return False
        self.draw(key, cells)
        return True

    def _patch(self, key: Key, cells: int) -> None:
        """Draw only the cells of a kept chunk that changed."""
        side, row, column = key
        box, part, image = self._box(row, column, cells), self.stale.pop(key), self.kept[key]
        px = round(side)
        fresh = composed(self.project, self.room, part, px, self._has)
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        at = QPoint((part.lo[1] - box.lo[1]) * px, (part.lo[0] - box.lo[0]) * px)
        painter.drawImage(at, fresh)
        painter.end()
        self._note_animated(key, box)

    def _draw_old(self, keys: list[Key], cells: int) -> bool:
        """Draw chunks anew whose animation moved on; until then the old picture serves."""
        until = time.perf_counter() + _BUDGET_OLD_S
        for key in keys:
            if key not in self._old:
                continue
            if time.perf_counter() > until or not self._draw_until(key, cells, until):
                return False
        return True

    def _in_view(
        self, camera: Camera, view: QRectF, cells: int
    ) -> tuple[tuple[int, int], tuple[int, int]]:
        pitch = cells * camera.px
        height, width = self.room.info.size
        rows, columns = -(-height // cells), -(-width // cells)
        first = (
            max(0, int((view.top() - camera.top) // pitch)),
            max(0, int((view.left() - camera.left) // pitch)),
        )
        last = (
            min(rows, int((view.bottom() - camera.top) // pitch) + 1),
            min(columns, int((view.right() - camera.left) // pitch) + 1),
        )
        return first, last

    def _box(self, row: int, column: int, cells: int) -> Box:
        box = Box((row * cells, column * cells), ((row + 1) * cells, (column + 1) * cells))
        return box.clipped(self.room.box)

    def draw(self, key: Key, cells: int) -> QImage:
        """Draw a chunk and keep it."""
        side, row, column = key
        box = self._box(row, column, cells)
        image = composed(self.project, self.room, box, max(1, round(side)), self._has)
        if side < 1:
            image = image.scaled(
                max(1, round(box.shape[1] * side)),
                max(1, round(box.shape[0] * side)),
                transformMode=Qt.TransformationMode.SmoothTransformation,
            )
        self.kept[key] = image
        self._old.discard(key)
        self.stale.pop(key, None)
        while len(self.kept) > _MOST_CHUNKS:
            old, _ = self.kept.popitem(last=False)
            self._animated.discard(old)
            self._old.discard(old)
            self.stale.pop(old, None)
        self._note_animated(key, box)
        return image

    def _note_animated(self, key: Key, box: Box) -> None:
        """Remember what of a chunk moves by itself."""
        side = key[0]
        animated = atlas_of(self.project, max(1, round(side)), self.room.info.theme).animated
        for _, layer in self.room.bottom_up("tiles"):
            if layer.info.shown and animated[shown_tiles(self.project, layer, box)].any():
                self._animated.add(key)
                break
        if any(prefab.frames for prefab in self.project.prefabs.values()):
            self._note_moving(key, box)

    def _note_moving(self, key: Key, box: Box) -> None:
        """Remember which prefabs with frames stand in a chunk."""
        around = box.grown(overhang_cells(self.project, self.room))
        for _, layer in self.room.bottom_up("things"):
            for thing in layer.things_near(around).values() if layer.info.shown else ():
                prefab = self.project.prefabs.get(thing.prefab)
                if prefab is not None and prefab.frames:
                    self._moving.setdefault(key, set()).add(thing.prefab)

    def _stand_in(self, painter: QPainter, target: QRectF, key: Key, cells: int) -> None:
        """Until a chunk is drawn, show a kept one of another size that covers its middle."""
        side, row, column = key
        for (other, r, c), image in reversed(self.kept.items()):
            if other == side:
                continue
            wide = cells_of(other)
            box, own = self._box(r, c, wide), self._box(row, column, cells)
            if box.clipped(own) == own:
                source = QRectF(
                    (own.lo[1] - box.lo[1]) * other,
                    (own.lo[0] - box.lo[0]) * other,
                    own.shape[1] * other,
                    own.shape[0] * other,
                )
                painter.drawImage(target, image, source)
                return
        painter.fillRect(target, Qt.GlobalColor.transparent)

    def forget(self, box: Box | None) -> None:
        """Draw anew what shows any of these cells, or everything."""
        if box is None:
            self.kept.clear()
            self._animated.clear()
            self._old.clear()
            self.stale.clear()
            return
        reach = overhang_cells(self.project, self.room) + 2
        touched = box.grown(reach)
        for key in list(self.kept):
            side, row, column = key
            own = self._box(row, column, cells_of(side))
            if own.meets(touched):
                part = own.clipped(touched)
                known = self.stale.get(key)
                part = part if known is None else part.union(known)
                if side >= 1 and part.size * 2 < own.size:
                    self.stale[key] = part
                    continue
                del self.kept[key]
                self._animated.discard(key)
                self._old.discard(key)
                self.stale.pop(key, None)

    def renew(self) -> None:
        """Draw all anew, as time allows; until then the old pictures serve."""
        self._old |= set(self.kept)

    def show_time(self, time_ms: float, camera: Camera) -> bool:
        """Move animated tiles and things on; True if anything in view has to be drawn anew."""
        side, theme = self.side_for(camera), self.room.info.theme
        if side < 4:
            return False
        moved = set()
        if atlas_of(self.project, side, theme).set_time(time_ms):
            moved |= {key for key in self._animated if key[0] == side}
        if names := set_time(self.project, time_ms):
            kept = self._moving.items()
            moved |= {key for key, there in kept if key[0] == side and there & names}
        moved &= set(self.kept)
        self._old |= moved
        return bool(moved)
