"""GPL palette files: the colours of a palette as text, as many programs for pictures have them.

Source: the documentation of GIMP, "GIMP Palette file format": a head line, lines of settings, then
a line `R G B name` for each colour; `#` begins a comment.
"""

from __future__ import annotations

import re
from pathlib import Path

from topion.errors import BadFile, BadValue
from topion.model.palette import MOST_TINTS, Palette, with_tint
from topion.pictures.png import read_bytes

_HEAD = "GIMP Palette"
_LINE = re.compile(r"\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?$")
_SETTING = re.compile(r"\s*(Name|Columns)\s*:", re.IGNORECASE)
_MOST_BYTES = 1 << 20


def read_gpl(path: Path, onto: Palette = ()) -> Palette:
    """`onto` with the colours of a file at its end.  Raises BadFile, which names the line."""
    text = read_bytes(path, _MOST_BYTES).decode("utf-8", "replace")
    return colours_of_gpl(text, path.name, onto)


def colours_of_gpl(text: str, file: str, onto: Palette = ()) -> Palette:
    """The same from text.  Bright forms are made from the colours."""
    lines = text.splitlines()
    if not lines or lines[0].strip().lstrip("\ufeff") != _HEAD:
        raise BadFile(file, f"does not begin with “{_HEAD}”, so it is no palette file", "line 1")
    found = onto
    for number, line in enumerate(lines[1:], 2):
        if not line.strip() or line.lstrip().startswith("#") or _SETTING.match(line):
            continue
        colour, name = _colour(line, file, number)
        try:
            found = with_tint(found, name, colour)
        except BadValue:
            reason = f"holds more colours than fit: a palette has at most {MOST_TINTS}"
            raise BadFile(file, reason, f"line {number}") from None
    if found == onto:
        raise BadFile(file, "holds no colours")
    return found


def _colour(line: str, file: str, number: int) -> tuple[str, str]:
    match = _LINE.match(line)
    values = [int(part) for part in match.groups()[:3]] if match else []
    if match is None or max(values) > 255:
        raise BadFile(file, "is no colour: three numbers of 0 to 255 and a name", f"line {number}")
    colour = "#{:02x}{:02x}{:02x}".format(*values)
    name = "".join(c for c in (match[4] or "").strip() if c.isprintable())[:80].strip()
    return colour, name if name and name.lower() != "untitled" else colour


def gpl_text(name: str, palette: Palette) -> str:
    """A palette as such a file; bright forms are lost."""
    rows = [_HEAD, f"Name: {name}", "Columns: 8", "#"]
    for tint in palette:
        red, green, blue = bytes.fromhex(tint.colour[1:])
        rows.append(f"{red:3} {green:3} {blue:3}\t{tint.name}")
    return "\n".join(rows) + "\n"
