"""The verdict: may this prefab stand here, why not, and where is the nearest place it may."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.neighbours import window_offsets
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.keeps_cells import taken_answer
from topion.things.rules.kind import RuleKind, has_keeper, rules_of
from topion.things.surfaces import underside

Answers = list[tuple[RuleKind | None, Answer]]
SEARCH_RADIUS_CELLS = 8
_FIRST_TRIED = 24  # cells
OUTSIDE = "outside"
FLOATS = "nothing"


@dataclass(frozen=True)
class Reason:
    """One refusal.  thing : (layer id, number) in the way; cell : the cell that refuses.

    reach : how far, in cells, the rule looks from a body; 0 for not beyond it.
    compares : what was measured and what is wanted are amounts.
    """

    rule: str
    sentence: str
    measured: str
    wanted: str
    thing: tuple[str, int] | None = None
    cell: tuple[int, ...] | None = None
    reach: float = 0.0
    compares: bool = False

    def told(self) -> str:
        """In a line, with what was measured or what is wanted."""
        if self.compares:
            return f"{self.sentence}: {self.measured} of {self.wanted}"
        return f"{self.sentence}, wanted {self.wanted}"


# What the way to another place is called, by axis: farther along it, and back.
_WAYS = {
    2: (("down", "up"), ("right", "left")),
    3: (("higher", "lower"), ("south", "north"), ("east", "west")),
}


@dataclass(frozen=True)
class Verdict:
    """allowed, or refused for reasons; nearest : the closest allowed position, if any is near.

    at : the position asked about, (y, x) or (z, y, x).
    """

    prefab: str
    at: tuple[float, ...]
    reasons: tuple[Reason, ...] = ()
    nearest: tuple[float, ...] | None = None

    @property
    def allowed(self) -> bool:
        return not self.reasons

    def __bool__(self) -> bool:
        return self.allowed

    def way(self) -> str:
        """From the asked place to the nearest allowed one, in words."""
        if self.nearest is None:
            return f"no free cell within {SEARCH_RADIUS_CELLS} cells"
        parts = []
        for axis, (there, back) in reversed(list(enumerate(_WAYS[len(self.at)]))):
            far = self.nearest[axis] - self.at[axis]
            if abs(far) > 1e-6:
                parts.append(f"{abs(far):g} {there if far > 0 else back}")
        return f"nearest free cell: {', '.join(parts)}"


def verdict(ground: Ground, spots: Spots) -> Verdict:
    """The verdict on the first of `spots`."""
    at = tuple(spots.positions[0].tolist())
    tried = _tried_round(ground, at)
    first = np.concatenate([spots.positions[:1], tried[:_FIRST_TRIED]])
    answers = _answers(ground, _at(spots, first))
    reasons = tuple(_reasons(ground, answers, 1).get(0, ()))
    nearest = None
    if reasons:
        allowed = _allowed_by(answers)[1:]
        nearest = _first(first[1:], allowed)
        if nearest is None:
            nearest = _nearest_allowed(ground, spots, tried[_FIRST_TRIED:])
    return Verdict(spots.prefab.name, at, reasons, nearest)


def allowed_spots(ground: Ground, spots: Spots) -> NDArray[np.bool_]:
    """(n,) which spots break no rule."""
    return _allowed_by(_answers(ground, spots))


def _allowed_by(answers: Answers) -> NDArray[np.bool_]:
    return np.logical_and.reduce([answer.allowed for _, answer in answers])


def rule_answers(ground: Ground, spots: Spots, more: tuple[RuleKind, ...] = ()) -> Answers:
    """(rule or None, Answer) for the prefab's rules, `more` rules, and what others keep."""
    return [*_answers(ground, spots), *((rule, rule.check(ground, spots)) for rule in more)]


def _answers(ground: Ground, spots: Spots) -> Answers:
    answers: Answers = [
        (None, _inside(ground, spots)),
        (ROOM_FOR_BODY, ROOM_FOR_BODY.check(ground, spots)),
    ]
    rules = rules_of(ground.project, spots.prefab)
    answers += [(rule, rule.check(ground, spots)) for rule in rules]
    if not has_keeper(rules):
        answers.append((None, taken_answer(ground, ground.kept_cells, spots)))
    return answers


def _inside(ground: Ground, spots: Spots) -> Answer:
    bodies = spots.bodies
    inside = ground.room.box.holds(bodies.reshape(-1, spots.axes)).reshape(bodies.shape[:2])
    answer = Answer.of(spots)
    answer.allowed[:] = inside.all(axis=1)
    answer.measured[~answer.allowed] = OUTSIDE
    return answer


