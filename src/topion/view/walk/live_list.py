"""The live list: things and their state by layer, how much is done, and what happened just now."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from topion.roles import Pickup, RoleKind, Switch
from topion.view import style
from topion.view.table.compose import pixmap_of
from topion.view.walk.run import WalkRun
from topion.walk.lives import Live, is_done
from topion.walk.scale import TICKS
from topion.walk.stage import Actor
from topion.walk.state import Key, Now, State

_ROW, _HEAD, _WIDE = 44, 22, 220
_NEWS = 5
_OFTEN_MS, _SHARE = 50, 12  # between two lists, at least, and as times of what one takes


@dataclass(frozen=True)
class Row:
    """One prefab of one layer, or one thing.  keys : of its things."""

    layer: str
    prefab: str
    words: str
    state: str
    ink: str
    keys: tuple[Key, ...]


class LiveList(QWidget):
    """pointed : called with the key of the thing that is pointed at, or None."""

    def __init__(self, run: WalkRun) -> None:
        super().__init__()
        self.run = run
        self.pointed: Callable[[Key | None], object] = lambda _: None
        self._over, self._first = -1, 0
        self._known: tuple[State | None, list[Row]] = (None, [])
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.update)
        self.setFixedWidth(_WIDE)
        self.setMouseTracking(True)
        self.setAccessibleName("Things and their state")

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, 400)

    def refresh(self) -> None:
        """Show how things are now: soon where time goes on, the later the longer it takes."""
        if not self.run.plays:
            self.update()
        elif not self._soon.isActive():
            self._soon.start()

    # --- what it lists --------------------------------------------------------------------

    def rows(self) -> list[Row]:
        """Things of one prefab and layer together, in the order of the room."""
        state = self.run.now
        if self._known[0] is not state:
            begun = time.perf_counter()
            self._known = (state, self._listed(state))
            took = (time.perf_counter() - begun) * 1000
            self._soon.setInterval(round(max(_OFTEN_MS, took * _SHARE)))
        return self._known[1]

    def _listed(self, state: State) -> list[Row]:
        stage = state.world.stage(state.room)
        groups: dict[tuple[str, str], list[tuple[Actor, Now]]] = {}
        for actor, now in zip(stage.actors, state.lives, strict=True):
            groups.setdefault((actor.key[0], actor.prefab), []).append((actor, now))
        return [self._row(state, *key, members) for key, members in groups.items()]

    def _row(self, state: State, layer_id: str, prefab: str, members: list[tuple[Actor, Now]]
             ) -> Row:  # fmt: skip
        layer = state.world.room(state.room).layers[layer_id].info.name
        lives = [Live(actor, now) for actor, now in members]
        states = [_state_of(live) for live in lives]
        role = members[0][0].role
        kind = role.kind if role is not None else "waits"
        count = f" ×{len(members)}" if len(members) > 1 else ""
        done = sum(1 for live in lives if is_done(live))
        counted = isinstance(role, Pickup | Switch) or any(a.counts for a, _ in members)
        if len(members) > 1 and done and counted:
            words = f"{done} of {len(members)}"
        else:
            words = states[0] if len(set(states)) == 1 else ", ".join(sorted(set(states)))
        good = done == len(members) and any(a.counts for a, _ in members)
        open_ = all(word in ("on", "open", "reached", "taken", "cleared") for word in states)
        ink = "tidal" if good or open_ else "ochre" if "shut" in states else "soft"
        when = members[0][0].when
        about = f"{kind} · {when.sentence().rstrip('.').lower()}" if when.all_of else kind
        since = max(now.since for _, now in members)
        if since and not when.all_of:
            about += f" · at {since / TICKS:.1f} s"
        keys = tuple(actor.key for actor, _ in members)
        return Row(layer, prefab + count, about, words, ink, keys)

    def news(self) -> list[tuple[float, str]]:
        """(seconds, words) of what happened last, the latest first."""
        found: list[tuple[float, str]] = []
        for at in range(self.run.at, max(-1, self.run.at - 60 * TICKS), -1):
            found += [(at / TICKS, words) for words in reversed(self.run.states[at].news)]
            if len(found) >= _NEWS:
                break
        return found[:_NEWS]

    def cleared(self) -> tuple[int, int]:
        """(done, all) of what counts for clearing the room."""
        state = self.run.now
        stage = state.world.stage(state.room)
        counting = [Live(stage.actors[n], state.lives[n]) for n in stage.counting]
        return sum(is_done(live) for live in counting), len(counting)

    # --- drawing --------------------------------------------------------------------------

    def _places(self) -> Iterator[tuple[Row, QRectF]]:
        """Each row that is seen, with where; the name of a layer stands above its first."""
        top, layer = 26.0, ""
        rows = self.rows()
        self._first = max(0, min(self._first, len(rows) - 1))
        several = len({row.layer for row in rows}) > 1
        for row in rows[self._first :]:
            if several and row.layer != layer:
                layer, top = row.layer, top + _HEAD
            if top + _ROW > self._foot():
                return
            yield row, QRectF(0, top, self.width(), _ROW)
            top += _ROW

    def _foot(self) -> float:
        """Where the rows end."""
        return self.height() - 36 - 18 * _NEWS - 82

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self._first += -1 if event.angleDelta().y() > 0 else 1
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        self._head(painter, 8, "Things and their state")
        layer, seen = "", 0
        several = len({row.layer for row in self.rows()}) > 1
        for number, (row, rect) in enumerate(self._places()):
            if several and row.layer != layer:
                layer = row.layer
                self._head(painter, rect.top() - _HEAD + 4, layer)
            self._draw_row(painter, row, rect, number == self._over)
            seen += 1
        hidden = len(self.rows()) - seen
        if hidden:
            painter.setFont(style.font(12))
            painter.setPen(style.ink("soft"))
            painter.drawText(QPointF(12, self._foot() + 14), f"{hidden} more: the wheel scrolls")
        self._draw_cleared(painter, self._foot() + 24)
        self._draw_news(painter, self._foot() + 86)

    def _head(self, painter: QPainter, top: float, words: str) -> None:
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(12, top, self.width() - 20, 16), words)

    def _draw_row(self, painter: QPainter, row: Row, rect: QRectF, over: bool) -> None:
        if over:
            painter.fillRect(rect, style.ink("card"))
            painter.fillRect(QRectF(0, rect.top(), 3, rect.height()), style.ink("buoy"))
        frame = QRectF(12, rect.top() + 6, 32, 32)
        painter.fillRect(frame, style.ink("panel2"))
        prefab = self.run.now.world.project.prefabs.get(row.prefab.partition(" ×")[0])
        if prefab is not None:
            pixmap = pixmap_of(prefab.picture.rgba)
            size = pixmap.size().scaled(28, 28, Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(frame.center())
            painter.drawPixmap(target, pixmap, QRectF(pixmap.rect()))
        painter.setPen(QPen(style.ink("line"), 1))
        painter.drawRect(frame)
        painter.setFont(style.font(13, bold=True))
        metrics = painter.fontMetrics()
        wide = min(88, metrics.horizontalAdvance(row.state) + 2)
        name = metrics.elidedText(
            row.prefab, Qt.TextElideMode.ElideRight, int(self.width() - 62 - wide)
        )
        painter.setPen(style.ink("ink"))
        painter.drawText(QPointF(52, rect.top() + 18), name)
        painter.setPen(style.ink(row.ink))
        painter.drawText(QRectF(self.width() - wide - 10, rect.top() + 5, wide, 18),
                         Qt.AlignmentFlag.AlignRight, row.state)  # fmt: skip
        painter.setFont(style.font(12))
        words = painter.fontMetrics().elidedText(row.words, Qt.TextElideMode.ElideRight,
                                                 self.width() - 62)  # fmt: skip
        painter.setPen(style.ink("soft"))
        painter.drawText(QPointF(52, rect.top() + 35), words)

    def _draw_cleared(self, painter: QPainter, top: float) -> None:
        done, every = self.cleared()
        self._head(painter, top, "Room cleared")
        bar = QRectF(12, top + 22, self.width() - 24, 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("rail"))
        painter.drawRoundedRect(bar, 4, 4)
        if every and done:
            bar.setWidth(bar.width() * done / every)
            painter.setBrush(style.ink("tidal"))
            painter.drawRoundedRect(bar, 4, 4)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        told = f"{done} of {every} done" if every else "nothing counts here"
        painter.drawText(QPointF(12, top + 48), told)

    def _draw_news(self, painter: QPainter, top: float) -> None:
        self._head(painter, top, "Just now")
        painter.setFont(style.font(12))
        for number, (seconds, words) in enumerate(self.news()):
            y = top + 32 + 18 * number
            painter.setPen(style.ink("soft"))
            painter.drawText(QPointF(12, y), f"{seconds:.1f} s")
            painter.setPen(style.ink("ink"))
            room = self.width() - 62
            painter.drawText(QPointF(52, y), painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, room))  # fmt: skip

    # --- the pointer ----------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        found = [(n, row) for n, (row, rect) in enumerate(self._places())
                 if rect.contains(event.position())]  # fmt: skip
        self._over = found[0][0] if found else -1
        self.pointed(found[0][1].keys[0] if found else None)
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._over = -1
        self.pointed(None)
        self.update()


def _state_of(live: Live) -> str:
    if live.gone and not live.since:
        return "not yet"
    return live.role.state(live) if isinstance(live.role, RoleKind) else "there"
