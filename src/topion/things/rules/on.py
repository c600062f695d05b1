"""On / not on: what must, or must not, lie under every cell of the body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class On(RuleKind):
    """Stands only on these materials, by what lies uppermost."""

    kind: ClassVar[str] = "on"
    materials: tuple[Annotated[str, Ref("materials")], ...]

    def sentence(self) -> str:
        return f"stands on {' or '.join(self.materials)}"

    def grounds(self) -> tuple[str, ...]:
        return self.materials

    def short(self) -> str:
        return f"off the {'/'.join(m.lower() for m in self.materials)}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"lies on {measured}", str(measured), " or ".join(self.materials)

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return _by_material(ground, spots, self.materials, wanted=True)


@dataclass(frozen=True)
class NotOn(RuleKind):
    """Never stands on these materials, by what lies uppermost."""

    kind: ClassVar[str] = "not on"
    materials: tuple[Annotated[str, Ref("materials")], ...]

    def sentence(self) -> str:
        return f"never stands on {' or '.join(self.materials)}"

    def short(self) -> str:
        return f"on {'/'.join(m.lower() for m in self.materials)}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"lies on {measured}", str(measured), f"not {' or '.join(self.materials)}"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return _by_material(ground, spots, self.materials, wanted=False)


def _by_material(
    ground: Ground, spots: Spots, materials: tuple[str, ...], *, wanted: bool
) -> Answer:
    names = ground.project.materials
    listed = np.array([i for i, name in enumerate(names, 1) if name in materials], np.uint16)
    feet = spots.feet
    count, cells_each, axes = feet.shape
    under = ground.floor.under(feet.reshape(-1, axes))
    fits = np.isin(under, listed) == wanted
    fits = fits.reshape(count, cells_each)
    answer = Answer.of(spots)
    answer.allowed[:] = fits.all(axis=1)
    refused = np.flatnonzero(~answer.allowed)
    first = np.argmin(fits[refused], axis=1)
    for row, column in zip(refused, first, strict=True):
        number = int(under[row * cells_each + column])
        answer.measured[row] = names[number - 1] if number else "nothing"
    answer.cells[refused] = feet[refused, first]
    return answer
