"""Roles: which looks take turns in the same surroundings, and which have only strayed there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.weaving.contents import ORIENTATIONS
from topion.weaving.example import Surroundings, bits_to_tell

_FEW, _RARE = 2, 0.05  # cells, and share of a role, up to which a look may have strayed into it


@dataclass(frozen=True, eq=False)
class Roles:
    """of_row : (m,) the role of each surroundings.  counts : (roles, k) how often each look that
    is seen shows in a role.  stray : (roles, k) which of them do not belong there.
    turned : (roles, 8) the role that one becomes in each orientation, -1 for none.
    """

    of_row: NDArray[np.intp]
    counts: NDArray[np.intp]
    stray: NDArray[np.bool_]
    turned: NDArray[np.intp]

    @classmethod
    def of(cls, seen: Surroundings, oriented: NDArray[np.intp]) -> Roles:
        """oriented : see `Contents`."""
        of_row, counts = _clustered(seen.counts)
        place = np.full(len(oriented) + 1, -1, np.intp)  # of a look among those seen
        place[seen.looks] = np.arange(len(seen.looks))
        chief_of_role = counts.argmax(axis=1)
        role_of_look = counts.argmax(axis=0)
        stands = place[oriented[seen.looks[chief_of_role]]]
        to = np.where(stands >= 0, role_of_look[np.maximum(stands, 0)], -1)
        to[:, 0] = np.arange(len(counts))
        return cls(of_row, counts, _strays(counts), to.reshape(-1, len(ORIENTATIONS)))

    @property
    def is_sure(self) -> bool:
        """Whether every role shows one look only."""
        return bool(((self.counts > 0).sum(axis=1) == 1).all())

    def bits(self) -> float:
        """What it takes to tell the looks of all cells once their roles are known."""
        return float(bits_to_tell(self.counts).sum())

    def only(self, rows: NDArray[np.intp]) -> Roles:
        """The same roles for some of the surroundings."""
        return Roles(self.of_row[rows], self.counts, self.stray, self.turned)


def _clustered(counts: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """(m,) the role of each row of (m, k) counts, and (roles, k) their sums.

    Rows are met largest first; each joins the role with which its looks are told in fewest bits,
    or begins one of its own where that takes fewer.
    """
    rows = np.argsort(-counts.sum(axis=1), kind="stable")
    alone = bits_to_tell(counts)
    of_row = np.empty(len(counts), np.intp)
    sums = np.empty((0, counts.shape[1]), np.intp)
    bits = np.empty(0)
    for row in rows.tolist():
        mine = counts[row]
        alike = np.flatnonzero(sums[:, mine > 0].any(axis=1))
        joined = bits_to_tell(sums[alike] + mine)
        more = joined - bits[alike]
        best = int(more.argmin()) if len(alike) else -1
        if best >= 0 and more[best] <= alone[row]:
            at = int(alike[best])
            sums[at] += mine
            bits[at] = joined[best]
        else:
            at = len(sums)
            sums = np.concatenate([sums, mine[None]])
            bits = np.append(bits, alone[row])
        of_row[row] = at
    return of_row, sums


def _strays(counts: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Looks that show in a role a few times only, and belong to another."""
    share = counts / np.maximum(1, counts.sum(axis=1, keepdims=True))
    elsewhere = counts.sum(axis=0) - counts
    return np.asarray((counts > 0) & (counts <= _FEW) & (share <= _RARE) & (elsewhere > counts))
