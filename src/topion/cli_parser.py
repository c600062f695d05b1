"""The parts that commands of the command line are built of."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import Any, NoReturn, TypeAlias

from topion import __version__
from topion.errors import TopionError


class Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence, as everything else does."""

    def __init__(self, *args: Any, **settings: Any) -> None:
        settings.setdefault("allow_abbrev", False)
        super().__init__(*args, **settings)

    def error(self, message: str) -> NoReturn:
        """Raises TopionError."""
        raise TopionError(f"{message.rstrip('.')}; {self.prog} --help tells what can be said")


Commands: TypeAlias = "argparse._SubParsersAction[Parser]"
Run: TypeAlias = Callable[[argparse.Namespace], int | None]


def command(commands: Commands, name: str, run: Run, text: str, brief: str = "") -> Parser:
    """A command of its own.  brief : what the list of commands says, where that is shorter."""
    made = commands.add_parser(name, help=brief or text, description=text)
    made.add_argument("--version", action="version", version=f"topion {__version__}")
    made.set_defaults(run=run)
    return made
