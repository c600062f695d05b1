"""Edits of curves: drawn, bent, split, joined, moved aside; what is attached comes along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from topion.brushes.curve import opaque
from topion.brushes.following import Followed, To, followed
from topion.brushes.marks import Place
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.bezier import Bend
from topion.model.curve import Along, Curve, Fill, Side
from topion.model.edit import Edit
from topion.model.layer import Entry
from topion.model.picture import Picture
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things import curves as shapes
from topion.things.along import standing_along

COLOUR = "#23786f"
MOST_OUTLINES = 32  # curves round one picture
_MOST_OUTLINED = 512  # px a side that are looked at; larger pictures are thinned


def curve_of(room: Room, pick: Pick) -> Curve:
    """Raises BadValue where there is none."""
    layer = room.layers.get(pick.layer)
    found = layer.curves.get(pick.number) if layer else None
    if found is None:
        raise BadValue("the curve", pick.number, "one of the room")
    return found


def things_along(room: Room, pick: Pick) -> list[tuple[Pick, Thing]]:
    """The things attached to a curve, in the order of its way."""
    found = [
        (Pick(layer_id, number), thing)
        for layer_id, layer in room.bottom_up("things")
        for number, thing in layer.things.items()
        if thing.along is not None and thing.attached == tuple(pick)
    ]
    return sorted(found, key=lambda pair: pair[1].along.share if pair[1].along else 0.0)


# --- one curve ----------------------------------------------------------------------------


def changed(project: Project, room_name: str, pick: Pick, curve: Curve, words: str) -> Edit:
    """Another curve in place of one; what is attached keeps its share of the length."""
    room = project.room(room_name)
    curve_of(room, pick)
    return _edit(Place(project, room_name), {pick: curve}, words)


def _edit(place: Place, curves: dict[To, Curve | None], words: str) -> Edit:
    refused = locked_layers(place.room, [to[0] for to in curves])
    if refused:
        return Edit(words, (), COLOUR, refused)
    made = followed(place, curves)
    return _made(place, made, words)


def _made(place: Place, made: Followed, words: str) -> Edit:
    return Edit(words, made.records(place), COLOUR, notes=made.notes())


def locked_layers(room: Room, layers: Sequence[str]) -> tuple[str, ...]:
    """Why nothing is done to some layers; nothing where they are free."""
    locked = [room.layers[i].info.name for i in layers if room.layers[i].info.locked]
    return tuple(f"layer {name} is locked" for name in dict.fromkeys(locked))


def added(project: Project, room_name: str, layer_id: str, curve: Curve, words: str) -> Edit:
    """A new curve in a layer of things, with what fills it."""
    place = Place(project, room_name)
    return _edit(place, {(layer_id, place.room.next_number()): curve}, words)


def with_fill(project: Project, room_name: str, pick: Pick, fill: Fill | None) -> Edit:
    """Filled otherwise; None takes away what fills it."""
    curve = curve_of(project.room(room_name), pick)
    words = "Fill curve" if fill is not None else "Empty curve"
    return changed(project, room_name, pick, replace(curve, fill=fill), words)


def closed(project: Project, room_name: str, pick: Pick, *, on: bool) -> Edit:
    """Its last point leads to the first again, or no longer."""
    curve = curve_of(project.room(room_name), pick)
    words = "Close curve" if on else "Open curve"
    return changed(project, room_name, pick, replace(curve, closed=on), words)


def on_ground(project: Project, room_name: str, pick: Pick, *, on: bool) -> Edit:
    """In a voxel room: lies on what carries there, or runs in space."""
    curve = curve_of(project.room(room_name), pick)
    words = "Curve on the ground" if on else "Curve in space"
    return changed(project, room_name, pick, replace(curve, on_ground=on), words)


# --- its points ---------------------------------------------------------------------------


def point_moved(
    project: Project, room_name: str, pick: Pick, number: int, by: tuple[float, ...]
) -> Edit:
    """One of its points so many cells on, with its handles."""
    return points_moved(project, room_name, pick, [number], by)


def points_moved(
    project: Project, room_name: str, pick: Pick, numbers: Sequence[int], by: tuple[float, ...]
) -> Edit:
    """Some of its points so many cells on, with their handles."""
    curve = curve_of(project.room(room_name), pick)
    points = list(curve.points)
    for number in numbers:
        points[number] = points[number].shifted(by)
    words = "Move point" if len(numbers) == 1 else f"Move {len(numbers)} points"
    return changed(project, room_name, pick, replace(curve, points=tuple(points)), words)


def handle_moved(
    project: Project, room_name: str, pick: Pick, number: int, side: Side, by: tuple[float, ...],
    *, apart: bool = False,
) -> Edit:  # fmt: skip
    """One handle of a point so many cells on; the other one stays in line unless they are moved
    apart.  The point is a free one from then on.  side : before or after."""
    curve = curve_of(project.room(room_name), pick)
    points = list(curve.points)
    points[number] = shapes.pulled(curve, number, side, by, apart=apart)
    return changed(project, room_name, pick, replace(curve, points=tuple(points)), "Bend curve")


def bent(project: Project, room_name: str, pick: Pick, numbers: Sequence[int], bend: Bend) -> Edit:
    """Some of its points made smooth, corners, or free with the handles they have."""
    curve = curve_of(project.room(room_name), pick)
    points = list(curve.points)
    for number in numbers or range(len(points)):
        points[number] = shapes.bent(curve, number, bend)
    words = {"smooth": "Smooth points", "corner": "Corners", "free": "Free points"}[bend]
    return changed(project, room_name, pick, replace(curve, points=tuple(points)), words)


def with_point(project: Project, room_name: str, pick: Pick, far: float) -> tuple[Edit, int]:
    """One more point at a length of it, where it goes as before; and its number."""
    curve = curve_of(project.room(room_name), pick)
    made, number = shapes.with_point(curve, far)
    return changed(project, room_name, pick, made, "Add point"), number


def without_points(project: Project, room_name: str, pick: Pick, numbers: Sequence[int]) -> Edit:
    """Without some of its points; of too few, the curve goes."""
    curve = curve_of(project.room(room_name), pick)
    left = tuple(p for n, p in enumerate(curve.points) if n not in set(numbers))
    if len(left) < 2:
        return _edit(Place(project, room_name), {pick: None}, "Remove curve")
    return changed(project, room_name, pick, replace(curve, points=left), "Remove point")


# --- whole curves -------------------------------------------------------------------------


def turned_round(project: Project, room_name: str, pick: Pick) -> Edit:
    """Goes the other way; what is attached stays where it stands."""
    place = Place(project, room_name)
    curve = curve_of(place.room, pick)

    def back(along: Along) -> Along:
        turn = _half(along.turn) if along.turns else along.turn
        return replace(along, share=1.0 - along.share, aside=-along.aside, turn=turn)

    after = {number: replace(thing, along=back(thing.along))
             for number, thing in things_along(place.room, pick)
             if thing.along is not None and not thing.along.filled}  # fmt: skip
    made = shapes.turned_round(curve)
    if made.fill is not None:
        fill = made.fill
        turn = _half(fill.turn) if fill.turns else fill.turn
        made = replace(made, fill=replace(fill, start=fill.end, end=fill.start, turn=turn,
                                          aside=-fill.aside))  # fmt: skip
    return _moved_over(place, {pick: made}, after, "Reverse curve")


def _half(turn: float) -> float:
    """Half a turn more, from -180 up to 180 degrees."""
    return (turn + 360) % 360 - 180


def _moved_over(
    place: Place, curves: dict[To, Curve | None], things: dict[Pick, Thing], words: str
) -> Edit:
    """Curves, and things that belong to them otherwise."""
    refused = locked_layers(place.room, [to[0] for to in curves])
    if refused:
        return Edit(words, (), COLOUR, refused)
    made = followed(place, curves, without=list(things))
    for pick, thing in things.items():
        curve = curves.get(thing.attached) if thing.attached is not None else None
        if curve is not None:
            (thing,) = standing_along(place.project, place.room, curve, [thing])
        table: dict[int, Entry] = made.tables.setdefault((pick.layer, "things"), {})
        table[pick.number] = thing
    return _made(place, made, words)


def split(project: Project, room_name: str, pick: Pick, number: int) -> Edit:
    """Two curves from one, that meet in one of its points; a closed one is opened there."""
    place = Place(project, room_name)
    curve = curve_of(place.room, pick)
    parts = shapes.split(curve, number)
    if not parts:
        raise BadValue("the point to split at", number + 1, "one between the ends")
    to = (pick.layer, pick.number)
    names: list[To] = [to, (pick.layer, place.room.next_number())][: len(parts)]
    far = float(curve.line.corners[number])
    after = {}
    for own, thing in things_along(place.room, pick):
        along = thing.along
        if along is None or along.filled:
            continue
        at = along.share * curve.length
        if curve.closed:
            which, rest = 0, (at - far) % curve.length
        else:
            which, rest = (0, at) if at <= far else (1, at - far)
        share = min(rest / max(parts[which].length, 1e-9), 1.0)
        after[own] = replace(thing, attached=names[which], along=replace(along, share=share))
    return _moved_over(place, dict(zip(names, parts, strict=True)), after, "Split curve")


def joined(project: Project, room_name: str, picks: Sequence[Pick]) -> Edit:
    """One curve from two open ones, where their ends are nearest; it keeps the first one's number
    and fill."""
    place = Place(project, room_name)
    if len(picks) != 2:
        raise BadValue("the curves to join", len(picks), "two")
    one, two = (curve_of(place.room, pick) for pick in picks)
    if one.closed or two.closed:
        raise BadValue("the curves to join", "a closed one", "two open ones")
    made, ways = shapes.joined(one, two)
    to = (picks[0].layer, picks[0].number)
    total, start, after = max(made.length, 1e-9), 0.0, {}
    for which, back in ways:
        pick, curve = picks[which], (one, two)[which]
        begins = start if which == ways[0][0] else made.length - curve.length
        for own, thing in things_along(place.room, pick):
            along = thing.along
            if along is None or along.filled:
                continue
            at = (1 - along.share if back else along.share) * curve.length
            turn = _half(along.turn) if back and along.turns else along.turn
            moved = replace(along, share=min(max((begins + at) / total, 0.0), 1.0), turn=turn,
                            aside=-along.aside if back else along.aside)  # fmt: skip
            after[own] = replace(thing, attached=to, along=moved)
    curves: dict[To, Curve | None] = {to: made, (picks[1].layer, picks[1].number): None}
    return _moved_over(place, curves, after, "Join curves")


def offset(project: Project, room_name: str, pick: Pick, cells: float) -> Edit:
    """A new curve beside it, so many cells to the right of its way, without anything along it."""
    curve = curve_of(project.room(room_name), pick)
    made = replace(shapes.offset(curve, cells), fill=None, groups=())
    return added(project, room_name, pick.layer, made, "Offset curve")


def all_detached(project: Project, room_name: str, pick: Pick) -> Edit:
    """All that stands along a curve becomes plain things; it is filled no longer."""
    place = Place(project, room_name)
    curve = curve_of(place.room, pick)
    after = {own: replace(thing, attached=None, along=None)
             for own, thing in things_along(place.room, pick)}  # fmt: skip
    tables: dict[tuple[str, str], dict[int, Entry]] = {
        (pick.layer, "curves"): {pick.number: replace(curve, fill=None)}
    }
    for own, thing in after.items():
        tables.setdefault((own.layer, "things"), {})[own.number] = thing
    return _made(place, Followed(tables), f"Detach {count_words(after)}")


def count_words(after: dict[Pick, Thing]) -> str:
    """The name of one thing, or how many they are."""
    names = dict.fromkeys(thing.prefab for thing in after.values())
    return next(iter(names)) if len(after) == 1 else f"{len(after)} things"


# --- from a picture -----------------------------------------------------------------------


def from_picture(
    project: Project, place: Place, picture: Picture, middle: tuple[float, ...]
) -> Edit:
    """New closed curves round what is seen in a picture, a pixel as large as those of the room,
    about a middle.  Raises BadValue for a picture in which nothing or too much is seen."""
    room = place.room
    layer_id, _ = place.layer_for("things")
    step = max(1, -(-max(picture.size_px) // _MOST_OUTLINED))
    mask = opaque(picture)[::step, ::step]
    if not mask.any():
        raise BadValue("the picture", "nothing is seen in it", "something to go round")
    cells_each = min(step / room.info.cell_px, min(room.info.plan) / max(mask.shape))
    found = shapes.outlined(mask, cells_each, middle)[:MOST_OUTLINES]
    if not found:
        raise BadValue("the picture", "only single pixels", "something to go round")
    ground = room.info.axes == 3
    first = room.next_number()
    curves: dict[To, Curve | None] = {
        (layer_id, first + n): replace(curve, on_ground=ground) for n, curve in enumerate(found)
    }
    return _edit(place, curves, "Curve round a picture")
