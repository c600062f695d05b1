"""Clear of: a least distance from others, between their middles or their bodies."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import CellList, Positions
from topion.grid.told import several
from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots, body_cells
from topion.things.rules.answer import Answer
from topion.things.rules.kind import OwnLaid, RuleKind


@dataclass(frozen=True)
class ClearOf(RuleKind):
    """Keeps `cells` from the same prefab (`of` empty), from a prefab or class, or `anything`.

    between : the middles of things, or their bodies: then so many cells lie free between them.
    """

    kind: ClassVar[str] = "clear of"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "It keeps at least ",
        Blank("cells", "number", 0.1),
        " cells from ",
        Blank("of", "thing", none="its like"),
        ", measured between ",
        Blank("between", "choice", choices=(("middles", "middles"), ("bodies", "bodies"))),
    )
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("ring", "buoy", ((0.5, 0.45),), 0.38),
        Mark("dot", "ink", ((0.5, 0.45),), 0.07),
        Mark("line", "buoy", ((0.5, 0.45), (0.32, 0.78))),
        Mark("dot", "tidal", ((0.2, 0.9),), 0.07),
    )
    cells: float
    of: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    between: Literal["middles", "bodies"] = "middles"

    def __post_init__(self) -> None:
        if not 0 < self.cells <= 1000:
            raise BadValue("the distance of a rule", self.cells, "above 0 and at most 1000 cells")

    def sentence(self) -> str:
        far = f"keeps {several(self.cells, 'cell')} from {self.of or 'its like'}"
        return far if self.between == "middles" else f"{far}, body to body"

    def short(self) -> str:
        return "too close"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too close to {self.of or 'its like'}", f"{measured:g}", several(self.cells, "cell")

    def reach(self) -> float:
        return self.cells

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        own = {"", "anything", spots.prefab.name, spots.prefab.class_name}
        if self.of not in own:
            return None
        if self.between == "bodies":
            return _BodiesApart(spots.bodies, self.cells)
        return _Apart(spots.positions, self.cells)

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        rows, points = ground.standing.near(self.of or spots.prefab.name)
        if points is None or not len(spots.positions):
            return answer
        own = ground.standing.own_among(rows, spots.own)
        if self.between == "bodies":
            gap, nearest = _between_bodies(ground, spots, rows, own)
        else:
            gap, nearest = points.to(spots.positions, own)
        answer.allowed[:] = gap >= self.cells - 1e-9
        refused = ~answer.allowed
        answer.measured[refused] = np.floor(gap[refused] * 10) / 10
        answer.offender[refused] = rows[nearest[refused]]
        answer.cells[refused] = spots.cells[refused]
        return answer


def _between_bodies(
    ground: Ground, spots: Spots, rows: NDArray[np.intp], own: NDArray[np.intp] | None
) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """(n,) cells that lie free between each body and the nearest of those rows, and (n,) which."""
    things = [ground.standing.things[row] for row in rows.tolist()]
    bodies = [np.array(body_cells(ground.project.prefabs[t.prefab], t, spots.axes)) for t in things]
    cells = np.concatenate(bodies)
    whose = np.repeat(np.arange(len(bodies)), [len(body) for body in bodies])
    gap, nearest = np.full(len(spots.positions), np.inf), np.zeros(len(spots.positions), np.intp)
    for spot, body in enumerate(spots.bodies):
        others = cells if own is None or own[spot] < 0 else cells[whose != own[spot]]
        owners = whose if own is None or own[spot] < 0 else whose[whose != own[spot]]
        if len(others):
            far = free_between(body[:, None], others[None]).min(axis=0)
            gap[spot], nearest[spot] = far.min(), owners[far.argmin()]
    return gap, nearest


def free_between(a: CellList, b: CellList) -> NDArray[np.float64]:
    """How far cells lie apart, counted in the cells that are free between them."""
    free = np.maximum(np.abs(a - b) - 1, 0)
    touch = (a == b).all(axis=-1)
    return np.where(touch, -1.0, np.sqrt((free * free).sum(axis=-1)))


class _BodiesApart:
    """Bodies of a stroke that keep their distance."""

    def __init__(self, bodies: CellList, gap: float) -> None:
        self._bodies, self._gap = bodies, gap
        self._laid: list[CellList] = []

    def allows(self, row: int) -> bool:
        body = self._bodies[row][:, None]
        return all(free_between(body, other).min() >= self._gap - 1e-9 for other in self._laid)

    def add(self, row: int) -> None:
        self._laid.append(self._bodies[row])


_STRIDE = 1 << 32  # from a row of squares to the next
_NEAR = tuple(dy * _STRIDE + dx for dy in (-1, 0, 1) for dx in (-1, 0, 1))


class _Apart:
    """Places of a stroke that keep their distance, by squares as wide as it."""

    def __init__(self, positions: Positions, gap: float) -> None:
        plan = np.floor(positions[:, -2:] / gap).astype(np.int64)
        self._squares = (plan[:, 0] * _STRIDE + plan[:, 1]).tolist()
        self._at: list[list[float]] = positions.tolist()
        self._least = (gap - 1e-9) ** 2
        self._laid: dict[int, list[list[float]]] = {}  # by square: few, as they keep apart

    def allows(self, row: int) -> bool:
        here, square = self._at[row], self._squares[row]
        for near in _NEAR:
            for other in self._laid.get(square + near, ()):
                if sum((a - b) * (a - b) for a, b in zip(here, other, strict=True)) < self._least:
                    return False
        return True

    def add(self, row: int) -> None:
        self._laid.setdefault(self._squares[row], []).append(self._at[row])
