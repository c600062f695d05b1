"""What comes of sowing: the things of a field as arrays, what was refused, and the tally."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.model.prefab import Thing, standing_cells


@dataclass(frozen=True, eq=False)
class Tally:
    """wanted : candidates the density asks for.  refused : by reason, in words."""

    wanted: int = 0
    placed: int = 0
    refused: tuple[tuple[str, int], ...] = ()


class SownSpot(NamedTuple):
    """A sown thing as far as it is drawn; the values are those of a Thing."""

    prefab: str
    y: float
    x: float
    turn: float
    mirrored: bool
    scale: float


@dataclass(frozen=True, eq=False)
class Sowing:
    """The things of a field in a window, as arrays of one length n.

    positions : (n, axes).
    prefabs : (n,) index into `names`.  densities : (n,) of the cell each stands in.
    held : (n,) numbers of those that are held where they were put, 0 for the others.
    refused_at : (m, axes) places that are refused, and refused_by : (m,) by which of the reasons
    of the tally.
    """

    names: tuple[str, ...]
    positions: Positions
    prefabs: NDArray[np.intp]
    scales: NDArray[np.float64]
    turns: NDArray[np.float64]
    mirrored: NDArray[np.bool_]
    densities: NDArray[np.float64]
    ranks: NDArray[np.float64]
    tally: Tally
    held: NDArray[np.intp] = field(default_factory=lambda: np.empty(0, np.intp))
    refused_at: Positions = field(default_factory=lambda: np.empty((0, 2)))
    refused_by: NDArray[np.intp] = field(default_factory=lambda: np.empty(0, np.intp))
    kept: Mapping[int, Thing] = field(default_factory=dict)  # what is held, by number

    def __len__(self) -> int:
        return len(self.positions)

    def thing(self, row: int) -> Thing:
        """One of them; what is held as it was put."""
        number = int(self.held[row]) if len(self.held) else 0
        if number:
            return self.kept[number]
        *level, y, x = self.positions[row].tolist()
        return Thing(
            self.names[int(self.prefabs[row])],
            y,
            x,
            float(self.turns[row]),
            bool(self.mirrored[row]),
            float(self.scales[row]),
            z=level[0] if level else 0.0,
        )

    def spots(self, rows: NDArray[np.intp]) -> Iterator[Thing | SownSpot]:
        """Some of them as far as they are drawn; what is held as it was put."""
        held = self.held[rows].tolist() if len(self.held) else [0] * len(rows)
        columns = (self.prefabs[rows], self.positions[rows], self.turns[rows],
                   self.mirrored[rows], self.scales[rows])  # fmt: skip
        for number, kind, at, turn, mirrored, scale in zip(
            held, *(column.tolist() for column in columns), strict=True
        ):
            if number:
                yield self.kept[number]
            else:
                yield SownSpot(self.names[kind], at[-2], at[-1], turn, mirrored, scale)

    def at(self, *cell: int) -> list[int]:
        """Rows of the things that stand in the cell."""
        here = (standing_cells(self.positions) == np.array(cell)).all(axis=1)
        return [int(row) for row in np.flatnonzero(here)]


def with_held(sowing: Sowing, held: Mapping[int, Thing], more_wanted: int = 0) -> Sowing:
    """The same with what is held in the window, behind the others.

    more_wanted : how many of them the tally does not ask for yet.
    """
    if not held:
        return sowing
    axes = sowing.positions.shape[1]
    names = (*sowing.names, *dict.fromkeys(t.prefab for t in held.values()
                                           if t.prefab not in sowing.names))  # fmt: skip
    things = list(held.values())
    count = len(things)
    tally = replace(sowing.tally, wanted=sowing.tally.wanted + more_wanted,
                    placed=sowing.tally.placed + count)  # fmt: skip
    more = {
        "positions": np.array([thing.at[-axes:] for thing in things]),
        "prefabs": np.array([names.index(thing.prefab) for thing in things], np.intp),
        "scales": np.array([thing.scale for thing in things]),
        "turns": np.array([thing.turn for thing in things]),
        "mirrored": np.array([thing.mirrored for thing in things], bool),
        "densities": np.ones(count),
        "ranks": np.zeros(count),
    }
    before = np.zeros(len(sowing), np.intp)
    joined = {name: np.concatenate([getattr(sowing, name), own]) for name, own in more.items()}
    numbers = np.array([*held], np.intp)
    return replace(sowing, names=names, tally=tally, kept=dict(held),
                   held=np.concatenate([before, numbers]), **joined)  # fmt: skip
