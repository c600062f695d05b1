"""What is drawn of picking over a flat room: the lasso, the area, things and their like."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from topion.edit.picked import entry_of
from topion.grid.areas import Area
from topion.model.prefab import Prefab, Thing
from topion.render.sprites import things_in
from topion.view import style
from topion.view.lasso import Lasso
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.overlay import label

_MOST_LIT = 2_000
_LIT_PX = 5.0  # cells smaller than that show no lights


class PickedMarks:
    """Draws with the camera of the table."""

    def __init__(self, session: Session, camera: Camera, lasso: Lasso, pulls: Pulls) -> None:
        self.session, self.camera, self.lasso, self.pulls = session, camera, lasso, pulls
        self._edges: tuple[Area, list[QLineF]] | None = None

    def draw_lights(self, painter: QPainter) -> None:
        """A soft light under all instances of what is picked, placed or sown."""
        lit, room = self.session.picking.lit_prefabs(), self.session.room
        if not lit or self.camera.px < _LIT_PX:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        has = self.session.ahead.has
        left = _MOST_LIT
        for layer_id, layer in room.drawn():
            if layer.info.kind not in ("things", "field") or not layer.info.shown:
                continue
            if layer.info.kind == "field" and not has(self.session.project, layer):
                continue
            for thing in things_in(self.session.project, room, layer_id, None):
                if thing.prefab in lit and left:
                    left -= 1
                    self._light(painter, thing)

    def _light(self, painter: QPainter, thing: Thing) -> None:
        prefab = self.session.project.prefabs.get(thing.prefab)
        if prefab is None:
            return
        rect = self.rect_of(thing, prefab)
        middle, reach = rect.center(), max(rect.width(), rect.height()) * 0.62
        for share, alpha in ((1.0, 46), (0.8, 52), (0.6, 60)):
            painter.setBrush(QColor(255, 232, 150, alpha))
            painter.drawEllipse(middle, reach * share, reach * share)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def rect_of(self, thing: Thing, prefab: Prefab) -> QRectF:
        """Where its picture is seen, unturned."""
        zoom = self.camera.zoom * thing.scale
        height, width = (side * zoom for side in prefab.picture.size_px)
        seat = self.camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1)
        left = seat.center().x() - prefab.foot_px[1] * zoom
        return QRectF(left, seat.bottom() - prefab.foot_px[0] * zoom, width, height)

    def bounds(self) -> QRectF:
        """Round the things and the area that are picked, as they are seen."""
        whole = QRectF()
        for _, thing in self.session.picking.things():
            whole = whole.united(self.camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1))
        area = self.session.picking.area
        if area is not None and self.session.has_room:
            (y0, x0), (y1, x1) = area.box.lo, area.box.hi
            whole = whole.united(self.camera.rect_of(y0, x0, y1, x1))
        return whole

    def frame(self) -> QRectF:
        """Round the pictures of the things that are picked, where they would come to stand."""
        whole = QRectF()
        for _, thing in self.session.picking.things():
            thing = self._as_dragged(thing)
            whole = whole.united(self.camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1))
            prefab = self.session.project.prefabs.get(thing.prefab)
            if prefab is not None:
                whole = whole.united(self.rect_of(thing, prefab))
        return whole

    def draw(self, painter: QPainter) -> None:
        """The area, what is picked, and the lasso that is drawn."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        area = self.session.picking.area
        if area is not None:
            self._draw_area(painter, area, self.session.picking.keeps_inside)
        self._draw_things(painter)
        if self.lasso:
            self._draw_lasso(painter)

    def _draw_area(self, painter: QPainter, area: Area, strong: bool) -> None:
        if self._edges is None or self._edges[0] is not area:
            self._edges = (area, [QLineF(x0, y0, x1, y1) for y0, x0, y1, x1 in area.edges()])
        painter.save()
        painter.translate(self.camera.left, self.camera.top)
        painter.scale(self.camera.px, self.camera.px)
        pull = self.pulls.now
        if pull is not None and pull.handle is None and pull.by and self.pulls.edit:
            painter.translate(pull.by[-1], pull.by[-2])
        dark = QPen(QColor(20, 24, 28, 190), 3.4 if strong else 2.6)
        light = QPen(QColor(255, 255, 255, 245), 1.6, Qt.PenStyle.CustomDashLine)
        light.setDashPattern([4, 3])
        for pen in (dark, light):
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawLines(*self._edges[1])
        painter.restore()

    def _draw_things(self, painter: QPainter) -> None:
        for pick, thing in self.session.picking.things():
            prefab = self.session.project.prefabs.get(thing.prefab)
            if prefab is None or entry_of(self.session.room, pick) is None:
                continue
            thing = self._as_dragged(thing)
            seat = self.camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1)
            rect = self.rect_of(thing, prefab).united(seat).adjusted(-3, -3, 3, 3)
            for pen in (QPen(QColor(255, 255, 255, 235), 4.2), QPen(style.ink("buoy"), 2.0)):
                painter.setPen(pen)
                painter.drawRoundedRect(rect, 5, 5)

    def _as_dragged(self, thing: Thing) -> Thing:
        """Where a picked thing would come to stand."""
        pull, edit = self.pulls.now, self.pulls.edit
        if pull is None or not edit or pull.copies:
            return thing
        changes = (c for record in edit.records for c in record.entries())
        return next((c.after for c in changes if c.before == thing and c.after), thing)

    def _draw_lasso(self, painter: QPainter) -> None:
        camera, way = self.camera, self.lasso.way
        less = self.lasso.how == "less"
        colour = style.ink("tidal" if less else "buoy")
        painter.setPen(QPen(colour, 1.8, Qt.PenStyle.DashLine))
        painter.setBrush(style.ink("tidal" if less else "buoy", 26))
        if not self.lasso.is_box:
            corner = QPointF(camera.left, camera.top)
            points = [QPointF(x + 0.5, y + 0.5) * camera.px + corner for y, x in way]
            painter.drawPolygon(QPolygonF(points))
        else:
            area = self.lasso.area()
            if area is not None:
                (y0, x0), (y1, x1) = area.box.lo, area.box.hi
                rect = camera.rect_of(y0, x0, y1, x1)
                painter.drawRect(rect)
                label(painter, rect.topLeft() - QPointF(0, 20), f"{x1 - x0} × {y1 - y0}")
        painter.setBrush(Qt.BrushStyle.NoBrush)


def size_words(area: Area) -> str:
    """How large an area is: `9 × 5 cells`, or how many of them."""
    shape = " × ".join(map(str, (area.box.shape[-1], area.box.shape[-2], *area.box.shape[:-2])))
    return f"{shape} cells" if bool(np.all(area.mask)) else f"{area.size} cells in {shape}"
