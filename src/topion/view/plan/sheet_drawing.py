"""Draws the sheet: rooms to scale, their edges that meet, threads, doors, start and goals."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from topion.plan.sheet import Joint, Point, Rect, Spot
from topion.plan.threads import PORT, Port, Thread
from topion.view import style
from topion.view.plan.camera import SheetCamera
from topion.view.plan.chips import callout, chip, draw_words, width_of
from topion.view.plan.curves import thread_path
from topion.view.plan.room_pictures import SIZES, Wanted
from topion.view.plan.work import PlanWork

PORT_PX = 10.0
_TITLED_PX, _PORTED_PX, _CALLED_PX = 46.0, 30.0, 34.0  # of a room, at least
_MOST_CALLOUTS = 4
_GRID_PX = 18.0  # between two lines of the sheet, at least
_LABELLED_PX = 70.0  # of a thread


@dataclass
class Looks:
    """How the sheet is looked at.

    shift : of the places that are dragged, in cells.  hot : what is under the pointer.
    linking : doors are to be joined, so they are drawn larger.
    """

    camera: SheetCamera
    width: float = 0.0
    height: float = 0.0
    shift: dict[str, Point] = field(default_factory=dict)
    hot_port: PORT | None = None
    hot_spot: str = ""
    linking: bool = False

    def rect(self, spot: Spot) -> Rect:
        """Where a placed room is drawn, in cells."""
        by = self.shift.get(spot.name)
        return spot.rect.moved(by) if by else spot.rect

    def point(self, port: Port) -> Point:
        """Where a door is drawn."""
        by = self.shift.get(port.spot.name, (0.0, 0.0))
        return port.point[0] + by[0], port.point[1] + by[1]


def draw_sheet(painter: QPainter, work: PlanWork, looks: Looks) -> None:
    """All of it, back to front."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    _draw_ground(painter, looks)
    seen = [spot for spot in work.spots.values() if _is_seen(spot, looks)]
    for spot in seen:
        _draw_room(painter, work, looks, spot)
    for joint in work.joints:
        if joint.one not in looks.shift and joint.other not in looks.shift:
            _draw_joint(painter, looks.camera, joint)
    paths = _draw_threads(painter, work, looks)
    for spot in seen:
        if looks.camera.rect_of(looks.rect(spot)).width() >= _TITLED_PX:
            _draw_title(painter, work, looks, spot)
    _draw_ports(painter, work, looks, seen)
    _draw_marks(painter, work, looks, seen)
    for thread, path in paths:
        if thread.words and path.length() >= _LABELLED_PX:
            edge = "buoy" if _is_lit(work, thread) else "line"
            chip(painter, path.pointAtPercent(0.5), _split(thread.words), edge)
    _draw_missed(painter, work, looks, seen)
    if looks.hot_port in work.ports:
        _name_port(painter, looks, work.ports[looks.hot_port])
    _draw_scale(painter, looks)


def _is_seen(spot: Spot, looks: Looks) -> bool:
    return looks.rect(spot).meets(looks.camera.shown(looks.width, looks.height))


def _draw_ground(painter: QPainter, looks: Looks) -> None:
    view, camera = QRectF(0, 0, looks.width, looks.height), looks.camera
    painter.fillRect(view, style.ink("panel2"))
    step = 8.0 * 4.0 ** max(0, math.ceil(math.log(_GRID_PX / camera.px / 8.0, 4)))
    shown = camera.shown(looks.width, looks.height)
    painter.setPen(QPen(style.ink("line", 90), 1.0))
    for n in range(math.floor(shown.left / step), math.ceil(shown.right / step) + 1):
        x = round(camera.left + n * step * camera.px) + 0.5
        painter.drawLine(QPointF(x, 0), QPointF(x, looks.height))
    for n in range(math.floor(shown.top / step), math.ceil(shown.bottom / step) + 1):
        y = round(camera.top + n * step * camera.px) + 0.5
        painter.drawLine(QPointF(0, y), QPointF(looks.width, y))


# --- rooms ----------------------------------------------------------------------------------


