"""Marks on the sheet: where the world starts and ends, what is not reached, and the scale."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from topion.plan.sheet import Spot
from topion.view import style
from topion.view.plan.chips import callout, chip, draw_words, width_of
from topion.view.plan.sheet_looks import Looks
from topion.view.plan.work import PlanWork
from topion.walk.links import Doors

_CALLED_PX = 34.0  # of a room that is not reached, at least


def draw_marks(painter: QPainter, work: PlanWork, looks: Looks, seen: Iterable[Spot]) -> None:
    """Where the world starts, and what ends it, once for each room that is placed more often."""
    first: dict[str, str] = {}
    for spot in work.spots.values():
        first.setdefault(spot.room, spot.name)
    begin = next((s.name for s in work.spots.values() if s.room == work.begins and s.place.begins),
                 first.get(work.begins, ""))  # fmt: skip
    for spot in seen:
        known = work.outlines.known.get(spot.room, Doors())
        by = looks.shift.get(spot.name, (0.0, 0.0))
        if spot.name == begin and known.starts:
            at = spot.point_of(known.starts[0])
            _draw_flag(painter, looks.camera.to_px((at[0] + by[0], at[1] + by[1])))
        for goal in known.goals:
            if goal.world and spot.name == first[spot.room]:
                at = spot.point_of(goal.cell)
                place = looks.camera.to_px((at[0] + by[0], at[1] + by[1]))
                _draw_goal(painter, place, goal.prefab)


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


def draw_missed(painter: QPainter, work: PlanWork, looks: Looks, spot: Spot) -> None:
    rect = looks.camera.rect_of(looks.rect(spot))
    if max(rect.width(), rect.height()) < _CALLED_PX and spot.name != looks.hot_spot:
        return
    text = work.missed[spot.room]
    wide = width_of([(text, False)]) + 60
    right = rect.left() < wide
    at = QPointF(rect.right() if right else rect.left(), rect.center().y())
    callout(painter, at, [(spot.title, True), (" · nobody can get in", False)], text, right)


def draw_scale(painter: QPainter, looks: Looks) -> None:
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
