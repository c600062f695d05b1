"""What is asked for in the panel, worked out as it is typed, and shown as the ghost."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.arrange.arranging import MOST_COPIES, Arranged, Arrangement, arrange, arranged
from topion.arrange.examples import ALONG, EXAMPLES, About
from topion.arrange.stand_ins import stand_ins
from topion.arrange.units import properties_of, units_of
from topion.edit.handling import middle_of
from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.view.session import Session
from topion.view.tasks import Step, Worker

_AT_ONCE = 250  # units that are worked out on the GUI thread
_SOON_MS = 20
_LARGEST_SEED = 1 << 30


class ArrangeWork(QObject):
    """asked : the rows, copies and seed.  found : what comes of it; None for nothing picked.
    all_the_same : refused ones go, too.  Signals: changed() when it is another one."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.asked = Arrangement({})
        self.found: Arranged | None = None
        self.all_the_same = False
        self.on = False
        self._worker: Worker | None = None
        self._again = False  # something changed while it worked
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._work)

    def things(self) -> dict[Pick, Thing]:
        """What is picked to be arranged: things and pieces, or else points of a curve."""
        session = self.session
        if not session.has_room:
            return {}
        things = dict(session.picking.things())
        first = session.curves.first()
        points = session.curves.chosen() if not things else ()
        others = stand_ins(session.room, session.picking.entries, first[0] if first else None,
                           points)  # fmt: skip
        return {**things, **others}

    @property
    def count(self) -> int:
        """How many units are picked; groups count as one."""
        return len(units_of(self.things()))

    @property
    def curve(self) -> Pick | None:
        """The curve that is picked beside them."""
        first = self.session.curves.first()
        return first[0] if first is not None else None

    def properties(self) -> list[str]:
        """What can be arranged of what is picked."""
        session = self.session
        units = units_of(self.things())
        axes = session.room.info.axes if session.has_room else 2
        return properties_of(session.project, units, axes)

    # --- what is asked --------------------------------------------------------------------

    def begin(self) -> None:
        """The panel is shown."""
        self.on = True
        self._soon.start()

    def ask(self, name: str, text: str) -> None:
        """The expression of a property."""
        rows = {**self.asked.rows, name: text}
        self.asked = replace(self.asked, rows={n: t for n, t in rows.items() if t.strip()})
        self._soon.start()

    def set_copies(self, count: int) -> None:
        """How many there shall be before anything is arranged; 0 for none more."""
        self.asked = replace(self.asked, copies=max(0, min(MOST_COPIES, count)))
        self._soon.start()

    def roll(self) -> None:
        """Other chances."""
        self.asked = replace(self.asked, seed=self.asked.seed % _LARGEST_SEED + 1)
        self._soon.start()

    def take_example(self, name: str) -> None:
        """The rows of a ready arrangement, about the middle of what is picked."""
        things = self.things()
        if not things:
            return
        first = self.session.curves.first()
        if name == ALONG and first is None:
            self.session.said.emit("Pick a curve besides: Shift and a press on its line")
            return
        middle = middle_of(things.values(), 2)
        count = max(self.asked.copies, self.count)
        low = min(thing.z for thing in things.values()) if self._is_deep else None
        y, x = (round(v * 2) / 2 for v in middle[-2:])
        closed = first is not None and first[1].closed
        rows = EXAMPLES[name](About((y, x), count, level=low, closed=closed))
        kept = {n: t for n, t in self.asked.rows.items() if n not in ("x", "y", "z")}
        self.asked = replace(self.asked, rows={**rows, **kept})
        self._soon.start()

    @property
    def _is_deep(self) -> bool:
        return self.session.has_room and self.session.room.info.axes == 3

    def refresh(self, *_: object) -> None:
        """What is picked, or the room, may be another one."""
        if self.on:
            self._soon.start()

    # --- worked out -----------------------------------------------------------------------

    def _work(self) -> None:
        self._again = self._worker is not None
        if not self.on or self._again:
            return
        session = self.session
        things = self.things()
        if not things:
            self._show(None)
            return
        asked, name = replace(self.asked, curve=self.curve), session.room_name
        if max(len(things), asked.copies) <= _AT_ONCE:
            self._show(arranged(session.project, name, things, asked))
            return
        frozen = session.project.frozen()

        def work(step: Step) -> Arranged:
            return arranged(frozen, name, things, asked)

        self._worker = Worker(work, "Arrange")
        self._worker.finished.connect(self._came)
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker = self._worker, None
        if self._again:
            self._work()
        elif worker is not None and worker.result is not None and self.on:
            self._show(worker.result)

    def _show(self, found: Arranged | None) -> None:
        self.found = found
        session = self.session
        session.preview = None
        if found is not None and (found.values or len(found.units) > self.count):
            session.preview = arrange(session.project, session.room_name, found,
                                      all_the_same=True)  # fmt: skip
        self.changed.emit()

    # --- done -----------------------------------------------------------------------------

    def apply(self) -> bool:
        """Put it on as one Edit; not while it is still worked out."""
        if self._soon.isActive():
            self._soon.stop()
            self._work()
        if self._worker is not None:
            self.session.said.emit("Still working it out")
            return False
        found, session = self.found, self.session
        if found is None:
            return False
        edit = arrange(session.project, session.room_name, found, all_the_same=self.all_the_same)
        left = 0 if self.all_the_same else len(found.refused)
        done = bool(edit) and session.apply(edit)
        if done:
            self.asked = replace(self.asked, rows={}, copies=0)
            self._soon.start()
            if left:
                session.said.emit(f"{left} stayed: a rule refuses where they would stand")
        return done

    def end(self) -> None:
        """The panel goes away."""
        self.on = False
        self._soon.stop()
        self.asked = replace(self.asked, rows={}, copies=0)
        self.session.preview = None
        self.found = None
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
        self.changed.emit()
