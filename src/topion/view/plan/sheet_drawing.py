"""Draws the sheet: rooms to scale, their edges that meet, threads, doors, start and goals."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from topion.grid.told import cell_told
from topion.plan.sheet import Joint, Spot, rects_of
from topion.plan.threads import PORT, Port, Thread
from topion.view import style
from topion.view.plan.camera import SheetCamera
from topion.view.plan.chips import chip, draw_words, width_of
from topion.view.plan.curves import Drawn, arrow_of
from topion.view.plan.room_pictures import SIZES, Wanted
from topion.view.plan.sheet_looks import Looks
from topion.view.plan.sheet_marks import draw_marks, draw_missed, draw_scale
from topion.view.plan.work import PlanWork

PORT_PX = 10.0
_TITLED_PX, _PORTED_PX = 46.0, 30.0  # of a room, at least
_MOST_CALLOUTS = 4
_BAND = ((4.0, -20.0), (90.0, -4.0))  # px from a corner of a room, where its title is
_ARROWED_PX = 24.0  # of a thread
_GRID_PX = 18.0  # between two lines of the sheet, at least
_FINE = 250  # threads that are drawn with light edges
_LABELLED_PX = 70.0  # of a thread


Placed = tuple[Spot, QRectF]  # a room, and where it is seen in the view


def draw_sheet(painter: QPainter, work: PlanWork, looks: Looks) -> None:
    """All of it but what follows the pointer, back to front."""
    _prepare(painter)
    _draw_ground(painter, looks)
    rects = rects_of(work.spots.values())
    seen = _seen(work, looks, rects)
    for spot, rect in seen:
        _draw_picture(painter, work, spot, rect)
    _draw_frames(painter, work, seen)
    for joint in work.joints:
        if joint.one not in looks.shift and joint.other not in looks.shift:
            _draw_joint(painter, looks, joint)
    drawn = _draw_threads(painter, work, looks)
    for spot, rect in seen:
        if rect.width() >= _TITLED_PX:
            _draw_title(painter, looks, spot, rect, rects)
    large = [spot for spot, rect in seen if max(rect.width(), rect.height()) >= _PORTED_PX]
    if large:
        _draw_ports(painter, work, looks, {spot.name for spot in large})
        draw_marks(painter, work, looks, large)
    for thread in drawn:
        if thread.thread.words and thread.long * looks.camera.px >= _LABELLED_PX:
            edge = "buoy" if _is_lit(work, thread.thread) else "line"
            chip(painter, looks.camera.to_px(thread.middle), _split(thread.thread.words), edge)
    missed = [spot for spot, _ in seen if spot.room in work.missed]
    for spot in missed:
        if len(missed) <= _MOST_CALLOUTS or spot.name in work.places:
            draw_missed(painter, work, looks, spot)
    draw_scale(painter, looks)


def _seen(work: PlanWork, looks: Looks, rects: NDArray[np.float64]) -> list[Placed]:
    """The rooms that the view shows.  rects : of all of them, where nothing is dragged."""
    spots, camera = list(work.spots.values()), looks.camera
    shown = camera.shown(looks.width, looks.height)
    inside = ((rects[:, 0] < shown.bottom) & (rects[:, 2] > shown.top)
              & (rects[:, 1] < shown.right) & (rects[:, 3] > shown.left))  # fmt: skip
    found = []
    for number, spot in enumerate(spots):
        if spot.name in looks.shift or inside[number]:
            found.append((spot, camera.rect_of(looks.rect(spot))))
    return found


def draw_hot(painter: QPainter, work: PlanWork, looks: Looks) -> None:
    """What is under the pointer, over the sheet."""
    _prepare(painter)
    spot, port = work.spots.get(looks.hot_spot), work.ports.get(looks.hot_port or ("", "", 0))
    if spot is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(style.ink("buoy" if spot.name in work.places else "ink"), 2.2))
        painter.drawRect(looks.camera.rect_of(looks.rect(spot)).adjusted(-0.5, -0.5, 0.5, 0.5))
        if spot.room in work.missed and spot.name not in looks.shift:
            draw_missed(painter, work, looks, spot)
    if port is not None:
        ink = "buoy" if port.key == work.port else "ink"
        draw_port(painter, looks.camera.to_px(looks.point(port)), PORT_PX + 3, ink, faint=False)
        _name_port(painter, looks, port)


def _prepare(painter: QPainter) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)


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


def _draw_picture(painter: QPainter, work: PlanWork, spot: Spot, rect: QRectF) -> None:
    image = work.pictures.image(picture_of(spot, max(rect.width(), rect.height())))
    if image is None:
        painter.fillRect(rect, style.ink("rail"))
    else:
        painter.drawImage(rect, image)
    if spot.room in work.missed:
        painter.fillRect(rect, QColor(207, 74, 37, 60))
        painter.fillRect(rect, QBrush(style.ink("buoy", 170), Qt.BrushStyle.BDiagPattern))


def _draw_frames(painter: QPainter, work: PlanWork, seen: Iterable[Placed]) -> None:
    frames: dict[str, list[QRectF]] = {"plain": [], "missed": [], "picked": []}
    for spot, rect in seen:
        kind = ("picked" if spot.name in work.places
                else "missed" if spot.room in work.missed else "plain")  # fmt: skip
        frames[kind].append(rect.adjusted(-0.5, -0.5, 0.5, 0.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for kind, ink, alpha, wide in (("plain", "ink", 255, 1.2), ("missed", "buoy", 255, 1.2),
                                   ("picked", "card", 220, 5.0),
                                   ("picked", "buoy", 255, 2.4)):  # fmt: skip
        if frames[kind]:
            painter.setPen(QPen(style.ink(ink, alpha), wide))
            painter.drawRects(*frames[kind])


def facts_of(spot: Spot) -> str:
    """Its size and kind, as it is read below a title."""
    if spot.info is None:
        return "reading…"
    size = " × ".join(str(n) for n in (spot.info.size[-1], spot.info.size[-2],
                                       *spot.info.size[:-2]))  # fmt: skip
    return f"{size} · voxel" if spot.info.axes == 3 else size


def _draw_title(
    painter: QPainter, looks: Looks, spot: Spot, rect: QRectF, rects: NDArray[np.float64]
) -> None:  # fmt: skip
    """Above its room, or below where another one lies there.  rects : of all rooms."""
    tint = f"tint “{spot.place.tint}”" if spot.place.tint else facts_of(spot)
    theme = f" · {spot.place.theme}" if spot.place.theme else ""
    words = [(spot.title, True), (f" {tint}{theme}", False)]
    middle = rect.top() - 13
    (top, left), (bottom, right) = (
        looks.camera.to_cells(QPointF(rect.left() + x, rect.top() + y)) for x, y in _BAND
    )
    above = (rects[:, 0] < bottom) & (rects[:, 2] > top) & (rects[:, 1] < right)
    if (above & (rects[:, 3] > left)).any():
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


def _draw_joint(painter: QPainter, looks: Looks, joint: Joint) -> None:
    camera = looks.camera
    start, end = camera.to_px(joint.start), camera.to_px(joint.end)
    painter.setPen(QPen(style.ink("card"), 5.0))
    painter.drawLine(start, end)
    painter.setPen(QPen(style.ink("tidal"), 2.4))
    painter.drawLine(start, end)
    painter.setPen(QPen(style.ink("card"), 1.0))
    painter.setBrush(style.ink("tidal"))
    long = abs(end.x() - start.x()) + abs(end.y() - start.y())
    for at in (start, end) if long >= _TITLED_PX else ():
        painter.drawPolygon(QPolygonF([at + QPointF(*d) for d in ((0, -5), (5, 0), (0, 5),
                                                                  (-5, 0))]))  # fmt: skip


# --- threads and doors ----------------------------------------------------------------------


def _is_lit(work: PlanWork, thread: Thread) -> bool:
    return work.port is not None and work.port in (
        thread.here.key, thread.there.key if thread.there else None)  # fmt: skip


def _draw_threads(painter: QPainter, work: PlanWork, looks: Looks) -> list[Drawn]:
    """Those that are seen, which are returned; the picked one above the others."""
    shown = looks.camera.shown(looks.width, looks.height)
    view = QRectF(QPointF(shown.left, shown.top), QPointF(shown.right, shown.bottom))
    seen = [
        drawn for drawn in looks.paths.of(work.threads)
        if drawn.box.intersects(view)
        and drawn.thread.here.spot.name not in looks.shift
        and drawn.thread.end.name not in looks.shift  # drawn anew once they lie
    ]  # fmt: skip
    for both, ink in ((True, "ink"), (False, "ochre")):
        own = [d for d in seen if d.thread.both == both and not _is_lit(work, d.thread)]
        draw_paths(painter, looks.camera, [d.path for d in own], ink, both=both,
                   fine=len(seen) <= _FINE)  # fmt: skip
    for drawn in seen:
        if _is_lit(work, drawn.thread):
            draw_paths(painter, looks.camera, [drawn.path], "buoy", both=drawn.thread.both)
    return seen


def draw_paths(
    painter: QPainter, camera: SheetCamera, paths: Iterable[QPainterPath], ink: str, *,
    both: bool, fine: bool = True,
) -> None:  # fmt: skip
    """Threads, given in cells of the sheet; those that lead one way only are dashed, with an arrow.
    fine : with light edges and arrows; else they are too many for that."""
    painter.save()
    painter.translate(camera.left, camera.top)
    painter.scale(camera.px, camera.px)
    paths = list(paths)
    whole = QPainterPath()
    for path in paths:
        whole.addPath(path)
    stroke(painter, whole, ink, both=both, fine=fine)
    if fine and not both:
        painter.setPen(_pen("card", 1.2))
        painter.setBrush(style.ink(ink))
        for path in paths:
            if path.length() * camera.px >= _ARROWED_PX:
                painter.drawPolygon(arrow_of(path, camera.px))
    painter.restore()


def stroke(
    painter: QPainter, path: QPainterPath, ink: str, *, both: bool, fine: bool = True
) -> None:  # fmt: skip
    """A path with a light edge, dashed unless it leads both ways."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if fine:
        painter.setPen(_pen("card", 5.0))
        painter.drawPath(path)
    pen = _pen(ink, 2.0 if fine else 1.3)
    if fine and not both:
        pen.setDashPattern([4.0, 2.6])
    painter.setPen(pen)
    painter.drawPath(path)


