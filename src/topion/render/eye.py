"""Where a voxel room is looked at from: the way from cells to a picture and back.

Points are corner coordinates (z, y, x) in cells; pictures are (y, x) px from the top left.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.grid.rays import Point, Ray

FIELD_OF_VIEW_DEG = 34.0
SMALLEST_PX, LARGEST_PX = 0.5, 400.0  # of a cell
_STEEPEST_DEG = 90.0

View = Literal["south-east", "south-west", "north-west", "north-east", "top",
               "south", "east", "north"]  # fmt: skip
_TURNS_DEG: dict[str, tuple[float, float]] = {  # yaw and pitch; yaw 0 looks north, 90 east
    "south-east": (-45.0, 30.0),
    "south-west": (45.0, 30.0),
    "north-west": (135.0, 30.0),
    "north-east": (225.0, 30.0),
    "top": (0.0, 90.0),
    "south": (0.0, 0.0),
    "east": (-90.0, 0.0),
    "north": (180.0, 0.0),
}
FARTHEST_PX = 30_000.0  # from the picture
VIEWS: tuple[View, ...] = tuple(_TURNS_DEG)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Eye:
    """target : what the middle of the picture shows.  yaw, pitch : degrees; yaw 0 looks north,
    90 east, and pitch 90 straight down.  px : of one cell at the target.
    height, width : of the picture in px.  reach : how far, in cells, anything lies from it.
    """

    target: Point = (0.0, 0.0, 0.0)
    yaw: float = -45.0
    pitch: float = 30.0
    px: float = 20.0
    height: int = 600
    width: int = 800
    perspective: bool = False
    reach: float = 100.0

    @property
    def forward(self) -> NDArray[np.float64]:
        p, q = math.radians(self.pitch), math.radians(self.yaw)
        return np.array([-math.sin(p), -math.cos(q) * math.cos(p), math.sin(q) * math.cos(p)])

    @property
    def right(self) -> NDArray[np.float64]:
        q = math.radians(self.yaw)
        return np.array([0.0, math.sin(q), math.cos(q)])

    @property
    def up(self) -> NDArray[np.float64]:
        p, q = math.radians(self.pitch), math.radians(self.yaw)
        return np.array([math.cos(p), -math.cos(q) * math.sin(p), math.sin(q) * math.sin(p)])

    @property
    def focal(self) -> float:
        """px from the eye to the picture."""
        return self.height / 2 / math.tan(math.radians(FIELD_OF_VIEW_DEG / 2))

    @property
    def distance(self) -> float:
        """Cells from the eye to the target."""
        return self.focal / self.px if self.perspective else 2 * self.reach

    @property
    def place(self) -> NDArray[np.float64]:
        """Where the eye is; of parallel rays, somewhere far behind the target."""
        return np.array(self.target) - self.forward * self.distance

    def seen(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 3) points to (n, 3): y and x in the picture, and depth in cells along the view."""
        rel = points - self.place
        x, y, depth = rel @ self.right, rel @ self.up, rel @ self.forward
        scale = self.focal / np.maximum(depth, 1e-6) if self.perspective else self.px
        return np.stack([self.height / 2 - y * scale, self.width / 2 + x * scale, depth], axis=1)

    def near(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """The same, with y and x no farther off than can be drawn: what stands beside the eye
        would be seen without bounds."""
        found = self.seen(points)
        found[:, :2] = found[:, :2].clip(-FARTHEST_PX, FARTHEST_PX)
        return found

    def ray(self, y: float, x: float) -> Ray:
        """The ray that leads into the room at a point of the picture."""
        off_x, off_y = x - self.width / 2, self.height / 2 - y
        if not self.perspective:
            at = self.place + (self.right * off_x + self.up * off_y) / self.px
            return Ray(tuple(at.tolist()), tuple(self.forward.tolist()))
        towards = self.forward * self.focal + self.right * off_x + self.up * off_y
        towards /= np.linalg.norm(towards)
        return Ray(tuple(self.place.tolist()), tuple(towards.tolist()))

    def matrix(self) -> NDArray[np.float32]:
        """(4, 4) from (x, y, z, 1) in cells to clip space."""
        right, up, forward, place = self.right, self.up, self.forward, self.place
        view = np.eye(4)
        for row, axis in enumerate((right, up, forward)):
            view[row, :3] = axis[::-1]
            view[row, 3] = -float(axis @ place)
        near = max(0.05, self.distance - 2 * self.reach)
        far = self.distance + 2 * self.reach
        out = np.zeros((4, 4))
        if self.perspective:
            out[0, 0], out[1, 1] = 2 * self.focal / self.width, 2 * self.focal / self.height
            out[2, 2], out[2, 3] = (far + near) / (far - near), -2 * far * near / (far - near)
            out[3, 2] = 1.0
        else:
            near = -2 * self.reach
            out[0, 0], out[1, 1] = 2 * self.px / self.width, 2 * self.px / self.height
            out[2, 2], out[2, 3] = 2 / (far - near), -(far + near) / (far - near)
            out[3, 3] = 1.0
        return np.asarray(out @ view, np.float32)

    def scaled(self, height: int, width: int) -> Eye:
        """The same view in a picture of another size."""
        factor = min(height / self.height, width / self.width)
        return replace(self, height=height, width=width, px=self.px * factor)

    # --- moving ---------------------------------------------------------------------------

    def turned(self, yaw: float, pitch: float) -> Eye:
        """Orbited about the target."""
        steep = min(_STEEPEST_DEG, max(-_STEEPEST_DEG, self.pitch + pitch))
        return replace(self, yaw=(self.yaw + yaw + 180) % 360 - 180, pitch=steep)

    def panned(self, dy: float, dx: float) -> Eye:
        """Moved so that the picture shifts by px."""
        by = (self.up * dy - self.right * dx) / self.px
        return replace(self, target=tuple((np.array(self.target) + by).tolist()))

    def zoomed(self, factor: float, y: float, x: float) -> Eye:
        """Nearer or farther, so that what the target's plane shows at the point stays there."""
        px = min(LARGEST_PX, max(SMALLEST_PX, self.px * factor))
        off = self.right * (x - self.width / 2) + self.up * (self.height / 2 - y)
        by = off * (1 / self.px - 1 / px)
        return replace(self, px=px, target=tuple((np.array(self.target) + by).tolist()))

    def looking(self, view: View) -> Eye:
        """From one of the fixed places."""
        yaw, pitch = _TURNS_DEG[view]
        return replace(self, yaw=(yaw + 180) % 360 - 180, pitch=pitch)

    def framing(self, box: Box, pad: float = 0.92) -> Eye:
        """With all of a box of cells in the picture."""
        lo, hi = np.array(box.lo, float), np.array(box.hi, float)
        corners = np.array([(z, y, x) for z in (lo[0], hi[0]) for y in (lo[1], hi[1])
                            for x in (lo[2], hi[2])])  # fmt: skip
        return self.framing_points(corners, pad)

    def framing_points(self, points: NDArray[np.float64], pad: float = 0.92) -> Eye:
        """With (n, 3) points in the picture, and in the middle of it."""
        lo, hi = points.min(axis=0), points.max(axis=0)
        reach = float(np.linalg.norm(hi - lo)) / 2 + 8
        middle = (lo + hi) / 2
        flat = replace(self, target=tuple(middle.tolist()), reach=reach, perspective=False, px=1.0)
        seen = flat.seen(points)[:, :2]
        low, high = seen.min(axis=0), seen.max(axis=0)
        span = np.maximum(high - low, 1e-6)
        off = (low + high) / 2 - (self.height / 2, self.width / 2)
        middle = middle + self.right * off[1] - self.up * off[0]
        flat = replace(flat, target=tuple(middle.tolist()))
        px = pad * min(self.height / span[0], self.width / span[1])
        if self.perspective:  # what is nearer looks larger
            px *= 0.86
        px = min(LARGEST_PX, max(SMALLEST_PX, float(px)))
        return replace(flat, px=px, perspective=self.perspective)
