"""Faces away: a thing beside a wall turns its back to it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.beside import beside
from topion.things.rules.kind import RuleKind

Facing = Literal["as laid", "south", "west", "north", "east"]
_TURNS = {"south": 0.0, "west": 90.0, "north": 180.0, "east": 270.0}
_AWAY = np.array([0.0, 90.0, 180.0, 270.0])  # from a wall in the north, east, south and west


@dataclass(frozen=True)
class FacesAway(RuleKind):
    """As it is drawn it faces south; beside a wall, or a material, it faces away from that.  It
    refuses nothing, and turns what may be turned.

    otherwise : how it stands where nothing is beside it.
    """

    kind: ClassVar[str] = "faces away"
    form: ClassVar[Form] = (
        "It faces away from a ",
        Blank("surface", "choice", choices=(("wall", "wall"), ("", "–"))),
        " or ",
        Blank("material", "material", none="no material"),
        " beside it; without one it faces ",
        Blank("otherwise", "choice", choices=tuple((n, n) for n in ("as laid", *_TURNS))),
    )
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("box", "ochre", ((0.1, 0.1), (0.9, 0.34))),
        Mark("dot", "tidal", ((0.5, 0.55),), 0.12),
        Mark("line", "ink", ((0.5, 0.62), (0.5, 0.95))),
        Mark("line", "ink", ((0.38, 0.84), (0.5, 0.95), (0.62, 0.84))),
    )
    surface: Literal["", "wall"] = "wall"
    material: Annotated[str, Ref("materials")] = ""
    otherwise: Facing = "as laid"

    def sentence(self) -> str:
        of = " or ".join(
            w for w in (f"a {self.surface}" if self.surface else "", self.material) if w
        )
        return f"faces away from {of or 'nothing'} beside it"

    def short(self) -> str:
        return "turned"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "faces another way", str(measured), "away from it"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return Answer.of(spots)

    def turns(self, ground: Ground, spots: Spots) -> NDArray[np.float64] | None:
        if ground.room.info.view == "side":
            return None  # seen from the side a thing is mirrored, not turned
        near = beside(ground, spots, self.surface, self.material)
        otherwise = _TURNS.get(self.otherwise, spots.turn)
        return np.where(near.any(axis=1), _AWAY[near.argmax(axis=1)], otherwise)
