"""Edits of pieces that are picked: moved, pulled, restacked, given another brush, melted.

Pieces of layers that are locked or hidden are left alone, and the Edit says so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import Literal, NamedTuple

from topion.brushes.kind import brush_named
from topion.brushes.marks import Place
from topion.brushes.shape import Handle, ShapeKind, laid_flat
from topion.edit.attaching import carried
from topion.errors import BadValue
from topion.model.edit import Edit, Record
from topion.model.layer import Layer
from topion.model.piece import Piece
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.room import Room
from topion.weaving.pieces import covers, shape_brush

Where = Literal["nearer", "farther", "nearest", "farthest"]
_CLOSEST = 1e-9  # of two orders, between which there is still another


class Pick(NamedTuple):
    """A piece by the id of its layer and its number."""

    layer: str
    number: int


def picked_pieces(room: Room, picks: Iterable[Pick]) -> list[tuple[Pick, Piece]]:
    """Those that are there, in the order of picking."""
    found = []
    for pick in picks:
        layer = room.layers.get(pick.layer)
        piece = layer.pieces.get(pick.number) if layer else None
        if piece is not None:
            found.append((pick, piece))
    return found


def shape_of(project: Project, piece: Piece) -> ShapeKind | None:
    """The brush of a piece; None if it is not known."""
    brush = shape_brush(project, piece)
    return brush if isinstance(brush, ShapeKind) else None


# --- one piece after the other ------------------------------------------------------------


def moved(project: Project, room_name: str, picks: Sequence[Pick], by: tuple[int, ...]) -> Edit:
    """So many cells on, in array order; a piece does not leave the room."""
    room = project.room(room_name)

    def move(_: ShapeKind | None, piece: Piece) -> Piece:
        found = piece.shifted(by)
        if not found.box.meets(room.box):
            raise BadValue(f"the place of {piece.brush}", found.box.lo, f"inside {room_name}")
        return found

    return _changed(project, room_name, picks, move, "Move")


def pulled(
    project: Project, room_name: str, pick: Pick, handle: Handle, by: tuple[int, ...]
) -> Edit:
    """With one of its handles so many cells on."""
    return _shaped(project, room_name, [pick], lambda b, p: b.pulled(p, handle, by), "Pull")


def without_point(project: Project, room_name: str, pick: Pick, number: int) -> Edit:
    """Without one of the points it goes through."""

    def change(brush: ShapeKind, piece: Piece) -> Piece:
        return brush.without_point(piece, number)

    return _shaped(project, room_name, [pick], change, "Remove a point of")


def placed(project: Project, room_name: str, pick: Pick, lo: tuple[int, ...]) -> Edit:
    """With the first cell of its box there."""
    ((_, piece),) = picked_pieces(project.room(room_name), [pick])
    by = tuple(a - b for a, b in zip(lo, piece.box.lo, strict=True))
    return moved(project, room_name, [pick], by)


def resized(project: Project, room_name: str, pick: Pick, shape: tuple[int, ...]) -> Edit:
    """At another size in cells, as near as its brush can make it."""
    return _shaped(project, room_name, [pick], lambda b, p: b.resized(p, shape), "Resize")


def turned(project: Project, room_name: str, picks: Sequence[Pick], quarters: int = 1) -> Edit:
    """Clockwise about up, each about its own middle."""

    def change(brush: ShapeKind, piece: Piece) -> Piece:
        return brush.turned_piece(piece, quarters)

    return _shaped(project, room_name, picks, change, "Turn", quarters)


def mirrored(project: Project, room_name: str, picks: Sequence[Pick], axis: int) -> Edit:
    """Each where it stands; axis -1 swaps west and east, -2 north and south."""
    return _shaped(project, room_name, picks, lambda b, p: b.mirrored_piece(p, axis), "Mirror")


def reseeded(project: Project, room_name: str, picks: Sequence[Pick], seed: int) -> Edit:
    """With other parts where they fall by chance."""
    return _changed(project, room_name, picks, lambda _, p: replace(p, seed=seed), "Roll")


def rebrushed(project: Project, room_name: str, picks: Sequence[Pick], brush: str) -> Edit:
    """The same shape by another brush.  Raises UnknownName, and BadValue for one whose strokes
    are no pieces of such a room."""
    found, room = brush_named(project, brush), project.room(room_name)
    if not isinstance(found, ShapeKind) or found.axes != room.info.axes:
        raise BadValue("the brush of a piece", brush, f"one that lays shapes in {room_name}")

    def change(_: ShapeKind | None, piece: Piece) -> Piece:
        turn, mirror = (piece.turn, piece.mirrored) if found.oriented else (0, False)
        return found.fitted(replace(piece, brush=brush, turn=turn, mirrored=mirror))

    return _changed(project, room_name, picks, change, f"To {brush}:")


# --- order --------------------------------------------------------------------------------


def restacked(project: Project, room_name: str, picks: Sequence[Pick], where: Where) -> Edit:
    """One piece nearer or farther among those it meets, or past all of its layer."""
    room = project.room(room_name)
    done, refused = _free(room, picks)
    records: list[Record] = []
    for layer_id, pieces in done.items():
        layer = room.layers[layer_id]
        mine = dict(pieces)
        away = where in ("nearer", "nearest")
        after: dict[int, Piece] = {}
        for number, piece in sorted(pieces, key=lambda p: p[1].order, reverse=away):
            order = _order_beyond(layer, piece, number, mine, where)
            if order is not None:
                after[number] = replace(piece, order=order)
        records += entries_changed(room, layer_id, "pieces", after)
    label = _label(where.capitalize() + ":", [p for pieces in done.values() for _, p in pieces])
    return Edit(label, tuple(records), _colour(project, done), refused, _left_alone(refused))


def _order_beyond(
    layer: Layer, piece: Piece, number: int, mine: dict[int, Piece], where: Where
) -> float | None:
    """The order at which a piece lies one place on, or past all; None if it does already."""
    near = where in ("nearer", "nearest")
    others = (
        layer.pieces.items() if where in ("nearest", "farthest") else layer.pieces_in(piece.touched)
    )
    sign = 1.0 if near else -1.0
    own = (sign * piece.order, sign * number)
    beyond = sorted(
        (sign * p.order, sign * n) for n, p in others if n not in mine
        and (sign * p.order, sign * n) > own
    )  # fmt: skip
    if not beyond:
        return None
    passed = beyond[-1] if where in ("nearest", "farthest") else beyond[0]
    behind = [sign * p.order for n, p in layer.pieces.items()
              if (sign * p.order, sign * n) > passed]  # fmt: skip
    following = min(behind, default=passed[0] + 2.0)
    return sign * ((passed[0] + following) / 2)


def ordered(project: Project, room_name: str, pick: Pick, rank: int) -> Edit:
    """As number `rank` of all pieces of its layer, 1 being the nearest."""
    room = project.room(room_name)
    done, refused = _free(room, [pick])
    if not done:
        return Edit("Order", (), refused=refused)
    layer, piece = room.layers[pick.layer], done[pick.layer][0][1]
    others = sorted(
        ((p.order, n) for n, p in layer.pieces.items() if n != pick.number), reverse=True
    )
    rank = min(max(1, rank), len(others) + 1)
    above = others[rank - 2][0] if rank > 1 else None
    below = others[rank - 1][0] if rank <= len(others) else None
    after: dict[int, Piece]
    if above is not None and below is not None and above - below < _CLOSEST:
        numbers = [n for _, n in others]
        numbers.insert(rank - 1, pick.number)
        after = {
            n: replace(layer.pieces[n], order=float(len(numbers) - place))
            for place, n in enumerate(numbers)
        }
    else:
        order = _between(below, above)
        after = {pick.number: replace(piece, order=order)}
    records = entries_changed(room, pick.layer, "pieces", after)
    return Edit(
        f"Order {piece.brush}", records, _colour(project, done), refused, _left_alone(refused)
    )


def _between(below: float | None, above: float | None) -> float:
    if below is None:
        return 0.0 if above is None else above - 1.0
    return below + 1.0 if above is None else (below + above) / 2


def rank_of(layer: Layer, number: int) -> tuple[int, int]:
    """Which of how many pieces of a layer it is, 1 being the nearest."""
    order = sorted(((p.order, n) for n, p in layer.pieces.items()), reverse=True)
    numbers = [n for _, n in order]
    return numbers.index(number) + 1, len(numbers)


# --- into cells ---------------------------------------------------------------------------


def melted(project: Project, room_name: str, picks: Sequence[Pick]) -> Edit:
    """Laid into the painted cells of their layers, as they show.

    Pieces that lie below them there would come to lie above, so these melt with them.
    """
    room = project.room(room_name)
    done, refused = _free(room, picks)
    records: list[Record] = []
    taken = 0
    for layer_id, pieces in done.items():
        every = _with_those_below(project, room.layers[layer_id], dict(pieces))
        taken += len(every) - len(pieces)
        place = Place(project, room_name, layer_id)
        in_order = sorted(every.items(), key=lambda pair: (pair[1].order, pair[0]))
        records += entries_changed(room, layer_id, "pieces", dict.fromkeys(every))
        records += laid_flat(place, layer_id, [piece for _, piece in in_order])
    label = _label("Melt", [piece for pieces in done.values() for _, piece in pieces])
    if taken:
        label += f" with {taken} below"
    return Edit(label, tuple(records), _colour(project, done), refused, _left_alone(refused))


def _with_those_below(project: Project, layer: Layer, pieces: dict[int, Piece]) -> dict[int, Piece]:
    """The pieces, and all that lie under one of them."""
    found, waiting = dict(pieces), list(pieces.items())
    while waiting:
        number, piece = waiting.pop()
        box = piece.touched
        own = covers(project, piece, box)
        for other, below in layer.pieces_in(box):
            under = (below.order, other) < (piece.order, number) and other not in found
            if under and (own & covers(project, below, box)).any():
                found[other] = below
                waiting.append((other, below))
    return found


# --- what all share -----------------------------------------------------------------------


def _free(
    room: Room, picks: Iterable[Pick]
) -> tuple[dict[str, list[tuple[int, Piece]]], tuple[str, ...]]:
    """(number, piece) by layer of those that may be changed, and why others may not."""
    found: dict[str, list[tuple[int, Piece]]] = {}
    refused: dict[str, None] = {}
    for pick, piece in picked_pieces(room, picks):
        info = room.layers[pick.layer].info
        if info.locked or not info.shown:
            refused[f"layer {info.name} is {'locked' if info.locked else 'hidden'}"] = None
        else:
            found.setdefault(pick.layer, []).append((pick.number, piece))
    return found, tuple(refused)


def _left_alone(refused: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(f"{reason}, so what is picked there was left alone" for reason in refused)


_Change = Callable[[ShapeKind | None, Piece], Piece | None]


def _changed(
    project: Project,
    room_name: str,
    picks: Sequence[Pick],
    change: _Change,
    verb: str,
    quarters: int = 0,
) -> Edit:
    room = project.room(room_name)
    done, refused = _free(room, picks)
    records: list[Record] = []
    there: dict[tuple[str, int], Piece] = {}
    for layer_id, pieces in done.items():
        after = {number: change(shape_of(project, piece), piece) for number, piece in pieces}
        records += entries_changed(room, layer_id, "pieces", after)
        there |= {(layer_id, n): piece for n, piece in after.items() if piece is not None}
    records += carried(room, there, quarters)
    label = _label(verb, [piece for pieces in done.values() for _, piece in pieces])
    return Edit(label, tuple(records), _colour(project, done), refused, _left_alone(refused))


def _shaped(
    project: Project,
    room_name: str,
    picks: Sequence[Pick],
    change: Callable[[ShapeKind, Piece], Piece],
    verb: str,
    quarters: int = 0,
) -> Edit:
    """The same where the brush has a say; a piece of an unknown brush stays."""
    edit = _changed(
        project, room_name, picks, lambda b, p: p if b is None else change(b, p), verb, quarters
    )
    if len(picks) != 1 or not edit or verb not in ("Pull", "Resize"):
        return edit
    (_, piece), *_ = picked_pieces(project.room(room_name), picks)
    brush = shape_of(project, piece)
    after = next(iter(next(iter(edit.records)).entries())).after
    return replace(
        edit, label=f"{edit.label} to {brush.size_words(after)}" if brush else edit.label
    )


def _label(verb: str, pieces: Sequence[Piece]) -> str:
    names = dict.fromkeys(piece.brush for piece in pieces)
    if len(pieces) == 1:
        return f"{verb} {pieces[0].brush}"
    one = f" of {next(iter(names))}" if len(names) == 1 else ""
    return f"{verb} {len(pieces)} pieces{one}"


def _colour(project: Project, done: dict[str, list[tuple[int, Piece]]]) -> str:
    names = (piece.brush for pieces in done.values() for _, piece in pieces)
    brush = next((project.brushes.get(name) for name in names), None)
    return brush.colour if brush is not None else "#6b7479"
