"""How a rule is told and set: a sentence with blanks, and a small drawing.

Both are plain values, so that any interface can show them.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Asks = Literal["number", "choice", "materials", "material", "thing", "words", "switch"]
Ink = Literal["ink", "soft", "tidal", "buoy", "ochre"]


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
