"""desktop/topion.1: the man page, made of the command line as it is.

`python -m topion.man_page` writes it anew.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from topion import __version__
from topion.cli import command_parsers

FILE = Path(__file__).resolve().parent / "desktop" / "topion.1"
_HEAD = r""".TH TOPION 1 "" "Topion {version}" "User Commands"
.SH NAME
topion \- paint rooms and maps with tile sets, rule\-based brushes and prefabs
.SH SYNOPSIS
.B topion
.I COMMAND
.RI [ ARGUMENTS ]
.SH DESCRIPTION
Topion is a desk for level designers: flat rooms are painted from tile sets, voxel rooms from
blocks.
.B topion open
shows the window; the other commands do the same work without one.
A project is a folder of text, NAME.topion, made for version control.
.SH COMMANDS
"""
_TAIL = r""".SH EXIT STATUS
.TP
.B 0
done, clean, or alike
.TP
.B 1
findings, differences or conflicts
.TP
.B 2
something could not be read, written or understood; one sentence says what
.SH ENVIRONMENT
.TP
.B TOPION_WITHOUT_EXTENSIONS
set to anything: no extension is loaded
.TP
.BR XDG_STATE_HOME ", " XDG_CONFIG_HOME ", " XDG_CACHE_HOME
where journals and the log, settings, and pictures that can be made again are kept
.SH FILES
.TP
.I NAME.topion/project.json
the index of a project; tilesets/, brushes/, prefabs/ and rooms/ lie beside it
"""


def man_page() -> str:
    """The whole text."""
    parts = [_HEAD.format(version=__version__)]
    parts += [line for name, parser in command_parsers() for line in _command(name, parser)]
    return "".join(parts) + _TAIL


def _command(name: str, parser: argparse.ArgumentParser) -> Iterator[str]:
    actions = [action for action in parser._actions if action.dest not in ("help", "version")]
    usage = " ".join(_shown(action) for action in actions)
    yield f".SS topion {_plain(name)} {usage}\n".replace(" \n", "\n")
    yield _plain(parser.description or "") + "\n"
    for action in actions:
        told = (action.help or "").replace("%(choices)s", "the formats that topion export lists")
        if told and told != argparse.SUPPRESS:
            yield f".TP\n.B {_plain(_name(action))}\n{_plain(told)}\n"


def _name(action: argparse.Action) -> str:
    value = action.metavar if isinstance(action.metavar, str) else action.dest.upper()
    if not action.option_strings:
        return value
    takes = action.nargs != 0
    return ", ".join(f"{option} {value}" if takes else option for option in action.option_strings)


def _shown(action: argparse.Action) -> str:
    text = _plain(_name(action).split(", ")[-1])
    needed = action.required and action.nargs not in ("?", "*")
    return text if needed else f"[{text}]"


def _plain(text: str) -> str:
    """Text as roff takes it: nothing in it is a command."""
    clean = " ".join(text.split()).replace("\\", r"\e").replace("-", r"\-")
    return clean if not clean.startswith((".", "'")) else rf"\&{clean}"


def main() -> None:
    """Write the file."""
    FILE.write_text(man_page(), encoding="utf-8")
    print(f"wrote {FILE.name}")


if __name__ == "__main__":
    main()
