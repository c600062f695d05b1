"""Curve: draws a smooth line that stays editable, and fills it with prefabs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Annotated, ClassVar, Literal

import numpy as np

from topion.brushes.following import To, followed
from topion.brushes.kind import DEEP_SCRAP, FLAT_SCRAP, BrushKind, Sample, Setting
from topion.brushes.laying import refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.stamped_entries import lies_in
from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.model.curve import Curve, CurvePart, Fill
from topion.model.edit import Edit
from topion.model.picture import Picture
from topion.model.prefab import snapped_to
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.typed import Colour, Name, Seed, between
from topion.things import curves as shapes

_OPAQUE = 128
_SAMPLE = ((0.6, 0.2), (2.6, 1.2), (0.9, 2.6), (2.4, 3.9))  # of its card, in cells


def _prefabs(project: Project) -> tuple[str, ...]:
    return ("", *project.prefabs)


@dataclass(frozen=True)
class CurveBrush(BrushKind):
    """shape : as the gesture has it, or a plain shape that any drag draws: round the press, or
    from corner to corner; an outline is that of a prefab's picture, round the press.

    bend : of clicked points.  loose : how far, in cells, a drawn way may lie from its curve.
    sweep : degrees of an arc.  round : radius of the corners of a rectangle.  lies : in voxel
    rooms.  The others are those of a Fill.
    """

    kind: ClassVar[str] = "curve"
    bay: ClassVar[str] = "Things"
    name: Name
    parts: tuple[CurvePart, ...] = ()
    layer: str = ""
    colour: Colour = "#23786f"
    shape: Literal["as drawn", "circle", "arc", "rectangle", "outline"] = "as drawn"
    bend: Literal["smooth", "corner"] = "smooth"
    closed: bool = False
    loose: Annotated[float, between(0, 16, "cells")] = 0.4
    sweep: Annotated[float, between(-360, 360, "degrees")] = 180.0
    round: Annotated[float, between(0, 1000, "cells")] = 2.0
    outline_of: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    lies: Literal["on the ground", "in space"] = "on the ground"
    cell_parts: Literal[1, 2, 3, 4] = 1
    by: Literal["pitch", "count", "gaps"] = "pitch"
    pitch: float = 1.0
    count: int = 10
    apart: float = 0.0
    start: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    end: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    corner: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    fits: bool = True
    turns: bool = True
    turn: float = 0.0
    aside: float = 0.0
    up: float = 0.0
    seed: Seed = 1

    def __post_init__(self) -> None:
        self._fill()  # raises BadValue

    def _fill(self) -> Fill:
        return Fill(**{own.name: getattr(self, own.name) for own in fields(Fill)})

    @cached_property
    def fill(self) -> Fill | None:
        """What stands along what it draws; None for nothing."""
        found = self._fill()
        return found if found.parts or found.start or found.end or found.corner else None

    # --- laid -----------------------------------------------------------------------------

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.layer_for("things", self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        try:
            found = self.curves(place, marks)
        except BadValue as problem:
            return Edit(self.name, (), self.colour, (str(problem),))
        if not found:
            return Edit(self.name, (), self.colour)
        if marks.within is not None and not all(lies_in(marks.within, c.box) for c in found):
            return Edit(self.name, (), self.colour, ("the curve leaves the picked area",))
        first = place.room.next_number()
        to: dict[To, Curve | None] = {(layer_id, first + n): c for n, c in enumerate(found)}
        made = followed(place, to)
        return Edit(self.name, made.records(place), self.colour, notes=made.notes())

    def curves(self, place: Place, marks: Marks) -> tuple[Curve, ...]:
        """What is drawn, once for each mirror picture.  Raises BadValue for what is no curve."""
        deep = place.room.info.axes == 3
        ground = deep and self.lies == "on the ground"
        found = []
        for points in marks.drawn:
            for curve in self._drawn(place.project, points, marks.by, place):
                if curve.length > 0.05:
                    found.append(replace(curve, on_ground=ground, fill=self.fill, brush=self.name))
        return tuple(found)

    def _drawn(self, project: Project, points: Positions, by: str, place: Place) -> Iterator[Curve]:
        points = np.asarray(points, np.float64)
        if len(points) == 0:
            return
        ends = self._snapped(points[[0, -1]])
        shape = "rectangle" if self.shape == "as drawn" and by == "box" else self.shape
        one, two = (tuple(at) for at in ends.tolist())
        if shape == "outline":
            yield from self._outlines(project, one, place)
        elif np.abs(ends[1] - ends[0]).max() < 0.01 and by != "curve" and len(points) < 3:
            return
        elif shape in ("circle", "arc"):
            yield shapes.arc(one, two, 360.0 if shape == "circle" else self.sweep)
        elif shape == "rectangle":
            yield shapes.rectangle(one, two, self.round)
        elif by == "drag":
            yield from self._freehand(points)
        elif by in ("curve", "line"):
            knots = self._snapped(points) if by == "curve" else ends
            back = len(knots) > 3 and np.array_equal(knots[0], knots[-1])  # to where it began
            if len(np.unique(knots, axis=0)) > 1:
                yield shapes.through(knots[:-1] if back else knots, self.bend,
                                     closed=self.closed or back)  # fmt: skip

    def _freehand(self, points: Positions) -> Iterator[Curve]:
        """A way that was drawn, to which nothing snaps but its levels."""
        way = points.copy()
        way[:, :-2] = np.floor(way[:, :-2] + 0.5)
        if float(np.ptp(way, axis=0).max()) > 0.2:
            yield shapes.drawn(way, self.loose, closed=self.closed)

    def _snapped(self, points: Positions) -> Positions:
        """At the nearest middles of parts of cells, on whole levels."""
        plan = snapped_to(points[:, -2:], self.cell_parts)
        return np.concatenate([np.floor(points[:, :-2] + 0.5), plan], axis=1)

    def _outlines(
        self, project: Project, middle: tuple[float, ...], place: Place
    ) -> Iterator[Curve]:
        prefab = project.prefabs.get(self.outline_of)
        if prefab is None:
            raise BadValue("the picture to go round", self.outline_of or "nothing", "a prefab")
        mask = opaque(prefab.picture)
        found = shapes.outlined(mask, 1 / place.room.info.cell_px, middle, self.loose * 2)
        yield from found[:1]

    # --- on the rack ----------------------------------------------------------------------

    def summary(self) -> str:
        if self.fill is None:
            return "curve"
        how = {"pitch": f"each {self.pitch:g}", "count": f"{self.count}", "gaps": "by gaps"}
        return f"curve · {how[self.by]}"

    def said(self) -> str:
        names = [part.prefab for part in self.parts]
        return f"curve · along it {', '.join(names)}" if names else "curve · nothing along it yet"

    def places(self) -> Mapping[str, float]:
        return {part.prefab: part.weight for part in self.parts}

    def most_ghosted(self) -> int:
        return 1 << 20  # only its points count, however many cells they mark

    def settings(self) -> tuple[Setting, ...]:
        how = {
            "pitch": Setting("pitch", "Pitch", "number", 0.25, 16, 0.25, "c",
                             hint="Cells along the curve from one to the next"),
            "count": Setting("count", "Count", "number", 1, 200, 1, hint="So many in all"),
            "gaps": Setting("apart", "Gaps", "number", 0, 8, 0.25, "c",
                            hint="Cells between their bodies"),
        }  # fmt: skip
        shaped = {
            "arc": (Setting("sweep", "Sweep", "number", -360, 360, 15, "°",
                            hint="Clockwise from where the drag ends"),),
            "rectangle": (Setting("round", "Round", "number", 0, 12, 0.5, "c",
                                  hint="Radius of its corners"),),
            "outline": (Setting("outline_of", "Of", "choice", choices=_prefabs, none="nothing",
                                hint="Round the picture of this prefab"),),
        }.get(self.shape, ())  # fmt: skip
        return (
            Setting("parts", "Along it", "mix", hint="One of them at each place, by weight"),
            Setting("by", "Filled by", "choice", choices=("pitch", "count", "gaps"),
                    hint="Cells from one to the next, so many in all, or gaps between bodies"),
            how[self.by],
            Setting("fits", "Ends meet", "switch",
                    hint="The pitch or gaps are stretched so that the last stands at the end"),
            Setting("turns", "Turn with it", "switch", hint="They turn with the curve"),
            Setting("turn", "Turn", "number", -180, 180, 15, "°", hint="Degrees more, clockwise"),
            Setting("aside", "Aside", "number", -4, 4, 0.25, "c",
                    hint="Cells to the right of its way"),
            Setting("up", "Up", "number", -4, 8, 0.25, "c", hint="Above the ground or the curve"),
            Setting("start", "Start", "choice", choices=_prefabs, none="nothing",
                    hint="What stands first"),
            Setting("end", "End", "choice", choices=_prefabs, none="nothing",
                    hint="What stands last"),
            Setting("corner", "Corners", "choice", choices=_prefabs, none="nothing",
                    hint="What stands where it is not smooth"),
            Setting("shape", "Shape", "choice",
                    choices=("as drawn", "circle", "arc", "rectangle", "outline"),
                    hint="As the gesture draws it, or a plain shape that any drag draws"),
            *shaped,
            Setting("bend", "Points", "choice", choices=("smooth", "corner"),
                    hint="What clicked points are"),
            Setting("closed", "Closed", "switch", hint="The last point leads to the first"),
            Setting("loose", "Loose", "number", 0, 3, 0.1, "c",
                    hint="How far a drawn way may lie from its curve"),
            Setting("lies", "Lies", "choice", choices=("on the ground", "in space"),
                    hint="In voxel rooms: follows the heights, or runs where it was drawn"),
            Setting("seed", "Roll", "seed", hint="Which of the parts falls where"),
        )  # fmt: skip

    def sample(self, project: Project, *, deep: bool) -> Sample:
        points = np.array(_SAMPLE)
        own = self.at_home("things").changed(shape="as drawn", cell_parts=4, closed=False)
        cells = np.floor(points + 0.5).astype(np.intp)
        if deep:
            points = np.insert(points + 1, 0, 1.0, axis=1)
            marks = Marks(np.insert(cells + 1, 0, 1, axis=1), drawn=(points,), by="curve")
            return Sample(own, marks, DEEP_SCRAP)
        return Sample(own, Marks(cells, drawn=(points,), by="curve"), FLAT_SCRAP)

    def reach(self, project: Project, marks: Marks) -> Box:
        found = super().reach(project, marks)
        for points in marks.drawn:
            lo, hi = np.floor(points.min(axis=0)), np.ceil(points.max(axis=0)) + 1
            far = float(np.linalg.norm((points[-1] - points[0])[-2:])) + 1
            grow = np.zeros(len(lo))
            grow[-2:] = far if self.shape in ("circle", "arc") else 1
            box = Box(
                tuple((lo - grow).astype(int).tolist()), tuple((hi + grow).astype(int).tolist())
            )
            found = found.union(box) if found.size else box
        return found


def opaque(picture: Picture) -> np.ndarray:
    """(h, w) which pixels of a picture are more seen than not."""
    return np.asarray(picture.rgba[:, :, 3] >= _OPAQUE)
