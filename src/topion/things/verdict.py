"""The verdict: may this prefab stand here, why not, and where is the nearest place it may."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.neighbours import window_offsets
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.keeps_cells import taken_answer

SEARCH_RADIUS_CELLS = 8
OUTSIDE = "outside"


@dataclass(frozen=True)
class Reason:
    """One refusal.  thing : (layer id, number) in the way; cell : the cell that refuses."""

    rule: str
    sentence: str
    measured: str
    wanted: str
    thing: tuple[str, int] | None = None
    cell: tuple[int, int] | None = None


@dataclass(frozen=True)
class Verdict:
    """allowed, or refused for reasons; nearest : the closest allowed position, if any is near."""

    prefab: str
    y: float
    x: float
    reasons: tuple[Reason, ...] = ()
    nearest: tuple[float, float] | None = None

    @property
    def allowed(self) -> bool:
        return not self.reasons

    def __bool__(self) -> bool:
        return self.allowed

    def way(self) -> str:
        """From the asked place to the nearest allowed one, in words."""
        if self.nearest is None:
            return f"no free cell within {SEARCH_RADIUS_CELLS} cells"
        dy, dx = self.nearest[0] - self.y, self.nearest[1] - self.x
        parts = []
        if abs(dx) > 1e-6:
            parts.append(f"{abs(dx):g} {'right' if dx > 0 else 'left'}")
        if abs(dy) > 1e-6:
            parts.append(f"{abs(dy):g} {'down' if dy > 0 else 'up'}")
        return f"nearest free cell: {', '.join(parts)}"


def verdict(ground: Ground, spots: Spots) -> Verdict:
    """The verdict on the first of `spots`."""
    y, x = (float(v) for v in spots.positions[0])
    one = Spots(spots.prefab, spots.positions[:1], spots.turn, spots.mirrored)
    reasons = tuple(reasons_at(ground, one).get(0, ()))
    nearest = _nearest_allowed(ground, spots, (y, x)) if reasons else None
    return Verdict(spots.prefab.name, y, x, reasons, nearest)


def allowed_spots(ground: Ground, spots: Spots) -> NDArray[np.bool_]:
    """(n,) which spots break no rule."""
    allowed = np.ones(len(spots.positions), bool)
    for _, answer in _answers(ground, spots):
        allowed &= answer.allowed
    return allowed


def rule_answers(ground: Ground, spots: Spots, more: tuple[Any, ...] = ()) -> list[Any]:
    """(rule or None, Answer) for the prefab's rules, `more` rules, and what others keep."""
    return [*_answers(ground, spots), *((rule, rule.check(ground, spots)) for rule in more)]


def _answers(ground: Ground, spots: Spots) -> list[tuple[Any, Answer]]:
    answers: list[tuple[Any, Answer]] = [(None, _inside(ground, spots))]
    rules: tuple[Any, ...] = spots.prefab.rules
    answers += [(rule, rule.check(ground, spots)) for rule in rules]
    if not any(rule.kind == "keeps its cells" for rule in rules):
        answers.append((None, taken_answer(ground, ground.kept_cells, spots)))
    return answers


def _inside(ground: Ground, spots: Spots) -> Answer:
    bodies = spots.bodies
    inside = ground.room.box.holds(bodies.reshape(-1, 2)).reshape(bodies.shape[:2])
    answer = Answer.yes(len(bodies))
    answer.allowed[:] = inside.all(axis=1)
    answer.measured[~answer.allowed] = OUTSIDE
    return answer


def reasons_at(ground: Ground, spots: Spots) -> dict[int, list[Reason]]:
    """For each of the spots that breaks a rule, by row, all rules it breaks."""
    found: dict[int, list[Reason]] = {}
    for rule, answer in _answers(ground, spots):
        for row in np.flatnonzero(~answer.allowed).tolist():
            found.setdefault(row, []).append(_reason(ground, rule, answer, row))
    return found


def _reason(ground: Ground, rule: Any, answer: Answer, row: int) -> Reason:
    measured, offender = answer.measured[row], int(answer.offender[row])
    thing = ground.standing.keys[offender] if offender >= 0 else None
    y, x = (int(v) for v in answer.cells[row])
    cell = (y, x) if y >= 0 else None
    if rule is not None:
        sentence, told, wanted = rule.reason(measured)
        return Reason(rule.kind, sentence, told, wanted, thing, cell)
    if measured == OUTSIDE:
        return Reason("inside", "reaches beyond the room", "outside", "inside")
    sentence = f"the cell is kept by {measured}"
    return Reason("kept cell", sentence, str(measured), "free", thing, cell)


def _nearest_allowed(
    ground: Ground, spots: Spots, at: tuple[float, float]
) -> tuple[float, float] | None:
    offsets = window_offsets(SEARCH_RADIUS_CELLS).astype(np.float64)
    far = np.hypot(offsets[:, 0], offsets[:, 1])
    order = np.lexsort((offsets[:, 0], -offsets[:, 1], far))[1:]
    tried: Positions = np.array(at) + offsets[order]
    allowed = allowed_spots(ground, Spots(spots.prefab, tried, spots.turn, spots.mirrored))
    if not allowed.any():
        return None
    y, x = tried[int(np.argmax(allowed))]
    return float(y), float(x)
