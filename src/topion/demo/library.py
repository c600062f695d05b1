"""The library of Brinehollow: its brushes and prefabs."""

from __future__ import annotations

from collections.abc import Iterator

from topion.brushes import CurveBrush, FieldBrush, Mosaic, Panel, Sown, ThingsBrush, Trail, Weave
from topion.brushes.kind import BrushKind
from topion.demo.art import INSIDE, SHEET, SIDES_16, slot_places
from topion.demo.sprites import ART, sprite
from topion.grid.neighbours import NAMES_8, OFFSETS_8, E, N, S, W, cases_47
from topion.model.curve import CurvePart
from topion.model.prefab import PlacementRule, Prefab
from topion.model.tileset import TileRef
from topion.pictures.png import picture_of
from topion.roles import (
    Door,
    Emitter,
    Goal,
    Hazard,
    Launcher,
    Pickup,
    RoleKind,
    Scenery,
    Start,
    Switch,
    Walker,
)
from topion.things.densities import FromCurve, Noise
from topion.things.rules import AtMost, ClearOf, KeepsCells, NotOn, On
from topion.weaving.rules import ANY, OPEN, SAME, Rule, RuleBook, Variant

_WEIGHTS = {"a": 6.0, "b": 4.0, "c": 1.0, "d": 0.4, "e": 1.0, "f": 1.0}
_CORNERS = {0: (1, 3), 2: (1, 4), 5: (6, 3), 7: (6, 4)}  # neighbour and its two sides


def _variants(look: str, mask: int | str) -> tuple[Variant, ...]:
    letters = [c for c in "abcdef" if f"{look} {mask} {c}" in slot_places()]
    return tuple(Variant(TileRef(SHEET, f"{look} {mask} {c}"), _WEIGHTS[c]) for c in letters)


def _card(mask: int, *, corners: bool) -> tuple[tuple[str, ...], ...]:
    """The marks that hold for exactly one of the cases."""
    signs = [SAME if mask >> bit & 1 else OPEN for bit in range(8)]
    for bit, (a, b) in _CORNERS.items():
        if not corners or not (mask >> a & 1 and mask >> b & 1):
            signs[bit] = ANY
    rows = [[ANY] * 3 for _ in range(3)]
    for (dy, dx), sign in zip(OFFSETS_8, signs, strict=True):
        rows[dy + 1][dx + 1] = sign
    return tuple(tuple(row) for row in rows)


def _name(mask: int) -> str:
    """What is open round the cell, in words."""
    if mask == INSIDE:
        return "inside"
    sides = [NAMES_8[bit] for bit in (1, 4, 6, 3) if not mask >> bit & 1]
    corners = [
        NAMES_8[bit]
        for bit, (a, b) in _CORNERS.items()
        if mask >> a & 1 and mask >> b & 1 and not mask >> bit & 1
    ]
    if len(sides) == 4:
        return "alone"
    parts = []
    if sides:
        parts.append(f"open {' '.join(sides)}")
    if corners:
        parts.append(f"corner {' '.join(corners)}")
    return ", ".join(parts)


def _rules_47(look: str, inside: tuple[Variant, ...] = ()) -> tuple[Rule, ...]:
    rules = []
    for mask in reversed(cases_47()):  # the commonest first
        variants = inside if mask == INSIDE and inside else _variants(look, mask)
        if mask == INSIDE and look == "mud":  # a shell or a pool is a rare find
            rare = {"c": 0.12, "d": 0.06}
            variants = tuple(Variant(v.tile, rare.get(v.tile.slot[-1], v.weight)) for v in variants)
        rules.append(Rule(_name(mask), _card(mask, corners=True), variants, turns_tile=False))
    return tuple(rules)


def _trail_parts(look: str) -> dict[str, TileRef]:
    """Tiles by the sides on which a way goes on."""
    sides = (("n", N), ("e", E), ("s", S), ("w", W))
    return {
        "".join(name for name, bit in sides if mask & bit) or "alone": TileRef(
            SHEET, f"{look} {mask} a"
        )
        for mask in SIDES_16
    }


