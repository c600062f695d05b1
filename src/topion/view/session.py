"""What the window is working on: project, room, hands, gesture; signals at the Qt edge."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes import Lift, ThingsBrush
from topion.brushes.gestures import Gesture, GestureKind, mirrored
from topion.brushes.laying import lays_here
from topion.brushes.library import put_brush
from topion.edit.journal import Journal
from topion.edit.lock import OnlyLooking, ProjectLock
from topion.errors import TopionError
from topion.model.brush import Brush, Marks, Place
from topion.model.edit import Dirty, Edit
from topion.model.room import Room
from topion.scripting import ProjectHandle, flooded_cells
from topion.survey.at_cursor import Lying
from topion.things.ground import Ground, Spots
from topion.things.verdict import Verdict, verdict
from topion.view.work import Aim, Work

Hand = Literal["left", "right"]
MOST_CELLS_AT_ONCE = 300_000  # written on the GUI thread; more goes to another one


class Session(QObject):
    """Signals: changed(tuple of Dirty), room_changed, hands_changed, gesture_changed,
    selection_changed, cursor_moved, said(text) for messages, mode_changed for held keys,
    work_changed for the work plane, what strokes lie on, and mirrors."""

    changed = pyqtSignal(object)
    room_changed = pyqtSignal()
    hands_changed = pyqtSignal()
    gesture_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    cursor_moved = pyqtSignal()
    said = pyqtSignal(str)
    mode_changed = pyqtSignal()
    work_changed = pyqtSignal()

    def __init__(self, handle: ProjectHandle) -> None:
        super().__init__()
        self.handle = handle
        self.room_name = next(iter(handle.data.rooms), "")
        self.layer_id = ""
        self.hands: dict[Hand, str] = {"left": "", "right": ""}
        self.shown_hand: Hand = "left"
        self.gesture = Gesture()
        self.cell_parts = 1
        self._borrowed: tuple[Gesture, bool] | None = None
        self.lifting = False
        self.overriding = False
        self.selected: Lying | None = None
        self.cursor: tuple[int, ...] | None = None
        self._works: dict[str, Work] = {}  # by room
        self._hands_of_kind: dict[int, dict[Hand, str]] = {}  # by the axes of rooms
        self.aside: Callable[[str, Callable[[Any], Any]], Any] | None = None  # runs long work
        self.journal: Journal | None = None
        self._lock: ProjectLock | None = None
        self.recovered = self._start_journal()
        handle.history.listeners.append(self._tell)
        self._default_hands()

    @property
    def project(self) -> Any:
        return self.handle.data

    @property
    def room(self) -> Room:
        return self.handle.data.room(self.room_name)

    @property
    def has_room(self) -> bool:
        return self.room_name in self.handle.data.rooms

    def _start_journal(self) -> int:
        """Keep a journal of a project that has a folder; returns the strokes it brought back."""
        folder = self.handle.folder
        if folder is None:
            return 0
        if self._lock is not None:
            self._lock.release()
        self._lock = ProjectLock(folder)
        if not self._lock.take():
            self.handle.history.refusal = OnlyLooking(self.handle.name)
            return 0
        self.handle.history.refusal = None
        self.journal = Journal(self.handle.history, folder)
        return self.journal.start()

    def saved(self) -> None:
        """The project was written to its folder."""
        if self.journal is not None and self.journal.folder == self.handle.folder:
            self.journal.mark_saved()
        else:
            if self.journal is not None:
                self.journal.close()
            self._start_journal()
        self.changed.emit(())

    def close(self) -> None:
        """Hear no more of the project."""
        if self.journal is not None:
            self.journal.close()
        if self._lock is not None:
            self._lock.release()
        if self._tell in self.handle.history.listeners:
            self.handle.history.listeners.remove(self._tell)

    def _tell(self, dirty: tuple[Dirty, ...]) -> None:
        if not self.has_room:
            self.open_room(next(iter(self.handle.data.rooms), ""))
        self.changed.emit(dirty)
        known = self.handle.data.brushes
        if any(name and name not in known for name in self.hands.values()):
            self._default_hands()

    def _default_hands(self) -> None:
        names = [n for bay in self.handle.data.bays for n in bay.brushes]
        names = [n for n in names if self._can_take(n)]
        for hand, place in (("left", 0), ("right", 1)):
            if not self._can_take(self.hands[hand]):  # type: ignore[index]
                self.hands[hand] = names[place] if len(names) > place else ""  # type: ignore[index]
        self.hands_changed.emit()

    def _can_take(self, name: str) -> bool:
        """Whether there is such a brush, and this kind of room can be painted with it."""
        brush = self.handle.data.brushes.get(name)
        return brush is not None and (not self.has_room or lays_here(brush, self.room))

    # --- room, layer, hands ---------------------------------------------------------------

    def open_room(self, name: str) -> None:
        if self.has_room:
            self._hands_of_kind[self.room.info.axes] = dict(self.hands)
        self.room_name, self.layer_id, self.selected = name, "", None
        self.cursor = None
        if self.has_room:
            self.hands.update(self._hands_of_kind.get(self.room.info.axes, {}))
        self._default_hands()
        self.room_changed.emit()
        self.selection_changed.emit()

    def work_on(self, layer_id: str) -> None:
        self.layer_id = layer_id
        self.selection_changed.emit()

    def take(self, hand: Hand, brush: str) -> None:
        """Take a brush in a hand; its settings are shown."""
        self.hands[hand] = brush
        self.shown_hand = hand
        self.hands_changed.emit()

    def show_hand(self, hand: Hand) -> None:
        self.shown_hand = hand
        self.hands_changed.emit()

    def in_hand(self, hand: Hand) -> Brush | None:
        """The brush of a hand as it would lay now: lifting while that key is held."""
        brush: Brush | None = self.handle.data.brushes.get(self.hands[hand])
        if brush is None:
            return None
        if self.lifting and brush.kind != "lift":
            lift: Brush = Lift(only=brush.name, nib=getattr(brush, "nib", 1))
            return lift
        if brush.kind == "things" and self.cell_parts > 1:
            placed: Any = brush
            return replace(placed, cell_parts=self.cell_parts)
        return brush

    def set_gesture(self, gesture: Gesture) -> None:
        self.gesture = gesture
        self.gesture_changed.emit()

    def use_gesture(self, kind: GestureKind) -> None:
        self.set_gesture(replace(self.gesture, kind=kind))

    def select(self, lying: Lying | None) -> None:
        self.selected = lying
        if lying is not None:
            self.layer_id = lying.layer
        self.selection_changed.emit()

    @property
    def work(self) -> Work:
        """The work plane and mirrors of the room."""
        known = self._works.get(self.room_name)
        if known is None and self.has_room:
            height, width = self.room.info.plan
            known = Work(mirror_at=((height - 1) / 2, (width - 1) / 2))
            self._works[self.room_name] = known
        return known or Work()

    def set_work(self, **changes: Any) -> None:
        """Change the work plane (kept inside the room), what strokes lie on, or mirrors."""
        work = replace(self.work, **changes)
        if self.has_room and self.room.info.axes == 3:
            last = self.room.info.size[work.axis] - 1
            work = replace(work, level=max(0, min(last, work.level)))
        if work != self.work:
            self._works[self.room_name] = work
            self.work_changed.emit()

    def aim(self, hand: Hand) -> Aim:
        """What a stroke of that hand lies on in a voxel room.

        Where faces are pointed at, lifting and floods mean the cell behind the face; brushes
        with a soft edge always mean the ground that is seen.
        """
        brush = self.in_hand(hand)
        if hasattr(brush, "soft"):
            return "cell"
        aim = self.work.aim
        behind = self.gesture.kind == "flood" or (brush is not None and brush.kind == "lift")
        return "cell" if aim == "face" and behind else aim

    def point_at(self, cell: tuple[int, ...] | None) -> None:
        if cell != self.cursor:
            self.cursor = cell
            self.cursor_moved.emit()

    def borrow(self, kind: GestureKind) -> None:
        """A gesture's key went down: use it; after one stroke its release gives it back."""
        if self._borrowed is None:
            self._borrowed = (self.gesture, False)
        self.use_gesture(kind)

    def give_back(self) -> None:
        """The key came up: go back if a stroke was laid meanwhile, else keep the gesture."""
        if self._borrowed is not None and self._borrowed[1]:
            kind = self._borrowed[0].kind
            self._borrowed = None
            self.use_gesture(kind)
        self._borrowed = None

    def stroke_began(self) -> None:
        if self._borrowed is not None:
            self._borrowed = (self._borrowed[0], True)

    def hold(self, mode: str, held: bool) -> None:
        """The keys that lift instead, and that override refusals."""
        if getattr(self, mode) != held:
            setattr(self, mode, held)
            self.mode_changed.emit()

    def apply_aside(self, title: str, plan: Callable[[], Edit | None]) -> None:
        """Plan and apply off the GUI thread; what is refused is said."""
        history = self.handle.history

        def work(step: Callable[[str], None]) -> Edit | None:
            step("planning")
            edit = plan()
            step("laying")
            if edit is not None:
                history.apply(edit, tell=False)
            return edit

        edit = self.aside(title, work) if self.aside is not None else plan()
        if self.aside is None:
            self.apply(edit)
        elif isinstance(edit, Edit) and not edit and edit.refused:
            self.said.emit(f"{edit.label}: {edit.refused[0]}")
        history.tell_untold()

    # --- changes --------------------------------------------------------------------------

    def plan(self, hand: Hand, points: Any, gesture: Gesture | None = None) -> Edit | None:
        """What the hand would lay along the pointer's way; None without a brush or room."""
        marks = self.marks(hand, points, gesture or self.gesture)
        return None if marks is None else self.plan_marks(hand, marks)

    def marks(self, hand: Hand, points: np.ndarray, gesture: Gesture) -> Marks | None:
        """The cells that the gesture marks for the brush of that hand."""
        brush = self.in_hand(hand)
        if brush is None or not self.has_room:
            return None
        try:
            compared = flooded_cells(self._place(), brush) if gesture.kind == "flood" else None
        except TopionError:  # no layer to flood; planning says so
            compared = None
        if self.room.info.axes == 3:
            gesture = replace(gesture, across=self._across(hand, gesture))
        marks = mirrored(gesture.marks(points, compared), self.work.mirrors())
        return replace(marks, override=self.overriding)

    def _across(self, hand: Hand, gesture: Gesture) -> int | None:
        """The axis across which a stroke in a voxel room is flat."""
        if self.aim(hand) == "plane":
            return self.work.axis
        return None if gesture.kind == "flood" else 0

    def plan_marks(self, hand: Hand, marks: Marks) -> Edit | None:
        """What the hand would lay on these marks; a refusal comes as an empty Edit."""
        brush = self.in_hand(hand)
        if brush is None or not self.has_room:
            return None
        try:
            return brush.plan(self._place(), marks)
        except TopionError as problem:
            return Edit(brush.name, (), brush.colour, (str(problem),))

    def _place(self) -> Place:
        return Place(self.handle.data, self.room_name, self.layer_id)

    def verdict_at(self, hand: Hand, points: np.ndarray) -> Verdict | None:
        """May the thing in that hand stand at the (1, axes) position?  None for other brushes."""
        brush = self.in_hand(hand)
        if not isinstance(brush, ThingsBrush) or not self.has_room:
            return None
        prefab = self.handle.data.prefabs.get(brush.prefab)
        if prefab is None:
            return None
        positions = brush.positions(Gesture("drag").marks(points, None))
        turn = brush.turn_of(prefab)
        flipped = brush.mirrored_of(prefab)
        ground = Ground(self.handle.data, self.room)
        if not self.overriding:
            positions = ground.floor.seated(positions)
        return verdict(ground, Spots(prefab, positions, turn, flipped))

    def apply(self, edit: Edit | None, merge_key: object = None) -> bool:
        """Put an Edit on; says why if it was refused whole."""
        if edit is None:
            return False
        try:
            done = self.handle.history.apply(edit, merge_key)
        except TopionError as problem:  # only looking
            self.said.emit(str(problem))
            return False
        if not done and edit.refused:
            self.said.emit(f"{edit.label}: {edit.refused[0]}")
        return done

    def try_(self, plan: Any, *args: Any, **named: Any) -> bool:
        """Plan with one of the library's functions and apply; a refusal is said, not raised."""
        try:
            return self.apply(plan(self.handle.data, *args, **named))
        except TopionError as problem:
            self.said.emit(str(problem))
            return False

    def set_field(self, brush: Brush, field: str, value: Any) -> None:
        """Change one setting of a brush; pulls of one slider become one Edit."""
        try:
            known: Any = brush
            new = replace(known, **{field: value})
            self.apply(put_brush(self.handle.data, new), ("brush", brush.name, field))
        except TopionError as problem:
            self.said.emit(str(problem))

    def undo(self) -> None:
        if not self.jump(self.handle.history.at - 1):
            self.said.emit("Nothing to undo")

    def redo(self) -> None:
        if not self.jump(self.handle.history.at + 1):
            self.said.emit("Nothing to redo")

    def jump(self, at: int) -> bool:
        """Move the playhead; a refusal is said and counts as done."""
        history = self.handle.history
        if self.aside is not None and history.cells_between(at) > MOST_CELLS_AT_ONCE:
            self.aside("Moving along the strokes", lambda _: history.jump(at, tell=False))
            history.tell_untold()
            return True
        try:
            return history.jump(at)
        except TopionError as problem:
            self.said.emit(str(problem))
            return True
