"""The command line: rooms from texts, CSV and pictures by a legend."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING

from topion.cli_parser import Commands, command
from topion.errors import TopionError
from topion.parsing import place, whole

if TYPE_CHECKING:
    from topion.formats.symbols.batch import Batch
    from topion.model.legend import Legend, Reading

_MOST_TOLD = 12
_MAP_SIDES = (12, 36)  # rows and columns of the picture of where a symbol stands


def add_symbols(kinds: Commands) -> None:
    """The kinds text, csv and picture of `topion import`."""
    for kind, text, brief in (
        ("text", "Bring in rooms from texts, a symbol a cell.", "rooms from text grids"),
        ("csv", "Bring in rooms from CSV files, a code a cell.", "rooms from CSV files"),
        ("picture", "Bring in rooms from PNG pictures, a colour a cell.",
         "rooms from pictures whose colours mean materials"),
    ):  # fmt: skip
        made = command(kinds, kind, _import, text, brief)
        made.add_argument("project", type=place)
        made.add_argument("files", type=place, nargs="+", metavar="FILE",
                          help="files, or folders of them")  # fmt: skip
        made.add_argument("--legend", default="", metavar="FILE",
                          help="what symbols stand for: a JSON file, or a legend of the project "
                               "(default: the one that fits best)")  # fmt: skip
        made.add_argument("--make", action="store_true",
                          help="make plain tiles and prefabs for names that lack")  # fmt: skip
        made.add_argument("--keep", type=place, default=None, metavar="FILE",
                          help="write the legend that was used")  # fmt: skip
        made.add_argument("--count", action="store_true",
                          help="only count the symbols, and show where they stand")  # fmt: skip
        made.add_argument("--report", type=place, default=None, metavar="FILE",
                          help="write what was read and what was not as JSON")  # fmt: skip
        made.add_argument("--cell", type=whole, default=16, help="cell size of the rooms in px")
        made.add_argument("--seen", choices=("top", "side"), default="top")
        if kind == "picture":
            made.add_argument("--pixels", type=whole, default=None,
                              help="px that make a cell (default: found by itself)")  # fmt: skip
            made.add_argument("--near", type=whole, default=None,
                              help="join colours that differ by no more, 0 to 255")  # fmt: skip
        else:
            made.add_argument("--encoding", choices=("auto", "utf-8", "latin-1"))
            made.add_argument("--form", choices=("auto", "signs", "codes", "runs"),
                              help="a sign a cell, codes with commas between, or runs")  # fmt: skip
            made.add_argument("--parts", choices=("auto", "blank lines", "titles", "none"),
                              help="what parts the rooms of a file")  # fmt: skip
            made.add_argument("--comments", metavar="SIGNS",
                              help="with which comment lines begin, blanks between")  # fmt: skip
            made.add_argument("--tab", type=whole, help="columns of a tab (default: 8)")
        made.set_defaults(kind=kind)


def _import(args: argparse.Namespace) -> int:
    """0 if all came in, 1 if some files were left out, 2 if none came."""
    from topion import scripting
    from topion.formats.out import check_out
    from topion.formats.symbols.batch import read_batch
    from topion.formats.symbols.legend_files import keep_legend, legend_named

    for path in (args.keep, args.report):
        if path is not None:
            check_out(path)
    handle = scripting.open(args.project)
    legend = legend_named(args.legend, handle.data) if args.legend else None
    reading = _reading(args, legend)
    if args.count:
        batch = read_batch(args.files, reading)
        _tell_counts(batch)
    else:
        batch, used = handle.import_symbols(args.files, legend, reading=reading,
                                            cell_px=args.cell, seen=args.seen,
                                            make=args.make)  # fmt: skip
        if batch.grids:
            handle.save()
            keep_legend(used)
            _tell_legend(batch, used)
            _keep(args.keep, used)
    _tell_rest(args, batch)
    return 2 if not batch.grids else 1 if batch.problems else 0


def _reading(args: argparse.Namespace, legend: Legend | None) -> Reading:
    """As the legend says, but for what the command line says."""
    from dataclasses import replace

    from topion.model.legend import Reading

    told = {"cell_px": "pixels", "near": "near", "encoding": "encoding", "form": "form",
            "parts": "parts", "comments": "comments", "tab": "tab"}  # fmt: skip
    said = {field: getattr(args, name, None) for field, name in told.items()}
    known = {field: value for field, value in said.items() if value is not None}
    if args.kind == "csv":
        known.setdefault("form", "codes")
    return replace(legend.reading if legend is not None else Reading(), **known)


def _keep(path: Path | None, legend: Legend) -> None:
    if path is not None:
        from topion.formats.out import write_out
        from topion.formats.symbols.legend_files import legend_text

        write_out(path, legend_text(legend).encode())


def _tell_counts(batch: Batch) -> None:
    """Each symbol with its counts, and a picture of where it stands most."""
    from topion.grid.symbols import counted, shrunk

    for symbol, count in counted(batch.grids).items():
        grid = batch.grids[count.most[0]]
        rooms = f"{count.rooms:,} room{'s' * (count.rooms != 1)}"
        print(f"{symbol!r}  {count.cells:,} cells in {rooms}; most in {grid.title or grid.file}:")
        for row in shrunk(grid.mask(symbol), _MAP_SIDES):
            print("    " + "".join("█" if share > 0.5 else "▒" if share else "·" for share in row))


def _tell_legend(batch: Batch, legend: Legend) -> None:
    from topion.edit.symbols import unmapped
    from topion.grid.symbols import counted

    counts = counted(batch.grids)
    print(f"by the legend {legend.name}:")
    for symbol in list(counts)[:_MOST_TOLD]:
        meaning = legend.by_symbol.get(symbol)
        told = meaning.text() if meaning is not None else "not in the legend: left open"
        print(f"  {symbol!r}  {told}, {counts[symbol].cells:,} cells")
    if len(counts) > _MOST_TOLD:
        print(f"  and {len(counts) - _MOST_TOLD} more")
    lost = unmapped(legend, counts)
    if lost:
        shown = " ".join(repr(symbol) for symbol in lost[:_MOST_TOLD])
        print(f"{len(lost)} symbol{'s' * (len(lost) != 1)} without a meaning: {shown}")


def _tell_rest(args: argparse.Namespace, batch: Batch) -> None:
    for _, why in batch.problems[:_MOST_TOLD]:
        print(f"left out: {why}")
    if len(batch.problems) > _MOST_TOLD:
        print(f"left out: {len(batch.problems) - _MOST_TOLD} more; --report FILE names all")
    print(("counted " if args.count else "brought in ") + batch.text())
    if args.report is not None:
        from topion.formats.out import write_out

        text = json.dumps(batch.plain(), ensure_ascii=False, indent=1) + "\n"
        write_out(args.report, text.encode())
    if not batch.grids and not batch.problems:
        raise TopionError("there is no text and no picture in what was named")
