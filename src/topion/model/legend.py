"""Legends: what the symbols of a text, or the colours of a picture, stand for in rooms."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal

from topion.errors import BadValue
from topion.model.refs import Ref
from topion.model.typed import Check, Name, between, is_clean_text, typed

MOST_SYMBOLS = 4096
LONGEST_SYMBOL = 80
BLANK, CLEAR = " ", "clear"  # symbols of a text and of a picture that usually mean nothing

Encoding = Literal["auto", "utf-8", "latin-1"]
Form = Literal["auto", "signs", "codes", "runs"]
Parts = Literal["auto", "blank lines", "titles", "none"]
_SYMBOL = Check(
    f"1 to {LONGEST_SYMBOL} letters of text",
    lambda value: 1 <= len(value) <= LONGEST_SYMBOL and is_clean_text(value),
)


@typed
@dataclass(frozen=True)
class Reading:
    """How a file becomes symbols.

    encoding : of a text; by itself UTF-8, and Latin-1 for what is none.
    form : each sign a cell; codes with commas, tabs or blanks between; or runs like `12#3.`.
    parts : what parts the rooms of a file.  comments : signs with which comment lines begin,
    blanks between them; empty for the usual ones.  tab : the columns of a tab.
    cell_px : px of a picture that make a cell, 0 to find that.  near : colours that differ by no
    more than so much, as a distance in RGB, are one.
    """

    encoding: Encoding = "auto"
    form: Form = "auto"
    parts: Parts = "auto"
    comments: str = ""
    tab: Annotated[int, between(1, 32)] = 8
    cell_px: Annotated[int, between(0, 512)] = 0
    near: Annotated[int, between(0, 255)] = 0


USUAL = Reading()


@typed
@dataclass(frozen=True)
class Meaning:
    """What one symbol stands for: nothing, or any of a material, a prefab and a colour.

    tint : the name of a colour of the palette.
    """

    symbol: Annotated[str, _SYMBOL]
    material: Annotated[str, Ref("materials", perhaps=True)] = ""
    prefab: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    tint: str = ""

    @property
    def parts(self) -> tuple[str, str, str]:
        """Material, prefab and tint."""
        return self.material, self.prefab, self.tint

    def text(self) -> str:
        """In words."""
        return " + ".join(part for part in self.parts if part) or "nothing"


@typed
@dataclass(frozen=True)
class Legend:
    """Meanings by symbol, and how the files they stand in are read."""

    name: Name
    meanings: tuple[Meaning, ...] = ()
    reading: Reading = USUAL

    def __post_init__(self) -> None:
        if len(self.meanings) > MOST_SYMBOLS:
            wanted = f"at most {MOST_SYMBOLS}"
            raise BadValue(f"the symbols of {self.name}", len(self.meanings), wanted)
        symbols = [meaning.symbol for meaning in self.meanings]
        twice = next((s for s in symbols if len(self.by_symbol) < len(symbols)
                      and symbols.count(s) > 1), None)  # fmt: skip
        if twice is not None:
            raise BadValue(f"the symbols of {self.name}", twice, "each once")

    @cached_property
    def by_symbol(self) -> dict[str, Meaning]:
        return {meaning.symbol: meaning for meaning in self.meanings}

    def names(self, part: Literal["material", "prefab", "tint"]) -> Iterator[str]:
        """All materials, prefabs or tints that it speaks of, each once."""
        yield from dict.fromkeys(
            name for meaning in self.meanings if (name := getattr(meaning, part))
        )

    def symbol_for(self, material: str, prefab: str, tint: str) -> str | None:
        """The first symbol that stands for just that; None without one."""
        return self._symbols.get((material, prefab, tint))

    @cached_property
    def _symbols(self) -> dict[tuple[str, str, str], str]:
        found: dict[tuple[str, str, str], str] = {}
        for meaning in self.meanings:
            found.setdefault(meaning.parts, meaning.symbol)
        return found
