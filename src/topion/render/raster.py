"""Faces to pixels, without a graphics card: every pixel shows the nearest rectangle.

Each rectangle is tried on the pixels of the box round it; the ray through a pixel meets the
plane of the rectangle in a place (u, v), which lies inside or not.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import Rgba
from topion.render.eye import Eye
from topion.render.faces import OPENNESS, SIDE_PX, Faces, light

MOST_PX = 1 << 26
_FRAGMENTS = 1 << 21  # tried at once
SKY_TOP, SKY_FOOT = (0xE9, 0xE5, 0xDB), (0xC6, 0xBD, 0xAB)


def sky(height: int, width: int) -> Rgba:
    """(h, w, 4) the paper-coloured sky behind a room."""
    t = np.linspace(0, 1, max(height, 2))[:height, None]
    rows = np.array(SKY_TOP) * (1 - t) + np.array(SKY_FOOT) * t
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., :3] = np.rint(rows)[:, None]
    return out


def draw(faces: Faces, pictures: NDArray[np.uint8], eye: Eye, below: Rgba | None = None) -> Rgba:
    """(h, w, 4) the faces as the eye sees them, over `below` or over nothing.

    pictures : as in FaceBook.  Raises BadValue for a picture too large.
    """
    if eye.height * eye.width > MOST_PX or min(eye.height, eye.width) < 1:
        size = (eye.height, eye.width)
        raise BadValue("the size of the picture", size, f"1 to {MOST_PX >> 20} million px")
    out = below if below is not None else np.zeros((eye.height, eye.width, 4), np.uint8)
    depth = np.full(eye.height * eye.width, np.inf)
    flat = out.reshape(-1, 4)
    towards = eye.place - faces.corners if eye.perspective else -eye.forward
    shown = np.flatnonzero((faces.normals * towards).sum(axis=1) > 1e-9)
    boxes = _boxes(faces, shown, eye)
    counts = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    shown, boxes, counts = shown[counts > 0], boxes[counts > 0], counts[counts > 0]
    ends = np.cumsum(counts)
    first = 0
    while first < len(shown):
        done = ends[first - 1] if first else 0
        last = max(first + 1, int(np.searchsorted(ends, done + _FRAGMENTS, side="right")))
        part = slice(first, last)
        _draw_part(faces, pictures, eye, shown[part], boxes[part], counts[part], flat, depth)
        first = last
    return out


def _boxes(faces: Faces, rows: NDArray[np.intp], eye: Eye) -> NDArray[np.intp]:
    """(n, 4) y0 x0 y1 x1 of the pixels each rectangle may touch; empty behind the eye."""
    corners, us, vs = faces.corners[rows], faces.us[rows], faces.vs[rows]
    points = np.stack([corners, corners + us, corners + vs, corners + us + vs], axis=1)
    seen = eye.seen(points.reshape(-1, 3)).reshape(-1, 4, 3)
    lo = np.floor(seen[..., :2].min(axis=1)).astype(np.intp)
    hi = np.ceil(seen[..., :2].max(axis=1)).astype(np.intp) + 1
    most = np.array([eye.height, eye.width])
    boxes = np.concatenate([lo.clip(0, most), hi.clip(0, most)], axis=1)
    behind = (seen[..., 2] < 0.01).any(axis=1) & eye.perspective
    boxes[behind] = 0
    return boxes


def _draw_part(
    faces: Faces,
    pictures: NDArray[np.uint8],
    eye: Eye,
    rows: NDArray[np.intp],
    boxes: NDArray[np.intp],
    counts: NDArray[np.intp],
    flat: NDArray[np.uint8],
    depth: NDArray[np.float64],
) -> None:
    which = np.repeat(np.arange(len(rows)), counts)
    step = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    wide = (boxes[:, 3] - boxes[:, 1])[which]
    y, x = boxes[which, 0] + step // wide, boxes[which, 1] + step % wide
    u, v, far = _met(faces, eye, rows, which, y, x)
    hit = (u >= 0) & (u < 1) & (v >= 0) & (v < 1) & (far > 0)
    at = y[hit] * eye.width + x[hit]
    which, u, v, far = which[hit], u[hit], v[hit], far[hit]
    nearer = far < depth[at]
    at, which, u, v, far = at[nearer], which[nearer], u[nearer], v[nearer], far[nearer]
    order = np.lexsort((-far, at))
    last = np.flatnonzero(np.diff(at[order], append=-1))  # the nearest of each pixel
    keep = order[last]
    at, row, u, v = at[keep], rows[which[keep]], u[keep], v[keep]
    depth[at] = far[keep]
    rgb = _shown(faces, pictures, row, u, v)
    flat[at, :3] = rgb
    flat[at, 3] = 255


def _met(
    faces: Faces,
    eye: Eye,
    rows: NDArray[np.intp],
    which: NDArray[np.intp],
    y: NDArray[np.intp],
    x: NDArray[np.intp],
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Where the ray of each pixel meets the plane of its rectangle: u, v, and how far."""
    off_x, off_y = x + 0.5 - eye.width / 2, eye.height / 2 - y - 0.5
    us, vs, normals = faces.us[rows], faces.vs[rows], faces.normals[rows]
    base = faces.corners[rows] - eye.place
    if eye.perspective:
        ray = eye.forward * eye.focal + off_x[:, None] * eye.right + off_y[:, None] * eye.up
        ray /= eye.focal
        start = np.zeros(3)
        bottom = (ray * normals[which]).sum(axis=1)
        far = (base * normals).sum(axis=1)[which] / bottom
        point = ray * far[:, None] - base[which]
    else:
        start = (off_x[:, None] * eye.right + off_y[:, None] * eye.up) / eye.px
        bottom = (normals @ eye.forward)[which]
        far = ((base * normals).sum(axis=1)[which] - (start * normals[which]).sum(axis=1)) / bottom
        point = start + eye.forward * far[:, None] - base[which]
    u = (point * (us / (us**2).sum(axis=1, keepdims=True))[which]).sum(axis=1)
    v = (point * (vs / (vs**2).sum(axis=1, keepdims=True))[which]).sum(axis=1)
    return u, v, far


def _shown(
    faces: Faces,
    pictures: NDArray[np.uint8],
    row: NDArray[np.intp],
    u: NDArray[np.float64],
    v: NDArray[np.float64],
) -> NDArray[np.uint8]:
    """(n, 3) the colours at places (u, v) of rectangles."""
    base = faces.rgb[row].astype(np.float64)
    layer = faces.layers[row]
    pictured = np.flatnonzero(layer)
    if len(pictured):
        steps = faces.pixels[row[pictured]]
        place = (
            steps[..., 0] + steps[..., 1] * u[pictured, None] + steps[..., 2] * v[pictured, None]
        )
        pixel = np.floor((place - np.floor(place)) * SIDE_PX).astype(np.intp) % SIDE_PX
        found = pictures[layer[pictured], pixel[:, 1], pixel[:, 0]]
        alpha = found[:, 3:] / 255.0
        base[pictured] = found[:, :3] * alpha + base[pictured] * (1 - alpha)
    corner = OPENNESS[faces.openness[row]]  # low v low u, low v high u, high v low u, high v high u
    low = corner[:, 0] * (1 - u) + corner[:, 1] * u
    high = corner[:, 2] * (1 - u) + corner[:, 3] * u
    bright = light(faces.normals[row]) * (low * (1 - v) + high * v)
    return np.clip(np.rint(base * bright[:, None]), 0, 255).astype(np.uint8)
