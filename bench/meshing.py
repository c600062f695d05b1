"""Anchors 6, 6b and 10: meshing voxel rooms, and drawing them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy import ndimage

from bench.ratio import Ratio, compared, timed
from topion.brushes import Mosaic
from topion.grid.hashing import unit
from topion.grid.meshing import exposed_faces, mesh
from topion.model.solid import Block, block_ref
from topion.render.eye import Eye
from topion.render.faces import faces_of_quads
from topion.render.raster import draw
from topion.scripting import new
from topion.weaving.rules import Variant

SIDE = 256
LOOKS = np.repeat(np.arange(8, dtype=np.uint16)[:, None], 6, axis=1)


def smooth(seed: int, shape: tuple[int, ...], lattice: int) -> np.ndarray:
    """Smooth noise, 0 to 1, from hashes on a coarse lattice."""
    coarse = np.indices(tuple(side // lattice + 2 for side in shape))
    fine = ndimage.zoom(unit(seed, *coarse).astype(np.float32), lattice, order=1)
    return fine[tuple(slice(0, side) for side in shape)]


def terrain() -> np.ndarray:
    """(258, 258, 258) rolling ground with caves, of six materials, in a rim of nothing."""
    height = 90 + 70 * smooth(1, (SIDE, SIDE), 64)
    levels = np.arange(SIDE, dtype=np.float32)[:, None, None]
    tunnel = [np.abs(smooth(seed, (SIDE,) * 3, 64) - 0.5) < 0.03 for seed in (2, 4)]
    material = 1 + np.minimum(5, (smooth(3, (SIDE,) * 3, 64) * 6).astype(np.uint16))
    cave = tunnel[0] & tunnel[1]
    full = np.zeros((SIDE + 2,) * 3, np.uint16)
    full[1:-1, 1:-1, 1:-1] = np.where((levels < height) & ~cave, material, 0)
    return full


def compares(full: np.ndarray) -> int:
    """What the anchor does: count exposed faces with six compares."""
    inner = full[1:-1, 1:-1, 1:-1] > 0
    found = 0
    for axis in range(3):
        for shift in (0, 2):
            index = [slice(1, -1)] * 3
            index[axis] = slice(shift, shift + inner.shape[axis])
            found += int(np.count_nonzero(inner & (full[tuple(index)] == 0)))
    return found


def ratios() -> Iterator[Ratio]:
    full = terrain()
    assert compares(full) == exposed_faces(full)
    faces, quads = compares(full), len(mesh(full, LOOKS))
    print(f"    256³: {faces:,} faces of cells, {quads:,} rectangles")
    yield compared(
        "6   mesh 256³ / six compares",
        lambda: mesh(full, LOOKS, shaded=False),
        lambda: compares(full),
        1.1,
        rounds=5,
    )
    yield compared(
        "6   the same with the light of corners",
        lambda: mesh(full, LOOKS),
        lambda: compares(full),
        1.1,
        rounds=5,
    )
    chunk = np.ascontiguousarray(full[96:130, 96:130, 96:130])
    whole = min(timed(lambda: mesh(full, LOOKS)) for _ in range(3))
    again = min(timed(lambda: mesh(chunk, LOOKS)) for _ in range(30))
    yield Ratio("6b  re-mesh a chunk of 32³ / the whole", again / whole, 1 / 150, again, whole)
    yield from _frames(full)
    rgb = np.full((8, 3), 140, np.uint8)
    island = mesh(full[:66, :66, :66], LOOKS)
    eye = Eye(height=400, width=640).framing_points(np.array([[0.0, 0, 0], [64, 64, 64]]))
    drawn = faces_of_quads(island, rgb)
    pictures = np.zeros((1, 16, 16, 4), np.uint8)
    seconds = min(timed(lambda: draw(drawn, pictures, eye)) for _ in range(3))
    print(f"    {len(island):,} rectangles drawn without a card at 640×400: {seconds:.2f} s")


def _frames(full: np.ndarray) -> Iterator[Ratio]:
    """A frame of the whole mesh on the card of this machine, against one that only clears."""
    from bench.gpu import frames

    project = new(None, "Terrain")
    for number in range(1, 7):
        name, colour = f"Block {number}", f"#{40 + 30 * number:02x}{200 - 25 * number:02x}60"
        project.add_block(Block(name, colour))
        project.add_brush(Mosaic(name, (Variant(block_ref(name)),)))
    room = project.add_room("Terrain", (SIDE,) * 3)
    (_, layer), *_ = room.data.bottom_up("blocks")
    layer.put_planes({"material": np.ascontiguousarray(full[1:-1, 1:-1, 1:-1])})
    found = frames(project.data, room.data)
    if found is None:
        print("    10  no OpenGL here: frames were not measured")
        return
    print("    10  {:,} rectangles drawn in a frame, {:,} while it turns".format(*found.rectangles))
    for words, took in (("in full", found.full), ("while it turns", found.turning)):
        name = f"10  GL frame of the 256³ mesh, {words} / a clear"
        yield Ratio(name, took / found.clear, 8, took, found.clear)
