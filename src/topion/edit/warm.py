"""The last stroke stays warm: laid again in place as the same Edit; and long strokes in slices."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from topion.brushes.drawn import Drawn
from topion.brushes.kind import BrushKind, brush_named
from topion.brushes.marks import Place
from topion.edit.growing import planned
from topion.edit.history import History
from topion.edit.library import put_brush
from topion.model.edit import Edit, folded
from topion.model.project import Project

Form = Callable[[BrushKind], BrushKind]
MOST_SLICES = 64


def as_it_is(brush: BrushKind) -> BrushKind:
    """The form of a brush of the library that lays as it is."""
    return brush


@dataclass(frozen=True, eq=False)
class Warm:
    """The stroke that was laid last.

    at : how many Edits lie before it.  edits : that it became; none when nothing was laid.
    brush : its name in the library.  form : how that brush lays, in the hand it was in.
    given : the highest number that entries of the room had before.
    """

    at: int
    edits: tuple[Edit, ...]
    room_name: str
    layer_id: str
    brush: str
    drawn: Drawn
    form: Form = as_it_is
    given: int = 0

    def is_last(self, history: History) -> bool:
        """Whether nothing was done since."""
        end = self.at + len(self.edits)
        last = history.edits[self.at : end]
        same = all(a is b for a, b in zip(last, self.edits, strict=False))
        return same and len(last) == len(self.edits) and history.at == end


def plan_drawn(history: History, warm: Warm) -> Edit:
    """What the stroke lays now."""
    project = history.project
    place = Place(project, warm.room_name, warm.layer_id)
    brush = warm.form(brush_named(project, warm.brush))
    return planned(brush, place, warm.drawn.marks(place, brush))


def tried_again(history: History, warm: Warm, brush: BrushKind | None) -> tuple[Project, Edit]:
    """What `laid_again` would lay, and the project without the stroke; nothing is changed.

    Raises TopionError.
    """
    scratch = history.project.frozen()
    for edit in reversed(warm.edits):
        for record in edit.inverted().records:
            record.write(scratch)
    if brush is not None:
        for record in put_brush(scratch, brush).records:
            record.write(scratch)
    place = Place(scratch, warm.room_name, warm.layer_id)
    again = warm.form(brush_named(scratch, warm.brush))
    return scratch, planned(again, place, warm.drawn.marks(place, again))


def laid_again(history: History, warm: Warm, brush: BrushKind | None = None) -> Warm:
    """Lay the stroke again in place, as the same Edit, and return it as it is then.

    brush : put into the library first, as part of the Edit.  What could be redone behind it was
    gone already.  Raises TopionError, with all as before.
    """
    room = history.project.room(warm.room_name)

    def set_brush() -> Edit:
        room.take_numbers_back(warm.given)
        return Edit("") if brush is None else put_brush(history.project, brush)

    history.lay_instead(warm.at, (set_brush, lambda: plan_drawn(history, warm)))
    return replace(warm, edits=tuple(history.edits[warm.at : history.at]))


def slices(
    plan: Callable[[Drawn], Edit], drawn: Drawn, cuts: Sequence[int], whole: Edit
) -> list[Edit]:
    """A stroke as Edits one upon the other, which together are `whole`.

    plan : what a stroke lays before any of it lies.  cuts : after how many points each slice but
    the last ends.  A slice is what its part of the way changes: the stroke until then, instead of
    the stroke until the slice before.
    """
    found: list[Edit] = []
    before = Edit(whole.label)
    ends = sorted({cut for cut in cuts if 0 < cut < len(drawn.points)})[: MOST_SLICES - 1]
    for until in (*(plan(drawn.until(count)) for count in ends), whole):
        records = folded((*before.inverted().records, *until.records))
        if records:
            found.append(replace(whole, records=records))
        before = until
    if len(found) < 2:
        return found
    return [replace(edit, part=(n, len(found))) for n, edit in enumerate(found, 1)]
