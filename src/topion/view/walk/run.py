"""A walk as it is played: sixty steps a second, back and forth in time, recorded as it goes."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from topion.model.recording import MOST_TICKS, Recording
from topion.walk import Keys, State, World, step
from topion.walk.replay import recorded
from topion.walk.scale import TICKS

SPEEDS = (0.25, 0.5, 1.0, 2.0)
_LONGEST_BEAT = 0.04  # s; what does not fit in is missed, so that the window stays awake
_MOST_AT_ONCE = 30  # steps of one beat; a machine that is slower falls behind
_BEAT_MS = 8


class WalkRun(QObject):
    """states : one more than `keys`.  at : the playhead.  held : keys that are down now.
    tapped : those that came down since the last step, also if they are up again.

    plays : time goes on.  replays : the keys that are there are played, not those of the keyboard.
    missed : steps that could not be taken in time.  start_at : where it began, in cells.
    Signals: stepped() after one or more steps, or a jump; changed() when it plays or stops.
    """

    stepped = pyqtSignal()
    changed = pyqtSignal()

    def __init__(self, world: World, room: str, at: tuple[float, ...] | None = None) -> None:
        super().__init__()
        self.world = world
        self.start_at = tuple(at or ())
        self.states: list[State] = [world.begin(room, at)]
        self.keys: list[Keys] = []
        self.at, self.held, self.tapped = 0, 0, 0
        self.plays, self.replays, self.speed, self.missed = False, False, 1.0, 0
        self._due, self._last = 0.0, 0.0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(_BEAT_MS)
        self._timer.timeout.connect(self._beat)

    @property
    def now(self) -> State:
        """The state at the playhead."""
        return self.states[self.at]

    @property
    def seconds(self) -> float:
        """Since the walk began."""
        return self.at / TICKS

    # --- time -----------------------------------------------------------------------------

    def play(self, plays: bool = True) -> None:
        """Let time go on, or stand still."""
        if self.replays and plays and self.at == len(self.keys):
            self.replays = False
        self.plays, self._due, self._last = plays, 0.0, time.perf_counter()
        if plays:
            self._timer.start()
        else:
            self._timer.stop()
        self.changed.emit()

    def set_speed(self, speed: float) -> None:
        """How fast time goes."""
        self.speed = speed
        self.changed.emit()

    def _beat(self) -> None:
        now = time.perf_counter()
        self._due += (now - self._last) * TICKS * self.speed
        self._last = now
        count = int(self._due)
        self._due -= count
        if count > _MOST_AT_ONCE:
            self.missed += count - _MOST_AT_ONCE
            count = _MOST_AT_ONCE
        for left in range(count, 0, -1):
            if time.perf_counter() - now > _LONGEST_BEAT:
                self.missed += left
                break
            if not self._go_on():
                self.play(False)
                break
        if count:
            self.stepped.emit()

    def _go_on(self) -> bool:
        """One step, with keys that are there already or those that are held; False at the end."""
        if self.replays:
            if self.at == len(self.keys):
                return False
        elif len(self.keys) >= MOST_TICKS:
            return False
        else:
            self.forget_after()
            self.keys.append(self.held | self.tapped)
            self.tapped = 0
        self._take()
        return True

    def _take(self) -> None:
        if self.at + 1 == len(self.states):
            self.states.append(step(self.states[self.at], self.keys[self.at]))
        self.at += 1

    def forget_after(self) -> None:
        """What follows the playhead is no more."""
        del self.keys[self.at :]
        del self.states[self.at + 1 :]

    def step_by(self, count: int) -> None:
        """So many steps on or back; beyond the end with the keys that are held."""
        if self.plays:
            self.play(False)
        if count > 0 and self.at == len(self.keys):
            self.keys.append(self.held)
        self.seek(self.at + count)

    def seek(self, at: int) -> None:
        """Put the playhead there."""
        at = max(0, min(at, len(self.keys)))
        while len(self.states) <= at:
            self.states.append(step(self.states[-1], self.keys[len(self.states) - 1]))
        self.at = at
        self.stepped.emit()

    def record_from_here(self) -> None:
        """The keyboard decides from now on."""
        self.forget_after()
        self.replays = False
        self.play()

    # --- other worlds ---------------------------------------------------------------------

    def begin(self, world: World, room: str, at: tuple[float, ...] | None) -> None:
        """Begin anew there."""
        self.play(False)
        self.world, self.start_at, self.replays = world, tuple(at or ()), False
        self.states, self.keys, self.at = [world.begin(room, at)], [], 0
        self.stepped.emit()

    def show_recording(self, world: World, recording: Recording) -> None:
        """Play a recording from its start; its keys are there at once, its states as they come."""
        self.begin(world, recording.room, recording.at or None)
        self.keys = list(recording.held())
        self.replays = True
        self.stepped.emit()

    def change_world(self, world: World) -> None:
        """Go on in a room that was painted in meanwhile, from where it is now."""
        state = self.now
        self.forget_after()
        self.world = world
        before = self.states[self.at].world.stage(state.room)
        stage = world.stage(state.room)
        known = {actor.key: now for actor, now in zip(before.actors, state.lives, strict=True)}
        lives = tuple(known.get(a.key, first) for a, first in
                      zip(stage.actors, stage.first(), strict=True))  # fmt: skip
        self.states[self.at] = state._replace(world=world, lives=lives, sent=(), touching=(),
                                              rooms=())  # fmt: skip
        self.stepped.emit()

    def recording(self, name: str) -> Recording:
        """What was walked until the playhead."""
        return recorded(name, self.states[0], self.start_at, self.keys[: self.at])
