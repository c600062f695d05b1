"""Legends as JSON files, and those that are kept for the next time."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from topion.errors import BadFile, TopionError
from topion.formats.out import write_out
from topion.formats.stems import stem
from topion.formats.text import json_text, read_value
from topion.formats.text import parse_json as _parse
from topion.grid.symbols import Count
from topion.model.legend import Legend
from topion.model.plain import to_plain
from topion.model.project import Project
from topion.pictures.png import read_bytes

FORMAT, VERSION = "topion-legend", 1
MOST_BYTES = 1 << 22
_SUFFIX = ".json"
_BY_CELLS = 0.7  # of a fit; the rest by how many symbols are known


def legend_text(legend: Legend) -> str:
    """The legend as JSON."""
    return json_text({"format": FORMAT, "version": VERSION, **to_plain(legend)})


def read_legend(path: Path) -> Legend:
    """Raises BadFile for what is no legend."""
    return legend_of(read_bytes(path, MOST_BYTES), path.name)


def legend_of(data: bytes, file: str) -> Legend:
    """The legend in the bytes of a file.  Raises BadFile for what is no legend."""
    plain = _parse(data, file)
    if not isinstance(plain, dict) or plain.pop("format", None) != FORMAT:
        raise BadFile(file, f"is no legend: its format must be {FORMAT}")
    version = plain.pop("version", None)
    if version != VERSION:
        raise BadFile(file, f"has version {version!r:.20}, but this Topion reads {VERSION}")
    try:
        found: Legend = read_value(Legend, plain, data, file)
    except BadFile:
        raise
    except TopionError as problem:
        raise BadFile(file, str(problem)) from None
    return found


def legend_named(text: str, project: Project) -> Legend:
    """A legend of the project by its name, else that in a file.  Raises BadFile."""
    shelf: Mapping[str, Legend] = project.shelf("legends")
    return shelf[text] if text in shelf and not Path(text).exists() else read_legend(Path(text))


# --- kept for the next time -------------------------------------------------------------------


def legends_folder() -> Path:
    """Where legends are kept: `topion/legends` in the XDG data folder."""
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "topion" / "legends"


def keep_legend(legend: Legend) -> None:
    """Keep it for other projects; one of that name makes way.  A folder that cannot be written is
    no reason to stop."""
    with suppress(OSError):
        folder = legends_folder()
        folder.mkdir(parents=True, exist_ok=True)
        write_out(folder / f"{stem(legend.name)}{_SUFFIX}", legend_text(legend).encode())


def kept_legends() -> Iterator[Legend]:
    """All that were kept; what cannot be read is passed over."""
    for path in sorted(legends_folder().glob(f"*{_SUFFIX}")):
        with suppress(TopionError, OSError):
            yield read_legend(path)


# --- how well one fits ------------------------------------------------------------------------


@dataclass(frozen=True)
class Fit:
    """share : 0 to 1, how much of some symbols a legend knows, by their cells and their number.

    unknown : the symbols that it does not know.  own : it lies in the project.
    """

    legend: Legend
    share: float
    unknown: tuple[str, ...]
    own: bool = False

    @property
    def whole(self) -> bool:
        return not self.unknown


def fit_of(legend: Legend, counts: Mapping[str, Count], *, own: bool = False) -> Fit:
    """How well a legend fits what was counted."""
    unknown = tuple(symbol for symbol in counts if symbol not in legend.by_symbol)
    cells = sum(count.cells for count in counts.values())
    known_cells = cells - sum(counts[symbol].cells for symbol in unknown)
    by_cells = known_cells / cells if cells else 0.0
    by_symbols = 1 - len(unknown) / len(counts) if counts else 0.0
    return Fit(legend, _BY_CELLS * by_cells + (1 - _BY_CELLS) * by_symbols, unknown, own)


def fits(project: Project, counts: Mapping[str, Count]) -> list[Fit]:
    """Legends of the project and those kept from others, the best first; among equals those with
    fewer symbols that never stand anywhere."""
    shelf: Mapping[str, Legend] = project.shelf("legends")
    found = [fit_of(legend, counts, own=True) for legend in shelf.values()]
    found += [fit_of(kept, counts) for kept in kept_legends() if kept not in shelf.values()]
    spare = {id(f): len(f.legend.meanings) - len(counts) + len(f.unknown) for f in found}
    return sorted(found, key=lambda f: (-f.share, not f.own, spare[id(f)], f.legend.name))
