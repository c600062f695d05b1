"""The small drawings of Home: ways to begin, a sheet that becomes brushes, hints."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from topion.model.tileset import TileSet
from topion.view import style
from topion.view.home.kit_seen import KitPictures
from topion.view.table.compose import image_of

_SMOOTH = QPainter.RenderHint.SmoothPixmapTransform


def draw_beginning(painter: QPainter, rect: QRectF, which: str, kit: KitPictures | None) -> None:
    """The picture of a way to begin: empty, kit or library.  kit : None as long as it is not
    there yet."""
    painter.save()
    painter.setClipRect(rect)
    painter.setRenderHint(_SMOOTH)
    if which == "empty":
        _draw_empty(painter, rect)
    elif which == "kit":
        painter.fillRect(rect, QColor("#ded8cb"))
        if kit is not None:
            high = kit.room.height()
            source = QRectF(0, 20, high * rect.width() / rect.height(), high - 20)
            painter.drawImage(rect, kit.room, source)
    else:
        _draw_library(painter, rect, kit)
    painter.restore()


def _draw_empty(painter: QPainter, rect: QRectF) -> None:
    painter.fillRect(rect, style.ink("card"))
    painter.setPen(QPen(style.ink("line"), 1))
    step = 13.0
    for n in range(int(rect.width() / step) + 1):
        x = rect.left() + 6 + n * step
        painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
    for n in range(int(rect.height() / step) + 1):
        y = rect.top() + 6 + n * step
        painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
    painter.setPen(QPen(style.ink("buoy"), 1.6))
    middle = QPointF(rect.left() + 6 + 5 * step, rect.top() + 6 + 3 * step)
    painter.drawRect(QRectF(middle.x(), middle.y(), step, step))


def _draw_library(painter: QPainter, rect: QRectF, kit: KitPictures | None) -> None:
    painter.fillRect(rect, style.ink("panel2"))
    for number, name in enumerate(("ground 255", "plank 24", "platform 0")):
        card = QRectF(rect.left() + 8 + number * 39, rect.top() + 10 + (number % 2) * 5, 32, 58)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(card, 3, 3)
        if kit is not None:
            at = QRectF(card.left() + 4, card.top() + 4, 24, 32)
            _draw_tiles(painter, at, kit.sheet, name, 2)
        painter.fillRect(QRectF(card.left() + 5, card.top() + 42, 18, 3), style.ink("ink"))
        painter.fillRect(QRectF(card.left() + 5, card.top() + 49, 12, 2), style.ink("line"))


def _draw_tiles(painter: QPainter, rect: QRectF, sheet: TileSet, name: str, columns: int) -> None:
    """A tile of the kit, side by side."""
    found = sheet.slots.get(name)
    if found is None:
        return
    image = image_of(sheet.pixels(found.at)).copy()
    side = rect.width() / columns
    rows = int(rect.height() / side + 0.999)
    painter.save()
    painter.setClipRect(rect)
    for n in range(rows * columns):
        y, x = divmod(n, columns)
        at = QRectF(rect.left() + x * side, rect.top() + y * side, side, side)
        painter.drawImage(at, image)
    painter.restore()


def draw_sheet_way(painter: QPainter, rect: QRectF, sheet: TileSet) -> None:
    """A sheet, its slots, and the brushes that are made of them."""
    third = (rect.width() - 60) / 3
    picture = image_of(sheet.sheet.rgba).copy()
    first = QRectF(rect.left(), rect.top(), third, 66)
    painter.setPen(QPen(style.ink("line"), 1))
    painter.fillRect(first, QColor("#3b4248"))
    painter.drawImage(first, picture, QRectF(0, 0, 16 * 14, 16 * 8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(style.ink("ink"), 1))
    painter.drawRect(first)
    _draw_arrow(painter, QPointF(first.right() + 7, first.center().y()))
    left = first.right() + 30
    for n, name in enumerate(("ground 208", "ground 248", "wall 208", "wall 248", "floor 208",
                              "floor 248", "platform 0", "plank 24", "ladder 2", "slope 1 1",
                              "slope 2 1", "water")):  # fmt: skip
        y, x = divmod(n, 4)
        side = 20.6
        at = QRectF(left + 8 + x * (side + 2), rect.top() + y * (side + 2), side, side)
        _draw_tiles(painter, at, sheet, name, 1)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.drawRect(at)
    _draw_arrow(painter, QPointF(left + third + 7, first.center().y()))
    for n, (name, word) in enumerate((("ground 255", "weave"), ("platform 0", "panel"),
                                      ("floor marked", "mosaic"))):  # fmt: skip
        wide = (third - 8) / 3
        card = QRectF(left + third + 30 + n * (wide + 4), rect.top(), wide, 66)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(card, 3, 3)
        _draw_tiles(painter, card.adjusted(4, 4, -4, -22), sheet, name, 2)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(10))
        painter.drawText(card.adjusted(0, 46, 0, 0), Qt.AlignmentFlag.AlignCenter, word)


def _draw_arrow(painter: QPainter, at: QPointF) -> None:
    painter.setPen(QPen(style.ink("tidal"), 1.8))
    end = at + QPointF(16, 0)
    painter.drawLine(at, end)
    for dy in (-5, 5):
        painter.drawLine(end + QPointF(-5, dy), end)


# --- hints ------------------------------------------------------------------------------------

_MUD, _BRICK, _SEA = "#96724b", "#a8553f", "#3f7f8c"


def draw_hint(painter: QPainter, rect: QRectF, which: str) -> None:
    """The drawing of a hint: hands, ghost or lift."""
    painter.save()
    painter.setPen(QPen(style.ink("line"), 1))
    painter.setBrush(QColor("#fbfaf5"))
    painter.drawRoundedRect(rect, 4, 4)
    painter.setClipRect(rect.adjusted(1, 1, -1, -1))
    side = rect.width() / 8
    painter.setPen(QPen(QColor("#ece6da"), 1))
    for n in range(1, 9):
        painter.drawLine(QPointF(rect.left() + n * side, rect.top()),
                         QPointF(rect.left() + n * side, rect.bottom()))  # fmt: skip
        painter.drawLine(QPointF(rect.left(), rect.top() + n * side),
                         QPointF(rect.right(), rect.top() + n * side))  # fmt: skip
    {"hands": _draw_hands, "ghost": _draw_ghost, "lift": _draw_lift}[which](painter, rect, side)
    painter.restore()


def _cells(painter: QPainter, rect: QRectF, side: float, colour: str, alpha: int,
           cells: tuple[tuple[int, int], ...]) -> None:  # fmt: skip
    ink = QColor(colour)
    ink.setAlpha(alpha)
    for y, x in cells:
        at = QRectF(rect.left() + x * side, rect.top() + y * side, side - 1, side - 1)
        painter.fillRect(at, ink)


def _draw_hands(painter: QPainter, rect: QRectF, side: float) -> None:
    _cells(painter, rect, side, _MUD, 255, ((1, 0), (1, 1), (2, 0), (2, 1), (2, 2), (3, 0), (3, 1),
                                            (4, 0), (5, 0)))  # fmt: skip
    _cells(painter, rect, side, _SEA, 255, ((1, 6), (1, 7), (2, 6), (2, 7), (3, 7), (4, 6), (4, 7),
                                            (5, 7)))  # fmt: skip
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    mouse = QRectF(rect.center().x() - 21, rect.center().y() - 33, 42, 66)
    shape = QPainterPath()
    shape.addRoundedRect(mouse, 21, 21)
    painter.fillPath(shape, QColor("#fbfaf5"))
    upper = QRectF(mouse.left(), mouse.top(), mouse.width(), mouse.height() * 0.42)
    for half, colour in ((0, "buoy"), (1, "tidal")):
        part = QPainterPath()
        part.addRect(QRectF(upper.left() + half * upper.width() / 2, upper.top(),
                            upper.width() / 2, upper.height()))  # fmt: skip
        painter.fillPath(shape.intersected(part), QColor(style.name(colour)))
    painter.setPen(QPen(QColor("#22303a"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(shape)
    painter.drawLine(upper.bottomLeft(), upper.bottomRight())
    painter.drawLine(QPointF(upper.center().x(), upper.top()), QPointF(upper.center().x(),
                                                                       upper.bottom()))  # fmt: skip


def _draw_ghost(painter: QPainter, rect: QRectF, side: float) -> None:
    _cells(painter, rect, side, _BRICK, 255, ((5, 1), (5, 2), (5, 3), (5, 4), (6, 1), (6, 2)))
    ghost = tuple((y, x) for y in (3, 4, 5) for x in (4, 5, 6))
    _cells(painter, rect, side, _BRICK, 110, ghost)
    painter.setPen(QPen(QColor(style.name("buoy")), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = QRectF(rect.left() + 4 * side, rect.top() + 3 * side, 3 * side, 3 * side)
    painter.drawRect(box)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    tip = box.bottomRight() + QPointF(-14, -16)
    steps = ((0, 0), (0, 17), (4.5, 13), (8, 20), (11, 18), (8, 12), (13, 12))
    arrow = QPolygonF([tip + QPointF(dx, dy) for dx, dy in steps])
    painter.setPen(QPen(QColor("#fbfaf5"), 1.2))
    painter.setBrush(QColor("#22303a"))
    painter.drawPolygon(arrow)


def _draw_lift(painter: QPainter, rect: QRectF, side: float) -> None:
    _cells(painter, rect, side, _MUD, 255, ((3, 1), (3, 2), (4, 1), (4, 2), (3, 5), (3, 6), (4, 5),
                                            (5, 1), (5, 6), (4, 6)))  # fmt: skip
    _cells(painter, rect, side, _MUD, 90, ((1, 3), (1, 4), (2, 3), (2, 4)))
    box = QRectF(rect.left() + 3 * side, rect.top() + 3 * side, 2 * side, 2 * side)
    painter.setPen(QPen(QColor(style.name("buoy")), 1.6, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(style.name("buoy")), 1.8))
    top = box.center() + QPointF(0, -8)
    painter.drawLine(box.center() + QPointF(0, 8), top)
    for dx in (-5, 5):
        painter.drawLine(top + QPointF(dx, 5), top)
    key = QRectF(rect.center().x() - 12, rect.bottom() - 26, 24, 20)
    painter.setPen(QPen(QColor("#22303a"), 1.4))
    painter.setBrush(QColor("#fbfaf5"))
    painter.drawRoundedRect(key, 4, 4)
    painter.setFont(style.font(12, bold=True))
    painter.drawText(key, Qt.AlignmentFlag.AlignCenter, "E")
