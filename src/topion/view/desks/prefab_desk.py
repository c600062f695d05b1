"""The prefab desk: its picture and marks, the rules of its place, and where it may stand."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.names import rename_item
from topion.edit.prefab_sets import (
    MIXED,
    change_property,
    change_rule,
    names_of,
    set_prefabs,
    shared,
    shared_properties,
    united_rules,
)
from topion.edit.prefabs import (
    changed_rule,
    class_rules,
    copied_prefab,
    moved_rule,
    placed_in,
    set_rules,
    without_rule,
)
from topion.errors import TopionError
from topion.grid.told import several
from topion.model.prefab import PlacementRule, Prefab
from topion.model.property import Property
from topion.things.ground import Ground, Spots
from topion.things.heat import OTHER
from topion.things.verdict import verdict
from topion.view import style
from topion.view.desks.block_shelf import scrolled
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.heat_map import HeatMap
from topion.view.desks.parts import Switches, lay_page, side_column
from topion.view.desks.placement_list import PlacementList
from topion.view.desks.prefab_facts import PrefabFacts
from topion.view.desks.property_table import PropertyTable
from topion.view.desks.rule_adds import RuleAdds
from topion.view.desks.share_bar import ShareBar
from topion.view.desks.walk_side import WalkSide
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import heading
from topion.view.panels.inked import Inked, inked
from topion.view.panels.new_rules import NEW_RULES
from topion.view.session import Session

_INKS = ("buoy", "ochre", "soft", "ink")
_MOST_ROOMS = 4
_RIGHT, _BAR = 388, 8  # px wide: the side at the right, and its scroll bar
_MAP = (170, 430)  # px high, at least and at most


class PrefabDesk(QWidget):
    """names : of the prefabs that are set together, the shown one first.  ground, tables : none;
    strokes are laid in rooms.

    Signals: voxels_asked(name) when its model shall be built; parts_asked(name) when the parts of
    a composite one shall be edited.
    """

    voxels_asked = pyqtSignal(str)
    parts_asked = pyqtSignal(str)
    key_area = "prefab"

    def __init__(self, session: Session, name: str, more: Iterable[str] = ()) -> None:
        super().__init__()
        self.session = session
        self.names = [name, *(other for other in more if other != name)]
        self.ground = None
        self.tables = None
        self.of_class = False
        self.bar = DeskBar(session, gestures=False)
        self.facts = self._left()
        self.rules = PlacementList(lambda: session.project)
        self.rules.put = self._put
        self.rules.move_rule = self._move
        self.rules.remove = self._remove
        self.map = HeatMap(session)
        self.map.changed.connect(self._tell)
        self.map.pointed.connect(self._say)
        self.rules.pointed.connect(self.map.show_only)
        self._lay_out()
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.setInterval(150)
        self._again.timeout.connect(lambda: self.map.show_prefab(self.name))
        session.changed.connect(self._on_changed)
        self.refresh()
        self.map.show_prefab(name)

    # --- building -------------------------------------------------------------------------

    def _lay_out(self) -> None:
        lay_page(self, self.bar, (self.facts, 0), (self._middle(), 1), (self._right(), 0))

    def _left(self) -> PrefabFacts:
        facts = PrefabFacts(self._set, self.session.said.emit)
        facts.renamed = self._rename
        facts.classified = lambda text: self._set(class_name=text)
        facts.parts.clicked.connect(lambda _: self.parts_asked.emit(self.name))
        facts.voxels.clicked.connect(lambda _: self.voxels_asked.emit(self.name))
        facts.copy.clicked.connect(lambda _: self._copy())
        facts.others.clicked.connect(lambda _: self._ask_others())
        return facts

    def _middle(self) -> QWidget:
        middle = _Column()
        column = QVBoxLayout(middle)
        column.setContentsMargins(1, 12, 1, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        head.setContentsMargins(14, 0, 14, 0)
        head.addWidget(heading("Placement rules · every rule that is on must agree"), 1)
        self.whose = Switches({"this prefab": False, "its class": True})
        self.whose.setToolTip("Whose rules are shown")
        self.whose.chosen = self.show_class
        head.addWidget(self.whose)
        column.addLayout(head)
        area = scrolled(self.rules)
        area.setWidgetResizable(True)
        column.addWidget(area, 1)
        adds = RuleAdds(self.add)
        self.adds = adds.buttons
        column.addWidget(adds)
        return middle

    def _right(self) -> QWidget:
        side, column = side_column(_RIGHT - _BAR)
        self.where = heading("")
        column.addWidget(self.where)
        column.addWidget(self.map)
        self.share = ShareBar("How much of the room is free")
        column.addWidget(self.share)
        self.told = QLabel()
        self.told.setWordWrap(True)
        column.addWidget(self.told)
        self.refusal = Inked()
        self.refusal.setWordWrap(True)
        self.refusal.setFixedHeight(46)
        self.refusal.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(self.refusal)
        self.walk = WalkSide(lambda: self.session.project, self._set, self.session.said.emit)
        column.addWidget(self.walk)
        column.addWidget(heading("Properties"))
        self.properties = PropertyTable()
        self.properties.put = self._put_property
        self.properties.failed = self.session.said.emit
        column.addWidget(self.properties)
        column.addWidget(heading("Placed in"))
        self.rooms = QVBoxLayout()
        self.rooms.setSpacing(0)
        column.addLayout(self.rooms)
        column.addStretch(1)
        area = scrolled(side)
        area.setWidgetResizable(True)
        area.setFixedWidth(_RIGHT)
        return area

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    # --- showing --------------------------------------------------------------------------

    @property
    def name(self) -> str:
        """Of the prefab that is shown."""
        return self.names[0]

    @property
    def prefab(self) -> Prefab | None:
        """What is made; None once it was taken away."""
        return self.session.project.prefabs.get(self.name)

    @property
    def prefabs(self) -> list[Prefab]:
        """All that are set together and are there."""
        known = self.session.project.prefabs
        return [known[name] for name in self.names if name in known]

    def shown_rules(self) -> tuple[PlacementRule, ...]:
        """Those of the prefab, or of its class."""
        prefab = self.prefab
        if prefab is None:
            return ()
        if self.of_class:
            return class_rules(self.session.project, prefab.class_name)
        return tuple(rule for rule, _ in united_rules(self.prefabs))

    def _on_changed(self, dirty: Any) -> None:
        self.refresh()
        self._again.start()

    def refresh(self) -> None:
        """Show the prefab as it is now."""
        prefab, session = self.prefab, self.session
        if prefab is None:
            return
        known = self.prefabs
        self.names = [other.name for other in known]
        class_name = shared(known, "class_name")
        if self.of_class and class_name in ("", MIXED):
            self.of_class = False
        self.facts.show_prefabs(known, session.room.info.cell_px if session.has_room else 16)
        self.whose.show_value(self.of_class)
        self.whose.buttons[True].setEnabled(class_name not in ("", MIXED))
        self.walk.show_prefabs(known)
        self.rules.show_rules(self.shown_rules())
        self.properties.show_properties(shared_properties(known))
        self._show_rooms()
        self._tell()

    def _ask_others(self) -> None:
        """Which other prefabs are set together with this one."""
        menu = QMenu(self)
        for name in self.session.project.prefabs:
            if name != self.name:
                action = menu.addAction(name, lambda n=name: self.toggle(n))
                if action is not None:
                    action.setCheckable(True)
                    action.setChecked(name in self.names)
        menu.popup(self.facts.others.mapToGlobal(self.facts.others.rect().bottomLeft()))

    def toggle(self, name: str) -> None:
        """Set another prefab together with this one, or no longer."""
        rest = [known for known in self.names if known != name]
        self.names = rest if name in self.names else [*rest, name]
        self.refresh()

    def _show_rooms(self) -> None:
        counts = Counter[str]()
        for name in self.names:
            counts.update(dict(placed_in(self.session.project, name)))
        found = list(counts.items())
        emptied(self.rooms)
        for room, count in found[:_MOST_ROOMS]:
            button = QPushButton(f"{room}: {count} ›")
            button.setObjectName("plain")
            button.clicked.connect(lambda _, r=room: self._go_to(r))
            self.rooms.addWidget(button)
        if not found:
            self.rooms.addWidget(QLabel("nowhere yet"))
        footprint = self.prefab.footprint if self.prefab else ("#",)
        size = f"{len(footprint[0])} × {len(footprint)} cells"
        on = sum(rule.on for rule in self.prefab.rules) if self.prefab else 0
        placed = sum(count for _, count in found)
        told = f"thing · {size} · {several(on, 'rule')} on · {placed} placed"
        if len(self.names) > 1:
            told = "set together: " + ", ".join(self.names)
        self.bar.show_item("prefabs", names_of(self.names), told)

    def _go_to(self, room: str) -> None:
        self.bar.done.emit()
        if room != self.session.room_name:
            self.session.open_room(room)

    def _tell(self) -> None:
        """What each rule refuses, and how much is free."""
        found, session = self.map.found, self.session
        self.where.setText(f"Where it may stand in {session.room_name}" if session.has_room else "")
        if found is None:
            self.told.setText("")
            self.share.show_parts([])
            return
        high, wide = self.map.box.shape
        self.map.setFixedHeight(min(max(round(self.map.width() * high / wide), _MAP[0]), _MAP[1]))
        refused, parts = found.refused, [(found.allowed, "tidal")]
        known = {id(rule): number for number, rule in enumerate(found.rules)}
        for row in self.rules.rows:
            number = known.get(id(row.rule))
            if number is None or not row.rule.on:
                off = "off" if not row.rule.on else ""
                row.tell(" · ".join(filter(None, (off, self._share_of(row.rule)))))
                continue
            share = self._share_of(row.rule)
            whole, first = int(found.every[:, number].sum()), refused[number]
            told = f"refuses {whole}" if first == whole else f"refuses {first} more of {whole}"
            row.tell(" · ".join(filter(None, (told, share))), "buoy" if first else "soft")
        for at, number in enumerate(sorted(n for n in refused if n != OTHER)):
            parts.append((refused[number], _INKS[at % len(_INKS)]))
        parts.append((refused[OTHER], "line"))
        self.share.show_parts(parts)
        count = len(found.positions)
        words = [f"<b>{found.allowed}</b> of {count} places free"]
        words += [f"{refused[n]} {found.rules[n].short()}" for n in sorted(refused) if n != OTHER]
        if refused[OTHER]:
            words.append(f"{refused[OTHER]} without room")
        self.told.setText(" · ".join(words))

    def _share_of(self, rule: PlacementRule) -> str:
        """How many of several prefabs have a rule."""
        if len(self.names) < 2 or self.of_class:
            return ""
        count = next((n for known, n in united_rules(self.prefabs) if known == rule), 0)
        return f"{count} of {len(self.names)} have it"

    def _say(self, cell: tuple[int, int] | None) -> None:
        """What would be said where the pointer is."""
        session, prefab = self.session, self.prefab
        if cell is None or prefab is None or not session.has_room or self.map.found is None:
            self.refusal.say("")
            return
        at = self.map.found.positions
        here = at[(abs(at[:, -2:] - cell) < 0.5).all(axis=1)]
        if not len(here):
            self.refusal.say("")
            return
        ground = Ground(session.project, session.room)
        found = verdict(ground, Spots(prefab, here[-1:]))
        where = ", ".join(f"{v:g}" for v in here[-1])
        if found.allowed:
            self.refusal.say(f"<b>{where}</b> · it may stand here")
            return
        way = f"{found.way()} · hold O to lay it all the same"
        self.refusal.say(f"<b>{where}</b> · {found.reasons[0].told()}<br>{inked(way, 'soft')}")

    def _put_property(self, number: int, new: Property | None) -> None:
        if self.prefab is not None:
            known = shared_properties(self.prefabs)
            old = known[number] if number < len(known) else None
            self.session.try_(change_property, self.names, old, new)
            self.refresh()

    # --- setting --------------------------------------------------------------------------

    def _set(self, **changes: Any) -> None:
        self.session.try_(set_prefabs, self.names, **changes)
        self.refresh()

    def _rename(self, new: str) -> None:
        old = self.name
        if new and new != old and len(self.names) == 1:
            self.names = [new]  # the desk follows before the change is heard of
            if not self.session.try_(rename_item, "prefabs", old, new):
                self.names = [old]
        self.refresh()

    def _copy(self) -> None:
        edit, name = copied_prefab(self.session.project, self.name)
        self.session.apply(edit)
        self.session.prefab_asked.emit(name)

    def show_class(self, of_class: bool) -> None:
        """Show the rules of the class, or of the prefab."""
        self.of_class = of_class and bool(self.prefab and self.prefab.class_name)
        self.refresh()

    def _many(self) -> bool:
        return len(self.names) > 1 and not self.of_class

    def _rule(self, rules: tuple[PlacementRule, ...], what: str) -> None:
        self.session.try_(set_rules, self.name, rules, what, of_class=self.of_class)
        self.refresh()

    def _put(self, number: int, field: str, value: Any) -> None:
        try:
            rules = changed_rule(self.shown_rules(), number, **{field: value})
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        if self._many():
            self._change_all(self.shown_rules()[number], rules[number])
            return
        self._rule(rules, rules[number].sentence())

    def _change_all(self, old: PlacementRule | None, new: PlacementRule | None) -> None:
        self.session.try_(change_rule, self.names, old, new)
        self.refresh()

    def _move(self, number: int, to: int) -> None:
        if self._many():
            self.session.said.emit("The order of rules is set one prefab at a time")
            return
        self._rule(moved_rule(self.shown_rules(), number, to), "order of its rules")

    def _remove(self, number: int) -> None:
        rules = self.shown_rules()
        if self._many():
            self._change_all(rules[number], None)
            return
        self._rule(without_rule(rules, number), f"no longer {rules[number].sentence()}")

    def add(self, words: str) -> None:
        """Add a rule of a kind, to be set."""
        rule = NEW_RULES[words]()
        if self._many():
            self._change_all(None, rule)
            return
        self._rule((*self.shown_rules(), rule), rule.sentence())

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        self.session.changed.disconnect(self._on_changed)
        self._again.stop()
        self.map.stop()


class _Column(QWidget):
    """Between two hairlines."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, 0, self.height())
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
