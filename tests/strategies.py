"""What hypothesis draws from: strokes, edits, rooms."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import strategies as st

from tests.rooms import small_room
from topion.scripting import RoomHandle

SIZE = (14, 18)
CELL_BRUSHES = ("Mud", "Water", "Stones")
THING_BRUSHES = ("Lamp", "Bush", "Cart")
BRUSHES = (*CELL_BRUSHES, *THING_BRUSHES, "Reeds", "Lift")


def cells() -> st.SearchStrategy[tuple[int, int]]:
    """Cells in the room and a little beyond it."""
    return st.tuples(st.integers(-2, SIZE[0] + 1), st.integers(-2, SIZE[1] + 1))


def ways() -> st.SearchStrategy[dict[str, Any]]:
    inside = st.tuples(st.integers(0, SIZE[0] - 1), st.integers(0, SIZE[1] - 1))
    return st.one_of(
        st.builds(lambda c: {"cells": c}, st.lists(cells(), min_size=1, max_size=12)),
        st.builds(lambda a, b: {"line": (a, b)}, cells(), cells()),
        st.builds(lambda a, b, o: {"box": (a, b), "outline": o}, cells(), cells(), st.booleans()),
        st.builds(lambda a, e: {"flood": a, "everywhere": e}, inside, st.booleans()),
    )


def strokes() -> st.SearchStrategy[tuple[str, dict[str, Any]]]:
    return st.tuples(st.sampled_from(BRUSHES), ways())


def materials(most: int = 3) -> st.SearchStrategy[np.ndarray]:
    """(h, w) material ids of a small room."""
    return st.tuples(st.integers(1, 12), st.integers(1, 14), st.integers(0, 2**32 - 1)).map(
        lambda t: np.random.default_rng(t[2]).integers(0, most + 1, t[:2]).astype(np.uint16)
    )


def fresh_room() -> RoomHandle:
    return small_room(SIZE)
