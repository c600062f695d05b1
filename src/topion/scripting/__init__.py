"""The core as a script sees it: open a project, lay strokes, ask why, render, save.

The command line, the demo and the window use the same few calls.
"""

from topion.edit.history import History
from topion.scripting.handles import ProjectHandle, RoomHandle
from topion.scripting.opening import name_of, new, open
from topion.scripting.saving import Saving, fresh_id
from topion.scripting.strokes import flooded_cells, plan_model, why_cell

__all__ = [
    "History",
    "ProjectHandle",
    "RoomHandle",
    "Saving",
    "flooded_cells",
    "fresh_id",
    "name_of",
    "new",
    "open",
    "plan_model",
    "why_cell",
]
