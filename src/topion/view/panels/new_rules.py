"""The kinds of placement rules that can be added."""

from __future__ import annotations

from collections.abc import Callable

from topion.things.rules import (
    AtLeast,
    AtMost,
    Beside,
    ClearOf,
    FacesAway,
    FromEdge,
    Headroom,
    InZone,
    KeepsCells,
    LevelFooting,
    Near,
    NotInSight,
    NotOn,
    On,
    OnlyIn,
    RuleKind,
)

# Words, and a rule to begin with.
NEW_RULES: dict[str, Callable[[], RuleKind]] = {
    "on …": lambda: On(carries=True),
    "not on …": lambda: NotOn(tags=("water",)),
    "clear of …": lambda: ClearOf(2.0),
    "near …": lambda: Near(3.0, "anything"),
    "beside …": lambda: Beside("wall"),
    "keeps its cells": KeepsCells,
    "faces away": FacesAway,
    "headroom": lambda: Headroom(2),
    "level footing": LevelFooting,
    "from the edge": lambda: FromEdge(1),
    "at most …": lambda: AtMost(10),
    "at least …": lambda: AtLeast(1),
    "not in sight of …": lambda: NotInSight("anything"),
    "only in …": lambda: OnlyIn(("inside",)),
    "in a region …": InZone,
}
