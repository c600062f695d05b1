"""How a rule or a role is told and set: a sentence with blanks, and a small drawing.

Both are plain values, so that any interface can show them.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

Asks = Literal[
    "number", "choice", "materials", "material", "thing", "words", "switch", "room", "points",
    "region", "place", "curves", "field", "picture",
]  # fmt: skip
Ink = Literal["ink", "soft", "tidal", "buoy", "ochre", "line"]


@dataclass(frozen=True)
class Blank:
    """What can be set in a sentence.  field : of the rule.  asks : what kind of value it takes.

    lowest, highest, whole : of a number.  choices : value and words of each.  none : words for an
    empty value.
    """

    field: str
    asks: Asks
    lowest: float = 0.0
    highest: float = 1000.0
    whole: bool = False
    choices: tuple[tuple[object, str], ...] = ()
    none: str = "…"


Form = tuple[str | Blank, ...]


def words_for(blank: Blank, value: Any) -> str:
    """The value of a blank, as it is read in the sentence."""
    if blank.asks == "number":
        return f"{value:g}" if value or blank.none == Blank.none else blank.none
    if blank.asks == "switch":
        return "yes" if value else "no"
    if blank.asks == "choice":
        return next((words for known, words in blank.choices if known == value), str(value))
    if blank.asks == "points":
        return ", ".join(" ".join(f"{n:g}" for n in point) for point in value) or blank.none
    if isinstance(value, tuple):
        return ", ".join(value) or blank.none
    return str(value) or blank.none


def told(value: object, form: Form) -> str:
    """The whole sentence of a value, with what is set in it."""
    return "".join(part if isinstance(part, str) else words_for(part, getattr(value, part.field))
                   for part in form)  # fmt: skip


def points_of(text: str) -> tuple[tuple[float, ...], ...]:
    """Points out of text like `4 0, 4 -3`.  Raises ValueError for what is no number."""
    return tuple(tuple(float(word) for word in part.split()) for part in text.split(",")
                 if part.strip())  # fmt: skip


@dataclass(frozen=True)
class Mark:
    """A part of a drawing in a square from (0, 0), top left, to (1, 1); points as (y, x).

    shape : `dot` and `ring` have a middle and a radius; `line` and `dashes` go through points;
    `box` and `frame` have two corners, filled or not; `cross` has a middle and a reach.
    """

    shape: Literal["dot", "ring", "line", "dashes", "box", "frame", "cross"]
    ink: Ink
    points: tuple[tuple[float, float], ...]
    size: float = 0.0


GROUND = Mark("box", "soft", ((0.8, 0.0), (1.0, 1.0)))
BODY = Mark("box", "tidal", ((0.45, 0.4), (0.8, 0.6)))
