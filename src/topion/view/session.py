"""What a window is working on: project and room, hands, gesture, work plane, what is picked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, cast

import numpy as np

from topion.brushes.along import marks_along
from topion.brushes.drawn import Drawn
from topion.brushes.gestures import Gesture
from topion.brushes.kind import BrushKind
from topion.brushes.marks import Marks, Place
from topion.edit import rooms
from topion.edit.growing import planned
from topion.edit.library import free_name
from topion.edit.warm import slices
from topion.errors import TopionError
from topion.grid.arrays import Positions
from topion.model.edit import Dirty, Edit
from topion.model.project import Project
from topion.scripting import ProjectHandle, Saving
from topion.things.field import Sows
from topion.things.ground import Ground
from topion.things.kept_out import kept_out
from topion.things.verdict import Verdict, verdict
from topion.view import settings
from topion.view.ahead import Ahead
from topion.view.context import Context
from topion.view.curves import PickedCurves
from topion.view.gestures import Gestures
from topion.view.hands import Hand, Hands
from topion.view.keeper import Keeper
from topion.view.picked import Picked
from topion.view.picking import Picking
from topion.view.pieces import PickedPieces
from topion.view.planes import Planes
from topion.view.warmth import Warmth

MOST_CELLS_AT_ONCE = 300_000  # written on the GUI thread; more goes to another one
MOST_RECORDS_AT_ONCE = 160  # of one Edit that are written in a turn of the event loop


class Session(Context):
    """A Context with its parts.  Signals: see Context."""

    def __init__(
        self,
        handle: ProjectHandle,
        keeper: Keeper | None = None,
        gestures: Gestures | None = None,
    ) -> None:
        """keeper : of that project, where it was begun on a thread.  gestures : of another session,
        if both have the same."""
        super().__init__(handle)
        self.ahead = Ahead()
        self.hands = Hands(self)
        self.gestures = gestures or Gestures()
        self.planes = Planes(self, self.hands, self.gestures)
        self.picking = Picking(self, self.hands)
        self.picked = Picked(self, self.picking)
        self.pieces = PickedPieces(self, self.picking)
        self.curves = PickedCurves(self, self.picking, self.hands)
        self.keeper = keeper or Keeper(handle)
        self.pressures = np.ones(0)  # of the pen, at each point of the stroke in progress
        self.slice_s = 0.0  # a stroke that lasts longer becomes several Edits; 0 for one
        self.warm = Warmth(self, self.hands, self.gestures)
        self.warm_put = lambda brush: self.warm.put(cast(BrushKind, brush))
        self.lets = self._lets_walls_in
        self._kept: tuple[Edit, str] | None = None  # see kept_words
        self._origins: dict[str, tuple[int, ...]] = {}  # of rooms, as they were seen last
        self._shown = self.room if self.has_room else None
        self._follow_origin()
        self.ahead.want(b.field for b in handle.data.brushes.values() if isinstance(b, Sows))
        handle.history.listeners.append(self._tell)
        self.hands.recall()

    def _lets_walls_in(self, edit: Edit, project: Project) -> bool:
        """Whether no thing of a project keeps the cells into which the Edit would lay a wall; it is
        said which, or asked."""
        found = [] if self.hands.overriding else kept_out(project, edit)
        if found and found[0].walls == "refused":
            self.said.emit(f"{edit.label}: {found[0].told()}; hold O to lay it all the same")
            return False
        return not found or self.asks(f"{found[0].told()}. Lay it there all the same?")

    def kept_words(self, edit: Edit | None) -> str:
        """Which thing keeps a cell into which the Edit would lay a wall, for the ghost; empty for
        none."""
        if edit is None or self.hands.overriding:
            return ""
        if self._kept is None or self._kept[0] is not edit:
            found = kept_out(self.project, edit)
            after = "hold O" if found and found[0].walls == "refused" else "it asks first"
            self._kept = edit, f"{found[0].told()} · {after}" if found else ""
        return self._kept[1]

    def saved(self, saving: Saving) -> None:
        """The project was written to its folder."""
        before = self.handle.folder
        self.handle.saved(saving)
        self.keeper.saved(saving, before)
        self.changed.emit(())

    def close(self) -> None:
        """Hear no more of the project."""
        self.ahead.stop()
        self.keeper.close()
        if self._tell in self.handle.history.listeners:
            self.handle.history.listeners.remove(self._tell)

    def _tell(self, dirty: tuple[Dirty, ...]) -> None:
        if not self.has_room and not self._follow_name():
            self.open_room(next(iter(self.project.rooms), ""))
        self._follow_origin()
        if self.has_room:
            self._shown = self.room
        self.changed.emit(dirty)
        if self.hands.has_lost():
            self.hands.recall()

    def _follow_name(self) -> bool:
        """The room that is shown got another name; False where it is gone."""
        for name in self.project.rooms:
            if self._shown is not None and self.project.rooms.peek(name) is self._shown:
                self.room_name = name
                return True
        return False

    def _follow_origin(self) -> None:
        """What is picked and where mirrors stand moves with a room that grows before its first
        cell."""
        if not self.has_room:
            return
        room = self.room
        origin = room.info.origin or (0,) * room.info.axes
        known = self._origins.setdefault(self.room_name, origin)
        self._origins[self.room_name] = origin
        shift = tuple(a - b for a, b in zip(known, origin, strict=True))
        if any(shift):
            self.picking.shift_area(shift)
            self.planes.shift(shift)

    def open_room(self, name: str) -> None:
        """Show another room; one that cannot be read is said, and the old one stays."""
        if not self.reads_room(name):
            return
        self.hands.keep()
        self.room_name, self.layer_id, self.cursor = name, "", None
        self._shown = self.room if self.has_room else None
        self._origins.pop(name, None)
        self._follow_origin()
        self.picking.forget()  # who hears of the other room must not find what was picked here
        self.hands.recall()
        self.room_changed.emit()
        self.picked.pick(None)

    def reads_room(self, name: str) -> bool:
        """Read a room that was not in use yet, on a thread; False where it cannot be read."""
        known = self.project.rooms
        if name not in known or known.peek(name) is not None:
            return True
        if self.aside is not None:
            return (
                self.aside(f"Opening {name}", lambda step: self.handle.ready_room(name)) is not None
            )
        try:
            return self.handle.ready_room(name) is not None
        except TopionError as problem:
            self.said.emit(str(problem))
            return False

    def next_surface(self) -> None:
        """What the shown hand places is held by the next surface that carries it at the pointer:
        floor, walls, ceiling."""
        if not self.has_room:
            return
        cell = self.cursor or tuple(side // 2 for side in self.room.info.size)
        self.hands.change(lambda brush: brush.held_by_next(self._place(), cell))

    def take_colours(self, hand: Hand, cell: tuple[int, ...]) -> bool:
        """Let the brush of a hand be as what lies in a cell; False for brushes that cannot."""
        brush = self.hands.brush(hand)
        try:
            found = brush.taken_at(self._place(), cell) if brush is not None else None
        except TopionError as problem:
            self.said.emit(str(problem))
            return True
        if found is not None:
            self.put(found)
        return found is not None

    # --- the room as a whole --------------------------------------------------------------

    def duplicate_room(self) -> None:
        """The same room once more, which is shown then."""
        name = free_name(self.room_name, self.project.rooms)
        if self.try_(rooms.duplicate_room, self.room_name, name):
            self.open_room(name)

    def remove_room(self) -> None:
        """Take the room away; undo brings it back."""
        name = self.room_name
        if self.try_(rooms.remove_room, name):
            self.said.emit(f"Removed {name}; Ctrl+Z brings it back")

    def clear_layer(self) -> None:
        """Nothing lies in the layer worked on any more."""
        if self.layer_id in self.room.layers:
            self.try_(rooms.clear_layer, self.room_name, self.layer_id)
        else:
            self.said.emit("Choose a layer in the stack first")

    def clear_room(self) -> None:
        """Nothing lies in the room any more."""
        self.try_(rooms.clear_room, self.room_name)

    # --- strokes --------------------------------------------------------------------------

    def plan(self, hand: Hand, points: Positions, gesture: Gesture | None = None) -> Edit | None:
        """What the hand would lay along the pointer's way; None without a brush or room."""
        return self._plan_on(self._place(), hand, points, gesture or self.gestures.now)

    def _plan_on(
        self, place: Place, hand: Hand, points: Positions, gesture: Gesture
    ) -> Edit | None:
        marks = self.marks(hand, points, gesture, place)
        return None if marks is None else self.plan_marks(hand, marks, place)

    def marks(
        self, hand: Hand, points: Positions, gesture: Gesture, place: Place | None = None
    ) -> Marks | None:
        """The cells that the gesture marks for the brush of that hand."""
        brush, drawn = self.hands.in_hand(hand), self.drawn(hand, points, gesture)
        return (
            None if brush is None or drawn is None else drawn.marks(place or self._place(), brush)
        )

    def drawn(self, hand: Hand, points: Positions, gesture: Gesture) -> Drawn | None:
        """The stroke as it is drawn in this room; None where it cannot be."""
        if not self.has_room or points.shape[-1] != self.room.info.axes:
            return None
        if self.room.info.axes == 3:
            gesture = replace(gesture, across=self.planes.across(hand, gesture.kind))
        mirrors = tuple(self.planes.here.mirrors())
        within, overriding = self.picking.inside(), self.hands.overriding
        pressures = self.pressures if len(self.pressures) == len(points) else None
        pressing = settings.pen() if pressures is not None else "nothing"
        return Drawn(points, gesture, mirrors, within, overriding, pressures, pressing)

    def lay(
        self, hand: Hand, points: Positions, gesture: Gesture, cuts: Sequence[int] = ()
    ) -> None:
        """Lay a stroke, which is warm then; in slices that end after so many points."""
        drawn = self.drawn(hand, points, gesture)
        if drawn is not None:
            self._lay_drawn(hand, drawn, cuts)

    def _lay_drawn(self, hand: Hand, drawn: Drawn, cuts: Sequence[int] = ()) -> None:
        form = self.hands.form(hand, lifting=self.hands.lifting)
        brush = self.hands.in_hand(hand)
        if brush is None:
            return
        place, history = self._place(), self.handle.history

        def plan(part: Drawn) -> Edit:
            found = self.plan_marks(hand, part.marks(place, brush), place)
            return Edit(brush.name) if found is None else found

        at, given = history.at, self.room.highest_given
        edit = plan(drawn)
        done = [self.apply(part) for part in (slices(plan, drawn, cuts, edit) if cuts else [edit])]
        if any(done):
            self.warm.begin(hand, drawn, form, at, given)
            self.did.emit("lifted" if self.hands.lifting else
                          "laid" if hand == "left" else "other-hand")  # fmt: skip
            if drawn.gesture.kind in ("box", "curve"):
                self.did.emit("gesture" if drawn.gesture.kind == "box" else "curve")

    def lay_along(self, hand: Hand = "left") -> None:
        """Lay the brush of a hand along the curve that is picked."""
        first, brush = self.curves.first(), self.hands.in_hand(hand)
        if first is not None and brush is not None:
            edit = self.plan_marks(hand, marks_along(self._place(), first[1], brush))
            if edit is not None:
                self.apply(replace(edit, label=f"{edit.label} along curve"))

    def lay_again_elsewhere(self) -> None:
        """The last stroke once more, where the pointer is."""
        self.warm.elsewhere(self.cursor, self._lay_drawn)

    def plan_marks(self, hand: Hand, marks: Marks, place: Place | None = None) -> Edit | None:
        """What the hand would lay on these marks; a refusal comes as an empty Edit."""
        brush = self.hands.in_hand(hand)
        if brush is None or not self.has_room:
            return None
        try:
            return planned(brush, place or self._place(), marks)
        except TopionError as problem:
            return Edit(brush.name, (), brush.colour, (str(problem),))

    def _place(self) -> Place:
        return Place(self.project, self.room_name, self.layer_id)

    def _frozen_place(self) -> Place:
        """For a thread."""
        return Place(self.project.frozen(), self.room_name, self.layer_id)

    def verdict_at(self, hand: Hand, points: Positions) -> Verdict | None:
        """May what that hand places stand at the (1, axes) position?  None for brushes that
        place nothing there."""
        brush = self.hands.in_hand(hand)
        if brush is None or not self.has_room:
            return None
        marks = replace(Gesture("drag").marks(points, None), override=self.hands.overriding)
        try:
            spots = brush.spots(self._place(), marks)
        except TopionError:  # its prefab is not there; planning says so
            return None
        return None if spots is None else verdict(Ground(self.project, self.room), spots)

    def lay_aside(self, hand: Hand, points: Positions, gesture: Gesture) -> None:
        """Plan a large stroke off the GUI thread, on the project as it is now, and lay it."""

        def plan(place: Place) -> Edit | None:
            return self._plan_on(place, hand, points, gesture)

        self.do_aside("Laying a large stroke", plan)

    def do_aside(self, title: str, plan: Callable[[Place], Edit | None]) -> None:
        """Plan a large Edit off the GUI thread, on the project as it is now, and apply it."""
        history = self.handle.history
        if self.aside is None or not self.has_room:
            self.apply(plan(self._place()))
            return
        place, moment = self._frozen_place(), history.moment()

        def work(step: Callable[[str], None]) -> tuple[Edit, Edit] | None:
            step("planning")
            edit = plan(place)
            step("packing")
            if edit is None:
                return None
            kept = edit.sealed()
            self.keeper.prepare(kept)
            return edit, kept

        found = self.aside(title, work)
        if found is None:
            return
        if history.place_of(moment) != history.at:
            self.said.emit("Something else was changed meanwhile, so nothing was laid")
        elif len(found[0].records) > MOST_RECORDS_AT_ONCE:
            self._apply_by_parts(title, *found)
        else:
            self.apply(found[0], kept=found[1])

    def _apply_by_parts(self, title: str, edit: Edit, kept: Edit) -> None:
        """Put an Edit of very many records on without holding the window up; it can be stopped."""
        workers: list[Any] = []
        parts = self.handle.history.apply_by_parts(edit, kept, MOST_RECORDS_AT_ONCE)

        def work(step: Callable[[str], None]) -> None:
            on: list[int | None] = [0]
            try:
                while on[-1] is not None:
                    step(f"{on[-1]:,} of {len(edit.records):,}")
                    workers[0].on_gui(lambda: on.append(next(parts, None)))
            finally:
                workers[0].on_gui(parts.close)  # type: ignore[attr-defined]

        assert self.aside is not None
        self.aside(title, work, workers.append)

    # --- the playhead ---------------------------------------------------------------------

    def ask_desk_of_picked(self) -> bool:
        """Ask for the desk of what is picked: of its prefab, or of its brush; False for nothing."""
        things, brush = self.picking.things(), self.picked.brush()
        if things:
            self.prefabs_asked.emit(tuple(dict.fromkeys(thing.prefab for _, thing in things)))
        elif brush:
            self.desk_asked.emit(brush)
        return bool(things or brush)

    def undo(self) -> None:
        """Take the last stroke back; says so if there is none."""
        if not self.jump(self.handle.history.at - 1):
            self.said.emit("Nothing to undo")

    def redo(self) -> None:
        """Lay the stroke again that was taken back."""
        if not self.jump(self.handle.history.at + 1):
            self.said.emit("Nothing to redo")

    def _jump_aside(self, at: int) -> None:
        """Stroke by stroke: unpacked on a thread, written on this one; it can be stopped."""
        history, workers = self.handle.history, []  # type: ignore[var-annotated]
        way = history.way_to(at)

        def work(step: Callable[[str], None]) -> None:
            for number, edit in enumerate(way, 1):
                step(f"{number} of {len(way)}")
                loose = edit.unpacked()
                workers[0].on_gui(lambda loose=loose: history.step_to(at, loose))

        assert self.aside is not None
        self.aside("Moving along the strokes", work, workers.append)

    def jump(self, at: int) -> bool:
        """Move the playhead; a refusal is said and counts as done."""
        history = self.handle.history
        if self.aside is not None and history.cells_between(at) > MOST_CELLS_AT_ONCE:
            self._jump_aside(at)
            return True
        try:
            return history.jump(at)
        except TopionError as problem:
            self.said.emit(str(problem))
            return True
