"""At most n of a prefab in a room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.errors import BadValue
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import OwnLaid, RuleKind


@dataclass(frozen=True)
class AtMost(RuleKind):
    """No more than `count` of this prefab in one room."""

    kind: ClassVar[str] = "at most"
    compares: ClassVar[bool] = True
    count: int

    def __post_init__(self) -> None:
        if not 1 <= self.count <= 1_000_000:
            raise BadValue("the count of a rule", self.count, "1 to 1000000")

    def sentence(self) -> str:
        return f"at most {self.count} in a room"

    def short(self) -> str:
        return "too many"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "too many in the room", str(measured), str(self.count)

    def most(self) -> int | None:
        return self.count

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        return _Left(self.count - int((ground.standing.prefabs == spots.prefab.name).sum()))

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        here = int((ground.standing.prefabs == spots.prefab.name).sum())
        if here - (spots.own is not None) >= self.count:
            answer.allowed[:] = False
            answer.measured[:] = here
        return answer


class _Left:
    """How many more a stroke may lay."""

    def __init__(self, count: int) -> None:
        self._count = count

    def allows(self, row: int) -> bool:
        return self._count > 0

    def add(self, row: int) -> None:
        self._count -= 1