def _pen(ink: str, wide: float) -> QPen:
    """As wide at any zoom."""
    pen = QPen(style.ink(ink), wide)
    pen.setCosmetic(True)
    return pen


def _split(words: str) -> list[tuple[str, bool]]:
    """What is waited for in bold."""
    for joint in (" when ", " with "):
        if joint in words:
            effect, what = words.split(joint, 1)
            return [(effect + joint, False), (what, True)]
    return [(words, False)]


def _draw_ports(painter: QPainter, work: PlanWork, looks: Looks, large: set[str]) -> None:
    """Of the rooms that are drawn large enough."""
    one_way = {thread.here.key for thread in work.threads if not thread.both}
    idle = set(work.ports) - _joined(work)
    for key, port in work.ports.items():
        if key[0] in large:
            picked = key == work.port
            ink = "buoy" if picked else "ochre" if key in one_way else "ink"
            side = PORT_PX + (4 if picked else 2 if looks.linking else 0)
            at = looks.camera.to_px(looks.point(port))
            draw_port(painter, at, side, ink, faint=key in idle and not picked)


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
    cell = cell_told(port.door.cell)
    words = [(port.door.prefab, True), (f"  {cell}", False)]
    wide = width_of(words) + 16
    left = min(at.x() + 14, looks.width - wide - 6)
    chip(painter, QPointF(left + wide / 2, at.y() + 24), words)
