"""Which lines of a text are rows of a room, and which only speak of one."""

from __future__ import annotations

import re
from bisect import bisect
from dataclasses import dataclass
from typing import Literal

from topion.model.legend import Parts, Reading

Kind = Literal["row", "title", "comment", "blank"]
_COMMENTS = ("//", ";", "--", "::", "'", '"')
_COMMENTS_OF_CODES = ("//", "#")
_KEYED = re.compile(r"\s*([A-Za-z][A-Za-z _-]{1,30}?)\s*[:=](?!=)\s*(.*)$")
_NAMED = ("title", "name", "room", "level", "map")
_WORD = re.compile(r"[^\W\d_]{3,}")
_LETTERS = re.compile(r"[^\W_]{2}")
_PROSE = re.compile(r"[^\W\d_]{2,} [^\W\d_]{2,}|^\W{1,3} +[^\W\d_]{2,}")
_QUOTES = ("'", '"')
_MOST_TITLES = 12  # lines in a row that speak of one room
_NUMBER = re.compile(r"\s*\d{1,5}\s*$")
_FEW_ROWS = 2  # a block of fewer is hardly a room: a blank line was a row of one


@dataclass(frozen=True)
class Line:
    """text : of a title or comment without the signs it begins with.  number : in the file,
    from 1.  keyed : a title that says itself that it is one."""

    number: int
    kind: Kind
    text: str
    keyed: bool = False


def lines_of(text: str, reading: Reading) -> list[Line]:
    """Every line, and what it is.

    Comment lines begin with the signs that were asked for, or with one of the usual ones.  By
    itself, a line at the edge of a block is a title if it has words or is a number, of letters
    that stand nowhere inside blocks.
    """
    rows = text.split("\n")
    if rows and not rows[-1]:
        rows.pop()
    usual = _COMMENTS_OF_CODES if reading.form == "codes" else _COMMENTS
    marks = tuple(reading.comments.split()) or usual
    asked = bool(reading.comments.split())
    first = [_first_look(n, row, marks, asked, rows) for n, row in enumerate(rows, 1)]
    if asked:
        return first
    first = _without_keyed(first)
    inside = _letters_inside(first)
    for _ in range(_MOST_TITLES if inside else 0):  # from the edges of blocks inward
        looked = [_second_look(first, place, inside) for place in range(len(first))]
        if looked == first:
            break
        first = looked
    return first


def _first_look(
    number: int, row: str, marks: tuple[str, ...], asked: bool, rows: list[str]
) -> Line:
    if not row.strip():
        return Line(number, "blank", row)
    bare = row.lstrip()
    mark = next((m for m in marks if bare.startswith(m)), "") if bare.startswith(marks) else ""
    if mark and (asked or (_reads(mark, bare[len(mark) :]) and _is_rare(mark, rows))):
        rest = bare[len(mark) :].strip().strip("\"'")
        keyed = _KEYED.match(rest)
        if keyed is not None and keyed[1].strip().lower() in _NAMED and keyed[2].strip():
            return Line(number, "title", keyed[2].strip(), keyed=True)
        return Line(number, "comment", rest)
    return Line(number, "row", row)


def _without_keyed(lines: list[Line]) -> list[Line]:
    """Rows like `Title: Mill` speak of a room, if their key has letters that draw none."""
    found = {line.number: match for line in lines if line.kind == "row"
             and (match := _KEYED.match(line.text)) and _WORD.search(match[1])}  # fmt: skip
    drawn = {letter for line in lines if line.kind == "row" and line.number not in found
             for letter in line.text}  # fmt: skip
    if not drawn:
        return lines
    return [_keyed(line, found[line.number], drawn) if line.number in found else line
            for line in lines]  # fmt: skip


def _keyed(line: Line, match: re.Match[str], drawn: set[str]) -> Line:
    key = match[1].strip().lower()
    letters = set(match[1].strip())
    if len(letters - drawn) * 2 < len(letters):
        return line
    named = key in _NAMED and bool(match[2].strip())
    return Line(line.number, "title" if named else "comment", match[2].strip(), keyed=named)


def _reads(mark: str, rest: str) -> bool:
    """Whether what follows a sign of comments is one: letters or digits, words after a quote."""
    if mark in _QUOTES:
        return _LETTERS.search(rest) is not None
    return not rest.strip() or any(letter.isalnum() for letter in rest)


def _is_rare(mark: str, rows: list[str]) -> bool:
    """Whether a sign begins some lines and hardly stands elsewhere: what rooms are drawn with is
    no sign of comments."""
    bare = [row.strip() for row in rows]
    begins = sum(row.startswith(mark) for row in bare)
    if any(mark in row for row in bare if not row.startswith(mark)):
        return False
    return begins * 2 <= sum(map(bool, bare)) + 1


