"""Which chunks of a voxel room must be meshed anew, and the thread that does it."""

from __future__ import annotations

import queue
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QThread, pyqtSignal

from topion.grid.boxes import Box
from topion.grid.meshing import Quads
from topion.model.project import Project
from topion.model.room import Room
from topion.render.vertices import Vertices, book_vertices, vertices
from topion.render.volume import (
    CHUNK,
    Shaped,
    block_layer,
    boxes_of,
    coarse_box,
    mesh_box,
    shaped_blocks,
)
from topion.render.wear import wear_of
from topion.render.worn_blocks import worn_book
from topion.view.voxel.scene import ChunkKey

AT_ONCE = 6  # chunks that are meshed within a frame; more go to the thread


@dataclass(frozen=True, eq=False)
class Meshed:
    """A chunk ready for the card.  few : the same in fewer rectangles, for small cells, and in
    fewest, for smaller ones while the view turns; if that was asked for."""

    key: ChunkKey
    box: Box
    vertices: Vertices
    few: tuple[Vertices, ...]
    shaped: list[Shaped]


def meshed(project: Project, room: Room, box: Box, *, far: bool = False) -> Meshed:
    """Mesh one chunk."""
    key = (box.lo[0] // CHUNK, box.lo[1] // CHUNK, box.lo[2] // CHUNK)
    layer, wear = block_layer(room), wear_of(room)
    if layer is None:
        none = book_vertices(Quads.joined([]), worn_book(project, wear))
        return Meshed(key, box, none, (), [])
    near = mesh_box(project, layer, box, wear)
    fewer = (
        (mesh_box(project, layer, box, wear, far=True), coarse_box(project, layer, box, wear))
        if far
        else ()
    )
    book = worn_book(project, wear)
    few = tuple(vertices(quads, book.rgb) for quads in fewer)
    return Meshed(
        key, box, book_vertices(near, book), few, shaped_blocks(project, layer, box, wear)
    )


_Order = tuple[int, Project, Room, Box, bool]  # ticket, what to mesh, and whether for afar too


class _Mesher(QThread):
    """Meshes what is put in its queue.  Signals: done(ticket, Meshed)."""

    done = pyqtSignal(int, object)

    def __init__(self) -> None:
        super().__init__()
        self.queue: queue.SimpleQueue[tuple[int, Project, Room, Box, bool] | None] = (
            queue.SimpleQueue()
        )

    def run(self) -> None:
        while (item := self.queue.get()) is not None:
            ticket, project, room, box, far = item
            self.done.emit(ticket, meshed(project, room, box, far=far))


class Chunks(QObject):
    """The chunks of one room.  Signals: ready(Meshed) for each that was meshed anew."""

    ready = pyqtSignal(object)

    def __init__(self, project: Project, room: Room) -> None:
        super().__init__()
        self.project, self.room = project, room
        self._dirty: dict[ChunkKey, Box] = {}
        self._tickets: dict[ChunkKey, int] = {}
        self._next = 0
        self._far = False
        self._mesher = _Mesher()
        self._mesher.done.connect(self._came)
        self.forget(None)

    def box_of(self, key: ChunkKey) -> Box:
        """The cells of a chunk."""
        lo = tuple(v * CHUNK for v in key)
        return Box(lo, tuple(v + CHUNK for v in lo)).clipped(self.room.box)

    def touched(self, box: Box) -> list[Box]:
        """The chunks that a change in `box` may make look different."""
        near = box.grown(1).clipped(self.room.box)
        if not near.size:
            return []
        lo = tuple(a // CHUNK * CHUNK for a in near.lo)
        hi = tuple(-(-b // CHUNK) * CHUNK for b in near.hi)
        return [part.clipped(self.room.box) for part in boxes_of(Box(lo, hi), CHUNK)]

    def forget(self, box: Box | None) -> None:
        """Mesh anew what a change in `box`, or anywhere, may have touched."""
        for part in self.touched(box or self.room.box):
            key = (part.lo[0] // CHUNK, part.lo[1] // CHUNK, part.lo[2] // CHUNK)
            self._dirty[key] = part

    def want_far(self) -> None:
        """From now on mesh each chunk also in few rectangles, for a slow card."""
        if not self._far:
            self._far = True
            self.forget(None)

    @property
    def busy(self) -> bool:
        """Whether something is still to come."""
        return bool(self._dirty or self._tickets)

    def work(self) -> None:
        """Mesh what is dirty: a few chunks now, many on the thread."""
        if not self._dirty:
            return
        dirty, self._dirty = self._dirty, {}
        if len(dirty) <= AT_ONCE:
            for key, box in dirty.items():
                self._tickets.pop(key, None)
                self.ready.emit(meshed(self.project, self.room, box, far=self._far))
            return
        if not self._mesher.isRunning():
            self._mesher.start()
        worn_book(self.project, wear_of(self.room))  # which the thread shares from now on
        rooms = self.project.rooms.copy()
        rooms[self.room.info.name] = room = self.room.frozen()
        frozen = self.project.scratch(rooms)
        for key, box in dirty.items():
            self._next += 1
            self._tickets[key] = self._next
            self._mesher.queue.put((self._next, frozen, room, box, self._far))

    def _came(self, ticket: int, found: Meshed) -> None:
        if self._tickets.get(found.key) == ticket:  # else it was changed meanwhile
            del self._tickets[found.key]
            self.ready.emit(found)

    def close(self) -> None:
        """End the thread; what it was doing is dropped."""
        self._tickets.clear()
        if self._mesher.isRunning():
            while not self._mesher.queue.empty():
                self._mesher.queue.get_nowait()
            self._mesher.queue.put(None)
            self._mesher.wait()
