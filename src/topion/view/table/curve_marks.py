"""Curves over the table: their lines, and the points and handles of those that are picked."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from topion.brushes.shape import Handle
from topion.edit.pieces import Pick
from topion.grid.arrays import Positions
from topion.model.curve import SIDES, Curve
from topion.model.edit import Edit
from topion.things.along import grounded
from topion.view import style
from topion.view.pulls import Pulls
from topion.view.session import Session

Seen = Callable[[Positions], list[QPointF]]
_GRIP_PX, _LINE_PX = 9.0, 6.0  # how near a press must be to a point, and to a line
_MOST_POINTS = 160  # of a curve whose points are drawn all the same
_APART = 0.3  # cells between the ends of the short lines that it is drawn by
_ROOMY_PX = 36.0  # between two points that have a place to add another between


class CurveMarks:
    """seen : where (n, axes) places in cells are on the screen; whole numbers are the middles of
    cells, and in voxel rooms the heights of seats."""

    def __init__(self, session: Session, pulls: Pulls, seen: Seen) -> None:
        self.session, self.pulls, self._seen = session, pulls, seen

    # --- where ----------------------------------------------------------------------------

    def _shown(self) -> Iterator[tuple[Pick, Curve]]:
        for layer_id, layer in self.session.room.bottom_up("things"):
            if layer.info.shown:
                for number, curve in layer.curves.items():
                    yield Pick(layer_id, number), curve

    def line(self, curve: Curve) -> list[QPointF]:
        """Its way on the screen."""
        apart = max(_APART, curve.length / 4000)
        return self._seen(self._lifted(curve, curve.line.samples(apart)))

    def _lifted(self, curve: Curve, at: Positions) -> Positions:
        if curve.on_ground and curve.axes == 3:
            return grounded(self.session.project, self.session.room, at)
        return at

    def _places(self, curve: Curve) -> Positions:
        return self._lifted(curve, curve.places)

    def at(self, point: QPointF) -> list[Pick]:
        """The curves whose line passes there, the nearest first."""
        if not self.session.has_room or not (self.shows or self.session.gestures.picking):
            return []
        found = []
        for pick, curve in self._shown():
            away = _from_line(self.line(curve), point)
            if away <= _LINE_PX:
                found.append((away, pick))
        return [pick for _, pick in sorted(found)]

    def among(self, point: QPointF, here: list[Pick]) -> list[Pick]:
        """What lies under a point with the curves there: behind things but for those that fill a
        curve, before pieces."""
        curves = self.at(point)
        if not curves:
            return here
        room = self.session.room
        front = []
        for pick in here:
            thing = room.layers[pick.layer].things.get(pick.number)
            if thing is None or (thing.along is not None and thing.along.filled):
                break
            front.append(pick)
        return [*front, *curves, *here[len(front) :]]

    @property
    def shows(self) -> bool:
        """Whether curves are drawn now."""
        session = self.session
        return session.has_room and (session.gestures.picking or session.curves.are_shown())

    def handle_at(self, point: QPointF) -> tuple[Pick, Handle] | None:
        """The nearest point or handle of a picked curve within reach."""
        found: list[tuple[float, Pick, Handle]] = []
        for pick, curve in self.session.curves.there():
            handles = self.handles(pick, curve)
            places = self._seen(np.array([handle.at for handle in handles])) if handles else []
            for handle, place in zip(handles, places, strict=True):
                away = float(np.hypot(place.x() - point.x(), place.y() - point.y()))
                away += 3.0 if handle.inserts else 1.5 if handle.pulls else 0.0
                if away <= _GRIP_PX:
                    found.append((away, pick, handle))
        return min(found, key=lambda one: one[0])[1:] if found else None

    def place_on(self, point: QPointF) -> tuple[Pick, float] | None:
        """The picked curve that passes there, and at which of its length."""
        there = dict(self.session.curves.there())
        for pick in self.at(point):
            curve = there.get(pick)
            if curve is not None:
                many = max(2, int(curve.length * 8))
                far = np.linspace(0.0, curve.length, min(many, 4000))
                seen = self._seen(self._lifted(curve, curve.line.places(far)[0]))
                away = [np.hypot(p.x() - point.x(), p.y() - point.y()) for p in seen]
                return pick, float(far[int(np.argmin(away))])
        return None

    def handles(self, pick: Pick, curve: Curve) -> list[Handle]:
        """All of its points, the handles of those that are picked, and places to add one."""
        if len(curve.points) > _MOST_POINTS:
            return []
        places = self._places(curve)
        found = [Handle(tuple(at), point=n) for n, at in enumerate(places.tolist())]
        first = self.session.curves.first()
        if first is None or first[0] != pick:
            return found
        for n in self.session.curves.chosen():
            for side, pull in zip(SIDES, curve.pulls, strict=True):
                if self._has(curve, n, side) and float(np.linalg.norm(pull[n])) > 1e-6:
                    found.append(Handle(tuple((places[n] + pull[n]).tolist()), point=n, pulls=side))
        return found + self._between(curve)

    def _has(self, curve: Curve, number: int, side: str) -> bool:
        """Whether a point has a handle on that side: corners have none, ends have one."""
        if curve.points[number].bend == "corner":
            return False
        end = 0 if side == "before" else len(curve.points) - 1
        return curve.closed or number != end

    def _between(self, curve: Curve) -> list[Handle]:
        """In the middle between two points that lie apart on the screen."""
        ends = curve.line.corners
        middles = (ends[:-1] + ends[1:]) / 2
        at = self._lifted(curve, curve.line.places(middles)[0])
        rings = self._seen(self._places(curve))
        found = []
        for n, place in enumerate(at.tolist()):
            one, two = rings[n], rings[(n + 1) % len(rings)]
            if np.hypot(one.x() - two.x(), one.y() - two.y()) > _ROOMY_PX:
                found.append(Handle(tuple(place), point=n, inserts=True))
        return found

    # --- drawing --------------------------------------------------------------------------

    def draw(self, painter: QPainter, planned: Edit | None) -> None:
        """All that are shown, those that are picked above, and those that would be laid."""
        if not self.session.has_room or (self.session.pieces.hidden and planned is None):
            return
        then = dict(_planned(planned, self.session.room_name))
        picked = dict(self.session.curves.there())
        if self.shows:
            for pick, curve in self._shown():
                if pick not in then and pick not in picked:
                    mine = pick.layer == self.session.layer_id
                    self._draw_line(painter, curve, style.ink("ink", 230 if mine else 130), 1.4)
        for pick, changed in then.items():
            if changed is not None and pick not in picked:
                self._draw_line(painter, changed, style.ink("tidal"), 2.0)
        for pick, known in picked.items():
            now = then.get(pick, known) if pick in then else known
            if now is not None:
                self._draw_picked(painter, pick, now)

    def _draw_line(self, painter: QPainter, curve: Curve, ink: QColor, wide: float) -> None:
        way = QPolygonF(self.line(curve))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(QColor(255, 255, 255, 150), wide + 2.2), QPen(ink, wide)):
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
            painter.setPen(pen)
            painter.drawPolyline(way)

    def _draw_picked(self, painter: QPainter, pick: Pick, curve: Curve) -> None:
        buoy = style.ink("buoy")
        self._draw_line(painter, curve, buoy, 2.2)
        self._draw_way(painter, curve, buoy)
        handles = self.handles(pick, curve)
        if not handles:
            return
        chosen = set(self.session.curves.chosen())
        seen = self._seen(np.array([handle.at for handle in handles]))
        rings = {h.point: at for h, at in zip(handles, seen, strict=True)
                 if not h.pulls and not h.inserts}  # fmt: skip
        for handle, at in zip(handles, seen, strict=True):
            if handle.pulls:
                for pen in (QPen(QColor(255, 255, 255, 190), 3.2), QPen(style.ink("ink"), 1.3)):
                    painter.setPen(pen)
                    painter.drawLine(rings[handle.point], at)
                painter.setBrush(style.ink("card"))
                painter.drawEllipse(at, 3.6, 3.6)
        for handle, at in zip(handles, seen, strict=True):
            if handle.inserts:
                painter.setPen(QPen(buoy, 1.2))
                painter.setBrush(QColor(255, 255, 255, 200))
                painter.drawEllipse(at, 2.4, 2.4)
            elif not handle.pulls:
                painter.setPen(QPen(buoy, 1.8))
                painter.setBrush(buoy if handle.point in chosen else QColor(255, 255, 255))
                _draw_point(painter, at, curve.points[handle.point].bend)

    def _draw_way(self, painter: QPainter, curve: Curve, ink: QColor) -> None:
        """An arrow head in the middle: the way it goes."""
        far = np.array([0.5, 0.5]) * curve.length + np.array([0.0, 0.35])
        one, two = self._seen(self._lifted(curve, curve.line.places(far)[0]))
        way = two - one
        size = float(np.hypot(way.x(), way.y())) or 1.0
        along = QPointF(way.x() / size, way.y() / size)
        across = QPointF(-along.y(), along.x())
        tip = one + along * 8
        painter.setPen(QPen(QColor(255, 255, 255), 1.0))
        painter.setBrush(ink)
        painter.drawPolygon(QPolygonF([tip, one - along * 4 + across * 6,
                                       one - along * 4 - across * 6]))  # fmt: skip


def _draw_point(painter: QPainter, at: QPointF, bend: str) -> None:
    """A ring where it is smooth, a square at a corner, a diamond with handles of its own."""
    x, y = at.x(), at.y()
    if bend == "smooth":
        painter.drawEllipse(at, 4.6, 4.6)
        return
    sides = ((-4, -4), (4, -4), (4, 4), (-4, 4)) if bend == "corner" else (
        (0, -5.8), (5.8, 0), (0, 5.8), (-5.8, 0))  # fmt: skip
    painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in sides]))


def _planned(edit: Edit | None, room: str) -> Iterator[tuple[Pick, Curve | None]]:
    """Curves that an Edit would lay, change or take away."""
    for record in edit.records if edit else ():
        for change in record.entries():
            if change.table == "curves" and change.room == room:
                yield Pick(change.layer, change.number), change.after


def _from_line(way: list[QPointF], point: QPointF) -> float:
    """How far, in px, a point is from a way of straight lines."""
    at = np.array([(p.x(), p.y()) for p in way])
    goal = np.array([point.x(), point.y()])
    if len(at) < 2:
        return float(np.hypot(*(at[0] - goal))) if len(at) else np.inf
    start, step = at[:-1], np.diff(at, axis=0)
    size = np.maximum((step**2).sum(axis=1), 1e-9)
    t = np.clip(((goal - start) * step).sum(axis=1) / size, 0, 1)
    return float(np.linalg.norm(start + t[:, None] * step - goal, axis=1).min())
