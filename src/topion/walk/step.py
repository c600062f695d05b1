"""One tick of a walk: things move, the figure moves, what it touches acts, conditions are asked."""

from __future__ import annotations

from topion.conditions import ConditionKind
from topion.roles import Door, Mover
from topion.walk import move_side, move_space, move_top
from topion.walk.keys import ACT, EVERY_KEY, TURN, Keys
from topion.walk.lives import Live
from topion.walk.stage import grown, meets
from topion.walk.state import Now, Sent, State
from topion.walk.walking import Walking
from topion.walk.ways import way_of

_REACH = 1.0  # cells before the figure in which it acts
CLEAR = 1.0  # cells from what harms at which a place is safe
_LOST = 3.0  # cells below a room at which the figure is brought back
_AWAY = 64.0  # cells before a room, where nothing meets the figure
_SENT = 0.5  # cells a side of what is sent out
MOVES = {"side": move_side.move, "top": move_top.move, "voxel": move_space.move}


def step(state: State, keys: Keys) -> State:
    """The state a tick later, with those keys held.  Pure: nothing else decides it."""
    walk = Walking(state, keys & EVERY_KEY)
    if state.ended == "world":
        return walk.state()
    _move_things(walk)
    if walk.pressed(TURN):
        walk.turn_over()
    MOVES[walk.stage.view](walk)
    _touch(walk)
    if walk.ground and not walk.left and not _near_harm(walk):
        walk.safe = (walk.room, walk.x, walk.y, walk.z, walk.over)
    if walk.pressed(ACT) and not walk.left:
        _act(walk)
    if not walk.left and _is_lost(walk):
        walk.bring_back("the depths")
    _ask_conditions(walk)
    return walk.state()


def without_figure(state: State) -> State:
    """The state a tick later as far as the things decide it, with the figure out of the way."""
    far = state.world.scale.units(_AWAY)
    away = state._replace(x=-far, y=-far, z=-far, ground=False, climbs=False)
    walk = Walking(away, 0)
    _move_things(walk)
    _ask_conditions(walk)
    return walk.state()


# --- things -------------------------------------------------------------------------------


def _move_things(walk: Walking) -> None:
    for live in walk.lives.some(walk.stage.acting):
        if live.gone or live.role is None:
            continue
        if isinstance(live.role, Mover) and live.role.solid:
            _move_with(walk, live)
        else:
            live.role.moves(live, walk.asked())
    walk.sent = [found for sent in walk.sent if (found := _moved(walk, sent)) is not None]


def _move_with(walk: Walking, live: Live) -> None:
    """A mover takes along what stands on it, and pushes what is before it."""
    carried, before = _stands_upon(walk, live), (live.x, live.y, live.z)
    assert live.role is not None
    live.role.moves(live, walk.asked())
    by = (live.x - before[0], live.y - before[1], live.z - before[2])
    if carried or (meets(walk.edges, live.edges) and any(by)):
        _pushed(walk, live, by, carried)


def _stands_upon(walk: Walking, live: Live) -> bool:
    """Whether the feet of the figure are on its upper side."""
    mine, edges = walk.edges, live.edges
    if not (walk.ground and mine[0] < edges[2] and edges[0] < mine[2]):
        return False
    if walk.deep:
        return mine[4] == edges[5] and mine[1] < edges[3] and edges[1] < mine[3]
    return walk.side and (mine[1] == edges[3] if walk.over else mine[3] == edges[1])


def _pushed(walk: Walking, live: Live, by: tuple[int, int, int], carried: bool) -> None:
    reached = grown(walk.edges, sum(map(abs, by)))
    others = [other.edges for other in walk.lives.in_the_way(reached) if other is not live]
    way = way_of(walk.stage, walk.wide, walk.high, others)
    x, y, z = walk.x + by[0], walk.y + by[1], walk.z + by[2]
    if walk.deep:
        free = not way.blocked(x, y, z)  # type: ignore[call-arg]
    else:
        free = not way.blocked(x, y)  # type: ignore[call-arg]
    if free:
        walk.x, walk.y, walk.z = x, y, z
    elif not carried or meets(walk.edges, live.edges):
        walk.bring_back(live.name)


