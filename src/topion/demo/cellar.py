"""The room Pump Cellar of Brinehollow, seen from the side: shapes over a woven wall."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from topion.brushes import Inlay, Mosaic, Panel, Ramp, Run, Stamp, ThingsBrush, Trail, Weave
from topion.brushes.kind import BrushKind
from topion.demo import cellar_art, cellar_looks
from topion.demo.cellar_art import ARCH, LAMP, NINE, THIN, ref
from topion.demo.sprites import sprite
from topion.edit.composites import composite_made
from topion.edit.picked import Picks
from topion.edit.pieces import Pick
from topion.grid.boxes import Box
from topion.model.plane import Plane
from topion.model.prefab import Prefab
from topion.model.tileset import TileRef
from topion.pictures.png import picture_of
from topion.render.composites import composite_look
from topion.roles import Door, Switch
from topion.scripting import ProjectHandle, RoomHandle
from topion.things.rules import KeepsCells
from topion.weaving.ready import ready_rules
from topion.weaving.rules import ANY, OPEN, Rule, RuleBook, Variant

ROOM = "Pump Cellar"
SIZE = (30, 48)
_LAYERS = (
    ("Back wall", "tiles"),
    ("Behind", "tiles"),
    ("Ground", "tiles"),
    ("Built", "tiles"),
    ("Water", "tiles"),
    ("Light", "tiles"),
    ("Things", "things"),
)
_KEYS = ("nw", "nm", "ne", "mw", "mm", "me", "sw", "sm", "se")
_THIN = {"na": "nwe", "ma": "we", "sa": "swe", "aw": "nsw", "am": "ns", "ae": "nse",
         "aa": "nswe"}  # fmt: skip


def add_cellar_library(project: ProjectHandle) -> None:
    """The sheet, the prefabs and the brushes of the cellar."""
    plain = cellar_art.tileset()
    project.add_tileset(replace(plain, mask=Plane(cellar_looks.mask(plain.sheet.rgba))))
    cellar_looks.add_looks(project)
    for prefab in _prefabs():
        project.add_prefab(prefab)
    for bay, brush in _brushes():
        project.add_brush(brush, bay)


def _prefabs() -> Iterator[Prefab]:
    wheel, gate = (picture_of(draw()) for draw in (cellar_art.wheel, cellar_art.gate))
    yield Prefab("Pump wheel", wheel, (16, 8), rules=(KeepsCells(),), role=Switch())
    door = picture_of(sprite("Plank door"))
    yield Prefab("Plank door", door, (16, 6), rules=(KeepsCells(),), role=Door(by="acting on it"))
    yield Prefab("Cellar gate", gate, (64, 24), ("###",) * 4, rules=(KeepsCells(),), role=Door())


def _parts(look: str, last: str = "") -> dict[str, TileRef]:
    """The nine parts of a panel and its thin forms."""
    named = {**dict(zip(_KEYS, NINE, strict=True)), **_THIN}
    return {key: ref(f"{look} {sides}{last}") for key, sides in named.items()}


def _stone() -> tuple[Rule, ...]:
    names = dict(zip(("nw", "n", "ne", "w", "inside", "e", "sw", "s", "se"), NINE, strict=True))
    block: dict[str, tuple[Variant, ...]] = {
        name: (Variant(ref(f"stone {sides} a")),) for name, sides in names.items()
    }
    for name, sides in (("n", "n"), ("inside", "")):
        block[name] += tuple(Variant(ref(f"stone {sides} {c}"), 0.6) for c in "bc")
    for corner in ("nw", "ne", "sw", "se"):
        block[f"inner {corner}"] = (Variant(ref(f"stone inner {corner}")),)
    return ready_rules(block)


def _water() -> tuple[Rule, ...]:
    open_above = ((ANY, OPEN, ANY), (ANY, ANY, ANY), (ANY, ANY, ANY))
    return (
        Rule("surface", open_above, (Variant(ref("water surface 0")),)),
        Rule("below", ((ANY,) * 3,) * 3, (Variant(ref("water body 0")),)),
    )


def _moss() -> tuple[Rule, ...]:
    """By its open sides; none of the corners matters."""
    rules = []
    for sides in sorted((*NINE, *THIN), key=len, reverse=True):
        card = [[ANY] * 3 for _ in range(3)]
        for name, (row, column) in {"n": (0, 1), "s": (2, 1), "w": (1, 0), "e": (1, 2)}.items():
            if name in sides:
                card[row][column] = OPEN
        variants = tuple(Variant(ref(f"moss {sides} {c}")) for c in "abc")
        name = f"open {' '.join(sides)}" if sides else "inside"
        rules.append(Rule(name, tuple(map(tuple, card)), variants, turns_tile=False))
    return tuple(rules)


def _brushes() -> Iterator[tuple[str, BrushKind]]:
    weights = zip("abcde", (5.0, 4.0, 4.0, 0.25, 1.0), strict=True)
    vault = tuple(Variant(ref(f"vault {c}"), w) for c, w in weights)
    yield "Ground", Mosaic("Cellar wall", vault, "Back wall", "#4d423f", 3)
    stone = RuleBook(_stone(), joins=("Quay ramp",))
    yield "Ground", Weave("Cellar stone", stone, "Ground", "#8b8b84", 6)
    yield "Ground", Weave("Cellar water", RuleBook(_water()), "Water", "#3b7f88")
    moss = RuleBook(_moss(), beyond="open")
    yield "Ground", Inlay("Moss", moss, "Ground", "#6f8440", 2, 2)
    arch = tuple(tuple(ref(f"arch {y} {x}") for x in range(ARCH[1])) for y in range(ARCH[0]))
    yield (
        "Ground",
        Mosaic("Blind arcade", (Variant(arch[0][0]),), "Back wall", "#433937", pattern=arch),
    )
    lamp = tuple(tuple(ref(f"lamp {y} {x}") for x in range(LAMP[1])) for y in range(LAMP[0]))
    yield "Stamps", Stamp("Cellar lamp", lamp, layer="Light")
    inside = tuple(Variant(ref(f"clay  {c}")) for c in "bc")
    yield "Built", Panel("Clay wall", _parts("clay", " a"), inside, (), "Built", "#9a4632", 3)
    yield "Built", Panel("Stone pier", _parts("pier"), layer="Behind", colour="#767670")
    slopes = {"slope 1": ref("slope 1"), "slope 2": ref("slope 2"), "fill": ref("stone  a"),
              "head": ref("slope head"), "foot": ref("slope foot")}  # fmt: skip
    yield "Built", Ramp("Quay ramp", slopes, 1, 2, "Ground", "#8b8b84")
    lying = {role: ref(f"pipe {role}") for role in ("start", "middle", "end", "alone")}
    joints = (ref("pipe middle"), ref("pipe joint"), ref("pipe middle"))
    yield "Built", Run("Pipe run", lying, joints, "Built", "#56798b")
    standing = {role: ref(f"drain {role}") for role in ("top", "upright", "bottom", "single")}
    yield "Built", Run("Drain pipe", standing, (), "Built", "#3d5a6a")
    ways = {name.partition(" ")[2] or "alone": ref(name) for name in cellar_art.slot_places()
            if name.startswith("gangway")}  # fmt: skip
    yield "Built", Trail("Gangway", ways, "Built", "#b88d55")
    for name in ("Pump wheel", "Cellar gate", "Plank door"):
        yield "Things", ThingsBrush(name, name, "Things", "#22303a")


def add_cellar(project: ProjectHandle) -> None:
    """Lay the room; its strokes are edits like any other."""
    room = project.add_room(ROOM, SIZE, 16, _LAYERS, "side")  # type: ignore[arg-type]
    _walls(room)
    _ground(room)
    _built(room)
    _things(room)
    _stamps(room)
    _composite(room)
    cellar_looks.tint_cellar(room)


def _walls(room: RoomHandle) -> None:
    height, width = SIZE
    room.lay("Cellar wall", box=((0, 0), (height - 1, width - 1)))
    room.lay("Blind arcade", box=((4, 0), (7, width - 1)))


def _ground(room: RoomHandle) -> None:
    for top, left, bottom, right in (
        (0, 0, 2, 47), (3, 0, 4, 0), (19, 0, 29, 13), (23, 14, 29, 24), (28, 25, 29, 31),
        (24, 32, 29, 35), (20, 44, 29, 47), (24, 36, 29, 43), (3, 40, 4, 47), (3, 46, 6, 47),
    ):  # fmt: skip
        room.lay("Cellar stone", box=((top, left), (bottom, right)))
    room.lay("Cellar water", box=((24, 25), (27, 31)))
    for line in (
        ((19, 0), (19, 4)),
        ((20, 1), (20, 2)),
        ((23, 22), (25, 24)),
        ((19, 9), (20, 12)),
        ((2, 8), (2, 17)),
        ((2, 30), (1, 33)),
        ((24, 32), (26, 32)),
        ((20, 46), (21, 47)),
    ):
        room.lay("Moss", line=line)
    room.lay("Quay ramp", line=((22, 21), (19, 14)))  # from the foot up to the west
    room.lay("Quay ramp", line=((23, 36), (20, 43)))  # and one to the east
    hanging = room.project.data.brushes["Quay ramp"].changed(upside_down=True)  # type: ignore[attr-defined]
    room.lay(hanging, line=((4, 36), (3, 39)))
    room.lay(hanging, line=((6, 42), (5, 45)))


def _built(room: RoomHandle) -> None:
    for top, left, bottom, right in ((11, 28, 23, 29), (5, 33, 23, 34), (5, 8, 18, 8)):
        room.lay("Stone pier", box=((top, left), (bottom, right)))
    for top, left, bottom, right in (
        (12, 19, 16, 25),
        (14, 36, 18, 40),
        (6, 1, 9, 5),
        (5, 23, 6, 29),
    ):
        room.lay("Clay wall", box=((top, left), (bottom, right)))
    room.lay("Gangway", curve=[(9, 11), (9, 17), (13, 17), (13, 10), (18, 10)])
    room.lay("Gangway", curve=[(11, 36), (11, 47), (19, 47)])
    room.lay("Drain pipe", line=((7, 27), (22, 27)))
    room.lay("Drain pipe", line=((3, 20), (11, 20)))
    room.lay("Pipe run", line=((19, 17), (19, 26)))
    room.lay("Pipe run", line=((8, 34), (8, 43)))


def _stamps(room: RoomHandle) -> None:
    """A pump with its pipes and lamp, kept as a card."""
    for at in ((11, 1), (11, 5)):
        room.lay("Drain pipe", line=(at, (16, at[1])))
    room.lay("Pipe run", line=((17, 1), (17, 5)))
    room.lay("Cellar lamp", cells=[(12, 2)])
    room.keep_stamp("Pump stand", ((11, 1), (18, 5)), ("Light",), anchor=(18, 3))


def _composite(room: RoomHandle) -> None:
    """The pump, its pipes and its valve as one thing, placed once more to the east."""
    stand = Box((11, 1), (19, 6))
    picks = [
        Pick(layer_id, number)
        for layer_id, layer in room.data.bottom_up()
        for number, piece in layer.pieces.items()
        if piece.brush in ("Drain pipe", "Pipe run") and piece.box.clipped(stand).size
    ]
    picks += [Pick(layer_id, number) for layer_id, layer in room.data.bottom_up()
              for number, thing in layer.things.items()
              if thing.prefab == "Pump wheel" and thing.touched.clipped(stand).size]  # fmt: skip
    project = room.project.data
    made = composite_made(project, ROOM, Picks(tuple(picks)), "Brine pump", composite_look)
    room.project.history.apply(made)
    room.lay("Brine pump", cells=[(19, 44)])
    room.lay("Cellar lamp", cells=[(13, 42)])


def _things(room: RoomHandle) -> None:
    for cell in ((3, 1), (3, 12), (3, 28), (7, 38), (14, 29), (14, 12)):
        room.lay("Cellar lamp", cells=[cell])
    room.lay("Pump wheel", cells=[(18, 3), (22, 22)])
    room.lay("Cellar gate", cells=[(18, 12)])
    room.lay("Crate", cells=[(18, 5), (18, 6), (10, 40), (10, 42), (22, 24)])
    room.lay("Crate", cells=[(17, 5)])
