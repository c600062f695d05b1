"""Looks of Pump Cellar: a theme in which its walls are washed with lime, and two tint maps."""

from __future__ import annotations

from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from topion.brushes import TintBrush
from topion.demo import cellar_art
from topion.demo.palette import drawn_in
from topion.demo.tiles import SIDE
from topion.grid.arrays import Rgba
from topion.model.palette import Palette, Tint
from topion.model.plane import Plane
from topion.model.theme_sheet import ThemeSheet, sheet_name
from topion.model.tileset import Cut
from topion.model.tones import BACK, FORE, luma
from topion.pictures.png import png_bytes, read_png
from topion.scripting import ProjectHandle, RoomHandle

THEME = "Limewash"
LAMPLIGHT, FLOOD = "Lamplight", "Flood night"
_LIME = {
    "vault": "#b5ae9c", "vault light": "#c4beae", "vault dark": "#a69f8d", "vault joint": "#8f8775",
    "vault deep": "#776f5f",
    "block": "#d2cdbf", "block light": "#e4e0d4", "block dark": "#bab4a4", "block joint": "#9a9381",
    "block cap": "#efece3", "block deep": "#7c7565",
    "clay": "#c98f66", "clay light": "#d8a37b", "clay dark": "#b47c54", "clay joint": "#95633f",
    "clay cap": "#e6c29e", "clay deep": "#724a2d",
    "steel": "#5f8f84", "steel light": "#93bdb0", "steel dark": "#44695f", "steel deep": "#2c4640",
    "steel glint": "#c6ded5", "moss": "#7f9a52", "moss light": "#9bb36a", "moss dark": "#5f763b",
}  # fmt: skip
_PALETTE: Palette = (
    Tint(1, "Night", "#35405f", "#56658f"),
    Tint(2, "Deep", "#141a2c", "#232d4a"),
    Tint(3, "Lamp", "#b98642", "#f0bf6a"),
    Tint(4, "Ember", "#4a2c1d", "#79452a"),
    Tint(5, "Tide", "#2f6f75", "#57a6a3"),
    Tint(6, "Abyss", "#0f2a33", "#1a4550"),
    Tint(7, "Dusk", "#5d5470", "#8e82a8"),
    Tint(8, "Bone", "#b8ae97", "#e2d9c3"),
    Tint(9, "Rust", "#8a4630", "#c06a48"),
    Tint(10, "Moss", "#5c6f3a", "#88a05a"),
)
_TINTED = ("vault", "arch", "clay", "pier", "stone", "slope")  # the rest keeps its colours
_LIGHTS = ((5, 2), (5, 13), (5, 29), (9, 39), (16, 30), (16, 13), (14, 3), (17, 45))


def mask(sheet: Rgba) -> NDArray[np.uint16]:
    """(h, w) of the sheet: stones take the foreground, joints and what lies deep the background."""
    out = np.zeros(sheet.shape[:2], np.uint16)
    light = luma(sheet)
    for name, (row, column) in cellar_art.slot_places().items():
        if name.split()[0] not in _TINTED:
            continue
        part = np.s_[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]
        seen = sheet[part][..., 3] > 0
        middle = float(light[part][seen].mean()) if seen.any() else 0.0
        parts = np.where(light[part] >= middle * 0.74, FORE, BACK)
        out[part] = np.where(seen, parts, 0)
    return out


def drawn_theme() -> Rgba:
    """The sheet of the theme, drawn anew."""
    with drawn_in(_LIME):
        return cellar_art.drawn_sheet()


def theme_sheet() -> ThemeSheet:
    """The theme, from the sheet kept in the repository."""
    data = resources.files("topion.demo").joinpath("art/cellar-limewash.png").read_bytes()
    picture = read_png(data, "cellar-limewash.png")
    name = sheet_name(cellar_art.SHEET, THEME)
    cut = Cut((SIDE, SIDE))
    own = Plane(mask(picture.rgba))
    return ThemeSheet(name, THEME, cellar_art.SHEET, picture, cut, mask=own)


def add_looks(project: ProjectHandle) -> None:
    """The theme, the palette, and brushes that tint."""
    project.add_theme(theme_sheet())
    for tint in _PALETTE:
        project.add_tint(tint.name, tint.colour, tint.bright)
    for brush in _brushes():
        project.add_brush(brush)


def _brushes() -> Iterator[TintBrush]:
    yield TintBrush("Night shade", 1, 2, "plain", nib=3)
    yield TintBrush("Lamp glow", 3, 4, "plain", nib=3)
    yield TintBrush("Tide", 5, 6, "plain", nib=3)
    yield TintBrush("Rust and bone", 8, 9, "plain", nib=1)


def tint_cellar(room: RoomHandle) -> None:
    """The two maps of the room; it is worn in neither."""
    _lamplight(room)
    _flood(room)
    room.wear(tint="")


def _both(name: str, fore: int, back: int, *, bright: bool = False) -> TintBrush:
    return TintBrush(name, fore, back, "bright" if bright else "plain", both=True)


def _lamplight(room: RoomHandle) -> None:
    """Night in the corners, and rings of warm light round the lamps."""
    room.add_tint_map(LAMPLIGHT)
    height, width = room.size
    room.lay(_both("Night shade", 1, 2), box=((0, 0), (height - 1, width - 1)))
    for reach, glow in (
        (6.0, _both("Dusk", 7, 2)),
        (4.4, _both("Lamp glow", 3, 4)),
        (2.6, _both("Lamp glow", 3, 4, bright=True)),
    ):
        room.lay(glow, cells=np.argwhere(_near(room.size, reach)))


def _near(size: tuple[int, ...], reach: float) -> NDArray[np.bool_]:
    ys, xs = np.indices(size)
    away = [np.hypot((ys - y) * 1.1, xs - x) for y, x in _LIGHTS]
    return np.asarray(np.minimum.reduce(away) < reach)


def _flood(room: RoomHandle) -> None:
    """Cold light from the water, dusk above it."""
    room.add_tint_map(FLOOD)
    height, width = room.size
    room.lay(_both("Dusk", 7, 2), box=((0, 0), (11, width - 1)))
    room.lay(_both("Night shade", 1, 6), box=((12, 0), (17, width - 1)))
    room.lay(_both("Tide", 5, 6), box=((18, 0), (height - 1, width - 1)))
    ys, xs = np.indices((height, width))
    shine = np.hypot((ys - 24) * 1.3, (xs - 28) * 0.55) < 6.5
    room.lay(_both("Tide", 5, 6, bright=True), cells=np.argwhere(shine))


if __name__ == "__main__":
    target = Path(__file__).parent / "art" / "cellar-limewash.png"
    target.write_bytes(png_bytes(drawn_theme()))
    print(f"drew {target.name}")
