"""What makes the rooms of Brinehollow worth walking: starts, tokens, doors, wheels, recordings."""

from __future__ import annotations

from collections.abc import Callable

from topion.brushes.region import RegionBrush
from topion.conditions import Cleared, Inside, SwitchOn, Taken
from topion.demo.marsh import GATE
from topion.demo.marsh import ROOM as MARSH
from topion.edit.logic import link_doors, set_counts, set_role, set_when
from topion.edit.pieces import Pick
from topion.edit.places import begin_at, place_room, wear_there
from topion.edit.walks import keep_recording, set_figure
from topion.model.condition import When
from topion.model.figure import Figure
from topion.model.prefab import Thing
from topion.roles import Goal, Walker
from topion.scripting import ProjectHandle, RoomHandle
from topion.walk import ACT, DOWN, JUMP, LEFT, RIGHT, UP, Keys, State, World, step
from topion.walk.replay import recorded

YARD, CELLAR, ISLAND, LOFT = "Sluice Yard", "Pump Cellar", "Lamp Island", "Salt Loft"
AGAIN = "Pump Cellar 2"  # its second place on the plan
_PLACES = ((MARSH, (0.0, 0.0)), (YARD, (16.0, 128.0)), (CELLAR, (80.0, 168.0)),
           (CELLAR, (152.0, 176.0)), (ISLAND, (126.0, 27.0)), (LOFT, (175.0, 104.0)))  # fmt: skip
RAKER = Figure("Salt raker", 0.8, 1.8, 5.5, 3.2, 4.5, step=0.5)
_MOST = 1200  # ticks of one part of a recording


def standing(room: RoomHandle, prefab: str, at: tuple[float, ...]) -> tuple[Pick, Thing]:
    """The thing of a prefab that stands there."""
    for layer_id, layer in room.data.bottom_up("things"):
        for number, thing in layer.things.items():
            if thing.prefab == prefab and thing.at[-len(at) :] == at:
                return Pick(layer_id, number), thing
    raise LookupError(f"{prefab} at {at} in {room.name}")


def enliven(project: ProjectHandle) -> None:
    """Roles, conditions and tokens of the rooms; the figure."""
    project.history.apply(set_figure(project.data, RAKER))
    _marsh(project.room(MARSH))
    _cellar(project.room(CELLAR))
    _island(project.room(ISLAND))


def link_rooms(project: ProjectHandle) -> None:
    """The marsh leads into the yard, the sheds of the yard into the cellar and to the island, and
    back; the cellar leads on into itself at flood night, and the loft out into the yard, but
    nothing leads back in."""
    marsh, yard, cellar, island, loft = (
        project.room(n) for n in (MARSH, YARD, CELLAR, ISLAND, LOFT)
    )
    sheds = list(_all_of(yard, "Door"))
    gate, below, ashore = (
        next(iter(_all_of(room, "Plank door"))) for room in (marsh, cellar, island)
    )
    (west,) = _all_of(yard, "Plank door")
    (up,) = _all_of(loft, "Door")
    for here, there in (((MARSH, gate), (YARD, west)), ((YARD, sheds[3]), (CELLAR, below)),
                        ((YARD, sheds[0]), (ISLAND, ashore))):  # fmt: skip
        project.history.apply(link_doors(project.data, here, there, back=True))
    project.history.apply(link_doors(project.data, (LOFT, up), (YARD, sheds[1]), back=False))
    deeper = list(_all_of(cellar, "Plank door"))[1]
    here = (CELLAR, deeper)
    project.history.apply(link_doors(project.data, here, here, back=False, places=("", AGAIN)))
    _waits(cellar, deeper, When("opens", (Taken(3, "tokens"),)))
    _waits(yard, sheds[0], When("opens", (Cleared(),)))
    wheels = _all_of(yard, "Valve wheel")
    project.history.apply(set_counts(project.data, YARD, wheels, True))


def lay_plan(project: ProjectHandle) -> None:
    """The rooms on the plan: the yard beside the marsh and over the cellar, the rest around."""
    for room, at in _PLACES:
        project.history.apply(place_room(project.data, room, at))
    project.history.apply(wear_there(project.data, AGAIN, None, "Flood night"))
    project.history.apply(begin_at(project.data, MARSH))


def _waits(room: RoomHandle, pick: Pick, when: When) -> None:
    thing = room.data.layers[pick.layer].things[pick.number]
    room.project.history.apply(set_when(room.project.data, room.name, {pick: thing}, when))


def _all_of(room: RoomHandle, prefab: str) -> dict[Pick, Thing]:
    """Every thing of a prefab."""
    return {Pick(layer_id, number): thing for layer_id, layer in room.data.bottom_up("things")
            for number, thing in layer.things.items() if thing.prefab == prefab}  # fmt: skip


