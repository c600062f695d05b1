"""Every error that reaches a user: one sentence that names the thing, the place and the reason."""

from __future__ import annotations

import difflib
import re
import reprlib
from collections.abc import Iterable

_LONGEST = 600  # letters of a sentence
_SHORT = reprlib.Repr()
_SHORT.maxstring = _SHORT.maxother = 120
_SHORT.maxtuple = _SHORT.maxlist = _SHORT.maxdict = 24
_AT = re.compile(r"<(?:[\w.]+\.)*(\w+)[^<>]* at 0x[0-9a-f]+>")  # where it lies tells nobody


class TopionError(Exception):
    """Base of all our errors; its text is shown to the user as it is: one sentence, of letters
    that can be written anywhere."""

    def __init__(self, sentence: str = "") -> None:
        super().__init__(one_sentence(sentence))


def one_sentence(text: str) -> str:
    """A text on one line and of bounded length, whatever names it speaks of."""
    clean = text.encode("utf-8", "backslashreplace").decode()
    if not clean.isprintable():
        clean = "".join(c if c.isprintable() else " " for c in clean)
    return clean if len(clean) <= _LONGEST else f"{clean[: _LONGEST - 130]} … {clean[-120:]}"


class UnknownName(TopionError, KeyError):
    """A name that the project does not hold; the message names the nearest known ones."""

    def __init__(self, kind: str, name: str, known: Iterable[str]) -> None:
        names = sorted(known)
        near = difflib.get_close_matches(name, names, n=3, cutoff=0.4) or names[:3]
        hint = f"; nearest: {', '.join(near)}" if near else "; there are none yet"
        super().__init__(f"there is no {kind} named “{name}”{hint}")

    def __str__(self) -> str:
        return str(self.args[0])


class BadValue(TopionError, ValueError):
    """A value outside what its setting allows."""

    def __init__(self, what: str, value: object, wanted: str) -> None:
        shown = _AT.sub(r"a \1", _SHORT.repr(value))
        shown = shown if len(shown) <= 80 else f"{shown[:79]}…"
        super().__init__(f"{what} is {shown}, but it must be {wanted}")
        self.what = what


class NameTaken(TopionError):
    def __init__(self, kind: str, name: str) -> None:
        super().__init__(f"there is already a {kind} named “{name}”")


class BadFile(TopionError):
    """A file that cannot be read: names the file, the place in it and the reason."""

    def __init__(self, file: object, reason: str, place: str = "") -> None:
        where = f"{file}, {place}" if place else f"{file}"
        super().__init__(f"{where}: {reason}")
        self.file, self.reason, self.place = str(file), reason, place


class Stopped(TopionError):
    """Long work was stopped on request; nothing was changed."""

    def __init__(self, what: str = "work") -> None:
        super().__init__(f"{what} stopped; nothing was changed")
