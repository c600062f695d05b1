"""Draws a flat room of a Topion bundle as a PNG, in plain Python: a start for those who put rooms
into a game of their own.

    topion export PROJECT --to json -o out
    python3 read_bundle.py out/PROJECT.json "Name of the room" room.png

What a bundle holds is told in docs/FORMATS.md.  Things are drawn at their place, scaled, mirrored
and turned; themes and tint maps are left out here.
"""

from __future__ import annotations

import base64
import json
import math
import struct
import sys
import zlib

EMPTY = (0, 0, 0, 0)


# --- the bundle -------------------------------------------------------------------------------


def cells_of(rows, width):
    """Rows like `12*0 3*5 7` as lists of numbers."""
    found = []
    for row in rows:
        cells = []
        for run in row.split():
            count, _, value = run.rpartition("*")
            cells += [int(value)] * int(count or 1)
        assert len(cells) == width
        found.append(cells)
    return found


def room_named(bundle, name):
    """The room of a bundle by its name."""
    for room in bundle["rooms"]:
        if room["room"]["name"] == name:
            return room
    names = ", ".join(room["room"]["name"] for room in bundle["rooms"])
    raise SystemExit(f"there is no room {name}; there are: {names}")


def things_of(layer):
    """The things of a layer that show, placed or sown, those farther back first."""
    things = layer.get("sown") or layer.get("things") or []
    return sorted(things, key=lambda thing: (thing["y"], thing["x"]))


def tiles_of(bundle):
    """A function that gives the picture of a tile by its number, from 1."""
    sheets = {tileset["name"]: tileset for tileset in bundle["tilesets"]}
    pictures = {}
    known = {}

    def tile(number):
        if number not in known:
            tileset, slot, turn, mirrored = bundle["tiles"][number - 1]
            sheet = sheets[tileset]
            if tileset not in pictures:
                pictures[tileset] = read_png(base64.b64decode(sheet["sheet"]))
            known[number] = oriented(cut_out(pictures[tileset], sheet, slot), turn, mirrored)
        return known[number]

    return tile


def cut_out(sheet, tileset, slot):
    """The pixels of a slot, named or by its place `row,column`."""
    cut = tileset["cut"]
    high, wide = cut["tile"]
    known = tileset.get("slots", {}).get(slot)
    row, column = known["at"] if known else (int(part) for part in slot.split(","))
    if cut.get("rects"):  # stands in the middle of its tile, on its ground
        y, x, h, w = cut["rects"][column]
        part = [line[x : x + w] for line in sheet[y : y + h]]
        left = (wide - w) // 2
        lines = [[EMPTY] * left + line + [EMPTY] * (wide - w - left) for line in part]
        return [[EMPTY] * wide for _ in range(high - h)] + lines
    margin, spacing = cut.get("margin", 0), cut.get("spacing", 0)
    y, x = margin + row * (high + spacing), margin + column * (wide + spacing)
    return [line[x : x + wide] for line in sheet[y : y + high]]


def oriented(picture, turn, mirrored):
    """Quarter turns clockwise, then mirrored from left to right."""
    for _ in range(turn):
        picture = [list(line) for line in zip(*picture[::-1], strict=True)]
    return [line[::-1] for line in picture] if mirrored else picture


# --- drawn ------------------------------------------------------------------------------------


def drawn(bundle, name):
    """A room as rows of (red, green, blue, alpha)."""
    room = room_named(bundle, name)
    info = room["room"]
    if len(info["size"]) != 2:
        raise SystemExit(f"{name} is a voxel room; this example draws flat ones")
    (height, width), px = info["size"], info.get("cell_px", 16)
    backdrop = info.get("backdrop", "#e9e2d2")
    ground = (*(int(backdrop[at : at + 2], 16) for at in (1, 3, 5)), 255)
    out = [[ground] * (width * px) for _ in range(height * px)]
    tile, prefabs = tiles_of(bundle), {prefab["name"]: prefab for prefab in bundle["prefabs"]}
    for layer in room["layers"]:
        about = layer["layer"]
        if not about.get("shown", True):
            continue
        opacity, (down, right) = about.get("opacity", 1.0), about.get("offset", (0.0, 0.0))
        for plane in ("tile", "over"):  # `over` are inlays, drawn over the tiles
            if about["kind"] == "tiles" and plane in layer:
                for y, row in enumerate(cells_of(layer[plane], width)):
                    for x, number in enumerate(row):
                        if number:
                            at = round((y + down) * px), round((x + right) * px)
                            lay(out, resized(tile(number), px, px), at, opacity)
        if about["kind"] in ("things", "field"):
            for thing in things_of(layer):
                lay_thing(out, prefabs[thing["prefab"]], thing, px, (down, right), opacity)
    return out


def lay_thing(out, prefab, thing, px, offset, opacity):
    """The anchor of its picture comes to the bottom middle of its cell, which turns with it."""
    if "pixels" not in prefab:
        prefab["pixels"] = read_png(base64.b64decode(prefab["picture"]))
    picture = prefab["pixels"]
    ay, ax = prefab["anchor_px"]
    ay -= prefab.get("below_px", 0)
    scale, turn = thing.get("scale", 1.0), thing.get("turn", 0.0)
    if thing.get("mirrored"):
        picture, ax = [line[::-1] for line in picture], len(picture[0]) - ax
    seat = ((0.5, 0.0), (0.0, -0.5), (-0.5, 0.0), (0.0, 0.5))[round(turn / 90) % 4]
    y = (thing["y"] + 0.5 + seat[0] + offset[0]) * px
    x = (thing["x"] + 0.5 + seat[1] + offset[1]) * px
    if turn:
        picture, ay, ax = turned(picture, ay, ax, turn)
    high, wide = max(1, round(len(picture) * scale)), max(1, round(len(picture[0]) * scale))
    sprite = resized(picture, high, wide)
    at = round(y - ay * high / len(picture)), round(x - ax * wide / len(picture[0]))
    lay(out, sprite, at, opacity)


