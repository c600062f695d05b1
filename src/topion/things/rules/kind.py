"""What every kind of placement rule answers."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

from topion.model.form import Form, Mark
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer


class OwnLaid(Protocol):
    """What one stroke has laid so far, as one rule sees it; rows are those of its spots."""

    def allows(self, row: int) -> bool: ...

    def add(self, row: int) -> None: ...


@dataclass(frozen=True)
class RuleKind(ABC):
    """A placement rule: a small dataclass with a plain sentence and a check.

    keeps : nothing else may come into the cells of a body.  compares : what it measures and
    wants are amounts, told beside each other.  form : its sentence with what can be set in it.
    drawing : what it is about, in a few marks.  on : one that is off refuses nothing.
    """

    kind: ClassVar[str]
    keeps: ClassVar[bool] = False
    compares: ClassVar[bool] = False
    form: ClassVar[Form] = ()
    drawing: ClassVar[tuple[Mark, ...]] = ()
    on: bool = field(default=True, kw_only=True)

    @abstractmethod
    def sentence(self) -> str:
        """The rule in plain words."""

    @abstractmethod
    def short(self) -> str:
        """Two or three words for a tally of refusals."""

    @abstractmethod
    def reason(self, measured: object) -> tuple[str, str, str]:
        """A refusal as a sentence, what was measured, and what is wanted."""

    @abstractmethod
    def check(self, ground: Ground, spots: Spots) -> Answer:
        """Which spots it allows, as the room stands."""

    def grounds(self) -> tuple[str, ...]:
        """The materials it wants to stand on, if it names any."""
        return ()

    def reach(self) -> float:
        """How far, in cells, it looks from the middle of a body; 0 for not beyond it."""
        return 0.0

    def most(self) -> int | None:
        """How many of the prefab there may be where it counts; None if it does not count."""
        return None

    def counted(self, ground: Ground, prefab: str) -> int:
        """How many there are already where it counts."""
        return ground.count(prefab)

    def turns(self, ground: Ground, spots: Spots) -> NDArray[np.float64] | None:
        """(n,) how a thing is turned at each spot, in degrees; None where it turns nothing."""
        return None

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        """How the rule holds between things of one stroke; None if it does not matter."""
        return None


def known_rules(rules: Iterable[object]) -> tuple[RuleKind, ...]:
    """Those of kinds that are known here, and on; the others refuse nothing."""
    return tuple(rule for rule in rules if isinstance(rule, RuleKind) and rule.on)


def rules_of(project: Project, prefab: Prefab) -> tuple[RuleKind, ...]:
    """The rules that hold for a prefab: its own, then those of its class."""
    own = project.shelf("classes").get(prefab.class_name)
    return known_rules((*prefab.rules, *(own.rules if own is not None else ())))


def turned_by_rules(ground: Ground, spots: Spots) -> list[tuple[Spots, NDArray[np.intp]]]:
    """The spots as rules turn them: those of one turn, with their rows; all if none does."""
    rows = np.arange(len(spots.positions))
    if spots.prefab.turns == "none" or spots.tip:
        return [(spots, rows)]
    asked = (rule.turns(ground, spots) for rule in rules_of(ground.project, spots.prefab))
    turns = next((found for found in asked if found is not None), None)
    if turns is None:
        return [(spots, rows)]
    return [(replace(spots, positions=spots.positions[turns == turn], turn=float(turn)),
             rows[turns == turn]) for turn in np.unique(turns)]  # fmt: skip


def has_keeper(rules: Iterable[object]) -> bool:
    """Whether one of the rules keeps the cells of a body."""
    return any(rule.keeps for rule in known_rules(rules))
