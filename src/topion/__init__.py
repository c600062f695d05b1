"""Topion: paint rooms and maps with tile sets, rule-based brushes and scattered prefabs.

    import topion
    project = topion.open("Brinehollow.topion")
    room = project.room("Sluice Yard")
    room.lay("Mud", box=((4, 4), (12, 20)))
    project.save()

Positions are `(y, x)` in cells.  See `topion.scripting` for all of it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from topion.scripting import new, open

__version__ = "0.1.0"
__all__ = ["__version__", "new", "open"]


def __getattr__(name: str) -> Any:
    if name in ("open", "new"):  # NumPy and SciPy are only loaded when they are needed
        from topion import scripting

        return getattr(scripting, name)
    raise AttributeError(f"module 'topion' has no attribute {name!r}")
