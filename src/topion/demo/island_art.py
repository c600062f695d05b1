"""The faces of Lamp Island's blocks, drawn 16 px square, and its blocks with shapes.

`python -m topion.demo.island_art` draws the sheet anew beside the others.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from importlib import resources
from pathlib import Path

import numpy as np

from topion.demo.palette import colour
from topion.demo.tiles import SIDE, noise, plain, soft_noise
from topion.grid.arrays import Rgba
from topion.model.solid import Block, VoxelModel
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import png_bytes, read_png

SHEET = "Island"
COLUMNS = 8
Drawer = Callable[[int], Rgba]


def _speckled(base: str, light: str, dark: str, seed: str, variant: int) -> Rgba:
    """A face of one material: soft patches and a few grains."""
    tile = plain(base)
    patch, grain = soft_noise(seed, variant, 1.9), noise(f"{seed} grain", variant)
    tile[patch > 0.66] = colour(light)
    tile[patch < 0.27] = colour(dark)
    tile[grain > 0.955] = colour(light)
    tile[grain < 0.04] = colour(dark)
    return tile


def _shelf(tile: Rgba, top: str, under: str, rows: int) -> Rgba:
    """The upper rows of a side face as the rim of what lies on top, ragged below."""
    edge = rows + np.rint(2.2 * soft_noise(f"{top} rim", 0, 1.1)[0]).astype(int) - 1
    for x in range(SIDE):
        tile[: edge[x], x] = colour(top)
        tile[edge[x], x] = colour(under)
    return tile


def _mud_top(variant: int) -> Rgba:
    return _speckled("mud", "mud light", "mud dark", "island mud", variant)


def _mud_rim(variant: int) -> Rgba:
    """The top of an edge: sandy along its north side, where it drops."""
    tile = _mud_top(variant)
    edge = 3 + np.rint(2 * soft_noise("mud lip", variant, 1.2)[0]).astype(int)
    for x in range(SIDE):
        tile[: edge[x], x] = colour("sand")
        tile[0 : edge[x] - 2, x] = colour("sand light")
    return tile


def _mud_corner(variant: int) -> Rgba:
    """The top of a corner: it drops to the north and to the east."""
    tile = _mud_rim(variant)
    edge = 3 + np.rint(2 * soft_noise("mud lip", variant + 7, 1.2)[0]).astype(int)
    for y in range(SIDE):
        tile[y, SIDE - edge[y] :] = colour("sand")
        tile[y, SIDE - edge[y] + 2 :] = colour("sand light")
    return tile


def _mud_side(variant: int) -> Rgba:
    tile = _speckled("mud dark", "mud", "mud deep", "island bank", variant)
    return _shelf(tile, "sand", "mud", 3)


def _mud_deep(variant: int) -> Rgba:
    return _speckled("mud deep", "mud dark", "mud face", "island deep", variant)


def _turf_top(variant: int) -> Rgba:
    tile = _speckled("grass", "grass light", "grass dark", "island turf", variant)
    blades = noise("island blades", variant)
    tile[blades > 0.93] = colour("grass light")
    return tile


def _turf_side(variant: int) -> Rgba:
    tile = _speckled("mud dark", "mud", "mud deep", "island bank", variant)
    edge = 4 + np.rint(4 * noise("turf fringe", variant)[0]).astype(int)
    for x in range(SIDE):
        tile[: edge[x], x] = colour("grass" if x % 3 else "grass dark")
        tile[0, x] = colour("grass light")
    return tile


def _rock(variant: int) -> Rgba:
    tile = _speckled("stone", "stone light", "stone dark", "island rock", variant)
    for crack in range(2):
        y = 4 + 7 * crack + variant % 3
        for x in range(SIDE):
            y2 = (y + round(1.6 * float(noise("crack", variant + crack)[crack, x]))) % SIDE
            tile[y2, x] = colour("joint" if (x + variant) % 5 else "stone dark")
    return tile


def _rock_top(variant: int) -> Rgba:
    tile = _speckled("stone", "stone light", "stone dark", "island rock top", variant)
    tile[soft_noise("lichen", variant, 1.6) > 0.82] = colour("grass dark")
    return tile


def _courses(base: str, light: str, dark: str, joint: str, variant: int) -> Rgba:
    """Bricks, four courses to a face, each a little different."""
    tile = plain(base)
    for row in range(4):
        shift = 4 * (row % 2)
        for column in range(-1, 3):
            x0, y0 = column * 8 + shift, row * 4
            shade = float(noise("course", variant)[row, column % SIDE])
            name = light if shade > 0.72 else dark if shade < 0.25 else base
            x1, x2 = max(0, x0), min(SIDE, x0 + 8)
            if x1 >= x2:
                continue
            tile[y0 : y0 + 4, x1:x2] = colour(name)
            if 0 <= x0 < SIDE:
                tile[y0 : y0 + 4, x0] = colour(joint)
        tile[row * 4 + 3] = colour(joint)
    return tile


def _brick(variant: int) -> Rgba:
    return _courses("brick", "brick light", "brick dark", "mortar", variant)


def _salt_band(variant: int) -> Rgba:
    return _courses("brine", "brine light", "brine dark", "brine dark", variant)


def _slate(variant: int) -> Rgba:
    return _courses("slate", "slate light", "slate dark", "slate deep", variant)


def _water(variant: int) -> Rgba:
    tile = plain("water")
    tile[soft_noise("island water", variant, 2.4) > 0.6] = colour("water light")
    if variant < 2:
        tile[5 + 6 * variant, 4 + 3 * variant : 9 + 3 * variant] = colour("water glint")
    return tile


def _shallows(variant: int) -> Rgba:
    tile = plain("water light")
    tile[soft_noise("island shallows", variant, 2.2) > 0.66] = colour("water glint")
    tile[soft_noise("foam", variant, 1.4) > 0.86] = colour("foam")
    return tile


def _planks(variant: int) -> Rgba:
    tile = plain("wood")
    for board in range(4):
        x = board * 4
        shade = float(noise("plank", variant)[board, 3])
        name = "wood light" if shade > 0.6 else "wood dark" if shade < 0.22 else "wood"
        tile[:, x : x + 3] = colour(name)
        tile[:, x + 3] = colour("wood deep")
        tile[(5 * board + 3 * variant) % SIDE, x + 1] = colour("wood deep")
    return tile


def _plank_side(variant: int) -> Rgba:
    tile = np.ascontiguousarray(_planks(variant).transpose(1, 0, 2))
    tile[:2] = colour("wood light")
    return tile


def _salt_face(variant: int) -> Rgba:
    return _speckled("brine", "brine light", "brine dark", "salt face", variant)


def _salt_edge(variant: int) -> Rgba:
    """A crate's face with a wooden slat along its top."""
    tile = _salt_face(variant)
    tile[:3] = colour("wood")
    tile[0] = colour("wood light")
    tile[3] = colour("brine dark")
    return tile


