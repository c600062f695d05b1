"""Tint: gives the cells of the worn tint map a foreground, a background and the bright flag."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np

from topion.brushes.kind import Hand, Setting
from topion.brushes.laying import NIB, Nib, marked_cells, rising
from topion.brushes.marks import Marks, Place
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.arrays import CellList
from topion.model.edit import Edit, Record
from topion.model.layer import Layer, LayerInfo
from topion.model.palette import MOST_TINTS
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed, item_changed
from topion.model.room import RoomInfo
from topion.model.themes import picture_source
from topion.model.typed import Colour, Name, between
from topion.weaving.settle import ref_of_tile, shown_at

AS_IS = -1  # leave what a cell has
OWN = 0  # the colours that tiles have by themselves
Number = Annotated[int, between(AS_IS, MOST_TINTS)]


@dataclass(frozen=True)
class TintBrush(Spaced):
    """fore, back : a number of the palette, OWN, or AS_IS.  In the left hand it gives the
    foreground alone, in the right the background; with `both`, either hand gives both."""

    kind: ClassVar[str] = "tint"
    bay: ClassVar[str] = "Looks"
    meets: ClassVar[bool] = True
    name: Name
    fore: Number = 1
    back: Number = AS_IS
    bright: Literal["as is", "bright", "plain"] = "as is"
    both: bool = False
    layer: str = ""
    colour: Colour = "#b9791a"
    nib: Nib = 1

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer, made = _map_for(place, self.layer)
        if layer.info.locked:
            return Edit(self.name, (), self.colour, (f"tint map {layer.info.name} is locked",))
        cells = marked_cells(place, marks, self.nib)
        if not len(cells) or not self._given():
            reason = ("it leaves foreground, background and brightness as they are",)
            return Edit(self.name, (), self.colour, () if self._given() else reason)
        flat = rising(np.asarray(np.ravel_multi_index(tuple(cells.T), layer.size), np.intp))
        before = {plane: layer.plane(plane).reshape(-1)[flat] for plane in self._given()}
        after = {plane: np.full(len(flat), value, np.uint8)
                 for plane, value in self._given().items()}  # fmt: skip
        laid = cells_changed(place.room_name, layer_id, layer.size, flat, before, after)
        label = f"{self.name} on {layer.info.name}"
        notes = self._notes(place, cells) if laid and len(layer.size) == 2 else ()
        return Edit(label, (*made, *laid) if laid else (), self.colour, notes=notes)

    def _notes(self, place: Place, cells: CellList) -> tuple[str, ...]:
        """What to say where none of the tiles that lie there takes tints."""
        project, theme = place.project, place.room.info.theme
        sets: set[str] = set()
        for _, layer in place.room.cell_layers():
            for number in np.unique(shown_at(project, layer, cells)).tolist():
                ref = ref_of_tile(project, layer, number) if number else None
                if ref is None:
                    continue
                source, _ = picture_source(project, ref.tileset, ref.slot, theme)
                if source.tones is not None:
                    return ()
                sets.add(ref.tileset)
        if not sets:
            return ("nothing lies there that could take it",)
        return (f"{' and '.join(sorted(sets))} takes no tints: make it two-tone under Looks (F5)",)

    def _given(self) -> dict[str, int]:
        """The planes that it writes, and what."""
        given = {"fore": self.fore, "back": self.back}
        found = {plane: value for plane, value in given.items() if value != AS_IS}
        return (
            found if self.bright == "as is" else {**found, "bright": int(self.bright == "bright")}
        )

    def in_hand(self, hand: Hand) -> Self:
        if self.both:
            return self
        return self.changed(back=AS_IS) if hand == "left" else self.changed(fore=AS_IS)

    def lifting(self) -> Self:
        fore, back = (value if value == AS_IS else OWN for value in (self.fore, self.back))
        return self.changed(fore=fore, back=back, bright="plain")

    def taken_at(self, place: Place, cell: tuple[int, ...]) -> Self:
        """With the colours of a cell.  Raises BadValue where there are none."""
        layer = place.room.worn_tint
        if layer is None or not place.room.box.holds(np.array([cell]))[0]:
            raise BadValue("the tint there", "none", "a cell of a tint map that is worn")
        fore, back, bright = (int(layer.plane(p)[cell]) for p in ("fore", "back", "bright"))
        return self.changed(fore=fore, back=back, bright="bright" if bright else "plain")

    def colours(self, project: Project) -> tuple[str, str]:
        """What its card shows: the foreground and the background, empty where it gives none."""
        known = {tint.number: tint for tint in project.palette}
        found = []
        for value in (self.fore, self.back):
            tint = known.get(value)
            form = tint and (tint.bright if self.bright == "bright" else tint.colour)
            found.append(form or "")
        return found[0], found[1]

    def summary(self) -> str:
        words = {AS_IS: "as is", OWN: "own"}
        both = " / ".join(words.get(value, str(value)) for value in (self.fore, self.back))
        return f"tint · {both}{' · bright' if self.bright == 'bright' else ''}"

    def said(self) -> str:
        if self.both:
            return "tint · both hands give both"
        return "tint · left: foreground, right: background"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("fore", "Foreground", "tint", hint="What light or masked pixels become"),
            Setting("back", "Background", "tint", hint="What the others become"),
            Setting("bright", "Bright", "choice", choices=("as is", "bright", "plain"),
                    hint="The bright form of both colours"),
            Setting("both", "Both", "switch",
                    hint="Either hand gives foreground and background at once"),
            NIB,
            PITCH,
            RATE,
        )  # fmt: skip


def _map_for(place: Place, home: str) -> tuple[str, Layer, tuple[Record, ...]]:
    """The tint map a stroke goes to: the one that is worn, else one of that name, else the
    topmost; without any, a new one, with the records that make it.  One that is not worn is put
    on by the stroke."""
    room, info = place.room, place.room.info
    if room.worn_tint is not None:
        return info.tint, room.worn_tint, ()
    maps = room.tint_maps()
    named = [(layer_id, layer) for layer_id, layer in maps if home and layer.info.name == home]
    if maps:
        layer_id, layer = (named or maps)[-1]
        return layer_id, layer, (_worn(place.room_name, info, layer_id),)
    fresh = LayerInfo(home or "Tints", "tints")
    layer_id = room.new_layer_id(fresh.name)
    records = (
        ItemRecord(("layers", place.room_name, layer_id), None, fresh),
        ItemRecord(("order", place.room_name), room.order, (*room.order, layer_id)),
        _worn(place.room_name, info, layer_id),
    )
    return layer_id, Layer.empty(fresh, info.size, info.origin), records


def _worn(room_name: str, info: RoomInfo, layer_id: str) -> Record:
    return item_changed(("rooms", room_name), info, replace(info, tint=layer_id))
