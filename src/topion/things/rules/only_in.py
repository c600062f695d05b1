"""Only in / never in: rooms by their tags."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.errors import BadValue
from topion.model.form import Blank, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class OnlyIn(RuleKind):
    """Stands only in rooms that bear one of the tags; or `never` in such."""

    kind: ClassVar[str] = "only in"
    form: ClassVar[Form] = (
        "It stands ", Blank("never", "choice", choices=((False, "only in"), (True, "never in"))),
        " rooms tagged ", Blank("tags", "words"),
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("frame", "ink", ((0.15, 0.15), (0.85, 0.85))),
        Mark("dot", "tidal", ((0.5, 0.5),), 0.12),
    )  # fmt: skip
    tags: tuple[str, ...]
    never: bool = False

    def __post_init__(self) -> None:
        if not any(tag.strip() for tag in self.tags):
            raise BadValue("the rooms of a rule", self.tags, "at least one tag")

    def sentence(self) -> str:
        where = "never in" if self.never else "only in"
        return f"stands {where} rooms tagged {' or '.join(self.tags)}"

    def short(self) -> str:
        return "not in this room"

    def reason(self, measured: object) -> tuple[str, str, str]:
        tags = " or ".join(self.tags)
        return "does not belong in this room", str(measured), f"not {tags}" if self.never else tags

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        own = ground.room.info.tags
        if bool({*own} & {*self.tags}) == self.never:
            answer.allowed[:] = False
            answer.measured[:] = f"tagged {', '.join(own)}" if own else "without tags"
        return answer
