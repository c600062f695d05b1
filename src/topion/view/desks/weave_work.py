"""What a weave desk works on: a brush with rules, the rule that is chosen, and what rules do."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import Any, cast

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.brushes import Inlay
from topion.brushes.grounds import OWN, Ruled
from topion.brushes.kind import BrushKind, brush_or_none
from topion.edit.library import put_brush
from topion.errors import TopionError
from topion.grid.arrays import MaterialIds
from topion.model.layer import Layer
from topion.model.project import Project
from topion.view.desks.ground import Ground
from topion.view.session import Session
from topion.view.tasks import Step, Worker
from topion.weaving import rule_edits
from topion.weaving.compiled import CompiledBook
from topion.weaving.cover import Case, Hidden, card_of_faces, cover, hidden_rules
from topion.weaving.hits import Near, hits, near_misses, why_inlaid
from topion.weaving.looms import loom_of
from topion.weaving.ready import card_of_case, case_name
from topion.weaving.rules import Rule, RuleBook, Variant
from topion.weaving.settle import shown_materials
from topion.weaving.why import Why

_COUNTED_AT_ONCE = 60_000  # cells of a room; larger ones are counted on a thread


class WeaveWork(QObject):
    """Signals: changed() when the brush did, chosen() when another rule is looked at, counted()
    when the cells that rules lay were counted, pointed() when the pointer came elsewhere.

    rule : the number of the chosen rule, from 1; 0 for none.
    """

    changed = pyqtSignal()
    chosen = pyqtSignal()
    counted = pyqtSignal()
    pointed = pyqtSignal()

    def __init__(self, session: Session, ground: Ground) -> None:
        super().__init__()
        self.session, self.ground = session, ground
        self.rule = 1
        self.hits: Counter[tuple[str, int]] = Counter()
        self.why: Why | None = None
        self.near: list[Near] = []
        self.lit = 0  # a rule that is pointed at elsewhere
        self.named = ""  # the material that a click on a mark names
        self._counting: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self._count)
        session.changed.connect(self._refresh)
        session.room_changed.connect(self._refresh)
        ground.session.moved.connect(self._look)
        self._refresh()

    # --- what is there --------------------------------------------------------------------

    @property
    def project(self) -> Project:
        """The project that is open."""
        return self.session.project

    @property
    def brush(self) -> Ruled | None:
        """The brush; None once it was taken away."""
        return self.ground.brush

    @property
    def kind(self) -> BrushKind | None:
        """The same as a brush."""
        return cast("BrushKind | None", self.brush)

    @property
    def book(self) -> RuleBook:
        """Its rules; empty once it was taken away."""
        return self.brush.rules if self.brush is not None else RuleBook()

    @property
    def material(self) -> str:
        """What it lays."""
        return self.kind.material if self.kind is not None else ""

    @property
    def deep(self) -> bool:
        """Whether it weaves blocks."""
        return self.ground.deep

    def chosen_rule(self) -> Rule | None:
        """The rule that is looked at."""
        rules = self.book.rules
        return rules[self.rule - 1] if 0 < self.rule <= len(rules) else None

    def compiled(self) -> CompiledBook | None:
        """Its rules as rooms are woven by them."""
        if self.material not in self.project.materials:
            return None
        loom = loom_of(self.project, "blocks" if self.deep else "tiles")
        return loom.book_of(self.project.material_id(self.material))

    def cover(self) -> list[Case]:
        """What answers each case."""
        book = self.compiled()
        return cover(book) if book is not None else []

    def hidden(self) -> list[Hidden]:
        """Rules that can never fire."""
        book = self.compiled()
        return hidden_rules(book) if book is not None else []

    def others(self) -> list[str]:
        """Materials that marks may name."""
        return [name for name in self.project.materials if name != self.material]

    # --- what is changed ------------------------------------------------------------------

    def set_book(self, book: RuleBook, what: str, key: object = None) -> bool:
        """Give the brush other rules.  key : of changes that become one Edit, as of a pull."""
        if self.kind is None:
            return False
        try:
            planned = put_brush(self.project, self.kind.changed(rules=book))
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return False
        label = f"{self.kind.name}: {what}"
        return self.session.apply(replace(planned, label=label) if planned else planned, key)

    def set_rule(self, rule: Rule, what: str, key: object = None) -> bool:
        """Change the chosen rule."""
        if self.chosen_rule() is None:
            return False
        return self.set_book(rule_edits.with_rule(self.book, self.rule, rule), what, key)

    def try_rule(self, change: Any, what: str, key: object = None) -> bool:
        """Change the chosen rule by a function of it; a refusal is said."""
        rule = self.chosen_rule()
        if rule is None:
            return False
        try:
            return self.set_rule(change(rule), what, key)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return False

    def end_pull(self) -> None:
        """The next change is an Edit of its own."""
        self.session.handle.history.seal()

    def choose(self, number: int) -> None:
        """Look at a rule."""
        if number != self.rule:
            self.rule = number
            self.chosen.emit()

    def make_rule_for(self, mask: int) -> None:
        """A rule of its own for a case; or look at the one that answers it."""
        case = next((case for case in self.cover() if case.mask == mask), None)
        if case is None:
            return
        if case.by in ("own", "turned"):
            self.choose(case.number)
            return
        rule = self._rule_for(mask)
        if rule is not None:
            self.add(rule, rule_edits.first_general(self.book))

    def _rule_for(self, mask: int) -> Rule | None:
        tile = self._first_tile()
        if tile is None:
            return None
        if not self.deep:
            return Rule(case_name(mask), card_of_case(mask, whole=True), (tile,))
        level, above, below = card_of_faces(mask)
        return Rule(f"faces {mask}", level, (tile,), above=above, below=below)

    def _first_tile(self) -> Variant | None:
        """A tile to begin a rule with: that of the chosen one, or the last resort."""
        rule = self.chosen_rule() or next(iter(self.book.rules), None)
        if rule is not None:
            return Variant(rule.variants[0].tile)
        if self.book.last_resort is not None:
            return Variant(self.book.last_resort)
        self.session.said.emit("Pick a slot from the strip below first; a rule lays one tile")
        return None

    def add(self, rule: Rule, number: int) -> None:
        """Put a rule there and look at it."""
        if self.set_book(rule_edits.inserted(self.book, number, rule), f"new rule {rule.name}"):
            self.rule = number
            self.chosen.emit()

    def add_plain(self) -> None:
        """A rule that asks for nothing yet, before those that fit anywhere."""
        tile = self._first_tile()
        if tile is not None:
            number = rule_edits.first_general(self.book)
            self.add(Rule("rule", rule_edits.NO_CARD, (tile,)), number)

    def remove(self) -> None:
        """Take the chosen rule away."""
        rule = self.chosen_rule()
        if rule is not None:
            self.set_book(rule_edits.removed(self.book, self.rule), f"without rule {rule.name}")

    def duplicate(self) -> None:
        """A copy of the chosen rule behind it, which is looked at then."""
        rule = self.chosen_rule()
        if rule is not None and self.set_book(
            rule_edits.duplicated(self.book, self.rule), f"rule {rule.name} twice"
        ):
            self.choose(self.rule + 1)

    def move(self, number: int, to: int) -> None:
        """Give a rule another place in the order."""
        to = max(1, min(len(self.book.rules), to))
        if number == to or not 0 < number <= len(self.book.rules):
            return
        name = self.book.rules[number - 1].name
        if self.set_book(rule_edits.moved(self.book, number, to), f"rule {name} moved to {to}"):
            self.rule = to
            self.chosen.emit()

    # --- what rules do --------------------------------------------------------------------

    def light(self, number: int) -> None:
        """A rule is pointed at in the cover; 0 for none."""
        if number != self.lit:
            self.lit = number
            self.pointed.emit()

    def _refresh(self, dirty: object = None) -> None:
        self.rule = max(0, min(self.rule, len(self.book.rules)))
        if not self.named or self.named not in self.others():
            self.named = next(iter(self.others()), "")
        self._soon.start()
        self.changed.emit()

    def _layers(self) -> list[Layer]:
        """Of the worked room that its cells may lie in."""
        if not self.session.has_room:
            return []
        kind = "blocks" if self.deep else "tiles"
        return [layer for _, layer in self.session.room.bottom_up(kind)]  # type: ignore[arg-type]

    def _count(self) -> None:
        """How many cells of the worked room each rule lays."""
        book, layers = self.compiled(), self._layers()
        if book is None or not layers:
            self._counted(Counter())
            return
        number = self.project.material_id(self.material)
        if sum(layer.plane("material").size for layer in layers) <= _COUNTED_AT_ONCE:
            total: Counter[tuple[str, int]] = Counter()
            for layer in layers:
                shown = shown_materials(self.project, layer)
                total += hits(book, shown, number, inlay=self._inlay(layer))
            self._counted(total)
            return
        if self._counting is not None:
            self._counting.let_go()
        frozen, room = self.project.frozen(), self.session.room_name
        kind = "blocks" if self.deep else "tiles"

        def work(step: Step) -> Counter[tuple[str, int]]:
            total: Counter[tuple[str, int]] = Counter()
            for _, layer in frozen.room(room).bottom_up(kind):  # type: ignore[arg-type]
                materials = shown_materials(frozen, layer)
                inlay = self._inlay(layer)
                total += hits(book, materials, number, lambda: step("counting"), inlay)
            return total

        worker = self._counting = Worker(work, "Counting")
        worker.finished.connect(lambda: self._take_count(worker))
        worker.begin()

    def _take_count(self, worker: Worker) -> None:
        if worker is self._counting and isinstance(worker.result, Counter):
            self._counted(worker.result)

    def _counted(self, found: Counter[tuple[str, int]]) -> None:
        self.hits = found
        self.counted.emit()

    def _inlay(self, layer: Layer) -> MaterialIds | None:
        """The second materials of a layer, where the brush lays such."""
        return layer.plane("inlay") if isinstance(self.kind, Inlay) else None

    def cells_of(self, number: int) -> int:
        """How many cells of the worked room a rule lays."""
        return self.hits[self.material, number]

    def _look(self) -> None:
        """What fires where the pointer is on the ground, and what came close."""
        cell, session = self.ground.session.cursor, self.ground.session
        self.why, self.near = None, []
        if cell is not None and session.has_room:
            self._look_in(session.project, session.room.layers[OWN], cell)
        self.pointed.emit()

    def look_in_room(self) -> None:
        """The same for the pointer in the worked room."""
        cell = self.session.cursor
        self.why, self.near = None, []
        for layer in reversed(self._layers()) if cell is not None else ():
            self._look_in(self.project, layer, cell)  # type: ignore[arg-type]
            if self.why is not None:
                break
        self.pointed.emit()

    def _look_in(self, project: Project, layer: Layer, cell: tuple[int, ...]) -> None:
        book = self.compiled()
        materials = shown_materials(project, layer)
        inlay = self._inlay(layer)
        own = materials if inlay is None else inlay
        inside = all(0 <= v < side for v, side in zip(cell, materials.shape, strict=True))
        if book is None or not inside or int(own[cell]) != self._number(project):
            return
        if inlay is None:
            self.why = loom_of(project, layer.info.kind).why(materials, *cell)
        else:
            self.why = why_inlaid(book, self.material, materials, inlay, cell)
        self.near = near_misses(book, materials, cell, inlay=inlay)

    def _number(self, project: Project) -> int:
        known = self.material in project.materials
        return project.material_id(self.material) if known else -1


def ruled_brush(project: Project, name: str) -> bool:
    """Whether a brush has rules that a desk shows."""
    return isinstance(brush_or_none(project, name), Ruled)
