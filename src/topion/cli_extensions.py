"""The command line: what extensions are installed, and running the commands they add."""

from __future__ import annotations

import argparse
import json

from topion.cli_parser import Commands, command
from topion.errors import TopionError
from topion.parsing import place


def add_extensions(commands: Commands) -> None:
    """The commands `extensions` and `run`."""
    listed = command(commands, "extensions", _extensions,
                     "List the extensions that are installed: 0 all work, 1 one is switched off.",
                     "List the extensions that are installed.")  # fmt: skip
    listed.add_argument("--json", action="store_true", help="as JSON")
    run = command(commands, "run", _run, "Run a command of an extension on a project.")
    run.add_argument("name", help="of the command; `topion extensions` lists them")
    run.add_argument("project", type=place)
    run.add_argument(
        "room", nargs="?", default="", help="the room it works in (default: the first)"
    )


def _extensions(args: argparse.Namespace) -> int:
    from topion.extending import load_extensions

    found = load_extensions()
    if args.json:
        plain = [{"name": one.name, "package": one.package, "version": one.version,
                  "adds": one.adds, "off": one.off} for one in found.values()]  # fmt: skip
        print(json.dumps(plain, ensure_ascii=False, indent=1))
    else:
        for one in found.values():
            state = f"switched off: {one.off}" if one.off else one.told() or "adds nothing"
            print(f"{one.name} ({one.package} {one.version}): {state}")
        if not found:
            print("no extensions are installed")
    return 1 if any(one.off for one in found.values()) else 0


def _run(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.errors import UnknownName
    from topion.extending import COMMANDS, load_extensions
    from topion.model.edit import Edit

    load_extensions()
    if args.name not in COMMANDS:
        raise UnknownName("command of an extension", args.name, COMMANDS)
    handle = scripting.open(args.project)
    handle.history = scripting.History(handle.data)
    room = args.room or next(iter(handle.rooms()), "")
    if args.room:
        handle.room(args.room)
    found = COMMANDS[args.name].run(handle.data, room)
    if isinstance(found, Edit):
        if found.refused and not found:
            raise TopionError(found.refused[0])
        handle.history.apply(found)
        handle.save()
        print(f"{found.label or args.name}: saved" if found else "nothing changed")
    elif found is not None:
        print(str(found))
