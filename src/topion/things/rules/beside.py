"""Beside: a wall, a ceiling, a material or a thing next to the body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

import numpy as np

from topion.errors import BadValue
from topion.grid.arrays import CellList, CellMask
from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind

Surface = Literal["", "wall", "ceiling", "floor"]


@dataclass(frozen=True)
class Beside(RuleKind):
    """One of these lies or stands next to it: a surface, a material, or a prefab or class.

    Walls, materials and things are looked for at its sides, level with its feet.
    """

    kind: ClassVar[str] = "beside"
    form: ClassVar[Form] = (
        "It stands beside a ",
        Blank("surface", "choice", choices=(("", "–"), ("wall", "wall"), ("ceiling", "ceiling"),
                                            ("floor", "floor"))),
        ", or ", Blank("material", "material", none="no material"), ", or ",
        Blank("thing", "thing", none="nothing else"),
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("box", "ochre", ((0.1, 0.1), (0.9, 0.38))), Mark("dot", "tidal", ((0.6, 0.55),), 0.12),
    )  # fmt: skip
    surface: Surface = ""
    material: Annotated[str, Ref("materials")] = ""
    thing: Annotated[str, Ref("prefabs", perhaps=True)] = ""

    def __post_init__(self) -> None:
        if not self.of:
            raise BadValue("what a thing stands beside", "nothing", "a surface, material or thing")

    @property
    def of(self) -> str:
        """What it stands beside, in words."""
        surface = f"a {self.surface}" if self.surface else ""
        return " or ".join(word for word in (surface, self.material, self.thing) if word)

    def sentence(self) -> str:
        return f"stands beside {self.of}"

    def short(self) -> str:
        return f"not beside {self.of}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"nothing beside it is {self.of}", "nothing", self.of

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        near = beside(ground, spots, self.surface, self.material, self.thing)
        answer.allowed[:] = near.any(axis=1)
        refused = ~answer.allowed
        answer.measured[refused] = "nothing"
        answer.cells[refused] = spots.cells[refused]
        return answer


def sides(ground: Ground) -> CellList:
    """(k, axes) steps to the cells beside a cell: west and east of a room seen from the side, else
    north, east, south and west."""
    if ground.room.info.view == "side":
        return np.array([(0, -1), (0, 1)], np.intp)
    flat = np.array([(-1, 0), (0, 1), (1, 0), (0, -1)], np.intp)
    if ground.room.info.axes == 2:
        return flat
    return np.column_stack([np.zeros(4, np.intp), flat])


def beside(
    ground: Ground, spots: Spots, surface: Surface, material: str = "", thing: str = ""
) -> CellMask:
    """(n, k) at which of its sides one of these is; for a floor or a ceiling all are alike."""
    steps = sides(ground)
    feet = spots.feet
    count, each, axes = feet.shape
    around = feet[:, :, None] + steps  # (n, each, k, axes)
    flat = around.reshape(-1, axes)
    found = np.zeros(len(flat), bool)
    if surface == "wall":
        found |= ground.floor.walls(flat)
    if material and material in ground.project.materials:
        found |= ground.floor.lying(flat) == ground.project.material_id(material)
    if thing:
        found |= _stands(ground, spots, around, thing)
    at_sides: CellMask = np.asarray(found.reshape(count, each, len(steps)).any(axis=1))
    if surface in ("floor", "ceiling"):
        flat_feet = feet.reshape(-1, axes)
        if surface == "floor":
            there: CellMask = np.all(ground.floor.carried(flat_feet).reshape(count, each), axis=1)
        else:
            height = spots.prefab.height if axes == 3 else len(spots.prefab.footprint)
            above = ground.floor.headroom(flat_feet).reshape(count, each)
            there = np.any(above <= height, axis=1)
        at_sides |= there[:, None]
    return at_sides


def _stands(ground: Ground, spots: Spots, around: CellList, thing: str) -> CellMask:
    """Whether a prefab or a thing of a class stands in each of (n, each, k, axes) cells."""
    cells = around.reshape(len(around), -1, around.shape[-1])
    who = ground.taken_cells.who(cells, spots.own).reshape(-1)
    standing = ground.standing
    is_it = (standing.prefabs == thing) | (standing.classes == thing)
    return np.where(who >= 0, np.append(is_it, False)[who], False).astype(bool)
