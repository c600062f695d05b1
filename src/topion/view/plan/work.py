"""What the plan shows and what is picked on it; its Edits go through the session."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from PyQt6.QtCore import QObject, pyqtSignal

from topion.edit import places
from topion.edit.carrying import carry_things
from topion.edit.logic import DoorEnd, link_doors, link_to_start, unlink_doors
from topion.edit.picked import Picks
from topion.edit.picked_moves import moved
from topion.edit.pieces import Pick
from topion.plan.sheet import (
    Joint,
    Point,
    Spot,
    free_place,
    joints,
    laid_out,
    rects_of,
)
from topion.plan.threads import PORT, Port, Thread, ports, threads
from topion.survey.no_way import NotReached
from topion.view.plan.outlines import Outlines
from topion.view.plan.room_pictures import RoomPictures
from topion.view.plan.way_finder import WayFinder
from topion.view.session import Session
from topion.view.surveying import Surveying
from topion.walk.links import Cell, begins_at

Things = tuple[str, tuple[Pick, ...]]  # a place, and things of its room
_ABOUT = "nobody can get in: "


class PlanWork(QObject):
    """spots, threads, joints, ports : what lies on the sheet.  missed : by room that is not
    reached, why.  places, port, things : what is picked.

    Signals: changed() when the sheet may be other; picked_changed(); entered(room, cell) when a
    room shall be opened; walked(room, cell) when it shall be walked.
    """

    changed = pyqtSignal()
    picked_changed = pyqtSignal()
    entered = pyqtSignal(str, object)
    walked = pyqtSignal(str, object)

    def __init__(self, session: Session, surveying: Surveying) -> None:
        super().__init__()
        self.session, self.surveying = session, surveying
        self.outlines, self.pictures = Outlines(session), RoomPictures(session)
        self.finder = WayFinder(session, surveying)
        self.spots: dict[str, Spot] = {}
        self.ports: dict[PORT, Port] = {}
        self.threads: list[Thread] = []
        self.joints: list[Joint] = []
        self.times: Counter[str] = Counter()  # how often each room is placed
        self.version = 0  # raised when the sheet may be another one
        self.missed: dict[str, str] = {}
        self.findings: Counter[str] = Counter()  # of each room, that count
        self.begins = ""  # the room in which the world starts
        self.places: frozenset[str] = frozenset()
        self.port: PORT | None = None
        self.things: Things = ("", ())
        self.snaps = True  # rooms that are moved come to lie on edges and half cells
        self.outlines.changed.connect(self._lay_out)
        session.changed.connect(self._on_changed)
        surveying.changed.connect(self._on_survey)
        self.finder.changed.connect(self._tell)
        self._on_survey()
        self.refresh()

    # --- what lies there ------------------------------------------------------------------

    def _on_changed(self, dirty: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """The project may have changed."""
        self.outlines.refresh()
        self._lay_out()

    def _lay_out(self) -> None:
        known, before = self.outlines.known, [spot.rect for spot in self.spots.values()]
        self.spots = laid_out(self.session.project, known)
        self.times = Counter(spot.room for spot in self.spots.values())
        self.ports = ports(self.spots, known)
        self.threads = threads(self.spots, known, self.ports)
        if before != [spot.rect for spot in self.spots.values()]:
            self.joints = joints(list(self.spots.values()))
        self.begins = self._begins()
        self._keep_picked()
        self._tell()

    def _tell(self) -> None:
        self.version += 1
        self.changed.emit()

    def _begins(self) -> str:
        """As `begins_at` tells, of what is known."""
        if not self.outlines.busy:
            return begins_at(self.session.project)
        said = [spot.room for spot in self.spots.values() if spot.place.begins]
        known = self.outlines.known
        return next((r for r in (*said, *known) if r in known and known[r].starts), "")

    def _on_survey(self) -> None:
        self.findings = Counter(one.finding.room for one in self.surveying.judged if not one.word)
        self.missed = {
            finding.room: finding.sentence.removeprefix(_ABOUT)
            for finding in self.surveying.findings
            if finding.by == NotReached.name
        }
        self.finder.begin_if_known()
        self._tell()

    def spot_at(self, point: Point) -> Spot | None:
        """The topmost placed room at a point of the sheet."""
        found = [spot for spot in self.spots.values() if spot.rect.holds(point)]
        return found[-1] if found else None

    def thread_of(self, port: PORT) -> Thread | None:
        """The thread by which a door leads on; without one, the first that leads to it."""
        led = None
        for thread in self.threads:
            if port == thread.here.key:
                return thread
            if thread.there is not None and port == thread.there.key:
                if thread.both:
                    return thread
                led = led or thread
        return led

    def unplaced(self) -> list[str]:
        """Rooms that have no place, in their order."""
        return [name for name in self.session.project.rooms if not self.times[name]]

    # --- what is picked -------------------------------------------------------------------

    def _keep_picked(self) -> None:
        before = (self.places, self.port, self.things)
        self.places &= self.spots.keys()
        if self.port is not None and self.port not in self.ports:
            self.port = None
        if self.things[0] and self.things[0] not in self.spots:
            self.things = ("", ())
        if before != (self.places, self.port, self.things):
            self.picked_changed.emit()

    def pick(
        self, names: Iterable[str] = (), port: PORT | None = None, things: Things = ("", ())
    ) -> None:  # fmt: skip
        """Pick placed rooms, or a door, or things of one room; nothing without any."""
        found = (frozenset(names), port, things)
        if found != (self.places, self.port, self.things):
            self.places, self.port, self.things = found
            self.picked_changed.emit()

    @property
    def picked(self) -> bool:
        """Whether anything is."""
        return bool(self.places or self.port or self.things[1])

    # --- edits ----------------------------------------------------------------------------

    def place(self, room: str, at: Point | None = None) -> None:
        """Put a room on the plan, or once more; in a free place without a point."""
        if at is None:
            doors = self.outlines.known.get(room)
            size = doors.info.plan if doors is not None and doors.info is not None else (24, 32)
            at = free_place(rects_of(self.spots.values()), size, self._middle())
        before = set(self.spots)
        if self.session.try_(places.place_room, room, (round(at[0] * 2) / 2, round(at[1] * 2) / 2)):
            self.pick(set(self.spots) - before)

    def _middle(self) -> Point:
        picked = [self.spots[name].rect for name in self.places]
        return (picked[0].top, picked[0].left) if picked else (0.0, 0.0)

    def move(self, to: Mapping[str, Point], key: object = None) -> None:
        """Other places for placed rooms."""
        self.session.try_(places.move_places, dict(to), key=key)

    def take_off(self) -> None:
        """What is picked goes: rooms off the plan, a link away."""
        if self.places:
            self.session.try_(places.take_off, sorted(self.places))
        elif self.port is not None:
            self.unlink(self.port)

    def unlink(self, port: PORT) -> None:
        """A door and the one that leads back to it lead nowhere."""
        thread = self.thread_of(port)
        if thread is None:
            self.session.said.emit("This door leads nowhere yet; drag from it to another door")
            return
        ends = [end_of(thread.here)]
        if thread.both and thread.there is not None:
            ends.append(end_of(thread.there))
        self.session.try_(unlink_doors, ends)

    def link(self, here: Port, there: Port | Spot, *, back: bool) -> None:
        """Let a door lead to another one, or to where a room starts."""
        if isinstance(there, Spot):
            doors = self.outlines.known.get(there.room)
            if doors is None or not doors.starts:
                said = f"{there.title} has no start to lead to; let go over one of its doors"
                self.session.said.emit(said)
                return
            self.session.try_(link_to_start, end_of(here), there.room, self._named(there))
        elif here.key != there.key:
            names = self._named(here.spot), self._named(there.spot)
            self.session.try_(link_doors, end_of(here), end_of(there), back=back, places=names)
        self.pick(port=here.key)

    def _named(self, spot: Spot) -> str:
        """The name of a place where doors need it: the first one of a room needs none."""
        first = next(s for s in self.spots.values() if s.room == spot.room)
        return "" if first.name == spot.name else spot.name

    def carry(self, by: Point, over: Spot | None) -> None:
        """Move the picked things: within their room, or into another one, `by` cells of the
        sheet."""
        name, picks = self.things
        spot = self.spots[name]
        if over is None or over.room == spot.room:
            axes = 2 if spot.info is None else spot.info.axes
            step = (0.0,) * (axes - 2) + (float(round(by[0])), float(round(by[1])))
            self.session.try_(moved, spot.room, Picks(picks), step)
            return
        shift = (round(spot.rect.top - over.rect.top + by[0]),
                 round(spot.rect.left - over.rect.left + by[1]))  # fmt: skip
        led = [(door.room, Pick(door.layer, door.number))
               for doors in self.outlines.known.values() for door in doors.doors
               if door.to == spot.room]  # fmt: skip
        if self.session.try_(carry_things, spot.room, picks, over.room, shift, led):
            self.pick()

    # --- going there ----------------------------------------------------------------------

    def enter(self, room: str, cell: Cell | None = None) -> None:
        """Open a room, with a cell of it in the middle."""
        self.entered.emit(room, cell)

    def walk(self, room: str, cell: Cell | None = None) -> None:
        """Walk from where a room starts, or from a cell."""
        self.walked.emit(room, cell)

    def stop(self) -> None:
        """Nobody looks any longer."""
        self.session.changed.disconnect(self._on_changed)
        self.surveying.changed.disconnect(self._on_survey)
        for part in (self.outlines, self.pictures, self.finder):
            part.stop()


def end_of(port: Port) -> DoorEnd:
    """The thing that a door is."""
    return port.door.room, Pick(port.door.layer, port.door.number)
