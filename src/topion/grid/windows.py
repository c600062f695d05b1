"""Windows of a sample: the small neighbourhoods seen in it, each once, and which can stand beside
which.  For any number of axes."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Windows:
    """cells : (p, n, n …) the values of each window.  counts : (p,) how often it is seen.

    seen_at : (k,) the window at each place of the sample, copy after copy; by window, first to last
    they lie in `order` from `starts` on.  next : (axes, 2, k) the place behind and before it along
    an axis, -1 where there is none.
    """

    cells: Values
    counts: NDArray[np.intp]
    seen_at: NDArray[np.intp]
    next: NDArray[np.intp]

    @classmethod
    def seen(
        cls,
        values: Values,
        inside: NDArray[np.bool_],
        side: int,
        copies: Sequence[Callable[[Any], Any]] = (),
    ) -> Windows:
        """All windows of `side` cells that lie wholly inside, and in turned or mirrored copies."""
        shape, axes = (side,) * values.ndim, values.ndim
        if any(size < side for size in values.shape):
            none = np.empty(0, np.intp)
            return cls(np.empty((0, *shape), np.int32), none, none, np.empty((axes, 2, 0), np.intp))
        view: Any = np.lib.stride_tricks.sliding_window_view
        flat, following, begun = [], [], 0
        for copy in (_as_it_is, *copies):
            turned, there = copy(values), copy(inside)
            whole = view(there, shape).reshape(*view(there, shape).shape[:axes], -1).all(axis=-1)
            flat.append(view(turned, shape)[whole].reshape(-1, side**axes).astype(np.int32))
            following.append(_following(whole, begun))
            begun += len(flat[-1])
        cells, seen_at, counts = np.unique(
            np.concatenate(flat), axis=0, return_inverse=True, return_counts=True
        )
        return cls(
            cells.reshape(-1, *shape),
            counts,
            seen_at.reshape(-1),
            np.concatenate(following, axis=2),
        )

    def __len__(self) -> int:
        return len(self.cells)

    @property
    def side(self) -> int:
        """Cells along each axis."""
        return int(self.cells.shape[1])

    @property
    def axes(self) -> int:
        return self.cells.ndim - 1

    @cached_property
    def order(self) -> NDArray[np.intp]:
        """(k,) places of the sample, by the window that is seen there."""
        return np.argsort(self.seen_at, kind="stable")

    @cached_property
    def starts(self) -> NDArray[np.intp]:
        """(p,) where the places of each window begin in `order`."""
        return np.concatenate([[0], np.cumsum(self.counts)[:-1]])

    def offsets(self) -> NDArray[np.intp]:
        """(side ** axes, axes) of its cells, in the order in which they lie in memory."""
        return np.array(list(itertools.product(range(self.side), repeat=self.axes)), np.intp)

    def keys(self) -> list[tuple[NDArray[np.intp], NDArray[np.intp]]]:
        """For each axis two (p,) numbers: a window can stand one cell before another along that
        axis where its second number is the other's first."""
        count = len(self.cells)
        found = []
        for axis in range(self.axes):
            head = np.delete(self.cells, self.side - 1, axis=axis + 1).reshape(count, -1)
            tail = np.delete(self.cells, 0, axis=axis + 1).reshape(count, -1)
            _, number = np.unique(np.concatenate([head, tail]), axis=0, return_inverse=True)
            number = number.reshape(-1)
            found.append((number[:count], number[count:]))
        return found


def _following(whole: NDArray[np.bool_], begun: int) -> NDArray[np.intp]:
    """(axes, 2, k) for each place that is whole, the number of the one behind and before it."""
    number = np.full(tuple(size + 2 for size in whole.shape), -1, np.intp)
    inner = (slice(1, -1),) * whole.ndim
    number[inner][whole] = begun + np.arange(int(whole.sum()))
    found = []
    for axis in range(whole.ndim):
        both = [np.roll(number, step, axis=axis)[inner][whole] for step in (-1, 1)]
        found.append(np.stack(both))
    return np.stack(found)


def _as_it_is(array: Any) -> Any:
    return array
