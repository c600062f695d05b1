"""In hand: the settings of the brush in the left or right hand, and a field's tally."""

from __future__ import annotations

import dataclasses
from typing import Any

import numpy as np
from PyQt6.QtCore import QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from topion.brushes import FieldBrush, ThingsBrush
from topion.brushes.kind import BrushKind, Setting, Value, brush_or_none
from topion.brushes.region import RegionBrush
from topion.model.curve import CurvePart
from topion.model.project import Project
from topion.model.room import Room
from topion.things.density import thumbnails
from topion.things.field import Sown, Sows
from topion.things.sowing import sow
from topion.things.sowings import ready_sowing, sowing_of
from topion.things.sown import Tally
from topion.view import style
from topion.view.panels.density_parts import PICTURE, DensityParts
from topion.view.panels.emptied import emptied
from topion.view.panels.field_rules import FieldRules
from topion.view.panels.field_shows import FieldShows
from topion.view.panels.mix_rows import MixRows
from topion.view.panels.pattern import PatternEditor
from topion.view.panels.region_rows import RegionRows
from topion.view.panels.rows import SettingRow
from topion.view.panels.swatches import Swatches
from topion.view.panels.tabs import Tabs
from topion.view.panels.tint_row import TintRow
from topion.view.panels.warm_strip import WarmStrip
from topion.view.planes import WorkPlane
from topion.view.session import Session
from topion.view.table.field_marks import INKS, SIGNS
from topion.view.tasks import Step, Worker

_DRAWN_AT_ONCE = 1 << 16  # cells of a room whose densities are drawn at once
_COUNTED_AT_ONCE = 8_000  # painted cells; larger fields are counted on a thread


@dataclasses.dataclass(frozen=True, eq=False)
class _Counted:
    """Of a field: its tally, and pictures of its density, see `thumbnails`."""

    tally: Tally
    pictures: list[np.ndarray]


def _pictures(
    project: Project, room: Room, layer_id: str, parts: tuple[object, ...]
) -> list[np.ndarray]:
    """What is shown of the layers of a density; nothing where there are none."""
    return thumbnails(project, room, layer_id, PICTURE) if parts else []


