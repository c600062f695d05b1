"""Text and CSV files as grids of symbols, one a room."""

from __future__ import annotations

from dataclasses import dataclass, replace

from topion.errors import BadFile
from topion.formats.symbols.decoding import decoded
from topion.formats.symbols.forms import rows_of
from topion.formats.symbols.grid import grid_of_rows
from topion.formats.symbols.lines import Block, Line, blocks_of, lines_of
from topion.grid.symbols import SymbolGrid
from topion.model.legend import USUAL, Reading
from topion.model.room import MOST_CELLS

TEXT_SUFFIXES = (".txt", ".csv", ".tsv", ".map", ".lvl", ".rows", ".text", ".asc", ".level")


@dataclass(frozen=True, eq=False)
class ReadText:
    """A text as it was read.  encoding : in which.  lines : what each is."""

    grids: tuple[SymbolGrid, ...]
    encoding: str
    lines: tuple[Line, ...]


def read_text_grids(data: bytes, file: str, reading: Reading = USUAL) -> ReadText:
    """All rooms of a text.  Raises BadFile, which names the line."""
    if file.lower().endswith((".csv", ".tsv")) and reading.form == "auto":
        reading = replace(reading, form="codes")
    text, encoding = decoded(data, file, reading.encoding)
    lines = lines_of(text, reading)
    blocks = blocks_of(lines, reading.parts)
    if not blocks:
        raise BadFile(file, "holds no row of a room" if text.strip() else "is empty")
    grids: list[SymbolGrid] = []
    cells = 0
    for block in blocks:
        grids.append(_grid(block, reading, file))
        cells += grids[-1].cells.size
        if cells > MOST_CELLS:
            most = f"over {MOST_CELLS >> 20} million cells in all"
            raise BadFile(file, f"holds {most}", f"line {block.first}")
    return ReadText(tuple(grids), encoding, tuple(lines))


def _grid(block: Block, reading: Reading, file: str) -> SymbolGrid:
    rows = rows_of(block, reading.form, file, reading.tab)
    return grid_of_rows(file, block.title, rows, block.first)