def _salt_corner(variant: int) -> Rgba:
    """A slat along the top and one down its left side."""
    tile = _salt_edge(variant)
    tile[:, :3] = colour("wood")
    tile[:, 0] = colour("wood light")
    tile[4:, 3] = colour("brine dark")
    return tile


def _salt_post(variant: int) -> Rgba:
    """A slat down its left side."""
    tile = _salt_face(variant)
    tile[:, :3] = colour("wood")
    tile[:, 0] = colour("wood light")
    tile[:, 3] = colour("brine dark")
    return tile


def _lamp(variant: int) -> Rgba:
    tile = plain("lamp")
    ys, xs = np.indices((SIDE, SIDE))
    glow = np.hypot(ys - 7.5, xs - 7.5)
    tile[glow < 5] = colour("lamp light")
    for edge in (0, SIDE - 1):
        tile[edge], tile[:, edge] = colour("iron"), colour("iron")
    tile[:, 7:9] = colour("iron") if variant else tile[:, 7:9]
    return tile


def _iron(variant: int) -> Rgba:
    return _speckled("iron", "slate light", "ink", "island iron", variant)


FACES: dict[str, tuple[Drawer, int]] = {
    "mud top": (_mud_top, 4), "mud rim": (_mud_rim, 2), "mud corner": (_mud_corner, 2),
    "mud side": (_mud_side, 3), "mud deep": (_mud_deep, 3),
    "turf top": (_turf_top, 4), "turf side": (_turf_side, 3),
    "rock": (_rock, 4), "rock top": (_rock_top, 3),
    "brick": (_brick, 3), "salt band": (_salt_band, 3), "slate": (_slate, 3),
    "water": (_water, 4), "shallows": (_shallows, 3), "planks": (_planks, 3),
    "plank side": (_plank_side, 2), "salt face": (_salt_face, 3), "salt edge": (_salt_edge, 2),
    "salt corner": (_salt_corner, 1), "salt post": (_salt_post, 2), "lamp": (_lamp, 2),
    "iron": (_iron, 1),
}  # fmt: skip


