"""Ready rules: from tiles that each show one of the 47 cases, cards that cover all of them.

A case is a mask of neighbours that are the same, see `topion.grid.neighbours`.  The card of a case
asks only for what is open in it, and cards that ask for more come first; so a case without a tile
of its own is laid by the nearest one that has: thin forms by a corner, corners by an edge, and
what is left by the inside.
"""

from __future__ import annotations

from collections.abc import Mapping

from topion.grid.neighbours import NAMES_8, NE, NW, SE, SW, E, N, S, W, case_of
from topion.weaving.rules import ANY, OPEN, SAME, CardOfMarks, Rule, Variant, plain_rule

Variants = tuple[Variant, ...]
ALL = 255
_SIDES = {"n": N, "s": S, "w": W, "e": E}
_CORNERS = {"nw": (NW, N, W), "ne": (NE, N, E), "sw": (SW, S, W), "se": (SE, S, E)}
_OPPOSITE = {"n": "s", "s": "n", "w": "e", "e": "w"}


def _without(*bits: int) -> int:
    mask = ALL
    for bit in bits:
        mask &= ~bit
    return case_of(mask)


PARTS: dict[str, int] = {
    "inside": ALL,
    **{name: _without(bit) for name, bit in _SIDES.items()},
    **{name: _without(*sides) for name, (_, *sides) in _CORNERS.items()},
    **{f"inner {name}": _without(corner) for name, (corner, *_) in _CORNERS.items()},
    "inner nw se": _without(NW, SE),
    "inner ne sw": _without(NE, SW),
    **{f"end {name}": _without(*(b for n, b in _SIDES.items() if n != _OPPOSITE[name]))
       for name in _SIDES},
    "strip w e": _without(N, S),
    "strip n s": _without(W, E),
    "alone": 0,
}  # fmt: skip


def open_in(mask: int) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The sides that are open in a case, and the corners that are open between two sides that
    are not."""
    sides = tuple(name for name, bit in _SIDES.items() if not mask & bit)
    corners = tuple(
        name
        for name, (corner, a, b) in _CORNERS.items()
        if mask & a and mask & b and not mask & corner
    )
    return sides, corners


def case_name(mask: int) -> str:
    """A case in words: `edge n`, `outer corner nw, inner se`."""
    sides, corners = open_in(mask)
    inner = " ".join(corners)
    if not sides:
        return f"inner corner {inner}" if corners else "inside"
    match len(sides):
        case 1:
            name = f"edge {sides[0]}"
        case 2 if sides in (("n", "s"), ("w", "e")):
            name = "strip w–e" if sides == ("n", "s") else "strip n–s"
        case 2:
            name = f"outer corner {''.join(sides)}"
        case 3:
            same = next(name for name in _SIDES if name not in sides)
            name = f"end {_OPPOSITE[same]}"
        case _:
            name = "alone"
    return f"{name}, inner {inner}" if corners else name


def card_of_case(mask: int, *, whole: bool = False) -> CardOfMarks:
    """3×3 marks for a case: what is open in it, and where `whole` also what is the same."""
    sides, corners = open_in(mask)
    rows = [[ANY] * 3 for _ in range(3)]
    for bit, name in enumerate(NAMES_8):
        place = bit if bit < 4 else bit + 1
        if name in sides or name in corners:
            rows[place // 3][place % 3] = OPEN
        elif whole and mask >> bit & 1:
            rows[place // 3][place % 3] = SAME
    return tuple(tuple(row) for row in rows)


def rules_for_cases(tiles: Mapping[int, Variants], *, turned: bool = False) -> tuple[Rule, ...]:
    """Cards for the cases that have tiles, in an order in which they cover all 47.

    turned : each card also holds in its quarter turns, with its tiles turned.  Where no tile
    shows the inside, that with the fewest open sides stands for it.
    """
    cases = sorted(tiles, key=lambda mask: _most_open(mask))
    rules = [
        Rule(case_name(mask), card_of_case(mask), tiles[mask], turned=turned and _turns(mask))
        for mask in cases
        if mask != ALL
    ]
    inside = ALL if ALL in tiles else cases[-1]
    return (*rules, plain_rule("inside", tiles[inside]))


def _most_open(mask: int) -> tuple[int, int, int]:
    sides, corners = open_in(mask)
    return -len(sides), -len(corners), list(PARTS.values()).index(mask) if mask in _PLACES else 99


_PLACES = frozenset(PARTS.values())


def _turns(mask: int) -> bool:
    """Whether a case looks otherwise after a quarter turn."""
    sides, corners = open_in(mask)
    return len(sides) not in (0, 4) or len(corners) not in (0, 4)


def ready_rules(block: Mapping[str, Variants]) -> tuple[Rule, ...]:
    """The cards for tiles by the names of their parts: `nw n ne w inside e sw s se`, the inner
    corners `inner nw` … and the other PARTS."""
    return rules_for_cases({PARTS[name]: variants for name, variants in block.items()})
