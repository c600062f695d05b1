"""Which commands a window has."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Protocol

from topion.render.eye import VIEWS
from topion.view.commands import Command
from topion.view.files import Files
from topion.view.gestures import ALL_GESTURES, AnyGesture
from topion.view.hands import Hand
from topion.view.menus import Menus
from topion.view.panels.rack import Rack
from topion.view.saves import Saves
from topion.view.session import Session
from topion.view.tables import Tables

GESTURE_KEYS: dict[AnyGesture, str] = {"drag": "D", "line": "L", "box": "B", "flood": "F",
                                       "curve": "C", "lasso": "S"}  # fmt: skip
_NUDGES = {"Left": (0, -1), "Right": (0, 1), "Up": (-1, 0), "Down": (1, 0)}


class Commanded(Protocol):
    """What of a window the commands speak to."""

    session: Session
    tables: Tables
    rack: Rack
    files: Files
    saves: Saves
    menus: Menus

    @property
    def table(self) -> Any: ...
    def escape(self) -> None: ...
    def show_sheets(self) -> None: ...
    def show_survey(self) -> None: ...
    def show_keys(self) -> None: ...
    def toggle_dark(self) -> None: ...
    def add_layer(self) -> None: ...


def window_commands(window: Commanded) -> Iterator[Command]:
    """All of them; those of the session ask for it anew, as another project has another one."""
    yield from _of_projects(window)
    yield from _of_strokes(window)
    yield from _of_brushes(window)
    yield from _of_picked(window)
    yield from _of_planes(window)
    yield from _of_views(window)
    yield from _of_window(window)


def _of_projects(window: Commanded) -> Iterator[Command]:
    files = window.files
    yield Command("new project", "New project", files.new_project, ("Ctrl+N",), "Project")
    yield Command("open", "Open…", files.ask_open, ("Ctrl+O",), "Project")
    yield Command("save", "Save", window.saves.save, ("Ctrl+S",), "Project")
    yield Command("save as", "Save as…", window.saves.save_as, (), "Project")
    yield Command("sheet", "Bring in a tile sheet…", files.bring_in_sheet, (), "Project")
    yield Command("mesh", "Bring in a mesh as voxels…", files.ask_mesh, (), "Project")
    yield Command("new room", "New room…", files.new_room, (), "Project")
    yield Command("picture of view", "PNG of this view…", files.ask_view_picture, (), "Project",
                  lambda: window.tables.space is not None)  # fmt: skip
    yield Command("undo", "Undo", lambda: window.session.undo(), ("Ctrl+Z",), "Strokes")
    yield Command("redo", "Redo", lambda: window.session.redo(), ("Ctrl+Y", "Ctrl+Shift+Z"),
                  "Strokes")  # fmt: skip


def _of_strokes(window: Commanded) -> Iterator[Command]:
    for kind in ALL_GESTURES:
        yield Command(f"gesture {kind}", f"{kind.capitalize()}; held, for one stroke",
                      _borrow(window, kind), (GESTURE_KEYS[kind],), "Strokes",
                      let_go=lambda: window.session.gestures.give_back())  # fmt: skip
    yield Command("gesture option", "Its option; lasso: no outlines",
                  lambda: _option(window), ("V",), "Strokes",
                  let_go=lambda: window.session.pieces.hide(False))  # fmt: skip
    yield Command("end curve", "Lay the curve as it is clicked",
                  lambda: window.table.end_curve(), ("Return", "Enter"), "Strokes")  # fmt: skip
    yield Command("flood corners", "Flood over corners too",
                  lambda: window.session.gestures.toggle_corners(), ("Shift+F",),
                  "Strokes")  # fmt: skip
    yield Command("cell parts", "Whole or parts of cells",
                  lambda: window.session.hands.next_parts(), (".",), "Strokes")  # fmt: skip
    for mode, key, text in (("lifting", "E", "Hold: lift instead"),
                            ("overriding", "O", "Hold: lay against rules")):  # fmt: skip
        yield Command(f"hold {mode}", text, _hold(window, mode, True), (key,), "Strokes",
                      let_go=_hold(window, mode, False))  # fmt: skip
    yield Command("pan", "Hold: a drag moves the view", lambda: window.tables.hold_space(True),
                  ("Space",), "Strokes",
                  let_go=lambda: window.tables.hold_space(False))  # fmt: skip


def _option(window: Commanded) -> None:
    """Another option of the gesture; of the lasso, outlines are hidden while the key is held."""
    if window.session.gestures.picking:
        window.session.pieces.hide(True)
    else:
        window.session.gestures.next_option()


def _borrow(window: Commanded, kind: AnyGesture) -> Callable[[], object]:
    return lambda: window.session.gestures.borrow(kind)


def _hold(window: Commanded, mode: str, held: bool) -> Callable[[], object]:
    return lambda: window.session.hands.hold(mode, held)  # type: ignore[arg-type]


def _of_brushes(window: Commanded) -> Iterator[Command]:
    yield Command("other hand", "Show the other hand",
                  lambda: window.session.hands.show_other(), ("H",), "Brush in hand")  # fmt: skip
    for name, text, key, act in (
        ("roll", "Roll the dice", "R", lambda: window.session.hands.roll()),
        ("turn", "Turn", "T", lambda: _brush_or_pieces(window, "turn", "turn")),
        ("tip", "Tip over", "Shift+T", lambda: window.session.hands.tip()),
        ("flip", "Mirror", "M", lambda: _brush_or_pieces(window, "flip", "mirror")),
        ("straighten", "As it was: turn, mirror, scale", "Backspace",
         lambda: window.session.hands.straighten()),
    ):  # fmt: skip
        yield Command(name, text, act, (key,), "Brush in hand")
    for digit in "1234567890":
        keys: tuple[tuple[Hand, str], ...] = (("left", digit), ("right", f"Shift+{digit}"))
        for hand, key in keys:
            yield Command(f"card {digit} {hand}", f"Take card {digit} in the {hand} hand",
                          _take(window, digit, hand), (key,), "Cards")  # fmt: skip
    yield Command("find brush", "Find a brush", lambda: window.rack.search.setFocus(), ("/",),
                  "Cards")  # fmt: skip
    yield Command("new brush", "New brush", window.menus.show_new_brush, ("Ctrl+B",), "Cards")


def _brush_or_pieces(window: Commanded, of_brush: str, of_pieces: str) -> None:
    """With the lasso what is picked is turned, else the brush in hand."""
    session = window.session
    if session.gestures.picking and session.pieces.there():
        getattr(session.pieces, of_pieces)()
    else:
        getattr(session.hands, of_brush)()


def _take(window: Commanded, digit: str, hand: Hand) -> Callable[[], object]:
    return lambda: window.rack.take_digit(digit, hand)


def _of_picked(window: Commanded) -> Iterator[Command]:
    yield Command("escape", "Drop it, or pick nothing", window.escape, ("Esc",), "Picked")
    yield Command("remove", "Remove it", lambda: _remove(window), ("Del",), "Picked")
    yield Command("duplicate", "A copy beside it", lambda: window.session.pieces.duplicate(),
                  ("Ctrl+D",), "Picked")  # fmt: skip
    yield Command("next below", "Pick the piece below it", lambda: _next_below(window),
                  ("Tab",), "Picked")  # fmt: skip
    for key, (dy, dx) in _NUDGES.items():
        yield Command(f"nudge {key.lower()}", f"Move it {key.lower()}",
                      _nudge(window, dy, dx), (key,), "Picked", repeats=True)  # fmt: skip


def _nudge(window: Commanded, dy: int, dx: int) -> Callable[[], object]:
    return lambda: _nudged(window, dy, dx)


def _nudged(window: Commanded, dy: int, dx: int) -> bool:
    by = (0,) * (window.session.room.info.axes - 2) + (dy, dx) if window.session.has_room else ()
    return window.session.pieces.nudge(by) or window.session.picked.nudge(dy, dx)


def _remove(window: Commanded) -> None:
    if window.session.pieces.there():
        window.session.pieces.remove()
    else:
        window.session.picked.remove()


def _next_below(window: Commanded) -> bool:
    cell = window.session.cursor
    picking = window.session.gestures.picking
    return picking and cell is not None and window.session.pieces.pick_next_below(cell)


def _of_planes(window: Commanded) -> Iterator[Command]:
    planes = lambda: window.session.planes  # noqa: E731
    for name, text, key, act in (
        ("turn plane", "Across the next axis", "X", lambda: planes().turn()),
        ("plane here", "To what is pointed at", "G",
         lambda: window.tables.set_plane_here()),
        ("next aim", "Lay on plane, surface, cell", "A", lambda: planes().next_aim()),
        ("above", "Above it: shown, ghosted, hidden", "N",
         lambda: planes().next_above()),
        ("mirror", "Next mirror", "I", lambda: planes().next_mirror()),
        ("mirror here", "Stand the mirror here", "Shift+I", lambda: planes().stand_mirror_here()),
        ("plane up", "Up a level, or nearer", "PgUp", lambda: _raise(window, 1)),
        ("plane down", "Down a level, or farther", "PgDown",
         lambda: _raise(window, -1)),
    ):  # fmt: skip
        yield Command(name, text, act, (key,), "Work plane and mirrors")


def _raise(window: Commanded, levels: int) -> None:
    """Move what is picked by levels, or the work plane; pieces of a flat room are restacked."""
    session = window.session
    if session.pieces.there():
        if session.room.info.axes == 3:
            session.pieces.nudge((levels, 0, 0))
        else:
            session.pieces.restack("nearer" if levels > 0 else "farther")
        return
    if not window.session.picked.nudge(0, 0, levels):
        window.session.planes.raise_by(levels)


def _of_views(window: Commanded) -> Iterator[Command]:
    tables = window.tables
    yield Command("zoom in", "Zoom in", lambda: tables.zoom(1), ("+", "="), "View")
    yield Command("zoom out", "Zoom out", lambda: tables.zoom(-1), ("-",), "View")
    yield Command("fit", "Show all of the room", tables.fit, ("Home",), "View")
    in_space = lambda: tables.space is not None  # noqa: E731
    yield Command("fit picked", "Show what is picked", tables.fit_selection, ("Shift+Home",),
                  "View", in_space)  # fmt: skip
    for number, view in enumerate(VIEWS, 1):
        text = f"From the {view}" if view != "top" else "From above"
        yield Command(f"view {view}", text, _look_from(tables, view), (f"Ctrl+{number}",), "View",
                      in_space)  # fmt: skip
    yield Command("next corner", "From the next corner", tables.next_corner, ("K",), "View",
                  in_space)  # fmt: skip
    yield Command("perspective", "Perspective", tables.toggle_perspective, ("P",), "View", in_space)
    yield Command("seats", "Tops and bottoms of things", tables.toggle_seats, ("U",), "View",
                  in_space)  # fmt: skip


def _look_from(tables: Tables, view: str) -> Callable[[], object]:
    return lambda: tables.look_from(view)  # type: ignore[arg-type]


def _of_window(window: Commanded) -> Iterator[Command]:
    menus = window.menus
    yield Command("keys", "The keys", window.show_keys, ("F1", "?"))
    yield Command("sheets", "Take slots from a sheet…", window.show_sheets, ("F6",))
    yield Command("survey", "What the checks found", window.show_survey, ("F7",))
    yield Command("dark", "Paper or dark", window.toggle_dark, ("F8",))
    yield Command("room menu", "Rooms: switch, make one", menus.show_room, ("F9",))
    yield Command("project menu", "Project: open, save, bring in", menus.show_project,
                  ("F10",))  # fmt: skip
    yield Command("export", "Export pictures and data", menus.show_export, ("Ctrl+E",))
    yield Command("add layer", "New layer above", window.add_layer, ("Ctrl+L",))