@lru_cache(maxsize=1)
def slot_places() -> dict[str, tuple[int, int]]:
    """Slots by name, such as `brick b`, and where they lie in the sheet."""
    names = [f"{name} {'abcd'[v]}" for name, (_, count) in FACES.items() for v in range(count)]
    return {name: divmod(number, COLUMNS) for number, name in enumerate(names)}


def drawn_sheet() -> Rgba:
    """The whole sheet, drawn anew."""
    places = slot_places()
    rows = -(-len(places) // COLUMNS)
    sheet = np.zeros((rows * SIDE, COLUMNS * SIDE, 4), np.uint8)
    for name, (y, x) in places.items():
        look, letter = name.rsplit(" ", 1)
        picture = FACES[look][0]("abcd".index(letter))
        sheet[y * SIDE : (y + 1) * SIDE, x * SIDE : (x + 1) * SIDE] = picture
    return sheet


def tileset() -> TileSet:
    """The tile set, from the sheet kept in the repository."""
    data = resources.files("topion.demo").joinpath("art/island.png").read_bytes()
    slots = {name: Slot(at, tags=(name.rsplit(" ", 1)[0],)) for name, at in slot_places().items()}
    return TileSet(SHEET, read_png(data, "island.png"), Cut((SIDE, SIDE)), slots)


def face(name: str) -> TileRef:
    return TileRef(SHEET, name)


# --- blocks -------------------------------------------------------------------------------


def blocks() -> list[Block]:
    """All blocks of the island."""
    found = []
    for v in "abc":
        found.append(_block(f"Mud {v}", f"mud top {v}", f"mud side {v}", f"mud deep {v}"))
        found.append(_block(f"Bank {v}", f"mud deep {v}", f"mud deep {v}", f"mud deep {v}"))
        found.append(_block(f"Turf {v}", f"turf top {v}", f"turf side {v}", f"mud deep {v}"))
        found.append(_block(f"Rock {v}", f"rock top {v}", f"rock {v}", f"rock {v}"))
        found.append(_block(f"Brick {v}", f"brick {v}", f"brick {v}", f"brick {v}"))
        found.append(_block(f"Salt band {v}", f"salt face {v}", f"salt band {v}", f"salt face {v}"))
        found.append(_block(f"Slate {v}", f"slate {v}", f"slate {v}", f"slate {v}"))
        found.append(_block(f"Water {v}", f"water {v}", f"water {v}", f"water {v}",
                            walkable=False))  # fmt: skip
        found.append(_block(f"Shallows {v}", f"shallows {v}", f"water {v}", f"water {v}",
                            walkable=False))  # fmt: skip
    for v in "ab":
        found.append(_block(f"Mud edge {v}", f"mud rim {v}", f"mud side {v}", f"mud deep {v}"))
        found.append(_block(f"Mud corner {v}", f"mud corner {v}", f"mud side {v}", f"mud deep {v}"))
        found.append(_block(f"Planks {v}", f"planks {v}", f"plank side {v}", f"planks {v}"))
    found.append(_block("Lamp", "iron a", "lamp a", "iron a"))
    found.append(_block("Iron", "iron a", "iron a", "iron a"))
    salt = face("salt face a")
    up, rim, post = face("salt face b"), face("salt edge a"), face("salt post a")
    corner = face("salt corner a")
    six = {  # up, down, north, east, south, west; corners stand at the north-west
        "Salt corner": (up, salt, rim, salt, salt, corner),
        "Salt rim": (up, salt, rim, salt, salt, salt),
        "Salt lid": (up, salt, salt, salt, salt, salt),
        "Salt post": (up, salt, salt, salt, salt, post),
        "Salt side": (up, salt, face("salt face c"), salt, salt, salt),
        "Salt": (salt,),
    }
    for name, faces in six.items():
        found.append(Block(name, "#e4dccb", faces))
    found.append(Block("Stair", "#b88d55", model=_stair(), top=0.5))
    found.append(Block("Rail", "#97703f", model=_rail(), solid=False, carries=False))
    found.append(Block("Pile", "#6a4c2c", model=_pile(), turns="any"))
    for links in GANGWAYS:
        name = f"Gangway {links or 'alone'}"
        found.append(Block(name, "#b88d55", model=_gangway(links), top=0.2))
    return found


def _block(name: str, top: str, side: str, bottom: str, **facts: bool) -> Block:
    look = top.rsplit(" ", 1)[0]
    names = {"mud top": "mud", "turf top": "grass", "rock top": "stone", "planks": "wood",
             "shallows": "water light", "salt band": "brine", "mud rim": "sand",
             "mud corner": "sand", "iron": "iron", "salt face": "brine"}  # fmt: skip
    known = names.get(look, look)
    rgb = colour(known if known != "mud deep" else "mud dark")[:3].tolist()
    code = "#{:02x}{:02x}{:02x}".format(*rgb)
    return Block(name, code, (face(top), face(side), face(bottom)), **facts)  # type: ignore[arg-type]


def shape(size: tuple[int, int, int], *parts: tuple[str, tuple[int, ...]]) -> VoxelModel:
    """A model of boxes: (colour name, (z0, y0, x0, z1, y1, x1)), later ones over earlier."""
    names = list(dict.fromkeys(name for name, _ in parts))
    cells = np.zeros(size, np.uint8)
    for name, (z0, y0, x0, z1, y1, x1) in parts:
        cells[z0:z1, y0:y1, x0:x1] = names.index(name) + 1
    palette = tuple("#{:02x}{:02x}{:02x}".format(*colour(n)[:3].tolist()) for n in names)
    return VoxelModel(cells, palette, 16)


def _stair() -> VoxelModel:
    """Two steps that rise to the north."""
    return shape(
        (16, 16, 16),
        ("wood dark", (0, 0, 0, 7, 16, 16)), ("wood", (7, 0, 0, 8, 16, 16)),
        ("wood light", (7, 15, 0, 8, 16, 16)),
        ("wood dark", (8, 0, 0, 15, 8, 16)), ("wood", (15, 0, 0, 16, 8, 16)),
        ("wood light", (15, 7, 0, 16, 8, 16)),
    )  # fmt: skip


GANGWAYS = ("ns", "s", "es", "esw", "nesw", "")


def _gangway(links: str) -> VoxelModel:
    """Boards on two beams, which go on to some sides; one walks on them a fifth of a cell up."""
    arms = {"n": (0, 3), "s": (13, 16), "w": (0, 3), "e": (13, 16)}
    boards: list[tuple[str, tuple[int, ...]]] = []
    for lo, name in ((3, "wood"), (7, "wood light"), (11, "wood")):
        boards.append((name, (1, lo, 2, 3, lo + 3, 14)))
    for side in links:
        lo, hi = arms[side]
        box = (1, lo, 2, 3, hi, 14) if side in "ns" else (1, 2, lo, 3, 14, hi)
        boards.append(("wood light" if side in "ne" else "wood", box))
    for side in "nesw":
        if side not in links:
            y0, y1 = (2, 3) if side == "n" else (13, 14) if side == "s" else (2, 14)
            x0, x1 = (2, 3) if side == "w" else (13, 14) if side == "e" else (2, 14)
            boards.append(("wood deep", (0, y0, x0, 4, y1, x1)))
    return shape((5, 16, 16), *boards)


def _rail() -> VoxelModel:
    """Two posts and a handrail along the west side."""
    return shape(
        (14, 16, 16),
        ("wood deep", (0, 1, 1, 13, 3, 3)), ("wood deep", (0, 13, 1, 13, 15, 3)),
        ("wood light", (12, 0, 1, 14, 16, 3)), ("wood dark", (6, 0, 1, 7, 16, 2)),
    )  # fmt: skip


def _pile() -> VoxelModel:
    """A wooden pile that carries a jetty."""
    return shape(
        (16, 16, 16),
        ("wood dark", (0, 5, 5, 16, 11, 11)), ("wood deep", (0, 5, 10, 16, 11, 11)),
        ("wood", (0, 10, 5, 16, 11, 11)),
    )  # fmt: skip


if __name__ == "__main__":
    target = Path(__file__).parent / "art" / "island.png"
    target.write_bytes(png_bytes(drawn_sheet()))
    print(f"drew {target.name}, {len(slot_places())} tiles")
