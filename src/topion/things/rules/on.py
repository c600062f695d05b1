"""On / not on: what must, or must not, lie under every cell of the body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import CellMask
from topion.model.form import BODY, Blank, Form, Mark
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind

_Materials = tuple[Annotated[str, Ref("materials")], ...]


@dataclass(frozen=True)
class On(RuleKind):
    """Stands only on these materials, by what lies uppermost, on what bears one of the tags, or on
    anything that carries."""

    kind: ClassVar[str] = "on"
    form: ClassVar[Form] = (
        "It stands on ",
        Blank("materials", "materials", none="no material"),
        ", on what is tagged ",
        Blank("tags", "words", none="nothing"),
        ", on anything that carries: ",
        Blank("carries", "switch"),
    )
    drawing: ClassVar[tuple[Mark, ...]] = (Mark("box", "ink", ((0.8, 0.0), (1.0, 0.6))), BODY)
    materials: _Materials = ()
    tags: tuple[str, ...] = ()
    carries: bool = False

    def __post_init__(self) -> None:
        if not (self.materials or self.tags or self.carries):
            raise BadValue("what a thing stands on", "nothing", "a material, a tag or what carries")

    def sentence(self) -> str:
        return f"stands on {self._words()}"

    def _words(self) -> str:
        words = _words(self.materials, self.tags)
        return " or ".join([*words, "anything that carries"] if self.carries else words)

    def grounds(self) -> tuple[str, ...]:
        return self.materials

    def short(self) -> str:
        return f"off the {'/'.join(word.lower() for word in (*self.materials, *self.tags))}" if (
            self.materials or self.tags) else "not carried"  # fmt: skip

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"lies on {measured}", str(measured), self._words()

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return _by_footing(ground, spots, self, wanted=True)


@dataclass(frozen=True)
class NotOn(RuleKind):
    """Never stands on these materials, by what lies uppermost, or on what bears one of the tags."""

    kind: ClassVar[str] = "not on"
    form: ClassVar[Form] = (
        "It never stands on ",
        Blank("materials", "materials", none="no material"),
        ", nor on what is tagged ",
        Blank("tags", "words", none="nothing"),
    )
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("box", "tidal", ((0.8, 0.0), (1.0, 1.0))),
        Mark("cross", "buoy", ((0.6, 0.5),), 0.16),
    )
    materials: _Materials = ()
    tags: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not (self.materials or self.tags):
            raise BadValue("what a thing never stands on", "nothing", "a material or a tag")

    def sentence(self) -> str:
        return f"never stands on {self._words()}"

    def _words(self) -> str:
        return " or ".join(_words(self.materials, self.tags))

    def short(self) -> str:
        return f"on {'/'.join(word.lower() for word in (*self.materials, *self.tags))}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"lies on {measured}", str(measured), f"not {self._words()}"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return _by_footing(ground, spots, self, wanted=False)


def _words(materials: tuple[str, ...], tags: tuple[str, ...]) -> list[str]:
    return [*materials, *(f"what is tagged {tag}" for tag in tags)]


def _by_footing(ground: Ground, spots: Spots, rule: On | NotOn, *, wanted: bool) -> Answer:
    feet = spots.feet
    count, each, axes = feet.shape
    flat = feet.reshape(-1, axes)
    under = ground.floor.under(flat)
    fits = _listed(ground, under, rule.materials)
    if rule.tags:
        fits |= ground.floor.tagged(flat, rule.tags)
    if isinstance(rule, On) and rule.carries:
        fits |= ground.floor.carried(flat)
    fine = (fits == wanted).reshape(count, each)
    answer = Answer.of(spots)
    answer.allowed[:] = fine.all(axis=1)
    refused = np.flatnonzero(~answer.allowed)
    first = np.argmin(fine[refused], axis=1)
    names = ground.project.material_name
    for row, column in zip(refused, first, strict=True):
        number = int(under[row * each + column])
        answer.measured[row] = names(number) if number else "nothing"
    answer.cells[refused] = feet[refused, first]
    return answer


def _listed(ground: Ground, under: NDArray[np.uint16], materials: tuple[str, ...]) -> CellMask:
    names = ground.project.materials
    listed = np.array([i for i, name in enumerate(names, 1) if name in materials], np.uint16)
    return np.isin(under, listed)