def _panel_parts(look: str) -> dict[str, TileRef]:
    """Tiles by their place in a rectangle."""
    rows, columns = {"n": S, "m": N | S, "s": N, "a": 0}, {"w": E, "m": W | E, "e": W, "a": 0}
    return {
        row + column: TileRef(SHEET, f"{look} {up | along} a")
        for row, up in rows.items()
        for column, along in columns.items()
    }


def _water(look: str) -> tuple[Variant, ...]:
    return tuple(
        Variant(TileRef(SHEET, f"{look} {c} 0"), w) for c, w in (("a", 5.0), ("b", 3.0), ("c", 2.0))
    )


def _always(name: str, variants: tuple[Variant, ...]) -> tuple[Rule, ...]:
    return (Rule(name, ((ANY,) * 3,) * 3, variants, turns_tile=False),)


def brushes() -> Iterator[tuple[str, BrushKind]]:
    """(bay, brush) in the order of the rack."""
    yield "Ground", Weave("Mud", RuleBook(_rules_47("mud")), "Ground", "#94744e", 11, 2)
    yield (
        "Ground",
        Weave("Water", RuleBook(_always("open water", _water("water"))), "Ground", "#3b7f88"),
    )
    yield (
        "Ground",
        Weave("Deep water", RuleBook(_rules_47("deep", _water("deep"))), "Ground", "#2a6070", 5, 3),
    )
    yield "Ground", Weave("Salt grass", RuleBook(_rules_47("grass")), "Cover", "#7f8a4a", 3, 2)
    stones = _variants("cobbles", "") or tuple(
        Variant(TileRef(SHEET, f"cobbles {c}")) for c in "abcdef"
    )
    yield "Ground", Mosaic("Cobbles", stones, "Cover", "#9a978b", 2, 1)
    yield "Built", Trail("Boardwalk", _trail_parts("boardwalk"), "Boardwalk", "#b88d55")
    yield (
        "Built",
        Weave("Brine pan", RuleBook(_rules_47("pan"), beyond="open"), "Pans", "#cfc4ae", 6),
    )
    for name, look, shade, seed in (("Brick", "brick", "#a5533b", 7),
                                    ("Slate roof", "slate", "#5e6b75", 8)):  # fmt: skip
        inside = tuple(Variant(TileRef(SHEET, f"{look} {N | W | E | S} {c}")) for c in "bc")
        yield "Built", Panel(name, _panel_parts(look), inside, (), "Sheds", shade, seed)
    for name in ("Lantern post", "Salt cone", "Crate", "Post", "Bucket", "Door", "Valve wheel",
                 "Salt token", "Spring plate", "Signal flag", "Boot peg", "Turnover wheel",
                 "Scald vent", "Steam puff"):  # fmt: skip
        yield "Things", ThingsBrush(name, name, "Things", "#22303a")
    yield "Things", ThingsBrush("Rowing boat", "Rowing boat", "Things", "#97703f")
    yield "Things", ThingsBrush("Gull", "Gull", "Things", "#85827a")
    yield from _many()


def _many() -> Iterator[tuple[str, BrushKind]]:
    """What lays many things at once: a curve, and fields."""
    yield (
        "Things",
        CurveBrush("Fence", (CurvePart("Pale"),), "Things", "#97703f", by="pitch", pitch=0.42,
                   turns=False, start="Gate post", end="Gate post", corner="Gate post"),
    )  # fmt: skip
    yield (
        "Fields",
        FieldBrush(
            "Gravel",
            (Sown("Pebbles", 1.0, size=(0.7, 1.25), strays=0.15),),
            spacing=0.55,
            seed=73,
            parts=(FromCurve("Fence", near=0.5, far=3.6), Noise(cells=5, threshold=0.2, soft=0.4)),
            density=1.0,
            radius=4.0,
            soft=1.0,
            layer="Gravel",
            colour="#8d8778",
        ),
    )
    yield (
        "Fields",
        FieldBrush(
            "Reed bed",
            (Sown("Reed tall", 3.0), Sown("Reed short", 2.0), Sown("Bulrush", 1.0, 1.6)),
            spacing=0.8,
            size=(0.85, 1.15),
            rules=(On(("Mud", "Salt grass")),),
            seed=4107,
            density=0.74,
            radius=4.0,
            soft=2.5,
            layer="Reed bed",
        ),
    )
    yield (
        "Fields",
        FieldBrush(
            "Drying salt",
            (Sown("Salt cone"),),
            spacing=1.9,
            size=(0.8, 1.0),
            rules=(On(("Brine pan",)),),
            seed=212,
            density=1.0,
            radius=3.0,
            soft=0.5,
            layer="Drying salt",
            colour="#b7a98b",
        ),
    )


