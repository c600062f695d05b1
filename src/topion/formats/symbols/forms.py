"""The ways in which rows of symbols are written: signs, codes and runs."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Sequence

from topion.errors import BadFile
from topion.formats.symbols.decoding import signs_of
from topion.formats.symbols.lines import Block
from topion.model.legend import BLANK, Form
from topion.model.room import LONGEST_SIDE, MOST_CELLS

SEPARATORS = ",;\t|"
_STARRED = re.compile(r"(?:(\d{1,5})\*)?(\S+)$")
_BEFORE = re.compile(r"(\d{0,5})(\D)")
_AFTER = re.compile(r"(\D)(\d{0,5})")
_COUNTED = re.compile(r"\d\*")
_OPEN_ROWS = re.compile(r"(?<!\d)\d{1,5}$")
_DIGIT = re.compile(r"\d")
_ENDS = "|$/"  # of rows, where all stand on one line
_ALIKE = 0.8  # of the rows of a room are as long as the longest, where runs were read rightly


def rows_of(block: Block, form: Form, file: str, tab: int = 8) -> list[list[str]]:
    """The symbols of a block, row by row; short rows are left short.  tab : the columns of a tab
    that parts no codes.  Raises BadFile."""
    if form == "auto":
        form = form_of(block.rows)
    if form == "codes":
        return _codes(block.rows)
    rows = [row.expandtabs(tab) for row in block.rows]
    if form == "runs":
        return _runs(rows, file, block.first)
    return [signs_of(row) for row in _trimmed(rows)]


def form_of(rows: Sequence[str]) -> Form:
    """How rows are most likely written."""
    full = [row for row in rows if row.strip()]
    if len(full) == 1 and _read_as_runs(full):
        return "runs"
    if _separator(rows):
        return "codes"
    if _are_starred(rows):
        return "runs"
    if _spaced(full):
        return "codes"
    return "runs" if _read_as_runs(full) else "signs"


def _trimmed(rows: Sequence[str]) -> list[str]:
    """Without blanks at the ends of lines that go past the room: it is as wide as what is drawn,
    or as most lines are."""
    bare = max((len(row.rstrip()) for row in rows), default=0)
    length, count = Counter(map(len, rows)).most_common(1)[0] if rows else (0, 0)
    wide = max(bare, length if count * 2 > len(rows) else 0)
    return [row[:wide] for row in rows]


# --- codes --------------------------------------------------------------------------------


def _separator(rows: Sequence[str]) -> str:
    """The sign that stands equally often in all rows, between others; nothing without one."""
    full = [row for row in rows if row.strip()]
    for sign in SEPARATORS:
        if not full or sign not in full[0]:
            continue
        counts = {row.count(sign) for row in full}
        parts = {part.strip() for row in full for part in row.split(sign)}
        if len(counts) == 1 and 0 not in counts and len(parts) > 1 and sign not in parts:
            split = [part for row in full[:50] for part in row.split(sign)]
            if sign in ",\t" or sum(bool(part.strip()) for part in split) * 2 > len(split):
                return sign
    return ""


def _spaced(rows: Sequence[str]) -> bool:
    """Whether every row has equally many codes with blanks between them."""
    counts = {len(row.split()) for row in rows}
    if len(rows) < 2 or len(counts) != 1 or counts <= {0, 1}:
        return False
    inner = sum(row.strip().count(" ") for row in rows)
    return inner >= sum(len(row.split()) - 1 for row in rows) > 0 and all(
        max(map(len, row.split())) <= 8 for row in rows
    )


def _codes(rows: Sequence[str]) -> list[list[str]]:
    """Codes with commas, tabs or blanks between; an open place between two commas is a blank."""
    sign = _separator(rows) or next((s for s in SEPARATORS if any(s in row for row in rows)), "")
    if not sign:
        return [row.split() for row in rows]
    table = csv.reader(list(rows), delimiter=sign, skipinitialspace=True)
    found = [[code.strip() or BLANK for code in row] for row in table]
    if all(row and row[-1] == BLANK for row in found):  # a comma at the end of every line
        found = [row[:-1] for row in found]
    return found


# --- runs ---------------------------------------------------------------------------------


def _are_starred(rows: Sequence[str]) -> bool:
    """Whether rows are codes like `12*0 3*5 7`."""
    if not any(_COUNTED.search(row) for row in rows):
        return False
    tokens = [token for row in rows for token in row.split()]
    matches = [_STARRED.match(token) for token in tokens]
    return any(found is not None and found[1] for found in matches) and all(
        found is not None and "*" not in found[2] for found in matches
    )


def _read_as_runs(rows: Sequence[str]) -> bool:
    """Whether there are counts in the rows, and rows of runs come out more alike than signs."""
    text = "".join(rows)
    if not _DIGIT.search(text) or text.isdigit():
        return False
    try:
        found = _runs(rows, "", 1)
    except BadFile:
        return False
    spread = [len(row) for row in found]
    if len(rows) == 1:
        return len(found) > 1
    plain = Counter(len(row.rstrip()) for row in rows).most_common(1)[0][1]
    alike = Counter(spread).most_common(1)[0][1]
    return alike >= _ALIKE * len(spread) and plain < _ALIKE * len(rows)


def _runs(rows: Sequence[str], file: str, first: int) -> list[list[str]]:
    """Runs with their counts before the sign, after it, or with a star between."""
    starred = _are_starred(rows)
    parted = _ended(rows[0]) if len(rows) == 1 and not starred else list(rows)
    after = _counts_follow(parted)
    found: list[list[str]] = []
    cells = 0
    for n, row in enumerate(parted):
        line = first if len(rows) == 1 else first + n
        found.append(_starred(row, file, line) if starred else _run(row, after, file, line))
        cells += len(found[-1])
        if cells > MOST_CELLS:
            raise BadFile(file, f"holds over {MOST_CELLS >> 20} million cells", f"line {line}")
    return found


def _ended(row: str) -> list[str]:
    """One long line as rows; a count before the end of a row stands for open rows."""
    sign = next((sign for sign in _ENDS if row.count(sign) > 1), "")
    if not sign:
        return [row]
    found: list[str] = []
    for part in row.rstrip("! ").rstrip(sign).split(sign):
        count = _OPEN_ROWS.search(part)
        found.append(part[: count.start()] if count is not None else part)
        if count is not None and len(found) <= LONGEST_SIDE:  # more are refused by their number
            found += [""] * min(int(count[0]) - 1, LONGEST_SIDE)
    return found


def _counts_follow(rows: Sequence[str]) -> bool:
    """Whether counts stand behind the signs: no row begins with one, and some end with one."""
    full = [row.strip() for row in rows if row.strip()]
    return any(row[-1].isdecimal() for row in full) and not any(row[0].isdecimal() for row in full)


def _run(row: str, after: bool, file: str, line: int) -> list[str]:
    found: list[str] = []
    for match in (_AFTER if after else _BEFORE).finditer(row):
        sign, count = match.groups() if after else (match[2], match[1])
        _add(found, sign, count, file, line)
    if not after and row and row[-1].isdecimal():
        raise BadFile(file, "ends with a count that counts nothing", f"line {line}")
    return found


def _starred(row: str, file: str, line: int) -> list[str]:
    found: list[str] = []
    for token in row.split():
        match = _STARRED.match(token)
        assert match is not None
        _add(found, match[2], match[1] or "", file, line)
    return found


def _add(row: list[str], sign: str, count: str, file: str, line: int) -> None:
    """Raises BadFile for a row that no room can hold."""
    many = int(count) if count else 1
    if len(row) + many > min(LONGEST_SIDE, MOST_CELLS):
        raise BadFile(file, f"has a row of over {LONGEST_SIDE} cells", f"line {line}")
    row += [sign] * many