def picture_of(spot: Spot, px: float) -> Wanted:
    """The picture of a placed room that is drawn so many px long."""
    size = next((size for size in SIZES if size >= px * 0.8), SIZES[-1])
    return Wanted(spot.room, size, spot.place.theme, spot.place.tint)


def _draw_room(painter: QPainter, work: PlanWork, looks: Looks, spot: Spot) -> None:
    rect = looks.camera.rect_of(looks.rect(spot))
    image = work.pictures.image(picture_of(spot, max(rect.width(), rect.height())))
    if image is None:
        painter.fillRect(rect, style.ink("rail"))
    else:
        painter.drawImage(rect, image)
    if spot.room in work.missed:
        painter.fillRect(rect, QColor(207, 74, 37, 60))
        painter.fillRect(rect, QBrush(style.ink("buoy", 170), Qt.BrushStyle.BDiagPattern))
    picked, hot = spot.name in work.places, spot.name == looks.hot_spot
    ink = "buoy" if picked or spot.room in work.missed else "ink"
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if picked:
        painter.setPen(QPen(style.ink("card", 220), 5.0))
        painter.drawRect(rect.adjusted(-1, -1, 1, 1))
    painter.setPen(QPen(style.ink(ink), 2.4 if picked else 1.8 if hot else 1.2))
    painter.drawRect(rect.adjusted(-0.5, -0.5, 0.5, 0.5))


def facts_of(spot: Spot) -> str:
    """Its size and kind, as it is read below a title."""
    if spot.info is None:
        return "reading…"
    size = " × ".join(str(n) for n in (spot.info.size[-1], spot.info.size[-2],
                                       *spot.info.size[:-2]))  # fmt: skip
    return f"{size} · voxel" if spot.info.axes == 3 else size


def _draw_title(painter: QPainter, work: PlanWork, looks: Looks, spot: Spot) -> None:
    rect = looks.camera.rect_of(looks.rect(spot))
    tint = f"tint “{spot.place.tint}”" if spot.place.tint else facts_of(spot)
    theme = f" · {spot.place.theme}" if spot.place.theme else ""
    words = [(spot.title, True), (f" {tint}{theme}", False)]
    middle = rect.top() - 13
    band = Rect(*looks.camera.to_cells(QPointF(rect.left() + 4, rect.top() - 20)),
                *looks.camera.to_cells(QPointF(rect.left() + 90, rect.top() - 4)))  # fmt: skip
    if any(band.meets(other.rect) for other in work.spots.values() if other is not spot):
        middle = rect.bottom() + 12
    if width_of(words) > max(rect.width(), 150) * 1.35:
        words = words[:1]
    if width_of(words) > max(rect.width(), 90) * 1.6:
        return
    wide = width_of(words[:1], 13) + width_of(words[1:])
    left = rect.left() + 1
    if left + wide > looks.width and rect.right() <= looks.width:
        left = looks.width - wide - 4
    painter.fillRect(QRectF(left - 3, middle - 9, wide + 6, 18), style.ink("panel2", 190))
    end = draw_words(painter, left, middle, words[:1], "ink", 13)
    draw_words(painter, end, middle, words[1:], "soft", 12)


def _draw_joint(painter: QPainter, camera: SheetCamera, joint: Joint) -> None:
    start, end = camera.to_px(joint.start), camera.to_px(joint.end)
    painter.setPen(QPen(style.ink("card"), 5.0))
    painter.drawLine(start, end)
    painter.setPen(QPen(style.ink("tidal"), 2.4))
    painter.drawLine(start, end)
    painter.setPen(QPen(style.ink("card"), 1.0))
    painter.setBrush(style.ink("tidal"))
    for at in (start, end):
        painter.drawPolygon(QPolygonF([at + QPointF(*d) for d in ((0, -5), (5, 0), (0, 5),
                                                                  (-5, 0))]))  # fmt: skip


# --- threads and doors ----------------------------------------------------------------------


def _is_lit(work: PlanWork, thread: Thread) -> bool:
    return work.port is not None and work.port in (
        thread.here.key, thread.there.key if thread.there else None)  # fmt: skip


