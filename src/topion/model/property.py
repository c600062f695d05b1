"""Properties that things of a prefab have: typed, with a value when placed."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Annotated, Literal

from topion.errors import BadValue
from topion.model.typed import Name, between, typed

PropertyKind = Literal["number", "yes or no", "choice", "text", "colour", "thing", "room"]
YES, NO = "yes", "no"
LONGEST_TEXT = 400
MOST_PROPERTIES = 32
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")
_AMOUNT = Annotated[float, between(-1e9, 1e9)]


@typed
@dataclass(frozen=True)
class Property:
    """default : what a thing has that was told nothing else, as text.  lowest, highest : of a
    number.  choices : of a choice."""

    name: Name
    kind: PropertyKind = "text"
    default: str = ""
    lowest: _AMOUNT = -1e9
    highest: _AMOUNT = 1e9
    choices: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("the name of a property", self.name, "at least one letter")
        if self.lowest > self.highest:
            wanted = f"at most {self.highest:g}"
            raise BadValue(f"the least of {self.name}", f"{self.lowest:g}", wanted)
        if self.kind == "choice" and not self.choices:
            raise BadValue(f"the choices of {self.name}", "none", "at least one word")
        if self.default or self.kind not in ("number", "choice", "colour"):
            self.checked(self.default)

    def checked(self, text: str) -> str:
        """A value as it is kept.  Raises BadValue for one that it cannot have."""
        what, value = f"{self.name}", text.strip()
        match self.kind:
            case "number":
                return self._number(what, value)
            case "yes or no":
                word = value.lower() or NO
                if word not in (YES, NO):
                    raise BadValue(what, text, "yes or no")
                return word
            case "choice":
                if value not in self.choices:
                    raise BadValue(what, text, f"one of {', '.join(self.choices)}")
                return value
            case "colour":
                if not _COLOUR.fullmatch(value):
                    raise BadValue(what, text, "a colour like #a5533b")
                return value.lower()
            case "thing":
                if value and not value.isdigit():
                    raise BadValue(what, text, "the number of a thing")
                return value
        if len(text) > LONGEST_TEXT:
            raise BadValue(what, f"{len(text)} letters", f"at most {LONGEST_TEXT}")
        return text if self.kind == "text" else value

    def _number(self, what: str, value: str) -> str:
        try:
            number = float(value.replace(",", "."))
        except ValueError:
            raise BadValue(what, value, "a number") from None
        if not self.lowest <= number <= self.highest:
            raise BadValue(what, f"{number:g}", f"{self.lowest:g} to {self.highest:g}")
        return f"{number:g}"

    @property
    def value(self) -> str:
        """What a new thing has."""
        if self.default:
            return self.default
        plain = {"number": f"{max(self.lowest, min(0.0, self.highest)):g}", "yes or no": NO,
                 "colour": "#ffffff"}  # fmt: skip
        return self.choices[0] if self.kind == "choice" else plain.get(self.kind, "")
