"""Learning the rules of a material as `topion.weaving.learn` does, cell by cell in plain Python."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, replace

from topion.grid.arrays import BEYOND
from topion.weaving.cards import _HOPE, _SEEDS, _WORK, ALL_WAYS, DRAWN, NO_MARK, Ways
from topion.weaving.contents import ORIENTATIONS
from topion.weaving.example import _BLOCK, OPEN_CLASS, SAME_CLASS, Example
from topion.weaving.learn import _AT_ONCE, _TRIED
from topion.weaving.roles import _FEW, _RARE

Row = tuple[int, ...]
_SURE = 1e-12


@dataclass
class Plain:
    """An example as lists.  cells : of the material.  of : (n,) looks of tiles."""

    material: list[list[int]]
    tile: list[list[int]]
    of: list[int]
    oriented: list[list[int]]
    number: int
    cells: list[tuple[int, int]]


@dataclass(frozen=True)
class Card:
    marks: Row
    role: int
    ways: Ways = DRAWN
    turns: bool = True


@dataclass
class Roles:
    of_row: list[int]
    counts: list[list[int]]
    turned: list[list[int]]


@dataclass
class Seen:
    """rows : the different surroundings.  counts : of each, by look."""

    rows: list[Row]
    looks: list[int]
    counts: list[list[int]]
    classes: int


def plain_of(example: Example, number: int) -> Plain:
    """The example without arrays."""
    material, tile = example.material.tolist(), example.tile.tolist()
    cells = [(y, x) for y, row in enumerate(material) for x, m in enumerate(row)
             if m == number and tile[y][x] >= 0]  # fmt: skip
    contents = example.contents
    return Plain(material, tile, contents.of.tolist(), contents.oriented.tolist(), number, cells)


def learned(shown: Plain, *, once: bool = False) -> list[Card]:
    """The cards by which all cells are told.  once : whether cells with the same surroundings are
    looked at as one, as ours does."""
    best: tuple[float, tuple[int, Row, str]] | None = None
    sure = False
    few = _some(shown)
    for context in _contexts(few):
        if best and context[:2] != (3, ()):
            if sure:
                break
            if context[2] != best[1][2]:
                continue
        seen = _seen(few, *context)
        roles, rows = _roles(seen, shown.oriented), _rows(seen)
        of_roles = sum(_bits_to_tell(counts) for counts in roles.counts)
        most = best[0] - of_roles if best else math.inf
        weight = [sum(counts) for counts in seen.counts]
        cards = _cards(rows, weight, roles, seen.classes, (DRAWN,), most)
        if cards is None:
            continue
        bits = of_roles + sum(_bits(card, seen.classes, len(roles.turned)) for card in cards)
        if best is None or bits < best[0]:
            best = bits, context
            sure = all(sum(c > 0 for c in counts) == 1 for counts in roles.counts)
    assert best is not None
    return _cards_of_many(_seen(shown, *best[1]), shown.oriented, once=once)


def _cards_of_many(seen: Seen, oriented: list[list[int]], *, once: bool) -> list[Card]:
    roles, rows = _roles(seen, oriented), _rows(seen)
    weight = [sum(counts) for counts in seen.counts]
    every = [n for n, cells in enumerate(weight) for _ in range(1 if once else cells)]
    part = sorted(range(len(rows)), key=lambda n: -weight[n])[:_AT_ONCE] if once else every
    while True:
        some = Roles([roles.of_row[n] for n in part], roles.counts, roles.turned)
        few = [rows[n] for n in part]
        cards = _cards(few, [weight[n] for n in part], some, seen.classes, ALL_WAYS) or []
        wrong = _wrong(cards, rows, roles)
        if not wrong:
            return cards
        part += wrong[: _AT_ONCE // 2]


# --- surroundings ---------------------------------------------------------------------------


def _some(shown: Plain) -> Plain:
    count = len(shown.cells)
    if count <= _TRIED:
        return shown
    wanted = [at + n for at in range(0, count, count * _BLOCK // _TRIED) for n in range(_BLOCK)]
    return replace(shown, cells=[shown.cells[n] for n in wanted if n < count])


def _around(shown: Plain, y: int, x: int, reach: int) -> Row:
    high, wide = len(shown.material), len(shown.material[0])
    return tuple(
        shown.material[v][u] if 0 <= v < high and 0 <= u < wide else BEYOND
        for v in range(y - reach, y + reach + 1)
        for u in range(x - reach, x + reach + 1)
    )


def _contexts(shown: Plain) -> list[tuple[int, Row, str]]:
    near = {m for y, x in shown.cells for m in _around(shown, y, x, 2)}
    others = tuple(sorted(m for m in near if m not in (0, BEYOND, shown.number)))
    beyond = ("same", "open") if BEYOND in near else ("same",)
    named = dict.fromkeys(((), others))
    return [(side, names, counts) for side in (3, 5) for names in named for counts in beyond]


def _seen(shown: Plain, side: int, named: Row, beyond: str) -> Seen:
    class_of = {shown.number: SAME_CLASS, BEYOND: SAME_CLASS if beyond == "same" else OPEN_CLASS}
    class_of.update({material: n for n, material in enumerate(named, 2)})
    found: dict[Row, Counter[int]] = {}
    for y, x in shown.cells:
        row = tuple(class_of.get(m, OPEN_CLASS) for m in _around(shown, y, x, side // 2))
        look = shown.of[shown.tile[y][x]]
        found.setdefault(row, Counter())[look] += 1
    looks = sorted({look for counts in found.values() for look in counts})
    rows = sorted(found)
    counts = [[found[row][look] for look in looks] for row in rows]
    return Seen(rows, looks, counts, len(named) + 2)


def _rows(seen: Seen) -> list[list[Row]]:
    """Of each surroundings, how they would lie in each orientation if a card stood as drawn."""
    size = len(seen.rows[0])
    side = math.isqrt(size)
    orders = [_order(side, turn, mirrored) for turn, mirrored in ORIENTATIONS]
    middle = size // 2
    whole = [(*row[:middle], SAME_CLASS, *row[middle + 1 :]) for row in seen.rows]
    return [[tuple(row[n] for n in order) for order in orders] for row in whole]


def _order(side: int, turn: int, mirrored: bool) -> list[int]:
    places = [[y * side + x for x in range(side)] for y in range(side)]
    for _ in range(turn):
        places = [list(row) for row in zip(*places[::-1], strict=True)]
    if mirrored:
        places = [row[::-1] for row in places]
    flat = [n for row in places for n in row]
    return sorted(range(len(flat)), key=flat.__getitem__)


# --- roles ----------------------------------------------------------------------------------


def _bits_to_tell(counts: list[int]) -> float:
    looks = max(2, len(counts))
    whole = math.lgamma(sum(counts) + looks / 2) - math.lgamma(looks / 2)
    each = sum(math.lgamma(c + 0.5) - math.lgamma(0.5) for c in counts if c)
    return (whole - each) / math.log(2)


def _roles(seen: Seen, oriented: list[list[int]]) -> Roles:
    of_row, sums = [0] * len(seen.rows), list[list[int]]()
    bits: list[float] = []
    for row in sorted(range(len(seen.rows)), key=lambda n: -sum(seen.counts[n])):
        mine = seen.counts[row]
        alone = _bits_to_tell(mine)
        best, least, then = -1, math.inf, 0.0
        for at, role in enumerate(sums):
            if any(a and b for a, b in zip(role, mine, strict=True)):
                joined = _bits_to_tell([a + b for a, b in zip(role, mine, strict=True)])
                if joined - bits[at] < least - _SURE:
                    best, least, then = at, joined - bits[at], joined
        if best >= 0 and least <= alone:
            sums[best] = [a + b for a, b in zip(sums[best], mine, strict=True)]
            bits[best] = then
        else:
            best = len(sums)
            sums.append(list(mine))
            bits.append(alone)
        of_row[row] = best
    place = {look: n for n, look in enumerate(seen.looks)}
    turned = []
    for number, counts in enumerate(sums):
        chief = seen.looks[counts.index(max(counts))]
        to = [place.get(oriented[chief][way], -1) for way in range(8)]
        ways = [-1 if at < 0 else max(range(len(sums)), key=lambda r, a=at: sums[r][a])
                for at in to]  # fmt: skip
        turned.append([number, *ways[1:]])
    return Roles(of_row, sums, turned)


def strays(roles: Roles) -> int:
    """How many looks strayed into a role."""
    whole = [sum(column) for column in zip(*roles.counts, strict=True)]
    return sum(0 < c <= _FEW and c / sum(counts) <= _RARE and whole[n] - c > c
               for counts in roles.counts for n, c in enumerate(counts))  # fmt: skip


# --- cards ----------------------------------------------------------------------------------


def _bits(card: Card, classes: int, roles: int) -> float:
    asked = sum(mark != NO_MARK for mark in card.marks)
    return asked * math.log2(len(card.marks) * classes) + math.log2(roles + 1) + 3


def _laid(card: Card, roles: Roles) -> list[int]:
    return roles.turned[card.role] if card.turns else [card.role] * 8


def _cards(
    rows: list[list[Row]],
    weight: list[int],
    roles: Roles,
    classes: int,
    ways: tuple[Ways, ...],
    most: float = math.inf,
) -> list[Card] | None:
    asked, found = roles.of_row, [-1] * len(rows)
    cards: list[Card] = []
    bits = 0.0
    while wrong := sum(a != b for a, b in zip(found, asked, strict=True)):
        if cards:
            card, fits = _exception(rows, weight, roles, found, ways)
        else:
            share: Counter[int] = Counter()
            for role, cells in zip(asked, weight, strict=True):
                share[role] += cells
            role = min(share, key=lambda r: (-share[r], r))
            card, fits = Card((NO_MARK,) * len(rows[0][0]), role), [0] * len(rows)
        cards.insert(0, card)
        laid = _laid(card, roles)
        found = [laid[fit] if fit >= 0 else was for fit, was in zip(fits, found, strict=True)]
        left = sum(a != b for a, b in zip(found, asked, strict=True))
        own = _bits(card, classes, len(roles.turned))
        bits += own
        if bits + left / max(1, wrong - left) * _HOPE * own > most:
            return None
    return _needed(cards, rows, roles)


def _exception(
    rows: list[list[Row]],
    weight: list[int],
    roles: Roles,
    found: list[int],
    ways: tuple[Ways, ...],
) -> tuple[Card, list[int]]:
    right = [a == b for a, b in zip(found, roles.of_row, strict=True)]
    best: tuple[tuple[int, ...], Card, list[int]] | None = None
    for seed in _seeds(right, roles.of_row, weight, len(rows) * 8 * len(rows[0][0])):
        marks = list(rows[seed][0])
        marks[len(marks) // 2] = NO_MARK
        role = roles.of_row[seed]
        for card in _starts(tuple(marks), role, roles, ways):
            widened = _widened(card, rows, _laid(card, roles), roles.of_row, right)
            if widened is None:
                continue
            marks_now, fits = widened
            laid = _laid(card, roles)
            there = [n for n, fit in enumerate(fits) if fit >= 0]
            good = [n for n in there if laid[fits[n]] == roles.of_row[n]]
            worth = (sum(not right[n] for n in good), -len(card.ways),
                     -sum(mark != NO_MARK for mark in marks_now),
                     -(len(there) - len(good)))  # fmt: skip
            if best is None or worth > best[0]:
                best = worth, replace(card, marks=marks_now), fits
    assert best is not None
    return best[1], best[2]


def _seeds(right: list[bool], role: list[int], weight: list[int], size: int) -> list[int]:
    wrong = sorted((n for n, fine in enumerate(right) if not fine), key=lambda n: -weight[n])
    rank: Counter[int] = Counter()
    ranked = []
    for n in wrong:
        ranked.append((rank[role[n]], n))
        rank[role[n]] += 1
    most = max(3, min(_SEEDS, _WORK // max(1, size)))
    return [n for _, n in sorted(ranked, key=lambda pair: pair[0])[:most]]


def _starts(marks: Row, role: int, roles: Roles, ways: tuple[Ways, ...]) -> list[Card]:
    found = []
    for held in ways:
        if all(roles.turned[role][way] >= 0 for way in held):
            found.append(Card(marks, role, held))
        if len(held) > 1:
            found.append(Card(marks, role, held, turns=False))
    return found


def _widened(
    card: Card, rows: list[list[Row]], laid: list[int], asked: list[int], right: list[bool]
) -> tuple[Row, list[int]] | None:
    marks, held = list(card.marks), card.ways
    while True:
        used = [n for n, mark in enumerate(marks) if mark != NO_MARK]
        gain, lost, spoilt = Counter[int](), set[int](), set[int]()
        fits = []
        for row, cells in enumerate(rows):
            first, new = -1, dict[int, int]()
            for way in held:
                away = [n for n in used if cells[way][n] != marks[n]]
                if not away:
                    first = way
                    break
                if len(away) == 1:
                    new.setdefault(away[0], way)
            fits.append(first)
            good = first >= 0 and laid[first] == asked[row]
            if right[row] and first >= 0 and not good:
                return None
            for mark, way in new.items():
                if laid[way] != asked[row]:
                    spoilt.add(mark)
                    if right[row] or good:
                        lost.add(mark)
                elif not (right[row] or good):
                    gain[mark] += 1
        usable = [n for n in used if n not in lost and (gain[n] > 0 or n not in spoilt)]
        if not usable:
            return tuple(marks), fits
        at = max(usable, key=lambda n: gain[n] - 0.5 * (n in spoilt))
        marks[at] = NO_MARK


def _way(card: Card, cells: list[Row]) -> int:
    for way in card.ways:
        if all(m in (NO_MARK, c) for m, c in zip(card.marks, cells[way], strict=True)):
            return way
    return -1


def _wrong(cards: list[Card], rows: list[list[Row]], roles: Roles) -> list[int]:
    found = []
    for row, cells in enumerate(rows):
        role = -1
        for card in cards:
            way = _way(card, cells)
            if way >= 0:
                role = _laid(card, roles)[way]
                break
        if role != roles.of_row[row]:
            found.append(row)
    return found


def _needed(cards: list[Card], rows: list[list[Row]], roles: Roles) -> list[Card]:
    kept = list(cards)
    for card in cards:
        without = [other for other in kept if other is not card]
        if without and not _wrong(without, rows, roles):
            kept = without
    return kept
