"""What is known of an extension: where it comes from, what it adds, and whether it is on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from topion.errors import TopionError, one_sentence
from topion.logbook import noted

EXTENSIONS: dict[str, Extension] = {}
_HEARERS: list[Callable[[Extension], object]] = []


class ExtensionFailed(TopionError):
    """What an extension was asked for cannot be had: it is switched off."""

    def __init__(self, extension: Extension) -> None:
        super().__init__(f"extension {extension.name} is switched off: {extension.off}")


@dataclass(eq=False)
class Extension:
    """name : of its entry point.  version : of its package.  adds : what it adds, by what it is.

    off : why it is switched off; empty while it works.
    """

    name: str
    package: str = ""
    version: str = ""
    adds: dict[str, list[str]] = field(default_factory=dict)
    off: str = ""

    def fail(self, problem: BaseException, doing: str) -> None:
        """It raised something nobody foresaw: it is switched off until the next start."""
        if not self.off:
            noted(problem, f"extension {self.name}, {doing}")
            self.off = one_sentence(f"{type(problem).__name__} while {doing}: {problem}")
            for hearer in list(_HEARERS):
                hearer(self)

    def told(self) -> str:
        """What it adds, in a few words."""
        return "; ".join(f"{what} {', '.join(names)}" for what, names in self.adds.items())


def on_failure(hearer: Callable[[Extension], object]) -> None:
    """Let somebody hear of extensions that were switched off."""
    _HEARERS.append(hearer)
