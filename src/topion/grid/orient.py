"""The six faces of a cell and its 24 turns.

Directions are (z, y, x): z up, y south, x east.  A turn is a number below 24: four quarter
turns clockwise seen from above for each of the six sides that may point up.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

FACES = ("up", "down", "north", "east", "south", "west")
UP, DOWN, NORTH, EAST, SOUTH, WEST = range(6)
TURNS = 24

NORMALS = np.array([(1, 0, 0), (-1, 0, 0), (0, -1, 0), (0, 0, 1), (0, 1, 0), (0, 0, -1)], np.intp)
NORMALS.flags.writeable = False

# Where the top edge of a picture points on each face, seen from outside.
PICTURE_UP = np.array([(0, -1, 0), (0, -1, 0), (1, 0, 0), (1, 0, 0), (1, 0, 0), (1, 0, 0)], np.intp)
# Where its right edge points: (up × normal) with the hand of (z, y, x).
PICTURE_RIGHT = np.array(
    [(0, 0, 1), (0, 0, -1), (0, 0, -1), (0, -1, 0), (0, 0, 1), (0, 1, 0)], np.intp
)
PICTURE_UP.flags.writeable = PICTURE_RIGHT.flags.writeable = False

_QUARTER = np.array([(1, 0, 0), (0, 0, 1), (0, -1, 0)], np.intp)  # east goes to south
_TIP_SOUTH = np.array([(0, -1, 0), (1, 0, 0), (0, 0, 1)], np.intp)  # up goes to south
_TIP_EAST = np.array([(0, 0, -1), (0, 1, 0), (1, 0, 0)], np.intp)  # up goes to east


@lru_cache(maxsize=1)
def matrices() -> NDArray[np.intp]:
    """(24, 3, 3): how each turn maps directions; turn 0 leaves them, 1 to 3 are quarters."""
    power = np.linalg.matrix_power
    tips = [power(_TIP_SOUTH, n) for n in range(4)] + [power(_TIP_EAST, n) for n in (1, 3)]
    found = np.array([power(_QUARTER, q) @ tip for tip in tips for q in range(4)], np.intp)
    found.flags.writeable = False
    return found


@lru_cache(maxsize=1)
def _numbers() -> dict[bytes, int]:
    return {matrix.tobytes(): number for number, matrix in enumerate(matrices())}


def turn_of(matrix: NDArray[np.intp]) -> int:
    """The number of a turn given as a matrix; raises KeyError for anything else."""
    return _numbers()[np.ascontiguousarray(matrix, np.intp).tobytes()]


def free_turn(turn: float, lean: float, roll: float, tip: int = 0) -> NDArray[np.float64]:
    """(3, 3) how a turn about all three axes maps directions: with a side up, then tipped east by
    `roll`, tipped south by `lean`, then clockwise about up by `turn`; all in degrees."""
    (ct, st), (cl, sl), (cr, sr) = (
        (math.cos(a), math.sin(a)) for a in map(math.radians, (turn, lean, roll))
    )
    about_up = np.array([(1, 0, 0), (0, ct, st), (0, -st, ct)])
    about_east = np.array([(cl, -sl, 0), (sl, cl, 0), (0, 0, 1)])
    about_south = np.array([(cr, 0, -sr), (0, 1, 0), (sr, 0, cr)])
    return np.asarray(about_up @ about_east @ about_south @ matrices()[4 * tip])


def angles_of(matrix: NDArray[np.float64]) -> tuple[float, float, float]:
    """(turn, lean, roll) in degrees of a turn given as a matrix; lean is within a quarter.

    The Tait-Bryan angles of `free_turn` without a tip; where it leans by a whole quarter, it does
    not roll (Diebel, "Representing Attitude: Euler Angles, Unit Quaternions, and Rotation
    Vectors", 2006).
    """
    lean = math.asin(max(-1.0, min(1.0, -matrix[0, 1])))
    if abs(matrix[0, 1]) > 1 - 1e-9:
        turn, roll = math.atan2(matrix[1, 2], matrix[2, 2]), 0.0
    else:
        turn = math.atan2(-matrix[2, 1], matrix[1, 1])
        roll = math.atan2(-matrix[0, 2], matrix[0, 0])
    return math.degrees(turn) % 360, math.degrees(lean), math.degrees(roll)


def nearest_turn(matrix: NDArray[np.float64]) -> int:
    """The one of the 24 turns that is nearest to any turn."""
    return int(np.einsum("kij,ij->k", matrices(), matrix).argmax())


@lru_cache(maxsize=1)
def composed_turns() -> NDArray[np.uint8]:
    """(24, 24): the turn that equals [first] followed by [then]."""
    every = matrices()
    table = [[turn_of(then @ first) for then in every] for first in every]
    return np.array(table, np.uint8)


TIPS = ("", "tipped south", "upside down", "tipped north", "tipped east", "tipped west")


def turn_words(turn: int) -> str:
    """A turn as a designer would say it; nothing for turn 0."""
    tip, quarters = divmod(turn, 4)
    return ", ".join(w for w in (TIPS[tip], f"turned {quarters * 90}°" if quarters else "") if w)


def face_of(direction: NDArray[np.intp]) -> int:
    """Which face looks that way."""
    return int(np.flatnonzero((direction == NORMALS).all(axis=1))[0])


@lru_cache(maxsize=1)
def turned_faces() -> NDArray[np.uint8]:
    """(24, 6, 2): for each turn and each side of the world, which face of the block is seen
    there, and by how many quarters clockwise its picture is turned."""
    table = np.zeros((TURNS, 6, 2), np.uint8)
    for number, matrix in enumerate(matrices()):
        for face in range(6):
            seen = face_of(matrix @ NORMALS[face])
            up, right = PICTURE_UP[seen], PICTURE_RIGHT[seen]
            ways = [up, right, -up, -right]
            top = matrix @ PICTURE_UP[face]
            quarters = next(i for i, way in enumerate(ways) if (way == top).all())
            table[number, seen] = face, quarters
    return table
