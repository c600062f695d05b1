"""Reads the text rows that Topion writes of a layer of tiles or of a tint map, in plain Python.

    topion export PROJECT --to rows -o out
    python3 read_rows.py out/ROOM.LAYER.txt              what lies where, counted
    python3 read_rows.py out/ROOM.TINTS.txt picture.ppm  a tint map, a pixel a cell

What the files hold is told in docs/FORMATS.md, under "Text rows".
"""

from __future__ import annotations

import sys
from collections import Counter

OPEN = (230, 224, 211)


def read_rows(text):
    """(kind, head lines by word, legend by code, rows of codes): kind is "tile" or "tint"."""
    lines = text.splitlines()
    first = lines[0].split()
    if first[:1] != ["topion"] or first[2:] != ["rows", "1"]:
        raise SystemExit(f"these are no text rows that this reader knows: {lines[0]!r}")
    head, at = {}, 1
    while ": " in lines[at]:
        word, value = lines[at].split(": ", 1)
        head[word] = value
        at += 1
        if word == "legend":
            break
    count = int(head["legend"])
    legend = dict(line.split(" ", 1) for line in lines[at : at + count])
    rows = [line.split() for line in lines[at + count :] if line.strip()]
    width = int(head["size"].split(" × ")[0])
    assert all(len(row) == width for row in rows)
    return first[1], head, legend, rows


def parts_of(code):
    """Of the code of a tint: foreground, background (two digits, or dots for the tile's own), and
    whether their bright forms show."""
    return code[:2], code[2:4], code[4:] == "+"


def colour_of(code, legend):
    """(red, green, blue) of the foreground of a tint, or else of its background."""
    fore, back, bright = parts_of(code)
    number = fore if fore in legend else back
    if number not in legend:
        return OPEN
    plain, shining = legend[number].split()[:2]
    word = shining if bright else plain
    return tuple(int(word[at : at + 2], 16) for at in (1, 3, 5))


def main(arguments):
    with open(arguments[0], encoding="utf-8") as file:
        kind, head, legend, rows = read_rows(file.read())
    if len(arguments) > 1 and kind == "tint":
        pixels = bytes(value for row in rows for code in row for value in colour_of(code, legend))
        with open(arguments[1], "wb") as file:
            file.write(b"P6 %d %d 255\n" % (len(rows[0]), len(rows)) + pixels)
        return
    print(f"{head['room']}, {head['layer']}: {head['size']} cells")
    for code, count in Counter(code for row in rows for code in row).most_common():
        print(f"{count:7}  {code}  {legend.get(code, '')}")


if __name__ == "__main__":
    main(sys.argv[1:])