_RULES: dict[str, tuple[PlacementRule, ...]] = {
    "Lantern post": (
        ClearOf(3.0),
        NotOn(("Water", "Deep water", "Brick", "Slate roof", "Brine pan")),
        KeepsCells(),
    ),
    "Salt cone": (NotOn(("Water", "Deep water", "Brick", "Slate roof")),),
    "Crate": (NotOn(("Water", "Deep water", "Brick", "Slate roof", "Brine pan")), KeepsCells()),
    "Post": (KeepsCells(),),
    "Pale": (NotOn(("Water", "Deep water", "Brick", "Slate roof")),),
    "Gate post": (NotOn(("Water", "Deep water", "Brick", "Slate roof")),),
    "Pebbles": (NotOn(("Water", "Deep water", "Brick", "Slate roof", "Salt grass")),),
    "Bucket": (NotOn(("Water", "Deep water", "Brick", "Slate roof")), KeepsCells()),
    "Door": (On(("Brick",)), KeepsCells()),
    "Valve wheel": (On(("Cobbles", "Mud", "Boardwalk")), AtMost(4), KeepsCells()),
    "Gull": (ClearOf(1.5),),
    "Rowing boat": (On(("Water", "Deep water")), KeepsCells()),
}
_CLASSES = {
    "Reed tall": "reeds",
    "Reed short": "reeds",
    "Bulrush": "reeds",
    "Lantern post": "lights",
    "Salt token": "tokens",
}
_ROLES: dict[str, RoleKind] = {
    "Crate": Scenery(solid=True), "Door": Door(by="acting on it"), "Valve wheel": Switch(),
    "Gull": Walker(speed=1.2), "Salt token": Pickup(), "Spring plate": Launcher(up=6.5),
    "Signal flag": Goal(), "Boot peg": Start(), "Turnover wheel": Switch(turns="gravity over"),
    "Scald vent": Emitter("Steam puff", every=2.5, speed=2.5, towards="up", lasts=1.6),
    "Steam puff": Hazard(),
}  # fmt: skip
_FOOTPRINTS = {"Rowing boat": ("##",)}
_MIRRORS = {"Pebbles", "Reed tall", "Reed short", "Bulrush", "Gull", "Rowing boat", "Bucket"}

_TURNS = {"Rowing boat", "Valve wheel"}


def prefabs() -> Iterator[Prefab]:
    for name in ART:
        rgba = sprite(name)
        shade = int((rgba[..., 3] == 80).any(axis=1).sum())  # rows of ground shade only
        height, width = rgba.shape[:2]
        seat = height - min(shade, 1)
        anchor = (seat, width // 2) if name != "Rowing boat" else (seat, 8)
        yield Prefab(
            name,
            picture_of(rgba),
            (anchor[0] + 2 if name in ("Gull", "Bucket", "Reed short") else anchor[0], anchor[1]),
            _FOOTPRINTS.get(name, ("#",)),
            _CLASSES.get(name, ""),
            "any" if name in _TURNS else "none",
            name in _MIRRORS,
            _RULES.get(name, ()),
            role=_ROLES.get(name),
            counts=name == "Salt token",
            floats=name == "Salt token",
        )
