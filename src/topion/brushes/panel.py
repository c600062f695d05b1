"""Panel: a rectangle from nine parts, with forms for one that is one cell wide or one high."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from topion.brushes.boxed import COLUMNS, INSIDE, ROWS, BoxShape
from topion.brushes.kind import Setting
from topion.brushes.laying import SEED
from topion.brushes.shape import STAYS
from topion.grid.hashing import variant_bytes
from topion.grid.told import several
from topion.model.piece import Piece
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, Seed
from topion.weaving.compiled import spread
from topion.weaving.rules import Pattern, Variant, check_pattern, oriented_ref
from topion.weaving.shapes import Coded

_NAMES = {"n": "top", "s": "bottom", "w": "left", "e": "right"}


@dataclass(frozen=True)
class Panel(BoxShape):
    """parts : tiles by the name of their place: nw n ne … as nw nm ne, mw mm me, sw sm se; with
    `a` for a panel one cell high (aw am ae) or wide (na ma sa), or both (aa).

    inside : further tiles that may lie where `mm` would, with weights; that of `mm` is 1.
    pattern : rows of tiles that repeat inside by their place in the room, instead of those.
    """

    kind: ClassVar[str] = "panel"
    letters: ClassVar[tuple[str, ...]] = (ROWS, COLUMNS)
    name: Name
    parts: dict[str, TileRef]
    inside: tuple[Variant, ...] = ()
    pattern: Pattern = ()
    layer: str = ""
    colour: Colour = "#a5533b"
    seed: Seed = 0
    stays: bool = True

    def __post_init__(self) -> None:
        self.check_parts("a panel")
        check_pattern(self.pattern, "the pattern of a panel")

    @cached_property
    def forms(self) -> tuple[TileRef | None, ...]:
        more = [ref for row in self.pattern for ref in row]
        if not more:
            more = [oriented_ref(v.tile, way) for way in self.orders for v in self.inside]
        return (*super().forms, *more)

    def coded(self, piece: Piece) -> Coded:
        number = self.form_numbers(piece)
        order, count = self.orientation_number(piece), len(self.found)
        codes = (number + np.uint16(1 + order * count)).astype(np.uint16)
        if self.pattern or self.inside:
            box = piece.box
            ys, xs = (np.arange(a, b) for a, b in zip(box.lo, box.hi, strict=True))
            ys = ys[:, None]
            first = 1 + count * len(self.orders)
            if self.pattern:
                rows, columns = len(self.pattern), len(self.pattern[0])
                inner = first + ys % rows * columns + xs % columns
            else:
                variant = self._spread(piece.seed)[variant_bytes(ys, xs)].astype(np.intp)
                more = first + order * len(self.inside) + variant - 1
                inner = np.where(variant, more, codes)
            np.copyto(codes, inner.astype(np.uint16), where=number == INSIDE)
        return Coded(piece.box.lo, codes)

    def _spread(self, seed: int) -> np.ndarray:
        return spread((1.0, *(variant.weight for variant in self.inside)), seed)

    def swatches(self) -> tuple[TileRef, ...]:
        more = [ref for row in self.pattern for ref in row] or [v.tile for v in self.inside]
        return tuple(dict.fromkeys((*super().swatches(), *more)))

    def form_words(self, key: str) -> str:
        if "a" in key:
            end = next((_NAMES[letter] for letter in key if letter in _NAMES), "between")
            return "single" if key == "aa" else f"one {'high' if key[0] == 'a' else 'wide'}, {end}"
        words = [_NAMES[letter] for letter in key if letter in _NAMES]
        return " ".join(words) or "inside"

    def summary(self) -> str:
        if self.pattern:
            size = f"{len(self.pattern[0])} × {len(self.pattern)}"
            return f"panel · pattern {size}"
        return f"panel · {several(len(self.parts), 'part')}"

    def settings(self) -> tuple[Setting, ...]:
        return (STAYS, SEED) if self.inside and not self.pattern else (STAYS,)