class _RoomForBody(RuleKind):
    """What is asked of every thing: something carries it, and its body stands in the open."""

    kind: ClassVar[str] = "room"

    def sentence(self) -> str:
        return "stands in the open, on something that carries it"

    def short(self) -> str:
        return "no room"

    def reason(self, measured: object) -> tuple[str, str, str]:
        if measured == FLOATS:
            return "nothing carries it", "open below", "ground"
        return f"{measured} fills the cell", str(measured), "open"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return _room_for_body(ground, spots)


ROOM_FOR_BODY = _RoomForBody()


def _room_for_body(ground: Ground, spots: Spots) -> Answer:
    answer = Answer.of(spots)
    bodies, own = spots.bodies, spots.bodies[:, : len(spots.prefab.offsets)]
    flat = bodies.reshape(-1, spots.axes)
    filled = ground.floor.filled(flat).reshape(bodies.shape[:2])
    refused = np.flatnonzero(filled.any(axis=1))
    first = np.argmax(filled[refused] > 0, axis=1)
    answer.allowed[refused] = False
    names = ground.project.material_name
    answer.measured[refused] = [names(int(m)) for m in filled[refused, first]]
    answer.cells[refused] = bodies[refused, first]
    if spots.prefab.floats:
        return answer
    feet = own.reshape(-1, spots.axes)
    carried = ground.floor.carried(feet).reshape(own.shape[:2]).any(axis=1)
    view = ground.room.info.view
    if view != "top" and (spots.tip or round(spots.turn / 90) % 4):  # by a wall or a ceiling
        down = underside(view, spots.turn, spots.tip)
        carried |= ground.floor.held(feet, down).reshape(own.shape[:2]).any(axis=1)
    floats = np.flatnonzero(~carried & answer.allowed)
    answer.allowed[floats] = False
    answer.measured[floats] = FLOATS
    answer.cells[floats] = spots.cells[floats]
    return answer


def reasons_at(ground: Ground, spots: Spots) -> dict[int, list[Reason]]:
    """For each of the spots that breaks a rule, by row, all rules it breaks."""
    return _reasons(ground, _answers(ground, spots), len(spots.positions))


def _reasons(ground: Ground, answers: Answers, count: int) -> dict[int, list[Reason]]:
    found: dict[int, list[Reason]] = {}
    for rule, answer in answers:
        for row in np.flatnonzero(~answer.allowed[:count]).tolist():
            found.setdefault(row, []).append(_reason(ground, rule, answer, row))
    return found


def _reason(ground: Ground, rule: RuleKind | None, answer: Answer, row: int) -> Reason:
    measured, offender = answer.measured[row], int(answer.offender[row])
    thing = ground.standing.keys[offender] if offender >= 0 else None
    at = tuple(answer.cells[row].tolist())
    cell = at if min(at) >= 0 else None
    if rule is not None:
        sentence, told, wanted = rule.reason(measured)
        return Reason(rule.kind, sentence, told, wanted, thing, cell, rule.reach(), rule.compares)
    if measured == OUTSIDE:
        return Reason("inside", "reaches beyond the room", "outside", "inside")
    sentence = f"the cell is kept by {measured}"
    return Reason("kept cell", sentence, str(measured), "free", thing, cell)


def _at(spots: Spots, positions: Positions) -> Spots:
    return Spots(spots.prefab, positions, spots.turn, spots.mirrored, tip=spots.tip)


def _nearest_first() -> Positions:
    """(n, 2) offsets to a cell and those round it, as places are tried."""
    offsets = window_offsets(SEARCH_RADIUS_CELLS).astype(np.float64)
    order = np.lexsort((offsets[:, 0], -offsets[:, 1], np.hypot(*offsets.T)))
    return offsets[order]


_ROUND = _nearest_first()


def _tried_round(ground: Ground, at: tuple[float, ...]) -> Positions:
    """(n, axes) places round one, the nearest first."""
    here = np.array(at)
    tried, rows = ground.floor.seats(here[-2:] + _ROUND)
    if rows is None:  # the places themselves, of which the first is here
        return tried[1:]
    gap = tried - here
    far = np.sqrt((gap**2).sum(axis=1))
    order = np.lexsort((gap[:, -2], -gap[:, -1], far))
    found: Positions = tried[order[far[order] > 1e-9]]
    return found


def _nearest_allowed(ground: Ground, spots: Spots, tried: Positions) -> tuple[float, ...] | None:
    """The first of the places that is allowed, asked of a few at first, for mostly one of them
    is."""
    first, count = 0, _FIRST_TRIED
    while first < len(tried):
        part = tried[first : first + count]
        found = _first(part, allowed_spots(ground, _at(spots, part)))
        if found is not None:
            return found
        first, count = first + count, count * 4
    return None


def _first(places: Positions, allowed: NDArray[np.bool_]) -> tuple[float, ...] | None:
    return tuple(places[int(np.argmax(allowed))].tolist()) if allowed.any() else None
