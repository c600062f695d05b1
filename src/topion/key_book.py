"""docs/KEYS.md: every key and every command, made of the tables that the window uses.

`python -m topion.key_book` writes it anew.
"""

from __future__ import annotations

import os
from pathlib import Path

from topion.cli import told_commands
from topion.view.commands import Command, Commands
from topion.view.key_areas import AREAS

FILE = Path(__file__).resolve().parents[2] / "docs" / "KEYS.md"
_HEAD = """# Keys

`F1` or `?` shows the keys of what is under the pointer, `Ctrl+K` finds any command by its letters,
and *Settings* (`Ctrl+,`) changes them. Keys that are held do what they say until they are let go.

This page is made from the table of commands: `python -m topion.key_book` writes it.
"""


def key_book(commands: Commands) -> str:
    """The text of docs/KEYS.md."""
    parts = [_HEAD]
    groups: dict[str, list[Command]] = {}
    for command in commands:
        groups.setdefault(command.group, []).append(command)
    for group, found in groups.items():
        rows = [f"| {_keys(command)} | {_cell(command.text)} |" for command in _shortened(found)]
        parts.append("\n".join([f"## {group}\n", "| key | what it does |", "|---|---|", *rows, ""]))
    parts.append("# In each part of the window\n")
    for area in AREAS.values():
        rows = [f"| {_cell(keys)} | {_cell(text)} |" for keys, text in area.rows]
        title = area.title[0].upper() + area.title[1:]
        lines = [f"## {title}\n", "| mouse, key | what it does |", "|---|---|", *rows, ""]
        parts.append("\n".join(lines))
    parts += ["# On the command line\n", "| command | what it does |", "|---|---|"]
    parts += [f"| `topion {name}` | {_cell(text)} |" for name, text in told_commands()]
    return "\n".join(parts) + "\n"


def _shortened(commands: list[Command]) -> list[Command]:
    """Without the twenty commands that take a card by its number, which are told by area."""
    return [command for command in commands if not command.name.startswith("card ")]


def _keys(command: Command) -> str:
    return ", ".join(f"`{_cell(key)}`" for key in command.keys) or " "


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


def main() -> None:
    """Write the file."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from topion.view.app import application
    from topion.view.opening import blank
    from topion.view.window import Window

    app = application()  # kept as long as there is a window
    window = Window(blank())
    window.commands.use_keys({})
    FILE.write_text(key_book(window.commands), encoding="utf-8")
    print(f"wrote {FILE.name}")
    app.quit()
    os._exit(0)


if __name__ == "__main__":
    main()
