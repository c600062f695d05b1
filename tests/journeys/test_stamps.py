"""Stamps of a mesh, of a picture and of another project, laid on ground and along a plane."""

from __future__ import annotations

import numpy as np

import topion
from tests.journeys.drawn import hill, pyramid
from tests.journeys.newcomer import Newcomer
from tests.voxel_rooms import isle


def test_stamps_from_elsewhere_are_laid_on_ground_and_along_a_locked_plane(newcomer: Newcomer):
    isle((6, 10, 10)).project.save(newcomer.home / "Reef.topion")
    newcomer.begin("Isle", "voxel")
    _bring_in(newcomer, "voxels or heights", pyramid(newcomer.home / "pyramid.obj"))
    newcomer.write("6", into="Cells along its longest side")
    newcomer.click("Bring it in")
    newcomer.find("pyramid, stamp · 6×6×6")
    _bring_in(newcomer, "voxels or heights", hill(newcomer.home / "hill.png"))
    newcomer.write("4", into="Levels that white")
    newcomer.click("Bring it in")
    newcomer.find("hill, stamp · 8×8×4")
    newcomer.stroke((0, 1, 10, 10))  # where the ground is pointed at
    lowest = _where(newcomer, "hill")[:, 0].min()
    assert lowest == 2 and _where(newcomer, "hill")[:, 0].max() == 5

    newcomer.click("pyramid, stamp")
    newcomer.click("plane")
    newcomer.write("6", into="Plane, level, typed", enter=True)
    newcomer.click("once")
    newcomer.click("at a pitch")
    newcomer.write("8", into="Pitch, typed", enter=True)
    newcomer.stroke((6, 26, 5), (6, 26, 23))
    laid = _where(newcomer, "pyramid")
    assert laid[:, 0].min() == 6 and laid[:, 0].max() == 11  # over nothing, and not upon itself
    assert len(laid) == 3 * 77

    _bring_in(newcomer, "slices, or a room", newcomer.home / "Reef.topion")
    newcomer.click("Bring it in")
    newcomer.click("Bring theirs too")  # names that mean something else here
    newcomer.find("Isle, stamp")
    newcomer.click("surface")
    before = _cells(newcomer)
    newcomer.stroke((0, 1, 24, 14))
    assert (_cells(newcomer) > 0).sum() > (before > 0).sum()
    newcomer.key("Ctrl+Z")
    assert np.array_equal(_cells(newcomer), before)


def _bring_in(newcomer: Newcomer, what: str, path) -> None:
    newcomer.key("F10")
    newcomer.click(f"Bring in {what}")
    newcomer.answer_file(path)


def _cells(newcomer: Newcomer) -> np.ndarray:
    room = topion.open(newcomer.save()).room("Room 1").data
    (layer,) = (one for one in room.layers.values() if one.info.kind == "blocks")
    return layer.plane("material")


def _where(newcomer: Newcomer, brush: str) -> np.ndarray:
    """The cells that a stamp laid, by the names of its materials."""
    project = topion.open(newcomer.save()).data
    numbers = [n for n, name in enumerate(project.materials, 1) if name.startswith(brush)]
    return np.argwhere(np.isin(_cells(newcomer), numbers))
