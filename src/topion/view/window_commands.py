"""Which commands a window has."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any, Protocol

from topion.render.eye import VIEWS
from topion.view.bringing import Bringing
from topion.view.clipboard import Clipboard
from topion.view.commands import Command
from topion.view.files import Files
from topion.view.gestures import ALL_GESTURES, AnyGesture
from topion.view.hands import Hand
from topion.view.menus import Menus
from topion.view.panels.rack import Rack
from topion.view.panels.ribbon import Ribbon
from topion.view.saves import Saves
from topion.view.session import Session
from topion.view.tables import Tables

GESTURE_KEYS: dict[AnyGesture, str] = {"drag": "D", "line": "L", "box": "B", "flood": "F",
                                       "curve": "C", "lasso": "S"}  # fmt: skip
# commands of which a hint tells
HINTED = {"undo": "undone", "walk": "walked", "walk here": "walked", "find": "found",
          "keys": "keys", "plane up": "raised", "plane down": "raised"}  # fmt: skip
# that can be carried out while no project is open
HOME_COMMANDS = frozenset(("new project", "open", "unpack", "dark", "keys", "find", "settings"))
_TAP_S = 0.3  # a key that is held longer was no tap
_NUDGES = {"Left": (0, -1), "Right": (0, 1), "Up": (-1, 0), "Down": (1, 0)}


class Commanded(Protocol):
    """What of a window the commands speak to."""

    session: Session
    tables: Tables
    rack: Rack
    ribbon: Ribbon
    files: Files
    saves: Saves
    menus: Menus
    clipboard: Clipboard
    bringing: Bringing

    @property
    def table(self) -> Any: ...
    @property
    def at_work(self) -> Session: ...
    @property
    def at_tables(self) -> Tables: ...
    def open_desk(self, brush: str) -> None: ...
    def escape(self) -> None: ...
    def show_sheets(self) -> None: ...
    def show_blocks(self) -> None: ...
    def show_survey(self) -> None: ...
    def show_arrange(self) -> None: ...
    def show_compare(self) -> None: ...
    def show_plan(self) -> None: ...
    def walk(self, *, here: bool = False) -> None: ...
    def show_looks(self) -> None: ...
    def show_keys(self) -> None: ...
    def toggle_dark(self) -> None: ...
    def show_finder(self) -> None: ...
    def show_settings(self) -> None: ...
    def show_home(self, *, new: bool = False) -> None: ...
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
    yield Command("new project", "New project…", lambda: window.show_home(new=True), ("Ctrl+N",),
                  "Project")  # fmt: skip
    yield Command("home", "Close it: Home", window.show_home, ("Ctrl+W",), "Project")
    yield Command("open", "Open…", files.ask_open, ("Ctrl+O",), "Project")
    yield Command("save", "Save", window.saves.save, ("Ctrl+S",), "Project")
    yield Command("save as", "Save as…", window.saves.save_as, (), "Project")
    yield Command("pack", "Pack as one file…", files.ask_pack, (), "Project")
    yield Command("unpack", "Unpack and open…", files.ask_unpack, (), "Project")
    yield Command("export all", "Everything, each format in a folder…", files.ask_export_all, (),
                  "Project")  # fmt: skip
    yield Command("sheet", "Bring in a tile sheet…", files.bring_in_sheet, (), "Project")
    bringing = window.bringing
    for name, text, act in (("texts", "Bring in rooms from text or CSV…", bringing.ask_texts),
                            ("pictures", "Bring in rooms from pictures…", bringing.ask_pictures),
                            ("text folder", "Bring in rooms from a folder…",
                             bringing.ask_folder)):  # fmt: skip
        yield Command(name, text, act, (), "Project")
    yield Command("mesh", "Bring in a mesh as voxels…", files.ask_mesh, (), "Project")
    yield Command("stamp file", "Bring in voxels or heights…", window.clipboard.ask_stamp_file, (),
                  "Project")  # fmt: skip
    yield Command("stamp folder", "Bring in slices, or a room of another project…",
                  window.clipboard.ask_stamp_folder, (), "Project")  # fmt: skip
    yield Command("outline", "Bring in a picture's outline as a curve…", files.ask_outline, (),
                  "Project")  # fmt: skip
    yield Command("new room", "New room…", files.new_room, (), "Project")
    has_room = lambda: window.session.has_room  # noqa: E731
    session = lambda: window.session  # noqa: E731
    yield Command("room properties", "Properties of the room…", files.room_properties, ("F4",),
                  "Room", has_room)  # fmt: skip
    for name, text, act in (
        ("duplicate room", "Duplicate the room", lambda: session().duplicate_room()),
        ("remove room", "Remove the room", lambda: session().remove_room()),
        ("clear layer", "Clear the layer", lambda: session().clear_layer()),
        ("clear room", "Clear the room", lambda: session().clear_room()),
        ("shift room", "Shift all of the room…", files.shift_room),
    ):  # fmt: skip
        yield Command(name, text, act, (), "Room", has_room)
    yield Command("picture of view", "PNG of this view…", files.ask_view_picture, (), "Project",
                  lambda: window.tables.space is not None)  # fmt: skip
    yield Command("mark", "Mark this moment…", lambda: window.ribbon.ask_mark(), ("Ctrl+M",),
                  "Strokes")  # fmt: skip
    yield Command("undo", "Undo", lambda: window.session.undo(), ("Ctrl+Z",), "Strokes")
    yield Command("redo", "Redo", lambda: window.session.redo(), ("Ctrl+Y", "Ctrl+Shift+Z"),
                  "Strokes")  # fmt: skip


def _of_strokes(window: Commanded) -> Iterator[Command]:
    for kind in ALL_GESTURES:
        yield Command(f"gesture {kind}", f"{kind.capitalize()}; held, for one stroke",
                      _borrow(window, kind), (GESTURE_KEYS[kind],), "Strokes",
                      let_go=lambda: window.at_work.gestures.give_back())  # fmt: skip
    option = _Option(window)
    yield Command("gesture option", "Next option; held: no outlines",
                  option.press, ("V",), "Strokes", let_go=option.let_go)  # fmt: skip
    yield Command("end curve", "Lay the curve; keep a warm stroke",
                  lambda: _keep(window),
                  ("Return", "Enter"), "Strokes")  # fmt: skip
    yield Command("again", "The last stroke again, here",
                  lambda: window.at_work.lay_again_elsewhere(), (",",), "Strokes")  # fmt: skip
    yield Command("flood corners", "Flood over corners too",
                  lambda: window.at_work.gestures.toggle_corners(), ("Shift+F",),
                  "Strokes")  # fmt: skip
    yield Command("cell parts", "Whole or parts of cells",
                  lambda: window.at_work.hands.next_parts(), (".",), "Strokes")  # fmt: skip
    for mode, key, text in (("lifting", "E", "Hold: lift instead"),
                            ("overriding", "O", "Hold: lay against rules"),
                            ("shifting", "Z", "Hold: drag what lies in the layer"),
                            ("asking", ";", "Hold: show where it may stand"),
                            ("measuring", "'", "Hold: measure from a press on")):  # fmt: skip
        yield Command(f"hold {mode}", text, _hold(window, mode, True), (key,), "Strokes",
                      let_go=_hold(window, mode, False))  # fmt: skip
    yield Command("pan", "Hold: a drag moves the view", lambda: window.at_tables.hold_space(True),
                  ("Space",), "Strokes",
                  let_go=lambda: window.at_tables.hold_space(False))  # fmt: skip


def _keep(window: Commanded) -> None:
    """Lay the curve as it is clicked; without one, keep the warm stroke as it is."""
    if not window.table.end_curve():
        window.at_work.warm.cool()


class _Option:
    """Another option of the gesture; with the lasso, outlines are hidden while the key is held,
    and only a tap changes the option."""

    def __init__(self, window: Commanded) -> None:
        self._window = window
        self._since = 0.0

    def press(self) -> None:
        if self._window.at_work.gestures.picking:
            self._since = time.monotonic()
            self._window.at_work.pieces.hide(True)
        else:
            self._window.at_work.gestures.next_option()

    def let_go(self) -> None:
        hidden = self._window.at_work.pieces.hidden
        self._window.at_work.pieces.hide(False)
        if hidden and time.monotonic() - self._since < _TAP_S:
            self._window.at_work.picking.next_option()


def _borrow(window: Commanded, kind: AnyGesture) -> Callable[[], object]:
    return lambda: window.at_work.gestures.borrow(kind)


def _hold(window: Commanded, mode: str, held: bool) -> Callable[[], object]:
    return lambda: window.at_work.hands.hold(mode, held)  # type: ignore[arg-type]


def _of_brushes(window: Commanded) -> Iterator[Command]:
    hands, picking = lambda: window.at_work.hands, lambda: window.at_work.picking
    yield Command("other hand", "Show the other hand",
                  lambda: hands().show_other(), ("H",), "Brush in hand")  # fmt: skip
    yield Command("roll", "Roll the dice", lambda: hands().roll(), ("R",), "Brush in hand")
    for name, text, key, of_brush, of_picked in (
        ("turn", "Turn", "T", lambda: hands().turn(), lambda: picking().turn_about("up")),
        ("tip", "Tip over: about east", "Shift+T",
         lambda: hands().tip(), lambda: picking().turn_about("east")),
        ("roll over", "Tip over: about south", "Ctrl+T",
         lambda: hands().turn_about("south"), lambda: picking().turn_about("south")),
        ("flip", "Mirror", "M", lambda: hands().flip(), lambda: picking().mirror()),
    ):  # fmt: skip
        yield Command(name, text, _brush_or_picked(window, of_brush, of_picked), (key,),
                      "Brush in hand")  # fmt: skip
    for name, text, key, act in (
        ("straighten", "As it was: turn, mirror, scale", "Backspace",
         lambda: hands().straighten()),
        ("next surface", "To the next floor, wall or ceiling", "Q",
         lambda: window.at_work.next_surface()),
        ("lift stamp", "Lay it a level higher", "Shift+PgUp", lambda: hands().lift_by(1)),
        ("lower stamp", "Lay it a level lower", "Shift+PgDown", lambda: hands().lift_by(-1)),
    ):  # fmt: skip
        yield Command(name, text, act, (key,), "Brush in hand")
    yield Command("anchor", "Hold: point at the cell it is held by",
                  lambda: window.at_tables.hold_anchor(True), ("Y",), "Brush in hand",
                  let_go=lambda: window.at_tables.hold_anchor(False))  # fmt: skip
    for digit in "1234567890":
        keys: tuple[tuple[Hand, str], ...] = (("left", digit), ("right", f"Shift+{digit}"))
        for hand, key in keys:
            yield Command(f"card {digit} {hand}", f"Take card {digit} in the {hand} hand",
                          _take(window, digit, hand), (key,), "Cards")  # fmt: skip
    yield Command("find brush", "Find a brush", lambda: window.rack.search.setFocus(), ("/",),
                  "Cards")  # fmt: skip
    yield Command("new brush", "New brush", window.menus.show_new_brush, ("Ctrl+B",), "Cards")


def _brush_or_picked(window: Commanded, of_brush: Callable[[], object],
                     of_picked: Callable[[], bool]) -> Callable[[], object]:  # fmt: skip
    """With the lasso what is picked is turned, else the brush in hand."""

    def does() -> None:
        if not (window.at_work.gestures.picking and of_picked()):
            of_brush()

    return does


def _take(window: Commanded, digit: str, hand: Hand) -> Callable[[], object]:
    return lambda: window.rack.take_digit(digit, hand)


def _of_picked(window: Commanded) -> Iterator[Command]:
    picking, clipboard = lambda: window.at_work.picking, window.clipboard
    yield Command("escape", "Drop it, or pick nothing", window.escape, ("Esc",), "Picked")
    for name, text, key, act in (
        ("remove", "Remove it, or the picked points", "Del",
         lambda: _remove(window)),
        ("duplicate", "A copy beside it", "Ctrl+D", lambda: picking().duplicate()),
        ("copy", "Copy", "Ctrl+C", clipboard.copy),
        ("cut", "Cut", "Ctrl+X", clipboard.cut),
        ("paste", "Paste as a card in hand", "Ctrl+V", clipboard.paste),
        ("keep as card", "Keep it as a card", "Ctrl+Shift+B", clipboard.keep_as_card),
        ("keep as prefab", "Make one thing of it", "Ctrl+Shift+T", clipboard.keep_as_prefab),
        ("group", "Group", "Ctrl+G", lambda: picking().group()),
        ("ungroup", "Ungroup", "Ctrl+Shift+G", lambda: picking().ungroup()),
        ("snap", "Snap to cells or parts of them", "J", lambda: picking().snap()),
        ("keep inside", "Keep strokes inside the area", "Shift+S",
         lambda: picking().keep_inside(not picking().keeps_inside)),
    ):  # fmt: skip
        yield Command(name, text, act, (key,), "Picked")
    for key, steps in (("Shift+Right", 1), ("Shift+Left", -1)):
        yield Command(f"slide {'on' if steps > 0 else 'back'}",
                      f"Slide it {'on' if steps > 0 else 'back'} along its curve",
                      _slide(window, steps), (key,), "Picked", repeats=True)  # fmt: skip
    for key, (dy, dx) in _NUDGES.items():
        yield Command(f"nudge {key.lower()}", f"Move it {key.lower()}",
                      _nudge(window, dy, dx), (key,), "Picked", repeats=True)  # fmt: skip


def _remove(window: Commanded) -> None:
    """The picked points of a curve, else all that is picked."""
    if not window.at_work.curves.remove_points():
        window.at_work.picking.remove()


def _slide(window: Commanded, steps: int) -> Callable[[], object]:
    return lambda: window.at_work.curves.slide(steps)


def _nudge(window: Commanded, dy: int, dx: int) -> Callable[[], object]:
    return lambda: _nudged(window, (dy, dx))


def _nudged(window: Commanded, by: tuple[int, ...], up: int = 0) -> bool:
    session = window.at_work
    if not session.has_room:
        return False
    steps = (up, *by) if session.room.info.axes == 3 else by
    return session.curves.nudge(steps) or session.picking.nudge(steps)


def _of_planes(window: Commanded) -> Iterator[Command]:
    planes = lambda: window.at_work.planes  # noqa: E731
    for name, text, key, act in (
        ("turn plane", "Across the next axis", "X", lambda: planes().turn()),
        ("plane here", "To what is pointed at", "G",
         lambda: window.at_tables.set_plane_here()),
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
    session = window.at_work
    deep = session.has_room and session.room.info.axes == 3
    if session.pieces.there() and not deep:
        session.pieces.restack("nearer" if levels > 0 else "farther")
    elif not (deep and _nudged(window, (0, 0), levels)):
        session.planes.raise_by(levels)


def _of_views(window: Commanded) -> Iterator[Command]:
    tables = lambda: window.at_tables  # noqa: E731
    in_space = lambda: tables().space is not None  # noqa: E731
    for name, text, keys, act in (
        ("zoom in", "Zoom in", ("+", "="), lambda: tables().zoom(1)),
        ("zoom out", "Zoom out", ("-",), lambda: tables().zoom(-1)),
        ("fit", "Show all of the room", ("Home",), lambda: tables().fit()),
    ):
        yield Command(name, text, act, keys, "View")
    yield Command("fit picked", "Show what is picked", lambda: tables().fit_selection(),
                  ("Shift+Home",), "View", in_space)  # fmt: skip
    for number, view in enumerate(VIEWS, 1):
        text = f"From the {view}" if view != "top" else "From above"
        yield Command(f"view {view}", text, _look_from(window, view), (f"Ctrl+{number}",), "View",
                      in_space)  # fmt: skip
    for name, text, key, act in (
        ("next corner", "From the next corner", "K", lambda: tables().next_corner()),
        ("perspective", "Perspective", "P", lambda: tables().toggle_perspective()),
        ("detail", "Detail: full, half, quarter", "Shift+K", lambda: tables().next_detail()),
        ("seats", "Tops and bottoms of things", "U", lambda: tables().toggle_seats()),
    ):
        yield Command(name, text, act, (key,), "View", in_space)


def _open_desk(window: Commanded) -> None:
    """Of what is picked, else of the brush in hand."""
    session = window.session
    if not session.ask_desk_of_picked():
        window.open_desk(session.hands[session.hands.shown])


def _look_from(window: Commanded, view: str) -> Callable[[], object]:
    return lambda: window.at_tables.look_from(view)  # type: ignore[arg-type]


def _of_window(window: Commanded) -> Iterator[Command]:
    menus = window.menus
    yield Command("keys", "Keys of what is pointed at", window.show_keys, ("F1", "?"))
    yield Command("find", "Find anything by its name", window.show_finder,
                  ("Ctrl+K",))  # fmt: skip
    yield Command("settings", "Settings: look, keys, mouse, pen", window.show_settings,
                  ("Ctrl+,",))  # fmt: skip
    yield Command("looks", "Looks: themes, tints, light", window.show_looks, ("F5",))
    yield Command("desk", "Desk of the brush or prefab",
                  lambda: _open_desk(window), ("F3",))  # fmt: skip
    yield Command("play", "Animations: play, stand still", lambda: window.at_tables.toggle_play())
    yield Command("blocks", "Blocks: looks, voxels, traits", window.show_blocks)
    yield Command("sheets", "Take slots from a sheet…", window.show_sheets, ("F6",))
    yield Command("plan", "Plan: the rooms of the world", window.show_plan, ("F2",))
    yield Command("survey", "What the checks found", window.show_survey, ("F7",))
    yield Command("compare", "Compare with another version", window.show_compare,
                  ("Shift+F7",))  # fmt: skip
    yield Command("walk", "Walk: try the room", window.walk, ("W",))
    yield Command("walk here", "Walk from under the pointer", lambda: window.walk(here=True),
                  ("Shift+W",))  # fmt: skip
    yield Command("arrange", "Arrange what is picked", window.show_arrange,
                  ("Ctrl+R",))  # fmt: skip
    yield Command("dark", "Paper or dark", window.toggle_dark, ("F8",))
    yield Command("room menu", "Rooms: switch, make one", menus.show_room, ("F9",))
    yield Command("project menu", "Project: open, save, bring in", menus.show_project,
                  ("F10",))  # fmt: skip
    yield Command("export", "Export pictures and data", menus.show_export, ("Ctrl+E",))
    yield Command("add layer", "New layer above", window.add_layer, ("Ctrl+L",))
