"""Brushes, one module a kind: `plan(place, marks)` gives the Edit, and changes nothing.

Every kind defined in a module of this folder is found by itself: to add one, write its module
after `mosaic.py`.  Card, ghost, In hand, folder and bundle follow from what it declares.  An
extension calls `register_kinds(Brush, ItsBrush)`.
"""

from topion.brushes.crate import Crate
from topion.brushes.curve import CurveBrush
from topion.brushes.echo import Echo
from topion.brushes.field import FieldBrush
from topion.brushes.inlay import Inlay
from topion.brushes.kind import BrushKind
from topion.brushes.lift import Lift
from topion.brushes.mosaic import Mosaic
from topion.brushes.panel import Panel
from topion.brushes.ramp import Ramp
from topion.brushes.run import Run
from topion.brushes.sculpt import Sculpt
from topion.brushes.stamp import Stamp
from topion.brushes.things import ThingsBrush
from topion.brushes.tint import TintBrush
from topion.brushes.trail import Trail
from topion.brushes.unknown import UnknownBrush
from topion.brushes.weave import Weave
from topion.model.brush import Brush
from topion.model.typed import register_kinds
from topion.modules import classes_in
from topion.things.field import Sown

register_kinds(Brush, *(k for k in classes_in(__name__, BrushKind) if k is not UnknownBrush))

__all__ = [
    "BrushKind",
    "Crate",
    "CurveBrush",
    "Echo",
    "FieldBrush",
    "Inlay",
    "Lift",
    "Mosaic",
    "Panel",
    "Ramp",
    "Run",
    "Sculpt",
    "Sown",
    "Stamp",
    "ThingsBrush",
    "TintBrush",
    "Trail",
    "Weave",
]
