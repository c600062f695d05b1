"""Rows of symbols as grids, checked before they take memory."""

from __future__ import annotations

import numpy as np

from topion.errors import BadFile
from topion.grid.symbols import SymbolGrid
from topion.model.legend import BLANK, LONGEST_SYMBOL, MOST_SYMBOLS
from topion.model.room import LONGEST_SIDE, MOST_CELLS


def grid_of_rows(
    file: str, title: str, rows: list[list[str]], line: int = 0, filler: str = BLANK
) -> SymbolGrid:
    """Rows of symbols, the short ones filled up.  Raises BadFile for too many or too long ones."""
    height, width = len(rows), max(map(len, rows), default=0)
    check_size(file, (height, width), line)
    known: dict[str, int] = {}
    cells = np.empty((height, width), np.uint16)
    for y, row in enumerate(rows):
        filled = row if len(row) == width else [*row, *[filler] * (width - len(row))]
        for symbol in set(filled).difference(known):
            known[symbol] = _number(file, symbol, len(known), line + y)
        cells[y] = list(map(known.__getitem__, filled))
    order = np.array(sorted(range(len(known)), key=list(known).__getitem__), np.uint16)
    places = np.empty_like(order)
    places[order] = np.arange(len(order), dtype=np.uint16)
    return SymbolGrid(file, title, places[cells], tuple(sorted(known)), line)


def _number(file: str, symbol: str, count: int, line: int) -> int:
    where = f"line {line}"
    if count >= MOST_SYMBOLS:
        raise BadFile(file, f"holds more than {MOST_SYMBOLS} different symbols", where)
    if len(symbol) > LONGEST_SYMBOL:
        raise BadFile(file, f"holds a symbol of {len(symbol)} letters; at most {LONGEST_SYMBOL} "
                            "make one", where)  # fmt: skip
    return count


def check_size(file: str, size: tuple[int, int], line: int = 0) -> None:
    """Raises BadFile for a grid that no room can hold."""
    height, width = size
    where = f"line {line}" if line else ""
    if not height or not width:
        raise BadFile(file, "holds no cell", where)
    if max(size) > LONGEST_SIDE or height * width > MOST_CELLS:
        raise BadFile(file, f"holds {width} × {height} cells, more than {LONGEST_SIDE} a side or "
                            f"{MOST_CELLS >> 20} million in all", where)  # fmt: skip
