"""Layers of densities, one module each.

Every layer defined in a module of this folder is found by itself: to add one, write its module
after `from_field.py`.  An extension calls `register_kinds(DensityKind, Its)`.
"""

from topion.model.typed import register_kinds
from topion.modules import classes_in
from topion.things.densities.from_curve import FromCurve
from topion.things.densities.from_field import FromField
from topion.things.densities.from_material import FromMaterial
from topion.things.densities.from_picture import FromPicture
from topion.things.densities.kind import DensityKind
from topion.things.densities.noise import Noise

register_kinds(DensityKind, *classes_in(__name__, DensityKind))

__all__ = ["DensityKind", "FromCurve", "FromField", "FromMaterial", "FromPicture", "Noise"]