def enliven_yard(room: RoomHandle) -> None:
    """Tokens along the boardwalks, a start, a quay, and a flag that waits for the wheels."""
    room.lay("Boot peg", cells=[(18, 40)])
    room.lay("Salt token", cells=[(16, 50), (23, 20), (35, 45), (54, 40), (54, 60), (30, 84)])
    room.lay("Signal flag", cells=[(21, 74)])
    wheels = _all_of(room, "Valve wheel")
    pick, flag = standing(room, "Signal flag", (21, 74))
    when = When("appears", tuple(SwitchOn(wheel.number) for wheel in wheels))
    project = room.project
    project.history.apply(set_when(project.data, room.name, {pick: flag}, when))
    room.lay("Plank door", cells=[(GATE[0] - 16, 0)])
    project.add_brush(RegionBrush("Loading quay", "trigger"), "Regions")
    room.lay("Loading quay", box=((52, 30), (60, 70)))
    room.lay("Salt token", cells=[(54, 50)])
    token = dict([standing(room, "Salt token", (54, 50))])
    seen = When("appears", (Inside("Loading quay"),))
    project.history.apply(set_when(project.data, room.name, token, seen))


def _marsh(room: RoomHandle) -> None:
    room.lay("Boot peg", cells=[(20, 14)])
    room.lay("Plank door", cells=[GATE])
    room.lay("Salt token", cells=[(20, 40), (34, 62), (46, 96)])


def _cellar(room: RoomHandle) -> None:
    room.lay("Boot peg", cells=[(18, 9)])
    room.lay("Salt token", cells=[(8, 14), (11, 21), (26, 27), (23, 35), (17, 32), (10, 44)])
    for name, cell in (("Gull", (11, 23)), ("Spring plate", (23, 32)), ("Scald vent", (22, 23)),
                       ("Turnover wheel", (10, 46)), ("Plank door", (18, 10)),
                       ("Plank door", (19, 46)), ("Signal flag", (10, 37))):  # fmt: skip
        room.lay(name, cells=[cell])
    project = room.project
    wheel, _ = standing(room, "Pump wheel", (18, 3))
    gate = dict([standing(room, "Cellar gate", (18, 12))])
    opens = When("opens", (SwitchOn(wheel.number),))
    project.history.apply(set_when(project.data, room.name, gate, opens))
    flag = dict([standing(room, "Signal flag", (10, 37))])
    tokens = When("appears", (Taken(3, "tokens"),))
    project.history.apply(set_when(project.data, room.name, flag, tokens))
    counts = dict([standing(room, "Pump wheel", (18, 3))])
    project.history.apply(set_counts(project.data, room.name, counts, True))


def _island(room: RoomHandle) -> None:
    room.lay("Boot peg", cells=[(6, 33, 20)])
    room.lay("Salt token", cells=[(7, 28, 18), (8, 24, 22), (5, 28, 26), (7, 14, 24)])
    room.lay("Plank door", cells=[(4, 36, 22)])
    room.lay("Signal flag", cells=[(8, 23, 20)])
    flag = dict([standing(room, "Signal flag", (8, 23, 20))])
    room.project.history.apply(set_role(room.project.data, room.name, flag, Goal("the world")))
    gulls = _all_of(room, "Herring gull")
    project = room.project
    project.history.apply(set_role(project.data, room.name, gulls, Walker(speed=0.8)))


# --- recordings -----------------------------------------------------------------------------


class _Hand:
    """Holds keys until something is so, and remembers them."""

    def __init__(self, state: State) -> None:
        self.first = self.state = state
        self.keys: list[Keys] = []

    def hold(self, keys: Keys, until: Callable[[State], bool]) -> None:
        for _ in range(_MOST):
            if until(self.state):
                return
            self.keys.append(keys)
            self.state = step(self.state, keys)
        raise LookupError(f"not there: {self.state.place()} in {self.state.room}")

    def tap(self, keys: Keys, ticks: int = 6) -> None:
        end = self.state.tick + ticks
        self.hold(keys, lambda s: s.tick >= end)
        self.hold(0, lambda s: s.tick >= end + 4)


def _x(state: State) -> float:
    return state.place()[2]


def _y(state: State) -> float:
    return state.place()[1]


def record(project: ProjectHandle) -> None:
    """Two walks that are kept as tests of their rooms."""
    for name, room, drive in (("Way to the gate", CELLAR, _to_the_gate),
                              ("Along the boardwalk", YARD, _along_the_boardwalk)):  # fmt: skip
        hand = _Hand(World(project.data, RAKER).begin(room))
        drive(hand)
        made = recorded(name, hand.first, (), hand.keys)
        project.history.apply(keep_recording(project.data, made))


def _to_the_gate(hand: _Hand) -> None:
    """Over the crates to the wheel, and back through the gate that it opens."""
    hand.hold(LEFT, lambda s: _x(s) < 7.6)
    hand.hold(LEFT | JUMP, lambda s: _x(s) < 4.4)
    hand.hold(0, lambda s: s.ground)
    hand.hold(LEFT, lambda s: _x(s) < 3.4)
    hand.tap(ACT)
    hand.hold(RIGHT, lambda s: _x(s) > 3.6)
    hand.hold(RIGHT | JUMP, lambda s: _x(s) > 7.4)
    hand.hold(0, lambda s: s.ground)
    hand.hold(RIGHT, lambda s: _x(s) > 17)


def _along_the_boardwalk(hand: _Hand) -> None:
    """East to the first token, and south."""
    hand.hold(UP, lambda s: _y(s) < 16.2)
    hand.hold(RIGHT, lambda s: bool(s.taken))
    hand.hold(DOWN | RIGHT, lambda s: _y(s) > 20)
