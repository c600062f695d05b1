"""What the mouse and the keys do in each part of the window that are no commands of all of it.

The sheet of keys and docs/KEYS.md are made of this and of the commands.
"""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtWidgets import QWidget


@dataclass(frozen=True)
class KeyArea:
    """title : in a sentence, as `the table`.  rows : keys or buttons, and what they do.
    groups : of commands that mean something there, the most telling first."""

    title: str
    rows: tuple[tuple[str, str], ...]
    groups: tuple[str, ...] = ()


_PAINT = (
    ("left button", "lays the brush of the left hand"),
    ("right button", "lays that of the right hand"),
    ("Alt, button", "takes what lies here in that hand"),
    ("middle button", "drags the view"),
    ("Shift, wheel", "moves the view across"),
)
AREAS: dict[str, KeyArea] = {
    "conflicts": KeyArea(
        "the bar of conflicts",
        (("O", "keeps ours"), ("T", "takes theirs"),
         ("Page up, Page down", "the conflict before, the next one")),
    ),
    "compare": KeyArea(
        "another version over this one",
        (("drag the line", "shows more of then, or of now"),
         ("Left, Right, on the line", "the same by keys; Home and End all of one"),
         ("Enter, in the list", "goes to the place of a change")),
        ("Picked", "View"),
    ),
    "table": KeyArea(
        "the table",
        (*_PAINT, ("wheel", "zooms; Ctrl moves up and down"),
         ("double click", "ends a curve"), ("Tab, lasso", "picks what lies below")),
        ("Strokes", "Brush in hand", "Picked", "View"),
    ),
    "space": KeyArea(
        "the voxel table",
        (*_PAINT[:3], ("middle button", "turns the view; Shift drags it"),
         ("wheel", "zooms to the pointer"), ("Tab, lasso", "picks what lies behind")),
        ("Work plane and mirrors", "View", "Strokes", "Brush in hand", "Picked"),
    ),
    "rack": KeyArea(
        "the rack",
        (("left click", "takes the card in the left hand"),
         ("right click", "takes it in the right hand"), ("drag", "moves the card"),
         ("double click", "opens its desk"), ("1 … 9, 0", "take the first ten cards"),
         ("Shift, number", "in the right hand")),
        ("Cards", "Brush in hand"),
    ),
    "ribbon": KeyArea(
        "the strokes",
        (("click", "goes to that moment"), ("Left, Right", "a stroke back, or on"),
         ("rest on a chip", "shows what it changed")),
        ("Strokes",),
    ),
    "stack": KeyArea(
        "the stack",
        (("click", "works on the layer"), ("eye, lock", "shows, locks it"),
         ("drag", "moves it up or down"), ("right click", "more"),
         ("double click", "renames it")),
        ("Room",),
    ),
    "levels": KeyArea(
        "the levels",
        (("click, drag", "sets the height of the work plane"),
         ("Up, Down", "a level up, or down")),
        ("Work plane and mirrors", "Room"),
    ),
    "hand": KeyArea(
        "the hands",
        (("drag, type", "sets a value; beyond the slider, too"),
         ("double click", "sets it back"), ("click a word", "takes that one")),
        ("Brush in hand", "Picked"),
    ),
    "survey": KeyArea(
        "the survey",
        (("click, Enter", "goes to the place"), ("Up, Down", "the next finding"),
         ("Fix", "mends it, as one stroke"), ("Accept", "keeps it with a word why")),
        ("Window",),
    ),
    "plan": KeyArea(
        "the plan",
        (("M, N, S", "move rooms, link doors, lasso"),
         ("drag", "moves rooms, or links from a door"),
         ("double click", "enters the room"), ("wheel, F, 0", "zoom, show all, plain scale"),
         ("arrows", "move what is picked"), ("Ctrl+D", "places the room again"),
         ("Del", "takes it off the plan"), ("Ctrl+A", "picks all"),
         ("PgUp, PgDown", "the next place"), ("Ctrl+E", "writes the plan"),
         ("W", "walks from the start")),
        ("Window", "Strokes"),
    ),
    "walk": KeyArea(
        "the walk",
        (("arrows", "run, climb"), ("Space", "jumps, as high as it is held"),
         ("X", "acts: reach, throw"), ("G", "turns gravity, where the room lets it"),
         ("P", "pause, go on"), (", and .", "a moment back, or on"), ("Home", "to the start"),
         ("R", "records from here"), ("M", "shows the reach"), ("W", "begins anew"),
         ("Esc", "back to painting, here")),
        ("View",),
    ),
    "weave": KeyArea(
        "the weave desk",
        (("click a mark", "same, open, named, do not care"), ("Up, Down", "the next rule"),
         ("Ctrl, Up, Down", "moves the rule"), ("Ctrl+D", "a copy of the rule"),
         ("Del", "takes the rule, or the variant, away"), ("Esc", "back to the room")),
        ("Strokes",),
    ),
    "sheet": KeyArea(
        "the tile set desk",
        (("drag", "marks slots"), ("Shift, drag", "marks more"), ("wheel", "zooms"),
         ("right click", "what can be made of them"), ("Esc", "back to the room")),
        ("Window",),
    ),
    "prefab": KeyArea(
        "the prefab desk",
        (("drag a mark", "moves the anchor, the seat, a point"),
         ("arrows", "by a pixel; Shift: the seat"), ("hold ;", "shows where it may stand"),
         ("Esc", "back to the room")),
        ("Strokes",),
    ),
    "legend": KeyArea(
        "the legend desk",
        (("click a cell", "chooses its symbol"), ("Ctrl, Shift", "several symbols at once"),
         ("Up, Down", "the next symbol"), ("Esc", "back to the room")),
        ("Project",),
    ),
    "home": KeyArea(
        "Home",
        (("arrows, Enter", "go on with a project"), ("Del", "forgets it; its folder stays"),
         ("drop a PNG", "begins with it"), ("drop a folder", "opens it")),
        ("Project", "Window"),
    ),
}  # fmt: skip


def area_of(widget: QWidget | None) -> str:
    """The area that a widget lies in; the table where it says nothing."""
    while widget is not None:
        area = getattr(widget, "key_area", "")
        if area:
            return str(area)
        widget = widget.parentWidget()
    return "table"
