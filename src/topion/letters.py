"""Finding names by a few of their letters."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TypeVar

T = TypeVar("T")
_START, _WORD, _NEXT, _ANY = 8.0, 5.0, 6.0, 1.0  # a letter that begins the name, a word, follows on


def score(letters: str, name: str) -> float:
    """How well a name has all of the letters in their order: 0 if it has not, higher for letters
    that begin words or follow each other."""
    wanted = "".join(letters.lower().split())
    low = name.lower()
    if not wanted:
        return 0.001
    if len(low) != len(name):  # letters that change their number, as ß does
        low = name
    return _best(wanted, low)


def _best(wanted: str, name: str) -> float:
    """The best way to place the letters: dynamic programming over both texts, as for the longest
    common subsequence (Wagner and Fischer 1974), with gains by place."""
    gains = [_gain(name, at) for at in range(len(name))]
    before = [0.0] * len(name)  # best score with the last letter at this place
    for number, letter in enumerate(wanted):
        now = [0.0] * len(name)
        reached = 0.0
        for at, sign in enumerate(name):
            if sign == letter:
                if number == 0:
                    now[at] = gains[at]
                else:
                    follows = before[at - 1] + _NEXT if at and before[at - 1] else 0.0
                    apart = reached + gains[at] if reached else 0.0
                    now[at] = max(follows, apart)
            reached = max(reached, before[at])
        before = now
    return max(before, default=0.0)


def _gain(name: str, at: int) -> float:
    if at == 0:
        return _START
    return _WORD if not name[at - 1].isalnum() and name[at].isalnum() else _ANY


def found(letters: str, entries: Iterable[tuple[str, T]], most: int) -> Sequence[T]:
    """What is called by names that have the letters, the best first; among equals the earlier."""
    scored = [
        (score(letters, name), -number, entry) for number, (name, entry) in enumerate(entries)
    ]
    scored = [one for one in scored if one[0] > 0]
    scored.sort(key=lambda one: (one[0], one[1]), reverse=True)
    return [entry for _, _, entry in scored[:most]]
