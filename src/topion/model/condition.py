"""When something appears or opens, as the model keeps it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, Protocol

from topion.errors import BadValue
from topion.model.form import Form
from topion.model.plain import JsonRecord, Unread, keep_unknown
from topion.model.typed import typed

MOST_CONDITIONS = 16


class Condition(Protocol):
    """What can be so or not while a room is walked; the kinds are in `topion.conditions`."""

    @property
    def kind(self) -> str: ...
    @property
    def form(self) -> Form: ...

    def sentence(self) -> str:
        """The condition in plain words."""


@dataclass(frozen=True)
class UnknownCondition(Unread):
    """A condition of a kind that nobody here knows: it never holds, and is written back."""

    kind: str
    unread: JsonRecord = field(hash=False)

    @property
    def form(self) -> Form:
        return (self.sentence(),)

    def sentence(self) -> str:
        return f"a condition of kind “{self.kind}”, which is not known here"


keep_unknown(Condition, UnknownCondition)


@typed
@dataclass(frozen=True)
class When:
    """A thing appears, or opens, as soon as all of its conditions hold; with none it does so from
    the start."""

    effect: Literal["appears", "opens"] = "opens"
    all_of: tuple[Condition, ...] = ()

    def __post_init__(self) -> None:
        if len(self.all_of) > MOST_CONDITIONS:
            raise BadValue("the conditions", len(self.all_of), f"at most {MOST_CONDITIONS}")

    def sentence(self) -> str:
        """In plain words."""
        if not self.all_of:
            return f"{self.effect.capitalize()} from the start."
        parts = [condition.sentence() for condition in self.all_of]
        return f"{self.effect.capitalize()} when {' and '.join(parts)}."


ALWAYS = When()
