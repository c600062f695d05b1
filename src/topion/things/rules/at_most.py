"""At most, at least: so many of a prefab in a room or in the whole world."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from topion.errors import BadValue
from topion.model.form import Blank, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import OwnLaid, RuleKind

Per = Literal["room", "world"]
_WHERE = {"room": "in a room", "world": "in the world"}
_PER = Blank("per", "choice", choices=tuple(_WHERE.items()))


def _dots(filled: int) -> tuple[Mark, ...]:
    """Three by three, of which so many are there."""
    places = [(0.2 + 0.3 * (n // 3), 0.2 + 0.3 * (n % 3)) for n in range(9)]
    return tuple(Mark("dot" if n < filled else "ring", "ink" if n < filled else "soft", (at,), 0.09)
                 for n, at in enumerate(places))  # fmt: skip


@dataclass(frozen=True)
class AtMost(RuleKind):
    """No more than `count` of this prefab in one room, or in all rooms together."""

    kind: ClassVar[str] = "at most"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = ("At most ", Blank("count", "number", 1, 1e6, whole=True), " ", _PER)
    drawing: ClassVar[tuple[Mark, ...]] = _dots(4)
    count: int
    per: Per = "room"

    def __post_init__(self) -> None:
        _check(self.count)

    def sentence(self) -> str:
        return f"at most {self.count} {_WHERE[self.per]}"

    def short(self) -> str:
        return "too many"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too many in the {self.per}", str(measured), str(self.count)

    def most(self) -> int | None:
        return self.count

    def counted(self, ground: Ground, prefab: str) -> int:
        return ground.count(prefab, per=self.per)

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        return _Left(self.count - self.counted(ground, spots.prefab.name))

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        here = self.counted(ground, spots.prefab.name)
        if here - (spots.own is not None) >= self.count:
            answer.allowed[:] = False
            answer.measured[:] = here
        return answer


@dataclass(frozen=True)
class AtLeast(RuleKind):
    """No fewer than `count` in each room in which any stands, or in all rooms together; it refuses
    nothing, and the survey finds where there are fewer."""

    kind: ClassVar[str] = "at least"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = ("At least ", Blank("count", "number", 1, 1e6, whole=True), " ", _PER)
    drawing: ClassVar[tuple[Mark, ...]] = _dots(7)
    count: int
    per: Per = "world"

    def __post_init__(self) -> None:
        _check(self.count)

    def sentence(self) -> str:
        return f"at least {self.count} {_WHERE[self.per]}"

    def short(self) -> str:
        return "too few"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too few in the {self.per}", str(measured), str(self.count)

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return Answer.of(spots)


def _check(count: int) -> None:
    if not 1 <= count <= 1_000_000:
        raise BadValue("the count of a rule", count, "1 to 1000000")


class _Left:
    """How many more a stroke may lay."""

    def __init__(self, count: int) -> None:
        self._count = count

    def allows(self, row: int) -> bool:
        return self._count > 0

    def add(self, row: int) -> None:
        self._count -= 1
