"""The plan as a PNG picture."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import ClassVar

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from topion.formats.exports.kind import ExportKind
from topion.formats.exports.plan_svg import CARD, INK, OCHRE, TIDAL
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.pictures.png import png_bytes
from topion.plan.curves import curve_of, point_on
from topion.plan.scene import PlanScene, scene_of
from topion.plan.sheet import Point
from topion.plan.threads import Thread
from topion.render.overview import LONGEST_PX, overview

_Font = ImageFont.FreeTypeFont | ImageFont.ImageFont
_PAPER = "#e6e0d3"
_FINER = 2  # times as large while it is drawn, for smooth lines
_PART_PX = 2.5  # of the straight parts of a curve, about
_DASH = 3  # parts of a curve drawn, then left out


class PlanPng(ExportKind):
    """One picture of the whole plan."""

    kind: ClassVar[str] = "plan-png"
    text: ClassVar[str] = "PNG of the plan"
    whole: ClassVar[bool] = True
    scales: ClassVar[tuple[float, ...]] = (0.5, 1, 2)

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        yield f"{stem(project.name)} plan.png", png_bytes(plan_picture(project, scale))

    def ready(self, project: Project) -> bool:
        return bool(project.shelf("placements"))


def plan_picture(project: Project, scale: float = 1.0) -> Rgba:
    """(h, w, 4) the whole plan.  Raises BadValue for a plan without rooms."""
    scene = scene_of(project, scale)
    high, wide = (side * _FINER for side in scene.size_px)
    image = Image.new("RGBA", (wide, high), _PAPER)
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(13 * _FINER)
    for spot in scene.spots.values():
        rect = scene.rect(spot.rect)
        left, top, right, bottom = (round(v * _FINER) for v in (rect.left, rect.top, rect.right,
                                                                rect.bottom))  # fmt: skip
        size = max(1, right - left), max(1, bottom - top)
        picture = overview(project, project.rooms.passing(spot.room), min(LONGEST_PX, max(size)),
                           spot.place.theme, spot.place.tint)  # fmt: skip
        image.paste(Image.fromarray(picture).resize(size), (left, top))
        draw.rectangle((left, top, right, bottom), outline=INK, width=_FINER)
        tint = f" · {spot.place.tint}" if spot.place.tint else ""
        y, x = scene.title_at(spot)
        draw.text((x * _FINER, y * _FINER), spot.title + tint, INK, font, "ls")
    for joint in scene.joints:
        draw.line([_xy(scene, joint.start), _xy(scene, joint.end)], TIDAL, 3 * _FINER)
    for thread in scene.threads:
        _thread(draw, scene, thread, font)
    for port in scene.ports.values():
        _square(draw, _xy(scene, port.point))
    if scene.start is not None:
        x, y = _xy(scene, scene.start)
        flag = [(0, 0), (0, -22), (16, -16.5), (0, -11)]
        draw.polygon([(x + dx * _FINER, y + dy * _FINER) for dx, dy in flag], TIDAL, INK)
        draw.text((x + 20 * _FINER, y - 6 * _FINER), "start", INK, font, "ls",
                  stroke_width=2 * _FINER, stroke_fill=CARD)  # fmt: skip
    for (y, x), name in scene.goals():
        for radius, ink in ((7.5, TIDAL), (5.0, CARD), (2.6, TIDAL)):
            draw.circle((x * _FINER, y * _FINER), radius * _FINER, ink)
        draw.text((x * _FINER, (y + 18) * _FINER), f"goal: {name}", INK, font, "mm",
                  stroke_width=2 * _FINER, stroke_fill=CARD)  # fmt: skip
    return np.asarray(image.resize((wide // _FINER, high // _FINER), Image.Resampling.BOX))


def _xy(scene: PlanScene, point: Point) -> tuple[float, float]:
    y, x = scene.at(point)
    return x * _FINER, y * _FINER


def _thread(
    draw: ImageDraw.ImageDraw, scene: PlanScene, thread: Thread, font: _Font
) -> None:  # fmt: skip
    points = curve_of(thread)
    long = sum(math.dist(a, b) for a, b in pairwise(points)) * scene.px
    steps = max(8, round(long / _PART_PX))
    way = [_xy(scene, point_on(points, step / steps)) for step in range(steps + 1)]
    draw.line(way, CARD, 5 * _FINER, "curve")
    if thread.both:
        draw.line(way, INK, 2 * _FINER, "curve")
    else:
        for first in range(0, steps, 2 * _DASH):
            draw.line(way[first : first + _DASH + 1], OCHRE, 2 * _FINER, "curve")
    if thread.words:
        middle = _xy(scene, point_on(points, 0.5))
        draw.text(middle, thread.words, INK, font, "mm", stroke_width=3 * _FINER, stroke_fill=CARD)


def _square(draw: ImageDraw.ImageDraw, at: tuple[float, float]) -> None:
    half = 4.5 * _FINER
    box = (at[0] - half, at[1] - half, at[0] + half, at[1] + half)
    draw.rectangle(box, CARD, INK, 2 * _FINER)
