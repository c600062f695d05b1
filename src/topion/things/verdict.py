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
    reasons = tuple(verdict_reasons(ground, one))
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
    answer.measured[~answer.allowed] = "outside"
    return answer


def verdict_reasons(ground: Ground, one: Spots) -> list[Reason]:
    """Every rule that the first of the spots breaks, with what was measured."""
    reasons = []
    for rule, answer in _answers(ground, one):
        if not answer.allowed[0]:
            row = int(answer.offender[0])
            thing = ground.standing.keys[row] if row >= 0 else None
            cell = (int(answer.cells[0, 0]), int(answer.cells[0, 1]))
            reasons.append(_reason(rule, answer.measured[0], thing, cell if cell[0] >= 0 else None))
    return reasons


def _reason(
    rule: Any, measured: Any, thing: tuple[str, int] | None, cell: tuple[int, int] | None
) -> Reason:
    if rule is None and measured == "outside":
        return Reason("inside", "reaches beyond the room", "outside", "inside")
    if rule is None:
        return Reason(
            "kept cell", f"the cell is kept by {measured}", str(measured), "free", thing, cell
        )
    match rule.kind:
        case "clear of":
            what = rule.of or "its like"
            told, wanted = f"{measured:g}", f"{rule.cells:g} cells"
            return Reason(rule.kind, f"too close to {what}", told, wanted, thing, cell)
        case "on" | "not on":
            words = ("" if rule.kind == "on" else "not ") + " or ".join(rule.materials)
            return Reason(rule.kind, f"lies on {measured}", str(measured), words, None, cell)
        case "at most":
            return Reason(rule.kind, "too many in the room", str(measured), str(rule.count))
    return Reason(rule.kind, f"{measured} stands here", str(measured), "free", thing, cell)


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
