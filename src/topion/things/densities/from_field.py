"""Density by that of another field."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.model.form import Blank, Form
from topion.model.refs import Ref
from topion.things.densities.kind import FLIPPED, JOINED, Asked, DensityKind, Shares


@dataclass(frozen=True)
class FromField(DensityKind):
    """As dense as another field of the room is there."""

    kind: ClassVar[str] = "from field"
    form: ClassVar[Form] = (JOINED, " ", FLIPPED, " the field ", Blank("of", "field", none="…"))
    of: Annotated[str, Ref("brushes", perhaps=True)] = ""

    def shares(self, asked: Asked) -> Shares:
        found = np.zeros(len(asked.cells))
        for layer_id, layer in asked.room.bottom_up("field"):
            known = asked.behind | {asked.layer_id}
            if layer.info.brush == self.of and layer_id not in known:
                found = np.maximum(found, asked.ask(layer_id, asked.cells, known))
        return found

    def title(self) -> str:
        return f"as {self.of or 'no field'}"

    def reads_fields(self) -> bool:
        return True
