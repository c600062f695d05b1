"""What is picked: things, pieces and an area of cells, and what is done to all of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.kind import About
from topion.brushes.stamp import ABOUT
from topion.edit import picked as edits
from topion.edit import picked_moves, sown
from topion.edit.picked import Picks, entry_of, with_groups
from topion.edit.picked_turns import turned
from topion.edit.picking import (
    OPTIONS,
    Option,
    all_alike,
    all_broken,
    connected_alike,
    entries_at,
    entries_in,
)
from topion.edit.pieces import Pick
from topion.errors import TopionError
from topion.grid.areas import Area
from topion.grid.ways import Way
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.model.scrap import Scrap
from topion.view.context import Context
from topion.view.hands import Hands

Over = Literal["worked layer", "all layers"]
OVER: tuple[Over, ...] = ("worked layer", "all layers")
How = Literal["new", "more", "less"]  # in place of what is picked, beside it, or out of it


@dataclass(frozen=True, eq=False)
class _Afloat:
    """What was picked and moved last: as long as nothing else happens, another move begins where
    it came from, so that what it passes over is not lost.

    picks : as they were before.  by : cells so far.  edit : in the history.
    """

    picks: Picks
    by: tuple[float, ...]
    edit: Edit


class Picking(QObject):
    """Signals: changed() when something else is picked, or picked otherwise.

    over : which layers an area of cells is picked in.  keeps_inside : strokes stay in the area.
    """

    changed = pyqtSignal()

    def __init__(self, context: Context, hands: Hands) -> None:
        super().__init__()
        self._context, self._hands = context, hands
        self.entries: tuple[Pick, ...] = ()
        self.area: Area | None = None
        self.over: Over = "worked layer"
        self.keeps_inside = False
        self.option: Option = "lasso"
        self.pointing: Callable[[Pick], object] | None = None  # is told of the next one instead
        self._afloat: _Afloat | None = None

    def forget(self) -> None:
        """Nothing is picked; nobody is told yet."""
        self.entries, self.area = (), None

    # --- what is picked -------------------------------------------------------------------

    def picks(self) -> Picks:
        """All of it that is there."""
        if not self._context.has_room:
            return Picks()
        room = self._context.room
        entries = tuple(pick for pick in self.entries if entry_of(room, pick) is not None)
        return Picks(entries, self.area, self.layers())

    def layers(self) -> tuple[str, ...]:
        """The layers whose cells an area means."""
        room = self._context.room
        if self.over == "all layers":
            shown = (i for i, layer in room.drawn() if layer.info.shown)
            return (*shown, *((room.info.tint,) if room.worn_tint is not None else ()))
        worked = room.layers.get(self._context.layer_id)
        if worked is not None and worked.info.traits.planes:
            return (self._context.layer_id,)
        return tuple(i for i, _ in room.cell_layers()[-1:])

    def things(self) -> list[tuple[Pick, Thing]]:
        """The things among it, in the order of picking."""
        if not self._context.has_room:
            return []
        room = self._context.room
        found = ((pick, entry_of(room, pick)) for pick in self.entries)
        return [(pick, entry) for pick, entry in found if isinstance(entry, Thing)]

    def lit_prefabs(self) -> frozenset[str]:
        """The prefabs whose instances light up."""
        return frozenset(thing.prefab for _, thing in self.things())

    def __bool__(self) -> bool:
        return bool(self.picks())

    def pick(self, entries: Iterable[Pick] = (), area: Area | None = None) -> None:
        """Pick these and nothing else; without an area, the last one's layer is worked on."""
        self.entries = tuple(dict.fromkeys(entries))
        self.area = area if area else None
        self._afloat = None
        if self.entries and self.area is None:
            self._context.layer_id = self.entries[-1].layer
        self.changed.emit()

    def take(self, entries: Iterable[Pick], area: Area | None, how: How) -> None:
        """Pick these instead, besides, or no longer; with all that is grouped with them."""
        entries = tuple(entries)
        if self.pointing is not None and entries:
            pointing, self.pointing = self.pointing, None
            pointing(entries[0])
            return
        entries = with_groups(self._context.room, entries)
        if how == "new":
            self.pick(entries, area)
        elif how == "more":
            both = area.with_(self.area) if area and self.area else area or self.area
            self.pick((*self.entries, *entries), both)
        else:
            gone = set(entries)
            rest = self.area.without(area) if self.area and area else self.area
            self.pick((pick for pick in self.entries if pick not in gone), rest)

    def shift_area(self, by: tuple[int, ...]) -> None:
        """The room grew before its first cell: the area lies so many cells further."""
        if self.area is not None:
            self.area = self.area.shifted(by)
            self.changed.emit()

    # --- by pointing ----------------------------------------------------------------------

    def here(self, cell: tuple[int, ...]) -> list[Pick]:
        """Things and pieces of a cell, uppermost first."""
        return list(entries_at(self._context.project, self._context.room, cell))

    def take_sown(self, cells: list[tuple[int, ...]]) -> list[Pick]:
        """Hold what a field sows in the first of some cells that has any, so that it can be
        picked; nothing where none does."""
        context = self._context
        found = sown.sown_at(context.project, context.room, *cells)
        if found is None:
            return []
        layer_id, thing = found
        edit, picks = sown.held(context.project, context.room_name, layer_id, [thing])
        if not context.apply(edit):
            return []
        context.said.emit(f"Held {thing.prefab}: it stays where you put it; Del bans its place")
        return list(picks)

    def holds(self, cell: tuple[int, ...]) -> bool:
        """Whether a cell belongs to the area."""
        return self.area is not None and bool(self.area.holds(np.array([cell]))[0])

    def next_option(self) -> None:
        """Another way of picking."""
        self.use(self.options()[(self.options().index(self.option) + 1) % len(self.options())])

    def options(self) -> tuple[Option, ...]:
        """The ways of picking in this kind of room."""
        deep = self._context.has_room and self._context.room.info.axes == 3
        return tuple(option for option in OPTIONS if not (deep and option == "lasso"))

    def use(self, option: Option) -> None:
        """Pick in that way."""
        self.option = option
        self.changed.emit()

    def way(self) -> Option:
        """The way of picking in use: of space, boxes instead of ways drawn round."""
        return self.option if self.option in self.options() else "box"

    def set_over(self, over: Over) -> None:
        """Which layers an area means."""
        self.over = over
        self.changed.emit()

    def keep_inside(self, keeps: bool) -> None:
        """Whether strokes stay in the area."""
        self.keeps_inside = keeps
        self.changed.emit()

    def inside(self) -> Area | None:
        """The area that strokes have to stay in."""
        return self.area if self.keeps_inside else None

    def take_area(self, area: Area, how: How) -> None:
        """Pick the cells of an area, and the things and pieces that lie in it."""
        area = area.clipped(self._context.room.box)
        entries = entries_in(self._context.project, self._context.room, area)
        self.take(entries, area or None, how)

    def take_alike(self, cell: tuple[int, ...], here: list[Pick], how: How) -> None:
        """What is alike to what lies in the cell, as the option has it.  here : the things and
        pieces that are seen there."""
        project, room, way = self._context.project, self._context.room, self.way()
        if way == "broken":
            self.take(all_broken(project, room), None, how)
        elif way == "alike":
            layer_id = next(iter(self.layers()), "")
            self.take((), connected_alike(project, room, layer_id, cell), how)
        else:
            self.take(all_alike(project, room, way, here[0]) if here else (), None, how)

    def pick_next(self, here: list[Pick]) -> bool:
        """Of those in a row, the one behind what is picked; the first behind the last."""
        if not here:
            return False
        at = max((here.index(pick) for pick in self.entries if pick in here), default=-1)
        self.pick([here[(at + 1) % len(here)]])
        return True

    # --- what is done to it ---------------------------------------------------------------

    def step(self) -> float:
        """Cells by which a key moves it: parts of a cell where there are only things."""
        only_things = self.area is None and len(self.things()) == len(self.entries)
        return 1 / self._hands.cell_parts if only_things else 1.0

    def snapped(self, by: tuple[float, ...]) -> tuple[float, ...]:
        """A way in whole steps."""
        step = self.step()
        return tuple(round(round(v / step) * step, 6) for v in by)

    def plan_move(self, by: tuple[float, ...], *, copies: bool, seats: bool = True) -> Edit | None:
        """What dragging it would do.  seats : things alone come to stand on what carries."""
        context, picks = self._context, self.picks()
        named = {"override": self._hands.overriding}
        try:
            if copies:
                return picked_moves.duplicated(
                    context.project, context.room_name, picks, by, **named
                )[0]
            alone = seats and self.area is None
            return picked_moves.moved(
                context.project, context.room_name, picks, by, seats=alone, **named
            )
        except TopionError:
            return None

    def move(
        self, by: tuple[float, ...], *, key: object = None, seats: bool = False, asks: bool = True
    ) -> bool:
        """Move it by cells; what an area passes over on its way is not lost.

        asks : whether rules are asked; a step of a key asks none, and the survey tells."""
        picks, afloat = self.picks(), self._afloat
        if not picks:
            return False
        history = self._context.handle.history
        whole = by
        if afloat is not None and picks.area and history.edits[: history.at][-1:] == [afloat.edit]:
            picks, whole = afloat.picks, tuple(a + b for a, b in zip(afloat.by, by, strict=True))
            history.jump(history.at - 1)
            key = None
        if any(whole):
            done = self._context.try_(
                picked_moves.moved, self._context.room_name, picks, whole,
                override=self._hands.overriding, seats=seats, asks=asks, key=key
            )  # fmt: skip
        else:
            done = True
        if done and picks.area is not None:
            steps = tuple(round(v) for v in by)
            self.area = self.area.shifted(steps) if self.area else None
            last = history.edits[history.at - 1] if history.at else None
            self._afloat = _Afloat(picks, whole, last) if last and any(whole) else None
        self.changed.emit()
        return True

    def nudge(self, by: tuple[int, ...]) -> bool:
        """Move it by steps; False without any."""
        if not self:
            return False
        step = self.step()
        steps = tuple(round(v * step, 6) for v in by)
        return self.move(steps, key=("nudge", self.entries), asks=False)

    def remove(self) -> None:
        """Take it away."""
        if self._do(edits.removed):
            self.pick()

    def duplicate(self, by: tuple[float, ...] = (), *, override: bool = False) -> None:
        """A copy beside it, which is picked then."""
        context, picks = self._context, self.picks()
        if not picks:
            return
        context.did.emit("copied")
        by = by or (0.0,) * (context.room.info.axes - 2) + (1.0, 1.0)
        try:
            edit, fresh = picked_moves.duplicated(
                context.project, context.room_name, picks, by,
                override=override or self._hands.overriding,
            )  # fmt: skip
        except TopionError as problem:
            context.said.emit(str(problem))
            return
        if context.apply(edit):
            if edit.refused:
                context.said.emit(f"{edit.label}: {edit.refused[0]}")
            self.pick(fresh.entries, fresh.area)

    def turn(self, way: Way) -> bool:
        """Turn or mirror it; False without any."""
        context, picks = self._context, self.picks()
        if not picks:
            return False
        try:
            edit, after = turned(context.project, context.room_name, picks, way,
                                 override=self._hands.overriding)  # fmt: skip
        except TopionError as problem:
            context.said.emit(str(problem))
            return True
        if context.apply(edit):
            if edit.refused:
                context.said.emit(f"{edit.label}: {edit.refused[0]}")
            self.pick(after.entries, after.area)
        return True

    def turn_about(self, axis: About) -> bool:
        """A quarter about an axis of the room; False without any."""
        axes = self._context.room.info.axes if self._context.has_room else 2
        return self.turn(Way(axes, ABOUT[axis] if axes == 3 else 1))

    def mirror(self) -> bool:
        """West and east change places; False without any."""
        axes = self._context.room.info.axes if self._context.has_room else 2
        return self.turn(Way(axes, 0, True))

    def snap(self) -> None:
        """Things of it onto whole cells, or the parts of cells in use; as one Edit."""
        self._do(edits.snapped, self._hands.cell_parts)

    def group(self) -> None:
        """One group round it."""
        self._do(edits.grouped)

    def ungroup(self) -> None:
        """Its outermost groups are no more."""
        self._do(edits.ungrouped)

    def _do(self, plan: Callable[..., Edit], *args: object) -> bool:
        picks = self.picks()
        return bool(picks) and self._context.try_(plan, self._context.room_name, picks, *args)

    def scrap(self) -> Scrap | None:
        """It as a scrap; says so where there is none."""
        try:
            found = edits.scrap_of(self._context.project, self._context.room_name, self.picks())
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return None
        if found is None:
            self._context.said.emit("Nothing is picked: press S and draw round it")
        return found
