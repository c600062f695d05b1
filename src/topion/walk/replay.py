"""Recordings played again, and how they end."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from topion.model.project import Project
from topion.model.recording import End, Recording, runs_of
from topion.walk.keys import Keys
from topion.walk.state import State
from topion.walk.step import step
from topion.walk.world import World

_DIGITS = 6  # of places in cells


def begun(project: Project, recording: Recording) -> State:
    """How a recording begins.  Raises UnknownName for a room that is not there."""
    world = World(project, recording.figure)
    return world.begin(recording.room, recording.at or None)


def played(project: Project, recording: Recording) -> Iterator[State]:
    """Every state of a recording, the first one too."""
    state = begun(project, recording)
    yield state
    for keys in recording.held():
        state = step(state, keys)
        yield state


def last_state(project: Project, recording: Recording) -> State:
    """The state at its end."""
    state = begun(project, recording)
    for keys in recording.held():
        state = step(state, keys)
    return state


def end_of(state: State) -> End:
    """What is kept of where a walk ended."""
    z, y, x = (round(v, _DIGITS) for v in state.place())
    return End(state.room, (z, y, x), state.ended, len(state.taken), state.backs)


def recorded(name: str, start: State, at: tuple[float, ...], keys: list[Keys]) -> Recording:
    """The recording of a walk that began so; `at` is empty where the room starts."""
    made = Recording(name, start.room, at, start.world.figure, runs_of(keys))
    state = start
    for held in keys:
        state = step(state, held)
    return replace(made, end=end_of(state))


def difference(wanted: End, found: End) -> str:
    """How an end differs from the one that was recorded, in words; nothing if it does not."""
    if wanted == found:
        return ""
    parts = []
    if found.room != wanted.room:
        parts.append(f"ends in {found.room} instead of {wanted.room}")
    elif found.at != wanted.at:
        away = max(abs(a - b) for a, b in zip(found.at, wanted.at, strict=True))
        there = ", ".join(f"{v:g}" for v in found.at[::-1])
        parts.append(f"ends {away:.3g} cells off, at {there}")
    if found.ended != wanted.ended:
        words = {"": "does not reach the goal", "room": "ends the room", "world": "ends the world"}
        parts.append(words[found.ended])
    for field, word in (("taken", "pickups taken"), ("backs", "times brought back")):
        now, before = getattr(found, field), getattr(wanted, field)
        if now != before:
            parts.append(f"{now} {word} instead of {before}")
    return ", ".join(parts)


def traced(state: State) -> dict[str, Any]:
    """Plain values of a state, for JSON."""
    z, y, x = (round(v, _DIGITS) for v in state.place())
    return {"tick": state.tick, "room": state.room, "at": [z, y, x], "ground": state.ground,
            "units": [state.z, state.y, state.x, state.vy], "news": list(state.news)}  # fmt: skip
