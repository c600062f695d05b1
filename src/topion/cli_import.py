"""The command line: bringing files into a project."""

from __future__ import annotations

import argparse

from topion.cli_parser import Commands, command
from topion.cli_symbols import add_symbols
from topion.errors import TopionError
from topion.grid.told import several
from topion.parsing import pair, place, whole


def add_import(commands: Commands) -> None:
    bring = command(commands, "import", _no_kind, "Bring files into a project.")
    kinds = bring.add_subparsers(title="kinds", metavar="KIND")
    sheet = command(kinds, "sheet", _import_sheet, "Bring in a sheet.", "a tile sheet (PNG)")
    sheet.add_argument("project", type=place)
    sheet.add_argument("sheet", type=place)
    sheet.add_argument("--tile", default="", help="WIDTHxHEIGHT in px (default: found by itself)")
    sheet.add_argument("--drawings", action="store_true",
                       help="cut round each drawing that lies by itself")  # fmt: skip
    sheet.add_argument("--margin", type=whole, help="px round the sheet")
    sheet.add_argument("--spacing", type=whole, help="px between tiles")
    sheet.add_argument("--name", default="", help="of the tile set (default: the file's)")

    mesh = command(kinds, "mesh", _import_mesh, "Bring in a mesh as voxels.",
                    "a mesh (OBJ, PLY, STL, glTF) as voxels")  # fmt: skip
    mesh.add_argument("project", type=place)
    mesh.add_argument("mesh", type=place)
    mesh.add_argument("--name", required=True, help="of the prefab, block or room")
    mesh.add_argument("--size", type=whole, required=True, help="voxels along its longest side")
    mesh.add_argument("--into", choices=("prefab", "block", "room"), default="prefab")
    up = "the axis that points up (default: y, but z for PLY and STL)"
    mesh.add_argument("--up", choices=("y", "z"), default=None, help=up)

    stamp = command(kinds, "stamp", _import_stamp, "Bring something in as a stamp.",
                     "a mesh, an array, slices, heights or a room as a stamp")  # fmt: skip
    stamp.add_argument("project", type=place)
    stamp.add_argument("file", type=place,
                       help="a mesh, an .npy array, a grey PNG, a folder of PNG slices, or with "
                            "--room another project")  # fmt: skip
    stamp.add_argument("--name", required=True, help="of the card")
    stamp.add_argument("--size", type=whole, default=32, help="of a mesh: cells along it")
    stamp.add_argument("--levels", type=whole, default=16, help="of heights: what white stands for")
    stamp.add_argument("--material", default="", help="that all of it is made of")
    stamp.add_argument("--room", default="", help="of the other project")
    stamp.add_argument("--into", choices=("stamp", "room"), default="stamp")
    add_symbols(kinds)
    _add_looks(kinds)


def _add_looks(kinds: Commands) -> None:
    """What rooms are worn in."""
    palette = command(kinds, "palette", _import_palette, "Bring in the colours of a GPL file.",
                       "the colours of a GPL palette file")  # fmt: skip
    palette.add_argument("project", type=place)
    palette.add_argument("file", type=place)

    tints = command(kinds, "tints", _import_tints, "Bring in a tint map from text rows.",
                     "a tint map of a room from text rows")  # fmt: skip
    tints.add_argument("project", type=place)
    tints.add_argument("room")
    tints.add_argument("file", type=place)
    tints.add_argument("--name", default="", help="of the map (default: as the file says)")

    theme = command(kinds, "theme", _import_theme, "Bring in another sheet for a tile set.",
                     "another sheet for the slots of a tile set")  # fmt: skip
    theme.add_argument("project", type=place)
    theme.add_argument("tileset")
    theme.add_argument("sheet", type=place)
    theme.add_argument("--theme", required=True, metavar="NAME", help="the theme it belongs to")


def _no_kind(args: argparse.Namespace) -> None:
    raise TopionError(
        "say what to import: topion import sheet, text, csv, picture, mesh, stamp, palette, "
        "tints or theme …"
    )


def _import_sheet(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.formats.sheet import count_slots, drawings_cut
    from topion.model.tileset import Cut
    from topion.pictures.png import read_png_file

    if args.drawings and (args.tile or args.margin is not None or args.spacing is not None):
        raise TopionError("--drawings leaves no room for a tile size, a margin or a spacing")
    if not args.tile and (args.margin is not None or args.spacing is not None):
        raise TopionError("a margin or a spacing needs a tile size: --tile WIDTHxHEIGHT")
    cut = None
    if args.tile:
        cut = Cut(pair(args.tile, "the tile size"), args.margin or 0, args.spacing or 0)
    if args.drawings:
        cut = drawings_cut(read_png_file(args.sheet).rgba, args.sheet.name)
    handle = scripting.open(args.project)
    tileset = handle.add_sheet(args.sheet, args.name, cut)
    count = count_slots(tileset.sheet.rgba, tileset.cut)
    handle.save()
    height, width = tileset.cut.tile
    of = "up to " if tileset.cut.rects else ""
    print(
        f"brought in {tileset.name}: {count.slots} slots of {of}{width} × {height} px, "
        f"{count.empty} empty ones skipped, {count.equal} equal to an earlier one"
    )


def _import_mesh(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    model = handle.import_mesh(args.mesh, args.name, args.size, args.into, up=args.up)
    handle.save()
    depth, height, width = model.size
    filled = int((model.cells > 0).sum())
    print(
        f"brought in {args.name} as a {args.into}: {width} × {height} × {depth} voxels, "
        f"{filled:,} filled, {len(model.palette)} colours"
    )


def _import_stamp(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    how = {"size": args.size, "levels": args.levels, "material": args.material, "room": args.room}
    if args.into == "room":
        told = handle.import_room(args.file, args.name, **how)
    else:
        brush = handle.import_stamp(args.file, args.name, **how)
        told = f"{brush.summary()}: {dict(brush.facts()).get('Holds', '')}"
    handle.save()
    print(f"brought in {args.name}, {told}")


def _import_palette(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    count = handle.import_palette(args.file)
    handle.save()
    print(f"brought in {several(count, 'colour')} from {args.file.name}")


def _import_tints(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    name = handle.room(args.room).import_tints(args.file, args.name)
    handle.save()
    print(f"brought in the tint map {name} of {args.room}")


def _import_theme(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    missing = handle.import_theme(args.tileset, args.sheet, args.theme)
    handle.save()
    print(f"brought in the theme {args.theme} for {args.tileset}")
    if missing:
        more = f" and {len(missing) - 8} more" if len(missing) > 8 else ""
        print(f"{len(missing)} slots stay as in the first: {', '.join(missing[:8])}{more}")
