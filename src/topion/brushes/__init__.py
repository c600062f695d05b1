"""Brushes, one module a kind: `plan(place, marks)` gives the Edit, and changes nothing.

To add a kind, write its module after `mosaic.py` and name it here; the rack, the In hand
panel, the project folder and the journal then know it.
"""

from topion.brushes.crate import Crate
from topion.brushes.field import FieldBrush, Sown
from topion.brushes.lift import Lift
from topion.brushes.mosaic import Mosaic
from topion.brushes.sculpt import Sculpt
from topion.brushes.stamp import Stamp
from topion.brushes.things import ThingsBrush
from topion.brushes.weave import Weave
from topion.model.brush import Brush
from topion.model.plain import register_kinds

register_kinds(Brush, Weave, Mosaic, Stamp, ThingsBrush, FieldBrush, Crate, Sculpt, Lift)

__all__ = [
    "Crate",
    "FieldBrush",
    "Lift",
    "Mosaic",
    "Sculpt",
    "Sown",
    "Stamp",
    "ThingsBrush",
    "Weave",
]