def _letters_inside(lines: list[Line]) -> set[str]:
    """The letters that stand in rows with rows above and below, but for those that read like
    sentences."""
    inner = [line.text for above, line, below in zip(lines, lines[1:], lines[2:], strict=False)
             if above.kind == line.kind == below.kind == "row"]  # fmt: skip
    drawn = [text for text in inner if not _PROSE.search(text)]
    return {letter for text in drawn or inner for letter in text}


def _second_look(lines: list[Line], place: int, inside: set[str]) -> Line:
    """A row at the edge of a block that reads like words, and is not as long as its neighbour, is a
    title."""
    line = lines[place]
    if line.kind != "row":
        return line
    near = [lines[n] for n in (place - 1, place + 1) if 0 <= n < len(lines)]
    rows = [other for other in near if other.kind == "row"]
    text = line.text.strip()
    if len(rows) == 2 or any(len(row.text.rstrip()) == len(line.text.rstrip()) for row in rows):
        return line
    words = _WORD.findall(text)
    wordy = any(len(set(word.lower())) > 1 for word in words) or _NUMBER.match(text)
    strange = set(text) - inside
    if not wordy or len(strange) * 2 < len(set(text)):
        return line
    return Line(line.number, "title", text.lstrip("#* ").strip() or text)


@dataclass(frozen=True)
class Block:
    """The rows of one room, and the lines that speak of it.  first : the number of its line."""

    rows: list[str]
    first: int
    title: str = ""


def blocks_of(lines: list[Line], parts: Parts) -> list[Block]:
    """The rows of each room.  parts : what stands between rooms; by itself blank lines, but
    titles alone where a blank line would leave scraps of a room."""
    if parts == "auto":
        found = _blocks(lines, "blank lines")
        if all(len(block.rows) >= _FEW_ROWS for block in found):
            return found
        titled = any(line.kind == "title" for line in lines)
        return _blocks(lines, "titles" if titled else "none")
    return _blocks(lines, parts)


def _blocks(lines: list[Line], parts: Parts) -> list[Block]:
    """Titles belong to the room that they are nearer to."""
    leads = _titles_lead(lines)
    split = _Split(leads, parts == "none")
    for place, line in enumerate(lines):
        if line.kind == "row":
            split.row(line)
        elif line.kind == "blank":
            if parts != "blank lines" or _is_row(lines, place):
                split.blank(line)
            else:
                split.part()
        else:
            if parts != "none" and (line.kind == "title" or parts == "blank lines"):
                split.part()
            split.told(line)
    return split.ended()


def _titles_lead(lines: list[Line]) -> bool:
    """Whether the lines between rooms are nearer to the room that follows."""
    numbers = [line.number for line in lines if line.kind == "row"]
    votes = 0
    for line in lines:
        if line.kind not in ("title", "comment") or not numbers:
            continue
        at = bisect(numbers, line.number)
        if at > 0:
            before = line.number - numbers[at - 1]
            after = numbers[at] - line.number if at < len(numbers) else before + 1
            votes += (after < before) - (before < after)
    return votes >= 0


def _is_row(lines: list[Line], place: int) -> bool:
    """Whether a line of blanks is as long as both its neighbours, so that it is a row of them."""
    near = [lines[n] for n in (place - 1, place + 1) if 0 <= n < len(lines)]
    long = len(lines[place].text)
    return long > 1 and all(known.kind in ("row", "blank") and len(known.text) == long
                            for known in near)  # fmt: skip


class _Split:
    """Rooms in the making."""

    def __init__(self, leads: bool, whole: bool) -> None:
        """whole : the file is one room, whose rows of blanks count."""
        self.leads, self.whole = leads, whole
        self.done: list[Block] = []
        self.rows: list[str] = []
        self.first = 0
        self.waiting: list[Line] = []  # of a room that has not begun

    def row(self, line: Line) -> None:
        if not self.rows:
            self.first = line.number
        self.rows.append(line.text)

    def blank(self, line: Line) -> None:
        """An empty row of a room that has begun."""
        if self.rows or line.text:
            self.row(line)

    def part(self) -> None:
        """The room ends."""
        while self.rows and not (self.rows[-1] if self.whole else self.rows[-1].strip()):
            self.rows.pop()
        if self.rows:
            title = _title(self.waiting) if self.leads else ""
            self.done.append(Block(self.rows, self.first, title))
            self.waiting = []
        self.rows = []

    def told(self, line: Line) -> None:
        """A line speaks of the room that follows, or of that before."""
        if self.leads:
            self.waiting.append(line)
        elif self.done:
            last = self.done[-1]
            if not last.title and line.text and (line.kind == "title" or not line.keyed):
                self.done[-1] = Block(last.rows, last.first, line.text)

    def ended(self) -> list[Block]:
        self.part()
        return self.done


def _title(told: list[Line]) -> str:
    """What a room is called by the lines before it: a keyed title, else the last words."""
    keyed = [line.text for line in told if line.keyed]
    titles = [line.text for line in told if line.kind == "title" and line.text]
    comments = [line.text for line in told if line.text]
    for texts in (keyed, titles, comments):
        if texts:
            return texts[-1]
    return ""
