"""Faces to pixels, without a graphics card: every pixel shows the nearest rectangle.

Where a ray through the pixel (x, y) meets the plane of a rectangle, the place (u, v) on it and the
depth are linear in x and y, divided by another linear function where rays are not parallel.  So
each row of pixels meets a rectangle from one x to another, and a pixel keeps the number of what is
nearest; only what is seen is coloured.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import Rgba
from topion.model.light import PLAIN, Light
from topion.render.eye import Eye
from topion.render.faces import SIDE_PX, Faces
from topion.render.lighting import PLAIN_LIT, Lit, hazed, rgb_of

MOST_PX = 1 << 26
_FRAGMENTS = 1 << 21  # tried at once
_NOTHING = np.uint64(0xFFFF_FFFF_FFFF_FFFF)
_NUMBER = np.uint64(0xFFFF_FFFF)
_U, _V, _LOW, _FAR = range(4)  # see _lines
Floats = NDArray[np.float64]
Backdrop = Callable[[int, int, int, int], Rgba]  # height, width, and the rows [top, bottom)


def sky(
    height: int, width: int, top: int = 0, bottom: int | None = None, light: Light = PLAIN
) -> Rgba:
    """(n, w, 4) the sky behind a room, paper-coloured unless its light is another, or the rows
    [top, bottom) of it."""
    t = np.linspace(0, 1, max(height, 2))[top : height if bottom is None else bottom, None]
    rows = 255 * (rgb_of(light.above) * (1 - t) + rgb_of(light.below) * t)
    out = np.full((len(rows), width, 4), 255, np.uint8)
    out[..., :3] = np.rint(rows)[:, None]
    return out


def nothing(height: int, width: int, top: int, bottom: int) -> Rgba:
    """(n, w, 4) clear pixels."""
    return np.zeros((bottom - top, width, 4), np.uint8)


def draw(faces: Faces, pictures: NDArray[np.uint8], eye: Eye, behind: Backdrop = nothing) -> Rgba:
    """(h, w, 4) the faces as the eye sees them.

    pictures : as in FaceBook.  Raises BadValue for a picture too large.
    """
    return Drawing(faces, pictures, eye).rows(0, eye.height, behind)


class Drawing:
    """Faces as an eye sees them, ready to be drawn row by row.  Raises BadValue for a picture too
    large."""

    def __init__(
        self,
        faces: Faces,
        pictures: NDArray[np.uint8],
        eye: Eye,
        light: Lit = PLAIN_LIT,
        reach: tuple[float, float] = (0.0, 1.0),
    ) -> None:
        """reach : how deep haze begins and is thickest, in cells."""
        if eye.height * eye.width > MOST_PX or min(eye.height, eye.width) < 1:
            size = (eye.height, eye.width)
            raise BadValue("the size of the picture", size, f"1 to {MOST_PX >> 20} million px")
        towards = eye.place - faces.corners if eye.perspective else -eye.forward
        facing = np.flatnonzero((faces.normals * towards).sum(axis=1) > 1e-9)
        rows = _rows_met(faces, facing, eye)
        met = rows[:, 0] < rows[:, 1]
        self._eye, self._pictures = eye, pictures
        self._faces = faces.picked(facing[met])
        self._rows = rows[met]
        self._lines = _lines(self._faces, eye)
        self._light, self._reach = light, reach
        self._bright = light.on(self._faces.normals).astype(np.float32)  # (n, 3)
        self._corners = light.openness[self._faces.openness].astype(np.float32)
        # most faces have one colour all over, which need not be worked out pixel by pixel
        self._pictured = self._faces.layers != 0
        self._shadowed = np.ptp(self._faces.openness, axis=1) > 0
        self._plain = _lit(self._faces.rgb * self._bright, self._corners[:, 0])
        steps = self._faces.pixels * SIDE_PX
        # (n, 2, 3): where on the picture a pixel lies, in its pixels, right and down
        self._places = np.einsum("nak,nkl->nal", steps, self._lines[:, (_LOW, _U, _V)])

    def rows(self, top: int, bottom: int, behind: Backdrop) -> Rgba:
        """(n, w, 4) the rows [top, bottom) of the picture."""
        width = self._eye.width
        out = behind(self._eye.height, width, top, bottom)
        nearest = np.full((bottom - top) * width, _NOTHING)
        here = np.flatnonzero((self._rows[:, 0] < bottom) & (self._rows[:, 1] > top))
        lo = np.maximum(self._rows[here, 0], top)
        counts = np.minimum(self._rows[here, 1], bottom) - lo
        ends = np.cumsum(counts)
        first = 0
        while first < len(here):  # so many rows of rectangles at once
            done = int(ends[first - 1]) if first else 0
            last = max(first + 1, int(np.searchsorted(ends, done + _FRAGMENTS // 8, "right")))
            part = slice(first, last)
            which = np.repeat(here[part], counts[part])
            starts = np.repeat(lo[part] - (ends[part] - counts[part] - done), counts[part])
            self._keep_nearest(nearest, which, starts + np.arange(len(which)), top)
            first = last
        self._colour_in_place(out, nearest, top)
        return out

    def _keep_nearest(
        self, nearest: NDArray[np.uint64], which: NDArray[np.intp], y: NDArray[np.intp], top: int
    ) -> None:
        """Put the faces `which` on the rows `y` of pixels where nothing is nearer."""
        first, last = self._span(which, y)
        met = np.flatnonzero(first < last)
        which, y, first, counts = which[met], y[met], first[met], (last - first)[met]
        ends = np.cumsum(counts)
        width, lines = self._eye.width, self._lines
        start = 0
        while start < len(which):
            done = int(ends[start - 1]) if start else 0
            stop = max(start + 1, int(np.searchsorted(ends, done + _FRAGMENTS, "right")))
            part = slice(start, stop)
            face, number = which[part], counts[part]
            step = np.arange(int(ends[stop - 1]) - done)
            step -= np.repeat(ends[part] - number - done, number)
            far = _at(lines[face, _FAR], first[part], y[part])
            depth = np.repeat(far, number) + step * np.repeat(lines[face, _FAR, 1], number)
            if self._eye.perspective:
                low = _at(lines[face, _LOW], first[part], y[part])
                depth /= np.repeat(low, number) + step * np.repeat(lines[face, _LOW, 1], number)
            bits = depth.clip(0).astype(np.float32).view(np.uint32)  # order as the depths do
            key = bits.astype(np.uint64) << np.uint64(32)
            key |= np.repeat(face, number).astype(np.uint64)
            at = np.repeat((y[part] - top) * width + first[part], number) + step
            np.minimum.at(nearest, at, key)
            start = stop

    def _span(
        self, which: NDArray[np.intp], y: NDArray[np.intp]
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """From which pixel to which, not included, each row of pixels lies on a face."""
        u, v, low = (self._lines[which, k] for k in (_U, _V, _LOW))
        first = np.zeros(len(which))
        last = np.full(len(which), float(self._eye.width))
        with np.errstate(divide="ignore", invalid="ignore"):
            for line in (u, v, low - u, low - v):  # each is positive on the face
                slope, here = line[:, 1], _at(line, 0, y)
                root = np.ceil(-here / slope)
                first = np.where(slope > 0, np.maximum(first, root), first)
                last = np.where(slope < 0, np.minimum(last, root), last)
                last = np.where((slope == 0) & (here < 0), 0.0, last)
        first = np.minimum(first, self._eye.width)  # nearly level edges reach without end
        return first.astype(np.intp), np.maximum(first, last).astype(np.intp)

    def _colour_in_place(self, out: Rgba, nearest: NDArray[np.uint64], top: int) -> None:
        flat = out.reshape(-1, 4).view(np.uint32)[:, 0]
        at = np.flatnonzero(nearest != _NOTHING)
        face = (nearest[at] & _NUMBER).astype(np.intp)
        flat[at] = self._plain[face]
        uneven = np.flatnonzero((self._pictured | self._shadowed)[face])
        for start in range(0, len(uneven), _FRAGMENTS // 4):
            part = uneven[start : start + _FRAGMENTS // 4]
            y, x = np.divmod(at[part], self._eye.width)
            flat[at[part]] = self._shaded(face[part], x, y + top)
        if self._light.haze:
            depth = (nearest[at] >> np.uint64(32)).astype(np.uint32).view(np.float32)
            share = hazed(self._light, depth, self._reach)[:, None]
            seen = flat[at].view(np.uint8).reshape(-1, 4)[:, :3].astype(np.float32)
            mixed = seen * (1 - share) + 255 * self._light.haze_rgb.astype(np.float32) * share
            flat[at] = _lit(mixed, np.ones(len(at), np.float32))

    def _shaded(
        self, face: NDArray[np.intp], x: NDArray[np.intp], y: NDArray[np.intp]
    ) -> NDArray[np.uint32]:
        """(n,) the pixels of faces with pictures or with shadows in their corners."""
        rgb = self._faces.rgb[face].astype(np.float32)
        part = np.flatnonzero(self._pictured[face])
        if len(part):
            rgb[part] = self._seen_on_pictures(face[part], x[part], y[part], rgb[part])
        rgb *= self._bright[face]
        bright = self._corners[face, 0]
        part = np.flatnonzero(self._shadowed[face])
        if len(part):
            bright[part] = self._brightness(face[part], x[part], y[part])
        return _lit(rgb, bright)

    def _seen_on_pictures(
        self,
        face: NDArray[np.intp],
        x: NDArray[np.intp],
        y: NDArray[np.intp],
        below: NDArray[np.float32],
    ) -> NDArray[np.float32]:
        """(n, 3) what pictures show over the colours of their faces."""
        places = self._divided(self._places, face, x, y)
        across, down = (np.floor(place).astype(np.intp) % SIDE_PX for place in places)
        found = self._pictures[self._faces.layers[face], down, across].astype(np.float32)
        alpha = found[:, 3:] / np.float32(255)
        return np.asarray(found[:, :3] * alpha + below * (1 - alpha), np.float32)

    def _brightness(
        self, face: NDArray[np.intp], x: NDArray[np.intp], y: NDArray[np.intp]
    ) -> NDArray[np.float32]:
        """(n,) light between the corners of faces."""
        u, v = (value.astype(np.float32) for value in self._divided(self._lines, face, x, y))
        # low v low u, low v high u, high v low u, high v high u
        corner = self._corners[face]
        low = corner[:, 0] + (corner[:, 1] - corner[:, 0]) * u
        high = corner[:, 2] + (corner[:, 3] - corner[:, 2]) * u
        return np.asarray(low + (high - low) * v, np.float32)

    def _divided(
        self, lines: Floats, face: NDArray[np.intp], x: NDArray[np.intp], y: NDArray[np.intp]
    ) -> tuple[Floats, Floats]:
        """The first two linear functions of faces at pixels, divided as rays need it."""
        one, two = _at(lines[face, 0], x, y), _at(lines[face, 1], x, y)
        if self._eye.perspective:
            low = _at(self._lines[face, _LOW], x, y)
            return one / low, two / low
        return one, two


def _lit(
    rgb: NDArray[np.uint8] | NDArray[np.float32], bright: NDArray[np.float32]
) -> NDArray[np.uint32]:
    """(n,) opaque pixels as words, red in the lowest byte."""
    out = np.full((len(rgb), 4), 255, np.uint8)
    out[:, :3] = np.rint(rgb * bright[:, None]).clip(0, 255)
    return out.view(np.uint32)[:, 0]


def _at(line: Floats, x: NDArray[np.intp] | int, y: NDArray[np.intp]) -> Floats:
    """(n,) linear functions, (n, 3) as constant, x, y, at pixels."""
    return np.asarray(line[:, 0] + line[:, 1] * x + line[:, 2] * y)


def _rows_met(faces: Faces, rows: NDArray[np.intp], eye: Eye) -> NDArray[np.intp]:
    """(n, 2) from which row of pixels to which, not included, a rectangle reaches; none for those
    behind the eye or beside the picture."""
    corners, us, vs = faces.corners[rows], faces.us[rows], faces.vs[rows]
    points = np.stack([corners, corners + us, corners + vs, corners + us + vs], axis=1)
    seen = eye.near(points.reshape(-1, 3)).reshape(-1, 4, 3)
    found = np.stack([np.ceil(seen[..., 0].min(axis=1) - 0.5),
                      np.floor(seen[..., 0].max(axis=1) - 0.5) + 1], axis=1)  # fmt: skip
    found = found.clip(0, eye.height).astype(np.intp)
    beside = (seen[..., 1].max(axis=1) < 0) | (seen[..., 1].min(axis=1) > eye.width)
    behind = (seen[..., 2] < 0.01).any(axis=1) & eye.perspective
    found[beside | behind] = 0
    return found


def _lines(faces: Faces, eye: Eye) -> Floats:
    """(n, 4, 3) linear functions of the pixel: u, v, what both are divided by, and the depth,
    which is divided by it too; each as constant, factor of x, factor of y."""
    # of the ray through the middle of a pixel, as constant, x, y
    half_y, half_x = (eye.height - 1) / 2, (eye.width - 1) / 2
    across = np.stack([-half_x * eye.right + half_y * eye.up, eye.right, -eye.up])
    base = faces.corners - eye.place
    us = faces.us / np.maximum((faces.us**2).sum(axis=1, keepdims=True), 1e-300)
    vs = faces.vs / np.maximum((faces.vs**2).sum(axis=1, keepdims=True), 1e-300)
    on_plane = (base * faces.normals).sum(axis=1)[:, None]
    if eye.perspective:
        ray = across / eye.focal
        ray[0] += eye.forward
        low = faces.normals @ ray.T  # negative, as is on_plane, on what faces the eye
        far = np.concatenate([on_plane, np.zeros((len(faces), 2))], axis=1)
        places = [on_plane * (way @ ray.T) - (way * base).sum(axis=1)[:, None] * low
                  for way in (us, vs)]  # fmt: skip
        return -np.stack([*places, low, far], axis=1)
    start = across / eye.px
    towards = (faces.normals @ eye.forward)[:, None]
    far = -(faces.normals @ start.T)
    far[:, :1] += on_plane
    far /= towards
    places = []
    for way in (us, vs):
        place = way @ start.T + (way @ eye.forward)[:, None] * far
        place[:, 0] -= (way * base).sum(axis=1)
        places.append(place)
    low = np.zeros_like(far)
    low[:, 0] = 1.0
    return np.stack([*places, low, far], axis=1)
