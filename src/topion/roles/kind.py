"""What every kind of role answers."""

from __future__ import annotations

from abc import ABC
from dataclasses import dataclass
from typing import ClassVar

from topion.model.form import Blank, Form, Mark, told


@dataclass(frozen=True)
class RoleKind(ABC):
    """A role: a small dataclass with a plain sentence, whose blanks are its properties.

    form : its sentence with what can be set in it.  drawing : its mark, in a square.
    """

    kind: ClassVar[str]
    form: ClassVar[Form] = ()
    drawing: ClassVar[tuple[Mark, ...]] = ()

    def sentence(self) -> str:
        """The role in plain words."""
        return told(self, self.form)

    def oldest_format(self) -> int:
        """The oldest format of a project that holds it."""
        return 6


def choices(*words: str) -> tuple[tuple[object, str], ...]:
    """Values that are their own words."""
    return tuple((word, word) for word in words)


BY = Blank("by", "choice", choices=choices("touching it", "acting on it"))
