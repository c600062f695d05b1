"""How live things and the figure look at a moment of a walk."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap, QTransform

from topion.model.figure import Figure
from topion.model.frames import FrameSet
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing
from topion.model.solid import VoxelModel
from topion.roles import Door, Switch, Walker
from topion.view import style
from topion.view.table.camera import Camera
from topion.view.table.compose import pixmap_of
from topion.walk.stage import Actor
from topion.walk.state import Now

_COAT, _HAT, _BOOT, _SKIN = "#f3efe2", "#4a5660", "#22303a", "#d9a877"


def set_name(actor: Actor, now: Now) -> str:
    """Which set of its frames is shown."""
    match actor.role:
        case Door():
            return "open" if now.on else "shut"
        case Walker():
            return "walking"
        case Switch():
            return "acting" if now.on else "still"
    return "still"


def picture_of_thing(prefab: Prefab, actor: Actor, now: Now, tick: int) -> Picture:
    """The picture of a thing as it is now."""
    found: FrameSet | None = prefab.frame_set(set_name(actor, now)) or prefab.frame_set("still")
    if found is None:
        return prefab.picture
    return found.pictures[found.frame_at((tick - now.since) * 1000 / 60)]


def draw_thing(
    painter: QPainter, camera: Camera, prefab: Prefab, thing: Thing, picture: Picture,
    by: tuple[float, float], flipped: bool,
) -> QRectF:  # fmt: skip
    """Draw a thing so many cells (y, x) from where it was placed; where it is seen."""
    zoom = camera.zoom * thing.scale
    high, wide = picture.size_px
    foot_y, foot_x = prefab.foot_px
    seat = camera.rect_of(thing.y + by[0], thing.x + by[1], thing.y + by[0] + 1,
                          thing.x + by[1] + 1)  # fmt: skip
    mirrored = thing.mirrored != flipped
    if mirrored:
        foot_x = wide - foot_x
    target = QRectF(-foot_x * zoom, -foot_y * zoom, wide * zoom, high * zoom)
    pixmap = _flipped(pixmap_of(picture.rgba)) if mirrored else pixmap_of(picture.rgba)
    painter.save()
    painter.translate(seat.center().x(), seat.center().y())
    painter.rotate(thing.turn)
    painter.translate(0, seat.height() / 2)
    painter.drawPixmap(target, pixmap, QRectF(pixmap.rect()))
    painter.restore()
    return target.translated(seat.center().x(), seat.bottom())


def _flipped(pixmap: QPixmap) -> QPixmap:
    return pixmap.transformed(QTransform.fromScale(-1, 1))


def draw_figure(
    painter: QPainter, box: QRectF, looks: int, tick: int, *, over: bool = False,
    walks: bool = False, air: bool = False, alpha: float = 1.0,
) -> None:  # fmt: skip
    """A salt raker in a box: a coat, a hat, boots that step, an arm with a rake."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setOpacity(alpha)
    painter.translate(box.center().x(), box.top() if over else box.bottom())
    high = box.height()
    unit = high / 18
    painter.scale(looks * unit, (-1 if over else 1) * unit)
    stride = 1.6 * (1 if (tick // 6) % 2 else -1) if walks and not air else 0.0
    lift = 1.4 if air else 0.0
    painter.setPen(QPen(QColor(style.name("ink")), 0.7))
    for side, step in ((-1.9, stride), (1.9, -stride)):
        painter.setBrush(QColor(_BOOT))
        up = lift if side > 0 else 0.0
        painter.drawRoundedRect(QRectF(side - 1.5 + step, -3.4 - up, 3.2, 3.4), 0.8, 0.8)
    painter.setBrush(QColor(_COAT))
    painter.drawRoundedRect(QRectF(-3.7, -12.2, 7.4, 9.8), 2.4, 2.4)
    painter.setBrush(QColor(_SKIN))
    painter.drawEllipse(QPointF(0.5, -14.0), 2.7, 2.7)
    painter.setBrush(QColor(_HAT))
    painter.drawRoundedRect(QRectF(-3.6, -17.2, 7.6, 2.2), 0.8, 0.8)
    painter.drawRoundedRect(QRectF(-2.2, -18.0, 4.6, 1.8), 0.8, 0.8)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(_BOOT))
    painter.drawEllipse(QPointF(1.7, -14.0), 0.55, 0.7)
    painter.setPen(QPen(QColor("#8a6234"), 0.9))
    painter.drawLine(QPointF(3.4, -10.0), QPointF(5.2, -4.2 - stride / 2))
    painter.restore()


def draw_figure_as(
    painter: QPainter, box: QRectF, prefab: Prefab, zoom: float, looks: int, tick: int, *,
    over: bool = False, walks: bool = False,
) -> None:  # fmt: skip
    """The figure as a prefab is drawn, its foot on the foot of a box.  zoom : px of the screen for
    one of its picture.  Frames called walking are shown while it walks."""
    found = (prefab.frame_set("walking") if walks else None) or prefab.frame_set("still")
    picture = prefab.picture
    if found is not None:
        picture = found.pictures[found.frame_at(tick * 1000 / 60)]
    high, wide = picture.size_px
    foot_y, foot_x = prefab.foot_px
    painter.save()
    painter.translate(box.center().x(), box.top() if over else box.bottom())
    painter.scale(float(looks), -1.0 if over else 1.0)
    target = QRectF(-foot_x * zoom, -foot_y * zoom, wide * zoom, high * zoom)
    pixmap = pixmap_of(picture.rgba)
    painter.drawPixmap(target, pixmap, QRectF(pixmap.rect()))
    painter.restore()


@lru_cache(maxsize=8)
def figure_model(figure: Figure) -> VoxelModel:
    """The figure as voxels, 16 a cell."""
    wide, high = max(3, round(figure.wide * 16)), max(5, round(figure.high * 16))
    cells = np.zeros((high, wide, wide), np.uint8)
    edge = max(1, wide // 6)
    boots, belt, neck, brim = (round(high * share) for share in (0.16, 0.66, 0.7, 0.9))
    core = slice(edge, wide - edge)
    cells[:boots, core, core] = 3
    cells[boots:belt, core, core] = 1
    cells[boots : boots + 2, edge - 1 : wide - edge + 1, edge - 1 : wide - edge + 1] = 1
    inner = slice(edge + 1, max(edge + 2, wide - edge - 1))
    cells[belt:neck, inner, inner] = 4
    cells[neck:brim, inner, inner] = 4
    cells[brim:, core, core] = 2
    cells[brim : brim + 1] = 2
    return VoxelModel(cells, (_COAT, _HAT, _BOOT, _SKIN))


def sent_mark(painter: QPainter, at: QPointF, px: float) -> None:
    """Something that an emitter sent out and that has no picture."""
    painter.setPen(QPen(style.ink("card"), 1.5))
    painter.setBrush(style.ink("buoy"))
    painter.drawEllipse(at, px * 0.18, px * 0.18)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def thing_moved(thing: Thing, by: tuple[float, float, float]) -> Thing:
    """A thing so many cells (z, y, x) on."""
    changed: Any = {"z": thing.z + by[0], "y": thing.y + by[1], "x": thing.x + by[2]}
    return Thing(thing.prefab, changed["y"], changed["x"], thing.turn, thing.mirrored, thing.scale,
                 z=changed["z"], tip=thing.tip, lean=thing.lean, roll=thing.roll)  # fmt: skip