def _draw_threads(
    painter: QPainter, work: PlanWork, looks: Looks
) -> list[tuple[Thread, QPainterPath]]:  # fmt: skip
    view, drawn = QRectF(-40, -40, looks.width + 80, looks.height + 80), []
    for thread in sorted(work.threads, key=lambda t: _is_lit(work, t)):
        if thread.here.spot.name in looks.shift or thread.end.name in looks.shift:
            continue  # drawn anew once they lie
        path = thread_path(looks.camera, thread)
        if not path.boundingRect().adjusted(-2, -2, 2, 2).intersects(view):
            continue
        ink = "buoy" if _is_lit(work, thread) else "ink" if thread.both else "ochre"
        draw_thread(painter, path, ink, both=thread.both)
        drawn.append((thread, path))
    return drawn


def draw_thread(painter: QPainter, path: QPainterPath, ink: str, *, both: bool) -> None:
    """A thread with a light edge; one that leads one way only is dashed, with an arrow."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(style.ink("card"), 5.0))
    painter.drawPath(path)
    pen = QPen(style.ink(ink), 2.0)
    if not both:
        pen.setDashPattern([4.0, 2.6])
    painter.setPen(pen)
    painter.drawPath(path)
    if not both and path.length() > 24:
        _draw_arrow(painter, path, ink)


def _draw_arrow(painter: QPainter, path: QPainterPath, ink: str) -> None:
    at, turn = path.pointAtPercent(0.62), math.radians(-path.angleAtPercent(0.62))
    ahead = QPointF(math.cos(turn), math.sin(turn))
    side = QPointF(-ahead.y(), ahead.x())
    painter.setPen(QPen(style.ink("card"), 1.2))
    painter.setBrush(style.ink(ink))
    painter.drawPolygon(QPolygonF([at + ahead * 8, at - ahead * 4 + side * 5.5,
                                   at - ahead * 4 - side * 5.5]))  # fmt: skip


def _split(words: str) -> list[tuple[str, bool]]:
    """What is waited for in bold."""
    for joint in (" when ", " with "):
        if joint in words:
            effect, what = words.split(joint, 1)
            return [(effect + joint, False), (what, True)]
    return [(words, False)]


def _draw_ports(painter: QPainter, work: PlanWork, looks: Looks, seen: Iterable[Spot]) -> None:
    large = {spot.name for spot in seen if _longest(looks, spot) >= _PORTED_PX}
    one_way = {thread.here.key for thread in work.threads if not thread.both}
    idle = set(work.ports) - _joined(work)
    for key, port in work.ports.items():
        if key[0] in large:
            picked, hot = key == work.port, key == looks.hot_port
            ink = "buoy" if picked else "ochre" if key in one_way else "ink"
            side = PORT_PX + (4 if picked else 2 if hot or looks.linking else 0)
            at = looks.camera.to_px(looks.point(port))
            draw_port(painter, at, side, ink, faint=key in idle and not (picked or hot))


def _longest(looks: Looks, spot: Spot) -> float:
    rect = looks.camera.rect_of(spot.rect)
    return max(rect.width(), rect.height())


def _joined(work: PlanWork) -> set[PORT]:
    found = {thread.here.key for thread in work.threads}
    return found | {thread.there.key for thread in work.threads if thread.there is not None}


def draw_port(painter: QPainter, at: QPointF, side: float, ink: str, *, faint: bool) -> None:
    """The square of a door; faint for one that leads nowhere."""
    rect = QRectF(at.x() - side / 2, at.y() - side / 2, side, side)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(style.ink("card", 230))
    painter.drawRect(rect.adjusted(-1.6, -1.6, 1.6, 1.6))
    painter.setPen(QPen(style.ink(ink, 150 if faint else 255), 1.4 if faint else 2.0))
    painter.setBrush(style.ink("card"))
    painter.drawRect(rect)
    if not faint:
        painter.fillRect(rect.adjusted(3.6, 3.6, -3.6, -3.6), style.ink(ink))


def _name_port(painter: QPainter, looks: Looks, port: Port) -> None:
    at = looks.camera.to_px(looks.point(port))
    cell = ", ".join(str(v) for v in port.door.cell[::-1])
    words = [(port.door.prefab, True), (f"  {cell}", False)]
    wide = width_of(words) + 16
    left = min(at.x() + 14, looks.width - wide - 6)
    chip(painter, QPointF(left + wide / 2, at.y() + 24), words)


# --- start, goals, what is missed -----------------------------------------------------------


def _draw_marks(painter: QPainter, work: PlanWork, looks: Looks, seen: Iterable[Spot]) -> None:
    first = next(
        (
            spot.name
            for spot in work.spots.values()
            if spot.room == work.begins and (spot.place.begins or not _says(work))
        ),
        "",
    )
    for spot in seen:
        known = work.outlines.known.get(spot.room)
        if known is None or _longest(looks, spot) < _PORTED_PX:
            continue
        by = looks.shift.get(spot.name, (0.0, 0.0))
        if spot.name == first and known.starts:
            at = spot.point_of(known.starts[0])
            _draw_flag(painter, looks.camera.to_px((at[0] + by[0], at[1] + by[1])))
        for goal in known.goals:
            if goal.world and not spot.title.endswith("again"):
                at = spot.point_of(goal.cell)
                place = looks.camera.to_px((at[0] + by[0], at[1] + by[1]))
                _draw_goal(painter, place, goal.prefab)


def _says(work: PlanWork) -> bool:
    return any(spot.place.begins for spot in work.spots.values())


def _draw_flag(painter: QPainter, at: QPointF) -> None:
    painter.setPen(QPen(style.ink("card"), 4.0))
    painter.drawLine(at, at - QPointF(0, 21))
    painter.setPen(QPen(style.ink("ink"), 1.8))
    painter.drawLine(at, at - QPointF(0, 21))
    painter.setPen(QPen(style.ink("card"), 1.0))
    painter.setBrush(style.ink("tidal"))
    top = at - QPointF(0, 22)
    painter.drawPolygon(QPolygonF([top, top + QPointF(17, 5.5), top + QPointF(0, 11)]))
    words = [("start", False)]
    chip(painter, at + QPointF(24 + width_of(words) / 2, -10), words)


def _draw_goal(painter: QPainter, at: QPointF, prefab: str) -> None:
    for radius, ink in ((9.0, "card"), (7.5, "tidal"), (5.0, "card"), (2.6, "tidal")):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink(ink))
        painter.drawEllipse(at, radius, radius)
    chip(painter, at + QPointF(0, 24), [("goal: ", False), (prefab, True)])


def _draw_missed(painter: QPainter, work: PlanWork, looks: Looks, seen: Iterable[Spot]) -> None:
    missed = [spot for spot in seen if spot.room in work.missed]
    for spot in missed:
        asked = spot.name in work.places or spot.name == looks.hot_spot
        if spot.name in looks.shift or not (len(missed) <= _MOST_CALLOUTS or asked):
            continue
        rect = looks.camera.rect_of(looks.rect(spot))
        if max(rect.width(), rect.height()) < _CALLED_PX and not asked:
            continue
        text = work.missed[spot.room]
        wide = width_of([(text, False)]) + 60
        right = rect.left() < wide
        at = QPointF(rect.right() if right else rect.left(), rect.center().y())
        callout(painter, at, [(spot.title, True), (" · nobody can get in", False)], text, right)


def _draw_scale(painter: QPainter, looks: Looks) -> None:
    px = looks.camera.px
    cells = next((n for n in (5, 10, 20, 40, 80, 200, 400, 1000, 4000) if n * px >= 80), 10000)
    left, foot = 14.0, looks.height - 17.0
    right = left + cells * px
    painter.setPen(QPen(style.ink("ink"), 1.4))
    painter.drawLine(QPointF(left, foot), QPointF(right, foot))
    for x in (left, (left + right) / 2, right):
        painter.drawLine(QPointF(x, foot - 4), QPointF(x, foot + 4))
    said = f"{cells} cells · 1 cell = {px:.2g} px"
    draw_words(painter, right + 10, foot, [(said, False)], "soft")
