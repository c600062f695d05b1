"""What every layer of a density answers: how dense it would be, by itself, in each cell."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList
from topion.model.form import Blank, Form, told
from topion.model.plain import JsonRecord, Unread, keep_unknown
from topion.model.project import Project
from topion.model.room import Room
from topion.model.typed import between

Shares = NDArray[np.float64]  # (n,) 0 to 1
Joins = Literal["times", "plus", "minus", "at most", "at least"]
JOINS: tuple[tuple[object, str], ...] = (
    ("times", "times"), ("plus", "plus"), ("minus", "minus"), ("at most", "at most"),
    ("at least", "at least"),
)  # fmt: skip


@dataclass(frozen=True, eq=False)
class Asked:
    """cells : (n, 2) of the plan.  first : the first cell of the room, as chance counts it.
    behind : the field layers that already ask for this one.  ask : tells the density of a field
    layer in cells, asked by some others."""

    project: Project
    room: Room
    layer_id: str
    cells: CellList
    first: tuple[int, int] = (0, 0)
    behind: frozenset[str] = frozenset()
    ask: Callable[[str, CellList, frozenset[str]], Shares] = lambda *_: np.zeros(0)


@dataclass(frozen=True)
class DensityKind(ABC):
    """A layer of the density of a field, joined to what lies below it; the painted one is the
    lowest.

    joins : how.  strength : 0 leaves what lies below as it is.  flip : dense where it was thin.
    on : one that is off changes nothing.
    """

    kind: ClassVar[str]
    form: ClassVar[Form] = ()
    joins: Joins = field(default="times", kw_only=True)
    strength: Annotated[float, between(0, 1)] = field(default=1.0, kw_only=True)
    flip: bool = field(default=False, kw_only=True)
    on: bool = field(default=True, kw_only=True)

    @abstractmethod
    def shares(self, asked: Asked) -> Shares:
        """(n,) how dense it is in each cell."""

    @abstractmethod
    def title(self) -> str:
        """Two or three words."""

    def sentence(self) -> str:
        """The layer in plain words."""
        return told(self, self.form)

    def reads_fields(self) -> bool:
        """Whether it looks at other field layers."""
        return False


@dataclass(frozen=True)
class UnknownDensity(Unread):
    """A layer of a density of a kind that nobody here knows: it changes nothing, and is written
    back as it was read.  unread : its record but for the kind."""

    on: ClassVar[bool] = False
    kind: str
    unread: JsonRecord = field(hash=False)


keep_unknown(DensityKind, UnknownDensity)

JOINED = Blank("joins", "choice", choices=JOINS)
FLIPPED = Blank("flip", "choice", choices=((False, "with"), (True, "against")))


def joined(below: Shares, part: DensityKind, own: Shares) -> Shares:
    """What comes of what lies below and of one more layer."""
    own = 1.0 - own if part.flip else own
    match part.joins:
        case "times":
            made = below * own
        case "plus":
            made = np.minimum(1.0, below + own)
        case "minus":
            made = np.maximum(0.0, below - own)
        case "at most":
            made = np.minimum(below, own)
        case _:
            made = np.maximum(below, own)
    return np.asarray(below + (made - below) * part.strength)


def ramp(far: NDArray[np.float64], near: float, end: float) -> Shares:
    """1 up to a distance, 0 from another on, a smooth step between."""
    if end <= near:
        return (far <= near).astype(np.float64)
    t = np.clip((end - far) / (end - near), 0.0, 1.0)
    return np.asarray(t * t * (3 - 2 * t))
