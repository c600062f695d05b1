"""The palette of a project: named colours that tint maps speak of by number."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.model.typed import Colour, Name, between, typed

MOST_TINTS = 64
FORE_BITS, BRIGHT_BIT, CODE_BITS = 7, 14, 15  # of a cell: foreground, background, bright


@typed
@dataclass(frozen=True)
class Tint:
    """One colour.  number : what cells hold, given once; its place in the list may change.

    bright : its bright form.
    """

    number: Annotated[int, between(1, MOST_TINTS)]
    name: Name
    colour: Colour
    bright: Colour


Palette = tuple[Tint, ...]


def lighter(colour: str) -> str:
    """A bright form of a `#rrggbb` colour: halfway to white, and a little stronger."""
    rgb = [int(colour[at : at + 2], 16) for at in (1, 3, 5)]
    top = max(*rgb, 1)
    strong = [min(255, value * 255 // top) for value in rgb]
    mixed = ((a + b + 255) // 3 for a, b in zip(rgb, strong, strict=True))
    return "#{:02x}{:02x}{:02x}".format(*mixed)


def checked(palette: Palette) -> Palette:
    """The same.  Raises BadValue for numbers or names that stand twice."""
    for what in ("number", "name"):
        values: list[object] = [getattr(tint, what) for tint in palette]
        twice = next((value for value in values if values.count(value) > 1), None)
        if twice is not None:
            raise BadValue(f"the {what}s of the palette", twice, "each once")
    return palette


def free_number(palette: Iterable[Tint]) -> int:
    """A number that no colour has, if possible one that none had.  Raises BadValue when full."""
    taken = {tint.number for tint in palette}
    last = max(taken, default=0)
    found = last + 1 if last < MOST_TINTS else min({*range(1, MOST_TINTS + 1)} - taken, default=0)
    if not found:
        raise BadValue("the colours of the palette", MOST_TINTS + 1, f"at most {MOST_TINTS}")
    return found


def with_tint(palette: Palette, name: str, colour: str, bright: str = "") -> Palette:
    """With one more colour at the end; its name is made free.  Raises BadValue when full."""
    names, free, more = {tint.name for tint in palette}, name, 2
    while free in names:
        free, more = f"{name} {more}", more + 1
    return (*palette, Tint(free_number(palette), free, colour, bright or lighter(colour)))


def changed(palette: Palette, number: int, **values: Any) -> Palette:
    """With other values of one colour.  Raises BadValue."""
    return checked(tuple(replace(t, **values) if t.number == number else t for t in palette))


def moved(palette: Palette, number: int, place: int) -> Palette:
    """With one colour at another place, 0 first; cells keep their colours."""
    one = next(t for t in palette if t.number == number)
    rest = [t for t in palette if t.number != number]
    rest.insert(max(0, min(place, len(rest))), one)
    return tuple(rest)


def named(palette: Palette, name: str) -> Tint | None:
    """The colour of that name, if there is one."""
    return next((tint for tint in palette if tint.name == name), None)


def rgb_table(palette: Palette) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """(2, MOST_TINTS + 1, 3) colours, plain and bright, by number; and (MOST_TINTS + 1,) which
    numbers stand for one."""
    colours = np.zeros((2, MOST_TINTS + 1, 3), np.uint8)
    known = np.zeros(MOST_TINTS + 1, bool)
    for tint in palette:
        known[tint.number] = True
        for row, text in enumerate((tint.colour, tint.bright)):
            colours[row, tint.number] = tuple(bytes.fromhex(text[1:]))
    return colours, known


def packed(fore: np.ndarray, back: np.ndarray, bright: np.ndarray) -> NDArray[np.uint16]:
    """The three numbers of cells as one code; 0 for cells as they are."""
    wide = fore.astype(np.uint16) | back.astype(np.uint16) << FORE_BITS
    flagged = wide | bright.astype(np.uint16) << BRIGHT_BIT
    return np.asarray(np.where(wide > 0, flagged, 0), np.uint16)


def unpacked(code: int) -> tuple[int, int, bool]:
    """(foreground, background, bright) of a code."""
    low = (1 << FORE_BITS) - 1
    return code & low, code >> FORE_BITS & low, bool(code >> BRIGHT_BIT)