class InHand(QWidget):
    """Rows for the brush of the shown hand; rebuilt when that changes.

    head : what stays in sight above the rows: tabs, name, the warm strip, the tally."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: dict[str, SettingRow | PatternEditor | TintRow | MixRows] = {}
        self._brush_name = ""
        self._pictured: tuple[BrushKind, str] | None = None
        self.counting: Worker | None = None
        self._tally_soon = QTimer(self)  # after a stroke, not at each step of a slider
        self._tally_soon.setSingleShot(True)
        self._tally_soon.setInterval(40)
        self._tally_soon.timeout.connect(self._show_tally)
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(12, 0, 12, 4)
        self._layout.setSpacing(2)
        self._make_head()
        self._make_body()
        self.use(session)

    def _make_head(self) -> None:
        self.head = QWidget()
        above = QVBoxLayout(self.head)
        above.setContentsMargins(12, 6, 12, 0)
        above.setSpacing(2)
        self.tabs = Tabs()
        above.addWidget(self.tabs)
        self._title = QLabel()
        self._title.setFont(style.font(16, bold=True))
        self._summary = QLabel()
        style.tint(self._summary, "soft")
        self._summary.setWordWrap(True)
        self._summary.setContentsMargins(0, 0, 0, 6)
        self.desk = QPushButton("desk ›")
        self.desk.setObjectName("plain")
        self.desk.setAccessibleName("Open its desk")
        self.desk.setToolTip("Its desk: rules and their cover, slots, or the block (F3)")
        self.desk.clicked.connect(lambda _: self.session.desk_asked.emit(self._brush_name))
        head = QHBoxLayout()
        head.addWidget(self._title, 1)
        head.addWidget(self.desk)
        above.addLayout(head)
        above.addWidget(self._summary)
        self.warm = WarmStrip(self.session)
        above.addWidget(self.warm)
        self.tally = TallyBar()
        above.addWidget(self.tally)

    def _make_body(self) -> None:
        session = self.session
        self.shows = FieldShows(session)
        self._layout.addWidget(self.shows)
        self._body = QVBoxLayout()
        self._body.setSpacing(0)
        self._layout.addLayout(self._body)
        self.rules = FieldRules(lambda: self.session.project, self._put_rules,
                                lambda told: self.session.said.emit(told))  # fmt: skip
        self._layout.addWidget(self.rules)
        self.density = DensityParts(session, lambda parts: self._set_whole("parts", parts))
        self._layout.addWidget(self.density)
        self._layout.addWidget(self.shows.all_of_it)
        self.regions = RegionRows()
        self._layout.addWidget(self.regions)
        self.work_rows: dict[str, SettingRow] = {}
        self._work = QVBoxLayout()
        self._work.setSpacing(0)
        self._layout.addLayout(self._work)
        self.swatches = Swatches()
        self._layout.addWidget(self.swatches)
        self._layout.addStretch(1)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self.warm.use(session)
        self.density.session = self.shows.session = session
        session.hands.changed.connect(self.refresh)
        for signal in (session.picking.changed, session.gestures.changed):
            signal.connect(lambda: self.tabs.refresh(session, shows_picked=False))
        session.room_changed.connect(self.refresh)
        session.changed.connect(lambda _: self.refresh())
        session.planes.changed.connect(self._show_work)
        session.ahead.made.connect(lambda: self._tally_soon.start(40))
        session.room_changed.connect(self._show_work)
        self._brush_name = ""
        self.refresh()
        self._show_work()

    def _show_work(self) -> None:
        """Rows for what strokes of any brush lie on in this room."""
        work, room = self.session.planes.here, self.session.has_room and self.session.room
        settings = work.settings(room.info.size) if room else ()
        if [row.setting for row in self.work_rows.values()] != list(settings):
            emptied(self._work)
            self.work_rows = {setting.name: self._work_row(setting) for setting in settings}
        for field, row in self.work_rows.items():
            row.show_value(getattr(work, field))

    def _work_row(self, setting: Setting) -> SettingRow:
        def put(value: Value) -> None:
            self.session.planes.set(**vars(self.session.planes.here.changed(setting.name, value)))

        value = getattr(self.session.planes.here, setting.name)
        first = getattr(WorkPlane(), setting.name)
        row = SettingRow(setting, value, first, setting.choices, put, lambda: None)  # type: ignore[arg-type]
        self._work.addWidget(row)
        return row

    def refresh(self) -> None:
        """Show the brush anew; rows stay where it is the same brush."""
        session = self.session
        self.tabs.refresh(session, shows_picked=False)
        self._show_work()
        name = session.hands[session.hands.shown]
        brush = brush_or_none(session.project, name)
        self._title.setText(name or "Empty")
        self.desk.setVisible(brush is not None and bool(brush.tiles_used() or brush.places()))
        self.regions.setVisible(isinstance(brush, RegionBrush))
        for part in (self.rules, self.density, self.shows, self.shows.all_of_it):
            part.setVisible(isinstance(brush, FieldBrush))
        if brush is None:
            self._clear()
            self._summary.setText("Take a card from the rack below")
            self.tally.setVisible(False)
            self.swatches.setVisible(False)
            return
        self._summary.setText(brush.said())
        names = [setting.name for setting in brush.settings()]
        if name != self._brush_name or names != list(self.rows):
            self._clear()
            self._brush_name = name
            for setting in brush.settings():
                self._add_row(brush, setting)
            for label, value in brush.facts():
                self._body.addWidget(_fact(label, value))
        for field, row in self.rows.items():
            row.show_value(getattr(brush, field))
        if isinstance(brush, FieldBrush):
            self.rules.show_rules(brush.rules)
            self.density.show_parts(brush.parts)
            self.shows.refresh()
        if isinstance(brush, RegionBrush):
            self.regions.show_regions(session, name)
        self.tally.setVisible(isinstance(brush, Sows))
        self._tally_soon.start(40)
        theme = session.room.info.theme if session.has_room else ""
        if self._pictured != (brush, theme):
            self._pictured = (brush, theme)
            self.swatches.show_brush(session.project, brush, theme)

    def _clear(self) -> None:
        self.rows.clear()
        self._brush_name = ""
        emptied(self._body)

    def _add_row(self, brush: BrushKind, setting: Setting) -> None:
        choices = setting.choices
        if callable(choices):
            choices = choices(self.session.project)
        if setting.form == "pattern" and isinstance(brush, ThingsBrush):
            editor = PatternEditor(setting, self.session.project, brush,
                                   lambda value: self._set(setting.name, value),
                                   self.session.handle.history.seal)  # fmt: skip
            self.rows[setting.name] = editor
            self._body.addWidget(editor)
            return
        if setting.form == "mix":
            make = Sown if isinstance(brush, FieldBrush) else CurvePart
            mix = MixRows(setting, self.session, lambda value: self._set(setting.name, value),
                          make)  # fmt: skip
            mix.show_value(getattr(brush, setting.name))
            self.rows[setting.name] = mix
            self._body.addWidget(mix)
            return
        if setting.form == "tint":
            tint = TintRow(setting, lambda: self.session.project.palette,
                           lambda value: self._set(setting.name, value),
                           self.session.handle.history.seal)  # fmt: skip
            self.rows[setting.name] = tint
            self._body.addWidget(tint)
            return
        row = SettingRow(
            setting,
            getattr(brush, setting.name),
            _default(brush, setting.name),
            choices,
            lambda value: self._set(setting.name, value),
            self.session.handle.history.seal,
        )
        self.rows[setting.name] = row
        self._body.addWidget(row)

    def _set(self, field: str, value: Value) -> None:
        brush = brush_or_none(self.session.project, self._brush_name)
        if brush is not None:
            self.session.hands.set_field(brush, field, value)

    def _set_whole(self, field: str, value: Value) -> None:
        self._set(field, value)
        self.session.handle.history.seal()

    def _put_rules(self, rules: Any) -> None:
        self._set("rules", rules)
        self.session.handle.history.seal()

    def _show_tally(self) -> None:
        session = self.session
        brush = brush_or_none(session.project, self._brush_name)
        layer_ids: list[str] = []
        if isinstance(brush, Sows) and session.has_room:
            fields = session.room.bottom_up("field")
            layer_ids = [i for i, la in fields if la.info.brush == self._brush_name]
        if not layer_ids:
            self.tally.show_tally(Tally())
            return
        if not session.ahead.has(session.project, session.room.layers[layer_ids[0]]):
            return  # counted when its tables are made
        ready = ready_sowing(session.project, session.room, layer_ids[0])
        density = session.room.layers[layer_ids[0]].plane("density")
        large = session.room.plan_box.size > _DRAWN_AT_ONCE and self.density.parts
        if large or (ready is None and int(np.count_nonzero(density)) > _COUNTED_AT_ONCE):
            self._count_aside(layer_ids[0])
            return
        sowing = ready or sowing_of(session.project, session.room, layer_ids[0])
        self._show_counted(_Counted(sowing.tally, _pictures(
            session.project, session.room, layer_ids[0], self.density.parts)))  # fmt: skip

    def _show_counted(self, found: _Counted) -> None:
        self.tally.show_tally(found.tally)
        self.density.draw(found.pictures)

    def _count_aside(self, layer_id: str) -> None:
        """Count a large field on a thread; of changes meanwhile the last one counts."""
        if self.counting is not None and self.counting.isRunning():
            self._tally_soon.start(200)
            return
        snapshot, room_name = self.session.project.frozen(), self.session.room_name
        parts = self.density.parts

        def work(step: Step) -> _Counted:
            room = snapshot.room(room_name)
            tally = sow(snapshot, room, layer_id).tally
            return _Counted(tally, _pictures(snapshot, room, layer_id, parts))

        self.counting = Worker(work, "Counting")
        self.counting.finished.connect(self._counted)
        self.counting.begin()

    def _counted(self) -> None:
        if self.counting is not None and isinstance(self.counting.result, _Counted):
            self._show_counted(self.counting.result)


def _default(brush: BrushKind, field: str) -> Value:
    for f in dataclasses.fields(brush):  # type: ignore[arg-type]
        if f.name == field:
            return f.default if f.default is not dataclasses.MISSING else getattr(brush, field)
    return getattr(brush, field)


def _fact(label: str, value: str) -> QWidget:
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 3, 0, 3)
    left, right = QLabel(label), QLabel(value)
    right.setFont(style.font(13, bold=True))
    right.setWordWrap(True)
    right.setAlignment(Qt.AlignmentFlag.AlignRight)
    line.addWidget(left)
    line.addWidget(right, 1)
    return row


_WRAPPED = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap


class TallyBar(QWidget):
    """Wanted, placed and refused of a field, as a bar and in words."""

    def __init__(self) -> None:
        super().__init__()
        self._tally = Tally()
        self.setFixedHeight(76)
        self.setAccessibleName("Tally")

    def sizeHint(self) -> QSize:
        return QSize(240, 76)

    def show_tally(self, tally: Tally) -> None:
        """Show these counts."""
        self._tally = tally
        lines = QFontMetrics(style.font(12)).boundingRect(
            QRect(0, 0, max(200, self.width()), 400), _WRAPPED, self._refused()
        )
        self.setFixedHeight(42 + max(18, lines.height()))
        self.setAccessibleDescription(self.text())
        self.setToolTip(self.text())
        self.update()

    def text(self) -> str:
        """The counts in words."""
        tally = self._tally
        parts = [f"{count} {reason}" for reason, count in tally.refused]
        return f"{tally.placed} of {tally.wanted} placed" + (
            f": {' · '.join(parts)}" if parts else ""
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        tally = self._tally
        painter.setFont(style.font(12, medium=True))
        painter.setPen(style.ink("ink"))
        painter.drawText(QRectF(0, 6, self.width(), 16), f"{tally.placed} of {tally.wanted} placed")
        bar = QRectF(0, 26, self.width(), 9)
        painter.fillRect(bar, style.ink("rail"))
        total = max(1, tally.wanted, tally.placed + sum(n for _, n in tally.refused))
        x = 0.0
        counts = [(tally.placed, "tidal")]
        for i, (_, n) in enumerate(tally.refused):
            counts.append((n, INKS[i % len(INKS)]))
        for count, colour in counts:
            wide = self.width() * count / total
            painter.fillRect(QRectF(x, bar.top(), wide, bar.height()), style.ink(colour))
            x += wide
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(0, 39, self.width(), self.height() - 39), _WRAPPED, self._refused())

    def _refused(self) -> str:
        """How many each rule refused, in words that break between the rules only."""
        parts = (f"{SIGNS[n % len(SIGNS)]} {count} {reason}".replace(" ", "\u00a0")
                 for n, (reason, count) in enumerate(self._tally.refused))  # fmt: skip
        return " · ".join(parts)
