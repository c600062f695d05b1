"""Where in a voxel room the pointer is, and strokes in three dimensions."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from topion.brushes.kind import SoftEdged
from topion.brushes.shape import Handle
from topion.edit.pieces import Pick
from topion.grid.rays import Hit, Ray, cells_along, crossing, first_hit, nearest_on_line
from topion.model.prefab import standing_cell
from topion.render.eye import Eye
from topion.render.volume import block_layer
from topion.view.table.strokes import BUTTONS, Position, Strokes
from topion.view.voxel.edges import SpaceEdges
from topion.view.voxel.piece_marks import SpaceMarks
from topion.weaving.settle import filled

RAISING = "raising"  # the second move of a box: its base is drawn, its height is not


_MOST_SOWN_CELLS = 6  # before a block, in which a press looks for what is sown


class Pointing(Strokes):
    """Mixed into the voxel table.  A position is where the pointer's ray meets the work plane, or
    the face or cell of a block; lines and boxes stay on the plane of the face they began on."""

    eye: Eye
    piece_marks: SpaceMarks
    edges: SpaceEdges
    full: np.ndarray | None = None
    stage: str = ""
    _base: Hit | None = None  # the face on which a line or a box was begun
    _stage_points = 0  # of a box, when its base was drawn
    _drawn_over_blocks = False  # where the lasso was begun

    def full_cells(self) -> np.ndarray:
        """(d, h, w) bool: cells that stop a ray."""
        if self.full is None:
            layer = block_layer(self.session.room)
            size = self.session.room.info.size
            self.full = filled(self.session.project, layer) if layer else np.zeros(size, bool)
        return self.full

    def ray_at(self, point: QPointF) -> Ray:
        """The ray from the eye through a point of the screen."""
        return self.eye.ray(point.y(), point.x())

    def hit_at(self, point: QPointF) -> Hit | None:
        """The cell the pointer meets, of those that are not cut away."""
        full, work = self.full_cells(), self.session.planes.here
        ray = self.ray_at(point)
        if work.above == "shown":
            return first_hit(full, ray)
        kept = slice(None, work.level + 1) if self.cuts_high() else slice(work.level, None)
        index = tuple(kept if axis == work.axis else slice(None) for axis in range(3))
        shift = np.zeros(3)
        shift[work.axis] = kept.start or 0
        origin = tuple((np.array(ray.origin) - shift).tolist())
        hit = first_hit(full[index], Ray(origin, ray.direction))
        if hit is None:
            return None
        cell = tuple((np.array(hit.cell) + shift.astype(int)).tolist())
        return Hit((cell[0], cell[1], cell[2]), hit.face, hit.distance)

    def cuts_high(self) -> bool:
        """Whether what is cut away lies at the high side of the plane: that nearer to the eye."""
        work = self.session.planes.here
        return work.axis == 0 or bool(self.eye.forward[work.axis] < 0)

    def position_at(self, point: QPointF) -> Position | None:
        """Where in the room, in cells, a point of the screen lies; None off it."""
        if self.stage == RAISING:
            return self._raised(point)
        hand = self.hand or "left"
        aim = self.session.planes.aim(hand)
        if aim != "plane" and self._base is not None and self.hand is not None:
            return self._on_base(point, aim == "face")
        hit = self.hit_at(point) if aim != "plane" else None
        if hit is not None:
            cell = hit.before if aim == "face" else hit.cell
            return self._within(cell, self.ray_at(point).at(hit.distance))
        work = self.session.planes.here
        axis, level = (work.axis, work.level) if aim == "plane" else (0, 0)
        return self._on_plane(point, axis, level)

    def _on_plane(self, point: QPointF, axis: int, level: int) -> Position | None:
        ray = self.ray_at(point)
        far = level + (1.0 if ray.direction[axis] > 0 else 0.0)
        met = crossing(ray, axis, far)
        if met is None:
            return None
        position = [v - 0.5 for v in met]
        position[axis] = float(level)
        reach = max(self.session.room.info.size)
        if not all(-reach <= v <= 2 * reach for v in position):
            return None  # near the horizon
        return tuple(position)

    @staticmethod
    def _within(cell: tuple[int, int, int], met: tuple[float, ...]) -> Position:
        """The place in the cell that lies nearest to where the ray met its face."""
        return tuple(
            min(max(v - 0.5, c - 0.499), c + 0.499) for v, c in zip(met, cell, strict=True)
        )

    def _on_base(self, point: QPointF, before: bool) -> Position | None:
        """On the plane of the face on which the stroke was begun."""
        assert self._base is not None
        axis = int(np.flatnonzero(np.array(self._base.before) - np.array(self._base.cell))[0])
        cell = self._base.before if before else self._base.cell
        return self._on_plane(point, axis, cell[axis])

    def _raised(self, point: QPointF) -> Position | None:
        """The corner of a box whose height follows the pointer."""
        last = self.points[-1] if self._stage_points == 0 else self.points[self._stage_points - 1]
        axis = self._box_axis()
        through = tuple(v + 0.5 for v in last)
        height = nearest_on_line(self.ray_at(point), through, axis)
        size = self.session.room.info.size[axis]
        level = min(max(int(np.floor(height)), -1), size)
        start = int(np.floor(self.points[0][axis] + 0.5))
        level = min(max(level, 0 if start >= 0 else level), size - 1)
        return tuple(float(level) if i == axis else v for i, v in enumerate(last))

    def _box_axis(self) -> int:
        if self.session.planes.aim(self.hand or "left") == "plane" or self._base is None:
            return self.session.planes.here.axis if self.session.planes.here.aim == "plane" else 0
        step = np.array(self._base.before) - np.array(self._base.cell)
        return int(np.flatnonzero(step)[0])

    # --- strokes: see Strokes -------------------------------------------------------------

    def begin_stroke(self, point: QPointF) -> None:
        """A button went down."""
        self.stage = ""
        straight = self.session.gestures.now.kind in ("line", "box")
        plane = self.session.planes.aim(self.hand or "left") == "plane"
        self._base = self.hit_at(point) if straight and not plane else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.stage == RAISING and event.button() in BUTTONS:
            self.mouseMoveEvent(event)
            self.stage = ""
            self._base = None
            self.end_stroke()
            return
        if event is not None and self._grips_edge(event):
            return
        super().mousePressEvent(event)

    def _grips_edge(self, event: QMouseEvent) -> bool:
        """Begin to pull a side of the room, where its handle was pressed."""
        left = event.button() == Qt.MouseButton.LeftButton
        busy = self.lasso or self.space or self.dragging or self.hand is not None
        idle = self.is_at_work and not busy
        point = event.position()
        return left and idle and self.ready and self.edges.press(point, self.ray_at(point))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.edges.side is not None:
            if event.button() == Qt.MouseButton.LeftButton:
                self.edges.drag(self.ray_at(event.position()))
                self.edges.release()
                self.update()
            return
        super().mouseReleaseEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.edges.side is not None:
            self.hover = event.position()
            self.edges.drag(self.ray_at(self.hover))
            self.update()
            return
        if event is not None and self.stage == RAISING and self.dragging is None:
            at = self._raised(event.position())
            if at is not None:
                self.points = [*self.points[: self._stage_points], at]
            self.hover = event.position()
            self.session.point_at(None)
            self.update()
            return
        super().mouseMoveEvent(event)

    def stroke_goes_on(self) -> bool:
        """A box gets its height by a second move, unless its brush knows the height."""
        brush = self.session.hands.in_hand(self.hand or "left")
        if self.session.gestures.now.kind != "box" or isinstance(brush, SoftEdged):
            self._base = None
            return False
        self.stage = RAISING
        self._stage_points = len(self.points)
        self.update()
        return True

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress, or the side that is pulled; False if there is none."""
        pulled = self.edges.drop()
        self.stage, self._base = "", None
        self.update()
        return super().drop_stroke() or pulled

    def picked_cell(self, point: QPointF) -> tuple[int, ...] | None:
        """The cell whose contents are meant by pointing there."""
        hit = self.hit_at(point)
        return None if hit is None else hit.before if self._thing_before(hit) else hit.cell

    def entries_under(self, point: QPointF) -> list[Pick]:
        return self._entries(point, hidden=True)

    def _meets_thing(self, point: QPointF) -> bool:
        """Whether a thing can be picked there."""
        layers = self.session.room.layers
        return any(pick.number in layers[pick.layer].things for pick in self.entries_seen(point))

    def entries_seen(self, point: QPointF) -> list[Pick]:
        return self._entries(point, hidden=False)

    def _entries(self, point: QPointF, *, hidden: bool) -> list[Pick]:
        """Along the ray, the nearest first; as far as the first block, unless also what is hidden
        is meant."""
        full, found = self.full_cells(), dict[Pick, None]()
        seen = self.hit_at(point)
        for cell, _, distance in cells_along(full.shape, self.ray_at(point)):
            if not hidden and seen is not None and distance > seen.distance:
                break
            found.update(dict.fromkeys(self.session.picking.here(cell)))
        return self.curve_marks.among(point, list(found))

    def cells_under(self, point: QPointF) -> list[tuple[int, ...]]:
        """Open cells before the first block, the last of them first: what stands on that block is
        meant before what the ray only passes."""
        seen, found = self.hit_at(point), list[tuple[int, ...]]()
        for cell, _, distance in cells_along(self.full_cells().shape, self.ray_at(point)):
            if seen is not None and distance >= seen.distance:
                break
            found.append(tuple(cell))
        return found[::-1][:_MOST_SOWN_CELLS]

    def seen_at(self, at: np.ndarray) -> list[QPointF]:
        """Where (n, 3) places are seen, heights being those of seats."""
        lifted = np.asarray(at, np.float64) + np.array([0.06, 0.5, 0.5])
        return [QPointF(x, y) for y, x, _ in self.eye.near(lifted).tolist()]

    def lasso_position(self, point: QPointF) -> Position | None:
        """In the level of the first cell; of its other corner, first there, then above it."""
        if not self.lasso:
            hit = self.hit_at(point)
            self._drawn_over_blocks = hit is not None
            if hit is None:
                return self._on_plane(point, 0, 0)
            return tuple(float(v) for v in hit.cell)
        if not self.lasso.raising:
            return self._in_level(point, round(self.lasso.way[0][0]))
        _, y, x = self.lasso.way[-1]
        through = (self.lasso.way[0][0] + 0.5, y + 0.5, x + 0.5)
        height = nearest_on_line(self.ray_at(point), through, 0)
        levels = self.session.room.info.size[0]
        return float(min(max(int(np.floor(height)), 0), levels - 1)), y, x

    def _in_level(self, point: QPointF, level: int) -> Position | None:
        """Where the lasso is drawn in a level: over the sides of its blocks that face the eye, or
        where there were none, over the ground."""
        over = 0
        if self._drawn_over_blocks:
            over = -1 if self.ray_at(point).direction[0] > 0 else 1
        met = self._on_plane(point, 0, level + over)
        return None if met is None else (float(level), *met[1:])

    def lasso_goes_on(self) -> bool:
        """A box gets its height by a second move."""
        self.lasso.raising = self.lasso.moved
        return self.lasso.raising

    def anchor_position(self, point: QPointF, start: Position) -> Position | None:
        """On the level on which the ghost stays."""
        return self._on_plane(point, 0, round(start[0]))

    def pull_position(self, point: QPointF, handle: Handle | None = None) -> Position | None:
        """On the level of the handle, or upright above it; without one on the level pressed."""
        if handle is not None and handle.sides and handle.sides[0] and not any(handle.sides[1:]):
            through = tuple(v + 0.5 for v in handle.at)
            height = nearest_on_line(self.ray_at(point), (through[0], through[1], through[2]), 0)
            return height - 0.5, handle.at[1], handle.at[2]
        if handle is not None:
            level = handle.at[0]
        elif self.pulls.now is not None:
            level = self.pulls.now.start[0]
        else:
            cell = self.picked_cell(point)
            level = float(cell[0]) if cell is not None else 0.0
        met = crossing(self.ray_at(point), 0, level + 0.5)
        return None if met is None else (level, met[1] - 0.5, met[2] - 0.5)

    def handle_at(self, point: QPointF) -> tuple[Pick, Handle] | None:
        return self.curve_marks.handle_at(point) or self.piece_marks.handle_at(point)

    def _thing_before(self, hit: Hit) -> bool:
        """Whether a thing stands on the face the pointer meets."""
        for _, layer in self.session.room.bottom_up("things"):
            if any(standing_cell(t, 3) == hit.before for t in layer.things.values()):
                return True
        return False

    def set_plane_here(self) -> None:
        """Lay the work plane where the pointer is: across the face it meets, before it."""
        hit = self.hit_at(self.hover) if self.hover is not None and self.ready else None
        if hit is None:
            self.session.said.emit("Nothing under the pointer to lay the plane on")
            return
        axis = int(np.flatnonzero(np.array(hit.before) - np.array(hit.cell))[0])
        self.session.planes.set(axis=axis, level=hit.before[axis])