def turned(picture, ay, ax, degrees):
    """A picture turned clockwise about its middle, and where its anchor comes to lie."""
    angle = math.radians(degrees)
    sin, cos = math.sin(angle), math.cos(angle)
    high, wide = len(picture), len(picture[0])
    new_h = math.ceil(abs(high * cos) + abs(wide * sin) - 1e-9)
    new_w = math.ceil(abs(wide * cos) + abs(high * sin) - 1e-9)
    found = [[EMPTY] * new_w for _ in range(new_h)]
    for y in range(new_h):
        for x in range(new_w):
            dy, dx = y + 0.5 - new_h / 2, x + 0.5 - new_w / 2
            sy = math.floor(dy * cos - dx * sin + high / 2)
            sx = math.floor(dy * sin + dx * cos + wide / 2)
            if 0 <= sy < high and 0 <= sx < wide:
                found[y][x] = picture[sy][sx]
    oy, ox = ay - high / 2, ax - wide / 2
    return found, new_h / 2 + ox * sin + oy * cos, new_w / 2 + ox * cos - oy * sin


def resized(picture, high, wide):
    """The nearest pixels."""
    old_h, old_w = len(picture), len(picture[0])
    if (old_h, old_w) == (high, wide):
        return picture
    columns = [x * old_w // wide for x in range(wide)]
    return [[picture[y * old_h // high][x] for x in columns] for y in range(high)]


def lay(out, picture, at, opacity):
    """A picture over another one, its top left corner at a (y, x) pixel."""
    top, left = at
    for y, line in enumerate(picture, top):
        if not 0 <= y < len(out):
            continue
        row = out[y]
        for x, (red, green, blue, alpha) in enumerate(line, left):
            if alpha and 0 <= x < len(row):
                share = alpha * opacity / 255
                under = row[x]
                row[x] = (
                    round(red * share + under[0] * (1 - share)),
                    round(green * share + under[1] * (1 - share)),
                    round(blue * share + under[2] * (1 - share)),
                    255,
                )


# --- PNG: 8 bits, not interlaced, as bundles hold them ----------------------------------------


def read_png(data):
    """Rows of (red, green, blue, alpha)."""
    width, height, depth, kind, _, _, interlaced = struct.unpack(">IIBBBBB", data[16:29])
    if depth != 8 or interlaced:
        raise SystemExit("this example reads PNG of 8 bits that are not interlaced")
    packed, palette, clear, at = b"", [], b"", 8
    while at < len(data):
        (length,) = struct.unpack(">I", data[at : at + 4])
        tag, body = data[at + 4 : at + 8], data[at + 8 : at + 8 + length]
        if tag == b"PLTE":
            palette = [tuple(body[n : n + 3]) for n in range(0, length, 3)]
        elif tag == b"tRNS":
            clear = body
        elif tag == b"IDAT":
            packed += body
        at += 12 + length
    each = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}[kind]
    raw, stride = zlib.decompress(packed), width * each
    rows, above = [], bytes(stride)
    for y in range(height):
        start = y * (stride + 1)
        above = unfiltered(raw[start], raw[start + 1 : start + 1 + stride], above, each)
        rows.append([pixel(above, x * each, kind, palette, clear) for x in range(width)])
    return rows


def unfiltered(kind, line, above, each):
    """A line of a PNG without its filter; see the PNG specification, part 9."""
    found = bytearray(line)
    for n in range(len(found)):
        a = found[n - each] if n >= each else 0
        b = above[n]
        c = above[n - each] if n >= each else 0
        if kind == 1:
            found[n] = found[n] + a & 255
        elif kind == 2:
            found[n] = found[n] + b & 255
        elif kind == 3:
            found[n] = found[n] + (a + b) // 2 & 255
        elif kind == 4:
            near = min((abs(b - c), 0, a), (abs(a - c), 1, b), (abs(a + b - 2 * c), 2, c))
            found[n] = found[n] + near[2] & 255
    return bytes(found)


def pixel(line, at, kind, palette, clear):
    if kind == 6:
        return tuple(line[at : at + 4])
    if kind == 2:
        return (*line[at : at + 3], 255)
    if kind == 3:
        number = line[at]
        return (*palette[number], clear[number] if number < len(clear) else 255)
    return (line[at],) * 3 + (line[at + 1] if kind == 4 else 255,)


def png_of(rows):
    """Rows of (red, green, blue, alpha) as the bytes of a PNG."""
    raw = b"".join(b"\0" + b"".join(bytes(dot) for dot in row) for row in rows)
    head = struct.pack(">IIBBBBB", len(rows[0]), len(rows), 8, 6, 0, 0, 0)
    parts = ((b"IHDR", head), (b"IDAT", zlib.compress(raw, 6)), (b"IEND", b""))
    chunks = (struct.pack(">I", len(body)) + tag + body + struct.pack(">I", zlib.crc32(tag + body))
              for tag, body in parts)  # fmt: skip
    return b"\x89PNG\r\n\x1a\n" + b"".join(chunks)


if __name__ == "__main__":
    if len(sys.argv) != 4:
        raise SystemExit("say which: read_bundle.py BUNDLE.json ROOM OUT.png")
    with open(sys.argv[1], encoding="utf-8") as file:
        found = json.load(file)
    with open(sys.argv[3], "wb") as file:
        file.write(png_of(drawn(found, sys.argv[2])))
