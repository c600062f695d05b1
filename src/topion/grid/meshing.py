"""Greedy meshing: the visible faces of full cells, joined into as few rectangles as runs allow.

Occupancy is packed into bits along x, so that hidden faces fall away 64 at a time; what is
left is a short list of faces.  Faces that look alike are joined to runs by differences of
sorted keys, and runs of equal length are stacked the same way.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.orient import EAST, NORMALS, WEST

# The axes that a face spans, (v, u): rectangles are v × u cells.
SPANS = ((1, 2), (1, 2), (0, 2), (0, 1), (0, 2), (0, 1))
OPEN_CORNERS = 0xFF  # all four corners of a face as open as can be
_SMALL_CELLS = 1 << 18
LONGEST_SIDE = 510  # cells of a box that can be meshed at once
# A key holds plane, v and u (9 bits each), the look (16) and the corners (8).
_U_STEP = np.int64(1) << 24


@dataclass(frozen=True, eq=False)
class Quads:
    """n rectangles of faces.

    faces : (n,) uint8.  cells : (n, 3) int16, the lowest cell of each.  sizes : (n, 2) int16,
    cells along v and u (see SPANS).  looks : (n,) uint16.  corners : (n,) uint8, how open each
    corner is, 0 to 3, two bits each: low v low u, low v high u, high v low u, high v high u.
    """

    faces: NDArray[np.uint8]
    cells: NDArray[np.int16]
    sizes: NDArray[np.int16]
    looks: NDArray[np.uint16]
    corners: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.faces)

    @classmethod
    def joined(cls, parts: list[Quads]) -> Quads:
        if not parts:
            return cls(
                np.empty(0, np.uint8),
                np.empty((0, 3), np.int16),
                np.empty((0, 2), np.int16),
                np.empty(0, np.uint16),
                np.empty(0, np.uint8),
            )
        names = ("faces", "cells", "sizes", "looks", "corners")
        return cls(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))

    def moved(self, by: tuple[int, int, int]) -> Quads:
        cells = self.cells + np.array(by, np.int16)
        return Quads(self.faces, cells, self.sizes, self.looks, self.corners)

    def opened_corners(self) -> NDArray[np.uint8]:
        """(n, 4) how open each corner is."""
        return (self.corners[:, None] >> np.array([0, 2, 4, 6], np.uint8)) & np.uint8(3)


@dataclass(frozen=True, eq=False)
class Repeats:
    """Looks that go on through a pattern by the place of the face.

    origin : the cell of the room at the first inner cell.  rows, columns : (looks,) of the pattern
    that begins at a look; 1 × 1 for plain ones.  The looks of a pattern follow on each other.
    """

    origin: tuple[int, ...]
    rows: NDArray[np.int64]
    columns: NDArray[np.int64]

    def placed(
        self, looks: NDArray[np.uint16], faces: NDArray[np.intp], keys: NDArray[np.int64]
    ) -> NDArray[np.uint16]:
        """(n,) the looks of faces at their places.  keys : with plane, v and u."""
        at = np.flatnonzero(self.rows.take(looks) * self.columns.take(looks) > 1)
        if not len(at):
            return looks
        face = np.broadcast_to(faces, looks.shape)[at]
        v_axis, u_axis = np.array(SPANS).T
        origin = np.array(self.origin)
        v = (keys[at] >> 33 & 511) + origin[v_axis[face]]
        u = (keys[at] >> 24 & 511) + origin[u_axis[face]]
        upright = face >= 2  # their pictures stand: rows go down as levels go up
        row = np.where(upright, -1 - v, v)
        column = np.where(_BACKWARDS[face], -1 - u, u)
        first = looks[at]
        high, wide = self.rows.take(first), self.columns.take(first)
        out = looks.copy()
        out[at] = first + (row % high * wide + column % wide)
        return out


_BACKWARDS = np.array([False, True, True, True, False, False])  # sides seen from behind


def mesh(
    full: NDArray[np.uint16],
    face_looks: NDArray[np.uint16],
    *,
    shaded: bool = True,
    repeats: Repeats | None = None,
) -> Quads:
    """The visible faces of a box of cells.

    full : (d + 2, h + 2, w + 2), the looks of full cells, 0 where there is none; the outermost
    cells only hide faces and darken corners.  face_looks : (looks, 6) what each side shows.
    shaded : corners count; without, larger rectangles come out.
    repeats : which looks go on through a pattern.
    Raises ValueError for a box with a side over LONGEST_SIDE.
    """
    if max(full.shape) - 2 > LONGEST_SIDE:
        raise ValueError(f"a box of {full.shape} is too large to mesh at once")
    occupied = full != 0
    exposed = _exposed(_packed(occupied), full.shape)
    flat, solid = full.reshape(-1), occupied.reshape(-1).view(np.uint8)
    # a chunk takes fewest calls with all sides at once, a large box least memory one by one
    count = 6 if full.size <= _SMALL_CELLS else 1
    parts = []
    for first in range(0, 6, count):
        faces, cells, keys = _faces(exposed[first : first + count], first, full.shape)
        if not len(cells):
            continue
        looks = face_looks.reshape(-1).take(flat.take(cells).astype(np.intp) * 6 + faces)
        if repeats is not None:
            looks = repeats.placed(looks, faces, keys)
        keys |= looks.astype(np.int64) << 8
        keys |= _corners(faces, cells, solid, full.shape) if shaded else OPEN_CORNERS
        parts.append(_joined(faces, keys))
    return Quads.joined(parts)


def exposed_faces(full: NDArray[np.uint16]) -> int:
    """How many faces of single cells are visible; `full` as for `mesh`."""
    return int(np.bitwise_count(_exposed(_packed(full != 0), full.shape)).sum())


def _packed(occupied: NDArray[np.bool_]) -> NDArray[np.uint64]:
    """(d + 2, h + 2, words) bit i of a row is its cell i."""
    depth, height, width = occupied.shape
    words = -(-width // 64)
    bits = np.zeros((depth, height, words * 8), np.uint8)
    packed = np.packbits(occupied, axis=2, bitorder="little")
    bits[:, :, : packed.shape[2]] = packed
    return bits.view(np.uint64)


def _exposed(bits: NDArray[np.uint64], shape: tuple[int, ...]) -> NDArray[np.uint64]:
    """(6, d, h, words): by side, cells of the inner box with nothing in front of it."""
    depth, height, words = bits.shape
    here = bits[1:-1, 1:-1]
    found = np.empty((6, depth - 2, height - 2, words), np.uint64)
    for face, (dz, dy, dx) in enumerate(NORMALS.tolist()):
        there = bits[1 + dz : depth - 1 + dz, 1 + dy : height - 1 + dy]
        out = found[face]
        if dx == 1:
            np.right_shift(there, np.uint64(1), out=out)
            out[:, :, :-1] |= there[:, :, 1:] << np.uint64(63)
            np.invert(out, out=out)
        elif dx == -1:
            np.left_shift(there, np.uint64(1), out=out)
            out[:, :, 1:] |= there[:, :, :-1] >> np.uint64(63)
            np.invert(out, out=out)
        else:
            np.invert(there, out=out)
        out &= here
    last = shape[2] - 1  # the rim shows no faces
    found[..., 0] &= ~np.uint64(1)
    found[..., last >> 6] &= ~(np.uint64(1) << np.uint64(last & 63))
    return found


_FACE_SHIFT = 51
_PLANE_AXES = tuple(3 - v - u for v, u in SPANS)
# What a step along z, y and x adds to the key of a face, by side.
_KEY_STEPS = np.array(
    [[{plane: 1 << 42, v: 1 << 33, u: 1 << 24}[axis] for axis in range(3)]
     for plane, (v, u) in zip(_PLANE_AXES, SPANS, strict=True)], np.int64,
)  # fmt: skip


def _faces(
    words: NDArray[np.uint64], first: int, shape: tuple[int, ...]
) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.int64]]:
    """The set bits of the sides from `first` on: (n,) the side, or () where it is one alone;
    (n,) flat indices in the padded box of `shape`; and (n,) the upper fields of their keys:
    side, plane, v and u."""
    _, depth, height, count = words.shape
    flat = words.reshape(-1)
    some = np.flatnonzero(flat != 0)  # of booleans they are found several times as fast
    bits = np.unpackbits(flat[some].view(np.uint8), bitorder="little")
    at = np.flatnonzero(bits.view(bool))
    which, bit = at >> 6, at & 63
    # what is the same for all bits of a word is worked out once a word
    row, column = np.divmod(some, count)
    row, y = np.divmod(row, height)
    side, z = np.divmod(row, depth)
    x = column * 64 - 1
    home = ((z + 1) * shape[1] + y + 1) * shape[2] + x + 1
    alone = len(words) == 1
    face = np.array(first, np.intp) if alone else side + first
    steps = _KEY_STEPS[face]
    fields = z * steps[..., 0] + y * steps[..., 1] + x * steps[..., 2] + (face << _FACE_SHIFT)
    along = steps[..., 2] if alone else steps[:, 2].take(which)
    faces = face if alone else face.take(which)
    return faces, home.take(which) + bit, fields.take(which) + bit * along


def _joined(faces: NDArray[np.intp], keys: NDArray[np.int64]) -> Quads:
    """Faces as rectangles.  keys : (n,) side, plane, v, u, look and corners."""
    for face in (EAST, WEST):  # the others run along x, along which keys rise already
        if not faces.ndim:
            if faces == face:
                keys.sort()
        else:
            keys[slice(*np.searchsorted(faces, (face, face + 1)))].sort()
    starts = _breaks(keys, _U_STEP)
    lengths = _lengths(starts, len(keys))
    first = keys[starts]
    # side, plane, u, length, look and corners, then v: equal runs above each other differ by one
    alike = (first >> 42 << 51) | ((first >> 24 & 511) << 42) | (lengths << 33)
    alike |= ((first & 0xFFFFFF) << 9) | (first >> 33 & 511)
    alike.sort()
    tops = _breaks(alike, np.int64(1))
    return _placed(alike[tops], _lengths(tops, len(alike)))


def _placed(keys: NDArray[np.int64], heights: NDArray[np.intp]) -> Quads:
    """Rectangles from the keys of their lowest runs and how many runs they stack."""
    faces = keys >> 60
    rows = np.arange(len(keys))
    corner = np.empty((len(keys), 3), np.int16)
    v_axis, u_axis = np.array(SPANS).T
    corner[rows, np.array(_PLANE_AXES)[faces]] = keys >> 51 & 511
    corner[rows, v_axis[faces]] = keys & 511
    corner[rows, u_axis[faces]] = keys >> 42 & 511
    return Quads(
        faces.astype(np.uint8),
        corner,
        np.stack([heights, keys >> 33 & 511], axis=1).astype(np.int16),
        (keys >> 17 & 0xFFFF).astype(np.uint16),
        (keys >> 9 & 0xFF).astype(np.uint8),
    )


def _breaks(keys: NDArray[np.int64], step: np.int64) -> NDArray[np.intp]:
    """Where rising keys do not go on by one step; the first always counts."""
    fresh = np.empty(len(keys), bool)
    fresh[0] = True
    np.not_equal(keys[1:] - keys[:-1], step, out=fresh[1:])
    return np.flatnonzero(fresh)


def _lengths(starts: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """How many follow from each start to the next, or to the end."""
    out = np.empty(len(starts), np.intp)
    np.subtract(starts[1:], starts[:-1], out=out[:-1])
    out[-1] = count - starts[-1]
    return out


# Of the cells round the one in front of a face, by bit: low and high v, low and high u, then the
# corners low v low u, low v high u, high v low u, high v high u.
_SIDES_OF_CORNERS = ((0, 2), (0, 3), (1, 2), (1, 3))
_OPENNESS = (3, 2, 2, 0, 2, 1, 1, 0)  # by side v, side u and corner full


def _corner_table() -> NDArray[np.int64]:
    """(256,) how open the four corners of a face are, by which cells round its front are full: of
    the three that meet in a corner, fewer full ones leave it lighter; two sides close it."""
    full = np.arange(256)
    found = np.zeros(256, np.int64)
    for corner, (v, u) in enumerate(_SIDES_OF_CORNERS):
        near = (full >> v & 1) | (full >> u & 1) << 1 | (full >> (4 + corner) & 1) << 2
        found |= np.array(_OPENNESS)[near] << (2 * corner)
    return found


_CORNERS = _corner_table()


def _corners(
    faces: NDArray[np.intp], cells: NDArray[np.intp], solid: NDArray[np.uint8],
    shape: tuple[int, ...],
) -> NDArray[np.int64]:  # fmt: skip
    """(n,) how open the four corners of each face are."""
    pitch = np.array([shape[1] * shape[2], shape[2], 1], np.intp)
    steps = (NORMALS @ pitch)[:, None] + _around(pitch)
    # all steps from the lowest of them are forward, so that looking on is a slice
    lowest = int(steps.min())
    steps -= lowest
    near = np.zeros(len(cells), np.uint8)
    low = cells + lowest
    for bit in range(8):
        if faces.ndim:
            found = solid.take(low + steps[:, bit].take(faces))
        else:
            found = solid[int(steps[faces, bit]) :].take(low)
        near |= found << np.uint8(bit)
    return _CORNERS.take(near)


def _around(pitch: NDArray[np.intp]) -> NDArray[np.intp]:
    """(6, 8) steps from the cell in front of each side to those round it; see _CORNERS."""
    v, u = (pitch[axis] for axis in np.array(SPANS).T)
    return np.stack([-v, v, -u, u, -v - u, u - v, v - u, v + u], axis=1)
