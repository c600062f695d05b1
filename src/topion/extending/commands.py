"""Commands that extensions add: for the window, where they are found by their words, and for
`topion run`."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

COMMANDS: dict[str, ExtraCommand] = {}


@dataclass(frozen=True)
class ExtraCommand:
    """name : on the command line.  text : what it does, as menus and the finder tell it.

    run : run(project, room) gets the project and the name of the open room (empty for none), and
    gives an Edit that is put on, a sentence that is shown, or nothing.  It changes nothing itself.
    extension : whose it is.
    """

    name: str
    text: str
    run: Callable[[Any, str], Any]
    extension: str = ""