def _moved(walk: Walking, sent: Sent) -> Sent | None:
    """What was sent out, a tick on; None once it is over, or something is in its way."""
    if walk.tick > sent.tick:
        return None
    on = sent._replace(x=sent.x + sent.vx, y=sent.y + sent.vy, z=sent.z + sent.vz)
    if walk.deep:
        blocked = way_of(walk.stage, 1, 1, ()).blocked(on.x, on.y, on.z)  # type: ignore[call-arg]
    else:
        blocked = way_of(walk.stage, 1, 1, ()).blocked(on.x, on.y)  # type: ignore[call-arg]
    return None if blocked else on


# --- what the figure meets ----------------------------------------------------------------


def _touch(walk: Walking) -> None:
    if not walk.stage.actors:
        walk.inside = None
        return
    lives, mine = walk.lives, walk.edges
    touched = [live for live in lives.near(mine) if not live.gone and (
        meets(mine, live.edges) or walk.stands_on(live))]  # fmt: skip
    walk.touching = {live.place for live in touched}
    inside = walk.inside
    if inside is not None and not any(live.actor.key == inside for live in touched):
        walk.inside = None
    for live in touched:
        if live.role is not None and not walk.left and walk.lives is lives:
            live.role.touched(live, walk.asked())
    half = walk.scale.units(_SENT) // 2
    for sent in walk.sent if not walk.left else ():
        box = (sent.x - half, sent.y - half, sent.x + half, sent.y + half)
        if walk.deep:
            box = (*box, sent.z - half, sent.z + half)  # type: ignore[assignment]
        if meets(walk.edges, box) and not walk.left:
            _touch_sent(walk, sent)
    if walk.left:
        met = (live for live in walk.lives.near(walk.edges) if meets(walk.edges, live.edges))
        walk.touching = {live.place for live in met}


def _near_harm(walk: Walking) -> bool:
    """Whether it stands too close to what harms for a place to come back to."""
    if not walk.stage.harming:
        return False
    around = grown(walk.edges, walk.scale.units(CLEAR))
    return any(
        live.actor.harmful and not live.gone and meets(around, live.edges)
        for live in walk.lives.near(around)
    )


def _touch_sent(walk: Walking, sent: Sent) -> None:
    by = walk.lives[sent.by].role
    role = walk.world.role_of(getattr(by, "sends", ""))
    if role is not None:
        actor = walk.lives[sent.by].actor
        role.touched(Live(actor, Now(since=walk.tick)), walk.asked())


def _act(walk: Walking) -> None:
    """All within reach: what the figure touches, and what is before it."""
    reach = walk.scale.units(_REACH)
    mine = walk.edges
    left, right = (mine[0], mine[2] + reach) if walk.looks > 0 else (mine[0] - reach, mine[2])
    around = walk.stage.view != "side"
    low, high = (mine[1] - reach, mine[3] + reach) if around else (mine[1], mine[3])
    if around:
        left, right = mine[0] - reach, mine[2] + reach
    box = (left, low, right, high, *mine[4:])
    for live in walk.lives.near(box):
        if live.role is not None and not live.gone and meets(box, live.edges):
            if walk.left:
                return
            live.role.acted(live, walk.asked())


def _is_lost(walk: Walking) -> bool:
    far = walk.scale.units(_LOST)
    if walk.deep:
        return walk.z < -far
    return walk.side and not -far - walk.high < walk.y < walk.stage.size[1] + far


# --- conditions ---------------------------------------------------------------------------


def _ask_conditions(walk: Walking) -> None:
    for live in walk.lives.some(walk.stage.waiting):
        when = live.actor.when
        held = all(isinstance(c, ConditionKind) and c.holds(walk.asked()) for c in when.all_of)
        if when.effect == "opens" and isinstance(live.role, Door):
            if live.on != held:
                walk.switch(live, held)
                walk.say(f"{live.name} {'opened' if held else 'shut'}")
        elif held and live.gone and not live.since:  # what was taken or cleared stays away
            live.gone, live.since = False, walk.tick
            walk.say(f"{live.name} appeared")
    if walk.is_cleared() and not walk.cleared:
        walk.cleared = True
        walk.say("room cleared")
