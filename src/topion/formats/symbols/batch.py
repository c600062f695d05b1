"""Many files of rooms read in one run; what cannot be read is named and left out."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from topion.errors import BadFile, Stopped, TopionError
from topion.formats.symbols.decoding import MOST_TEXT
from topion.formats.symbols.pictures import read_picture_grid
from topion.formats.symbols.texts import TEXT_SUFFIXES, read_text_grids
from topion.grid.symbols import SymbolGrid
from topion.model.legend import MOST_SYMBOLS, USUAL, Reading
from topion.model.plain import JsonRecord
from topion.model.room import MOST_BYTES
from topion.pictures.png import read_bytes
from topion.progress import step

PICTURE_SUFFIX = ".png"
MOST_FILES = 100_000
_SAY_EACH = 16  # files
_BYTES_A_CELL = 2


class TooManyCells(BadFile):
    """More than a project can hold."""


@dataclass(eq=False)
class Batch:
    """grids : of all files, in their order.  problems : (file, sentence) of what was left out.

    encodings : of files that were not UTF-8.  files : how many were looked at.
    """

    grids: list[SymbolGrid] = field(default_factory=list)
    problems: list[tuple[str, str]] = field(default_factory=list)
    encodings: dict[str, str] = field(default_factory=dict)
    files: int = 0

    cells: int = 0  # of all rooms
    symbols: set[str] = field(default_factory=set)  # of all rooms

    def add(self, grids: Sequence[SymbolGrid]) -> None:
        """The rooms of one more file.  Raises BadFile for more cells than a project can hold, and
        for more symbols than a legend can; none of them is taken then."""
        fresh = {symbol for grid in grids for symbol in grid.symbols} - self.symbols
        if len(self.symbols) + len(fresh) > MOST_SYMBOLS:
            raise BadFile(grids[0].file, f"and those before it hold more than {MOST_SYMBOLS} "
                                         "different symbols; bring it in by itself")  # fmt: skip
        self.symbols |= fresh
        for grid in grids:
            self.cells += grid.cells.size
            if self.cells * _BYTES_A_CELL > MOST_BYTES:
                raise TooManyCells(grid.file, "and those before it hold more cells than a project "
                                              "can")  # fmt: skip
            self.grids.append(grid)

    def text(self) -> str:
        """In one sentence."""
        said = f"{self.files:,} file{'s' * (self.files != 1)}, {len(self.grids):,} " \
               f"room{'s' * (len(self.grids) != 1)}, {self.cells:,} cells"  # fmt: skip
        if self.encodings:
            codecs = " and ".join(sorted({*self.encodings.values()}))
            said += f", {len(self.encodings)} read as {codecs}"
        if self.problems:
            said += f", {len(self.problems)} left out"
        return said

    def plain(self) -> JsonRecord:
        """The report as plain values."""
        rooms = [{"file": grid.file, "title": grid.title, "line": grid.line,
                  "width": grid.size[1], "height": grid.size[0],
                  "symbols": grid.counts()} for grid in self.grids]  # fmt: skip
        left = [{"file": file, "why": why} for file, why in self.problems]
        return {"files": self.files, "rooms": rooms, "left_out": left, "encodings": self.encodings}


def by_numbers(name: str) -> tuple[object, ...]:
    """Sorts names as people count: 2 before 10."""
    parts = re.split(r"(\d+)", name)
    return tuple(
        (0, int(part), part) if part.isdecimal() else (1, 0, part) for part in parts if part
    )


def files_below(paths: Iterable[Path]) -> Iterator[tuple[Path, str]]:
    """(file, what it is called) of files, and of all texts and pictures in folders and what is
    below them.  Raises BadFile for what is not there."""
    for path in paths:
        if not path.exists():
            raise BadFile(path, "is missing")
        if not path.is_dir():
            yield path, path.name
            continue
        for folder, folders, names in os.walk(path):
            folders.sort(key=by_numbers)
            for name in sorted(names, key=by_numbers):
                if Path(name).suffix.lower() in (*TEXT_SUFFIXES, PICTURE_SUFFIX):
                    found = Path(folder) / name
                    yield found, str(found.relative_to(path))


def read_batch(paths: Sequence[Path], reading: Reading = USUAL) -> Batch:
    """Every room of the files and folders.  Raises BadFile if one that was named is missing, or if
    there are more than can be held."""
    batch = Batch()
    for path, name in files_below(paths):
        batch.files += 1
        if batch.files > MOST_FILES:
            raise BadFile(path, f"is one of more than {MOST_FILES:,} files; bring in fewer at once")
        if batch.files % _SAY_EACH == 1:
            step(name)
        try:
            _read(batch, path, name, reading)
        except (Stopped, TooManyCells):
            raise
        except TopionError as problem:
            batch.problems.append((name, str(problem)))
        except OSError as problem:
            batch.problems.append((name, f"{name}: {problem.strerror or problem}"))
    return batch


def _read(batch: Batch, path: Path, name: str, reading: Reading) -> None:
    data = read_bytes(path, MOST_TEXT)
    if path.suffix.lower() == PICTURE_SUFFIX:
        batch.add([read_picture_grid(data, name, reading)])
        return
    found = read_text_grids(data, name, reading)
    if found.encoding != "utf-8":
        batch.encodings[name] = found.encoding
    batch.add(found.grids)
