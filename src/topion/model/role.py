"""What a thing does while a room is walked, as the model keeps it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Protocol

from topion.model.form import Form, Mark
from topion.model.plain import JsonRecord, Unread, keep_unknown


class Role(Protocol):
    """What a prefab is while a room is walked; the kinds are in `topion.roles`."""

    @property
    def kind(self) -> str: ...
    @property
    def form(self) -> Form: ...
    @property
    def drawing(self) -> tuple[Mark, ...]: ...

    def sentence(self) -> str:
        """The role in plain words."""


@dataclass(frozen=True)
class UnknownRole(Unread):
    """A role of a kind that nobody here knows: it does nothing, and is written back as it was read.

    unread : its record but for the kind.
    """

    kind: str
    unread: JsonRecord = field(hash=False)

    @property
    def form(self) -> Form:
        return (self.sentence(),)

    @property
    def drawing(self) -> tuple[Mark, ...]:
        return ()

    def sentence(self) -> str:
        return f"a role of kind “{self.kind}”, which is not known here"


keep_unknown(Role, UnknownRole)
