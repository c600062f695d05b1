"""The plan as SVG 1.1: rooms as pictures, threads, doors and names that stay sharp at any size."""

from __future__ import annotations

import base64
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from typing import ClassVar

from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project
from topion.pictures.png import png_bytes
from topion.plan.curves import curve_of, point_on
from topion.plan.scene import PlanScene, scene_of
from topion.plan.sheet import Point, Spot
from topion.plan.threads import Thread
from topion.render.overview import overview

INK, CARD, TIDAL, OCHRE, SOFT = "#22303a", "#fbfaf5", "#23786f", "#b9791a", "#6b7479"
_PAPER = "#e6e0d3"
_PORT_PX = 9.0
_LONGEST_PICTURE = 1440


class PlanSvg(ExportKind):
    """One file for the whole plan."""

    kind: ClassVar[str] = "plan-svg"
    text: ClassVar[str] = "SVG of the plan"
    whole: ClassVar[bool] = True

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        yield f"{stem(project.name)} plan.svg", plan_svg(project, scale)

    def ready(self, project: Project) -> bool:
        return bool(project.shelf("placements"))


def plan_svg(project: Project, scale: float = 1.0) -> bytes:
    """The file.  Raises BadValue for a plan without rooms."""
    scene = scene_of(project, scale)
    high, wide = scene.size_px
    root = ET.Element("svg", {
        "xmlns": "http://www.w3.org/2000/svg", "xmlns:xlink": "http://www.w3.org/1999/xlink",
        "version": "1.1", "width": str(wide), "height": str(high),
        "viewBox": f"0 0 {wide} {high}", "font-family": "Lato, sans-serif", "font-size": "13",
    })  # fmt: skip
    ET.SubElement(root, "title").text = f"Plan of {project.name}"
    _rect(root, (0, 0), (high, wide), fill=_PAPER)
    for spot in scene.spots.values():
        _room(root, project, scene, spot)
    for joint in scene.joints:
        _line(root, scene.at(joint.start), scene.at(joint.end), stroke=TIDAL)
    for thread in scene.threads:
        _thread(root, scene, thread)
    for port in scene.ports.values():
        y, x = scene.at(port.point)
        half = _PORT_PX / 2
        _rect(root, (y - half, x - half), (_PORT_PX, _PORT_PX), fill=CARD, stroke=INK)
    if scene.start is not None:
        y, x = scene.at(scene.start)
        flag = f"M{x:.1f} {y:.1f}v-22l16 5.5l-16 5.5"
        ET.SubElement(root, "path", {"d": flag, "fill": TIDAL, "stroke": INK})
        _text(root, (y - 6, x + 20), "start", halo=True)
    for (y, x), name in scene.goals():
        for radius, ink in ((7.5, TIDAL), (5.0, CARD), (2.6, TIDAL)):
            ET.SubElement(root, "circle", {"cx": f"{x:.1f}", "cy": f"{y:.1f}", "r": str(radius),
                                           "fill": ink})  # fmt: skip
        _text(root, (y + 22, x), f"goal: {name}", anchor="middle", halo=True)
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(root) + b"\n"


def _room(root: ET.Element, project: Project, scene: PlanScene, spot: Spot) -> None:
    rect = scene.rect(spot.rect)
    size = rect.bottom - rect.top, rect.right - rect.left
    group = ET.SubElement(root, "g")
    ET.SubElement(group, "title").text = spot.room
    room = project.rooms.passing(spot.room)
    longest = max(1, min(_LONGEST_PICTURE, round(max(size))))
    picture = png_bytes(overview(project, room, longest, spot.place.theme, spot.place.tint))
    ET.SubElement(group, "image", {
        "x": f"{rect.left:.1f}", "y": f"{rect.top:.1f}",
        "width": f"{size[1]:.1f}", "height": f"{size[0]:.1f}", "preserveAspectRatio": "none",
        "xlink:href": "data:image/png;base64," + base64.b64encode(picture).decode(),
    })  # fmt: skip
    _rect(group, (rect.top, rect.left), size, fill="none", stroke=INK)
    tint = f" · {spot.place.tint}" if spot.place.tint else ""
    _text(group, scene.title_at(spot), spot.title + tint, weight="bold")


def _thread(root: ET.Element, scene: PlanScene, thread: Thread) -> None:
    points = curve_of(thread)
    (y0, x0), (y1, x1), (y2, x2), (y3, x3) = (scene.at(point) for point in points)
    way = f"M{x0:.1f} {y0:.1f}C{x1:.1f} {y1:.1f} {x2:.1f} {y2:.1f} {x3:.1f} {y3:.1f}"
    ET.SubElement(root, "path", {"d": way, "fill": "none", "stroke": CARD, "stroke-width": "5"})
    look = {"stroke": INK} if thread.both else {"stroke": OCHRE, "stroke-dasharray": "8 5"}
    ET.SubElement(root, "path", {"d": way, "fill": "none", "stroke-width": "2", **look})
    if thread.words:
        _text(root, scene.at(point_on(points, 0.5)), thread.words, anchor="middle", halo=True)


def _rect(root: ET.Element, at: Point, size: Point, **look: str) -> None:
    ET.SubElement(root, "rect", {"x": f"{at[1]:.1f}", "y": f"{at[0]:.1f}",
                                 "width": f"{size[1]:.1f}", "height": f"{size[0]:.1f}",
                                 **look})  # fmt: skip


def _line(root: ET.Element, start: Point, end: Point, **look: str) -> None:
    ET.SubElement(root, "path", {"d": f"M{start[1]:.1f} {start[0]:.1f}L{end[1]:.1f} {end[0]:.1f}",
                                 "stroke-width": "3", **look})  # fmt: skip


def _text(
    root: ET.Element, at: Point, words: str, *, weight: str = "normal", anchor: str = "start",
    halo: bool = False,
) -> None:  # fmt: skip
    place = {"x": f"{at[1]:.1f}", "y": f"{at[0]:.1f}", "font-weight": weight,
             "text-anchor": anchor}  # fmt: skip
    edge = {"stroke": CARD, "stroke-width": "4", "stroke-linejoin": "round", "fill": CARD}
    for look in (edge, {"fill": INK}) if halo else ({"fill": INK},):
        ET.SubElement(root, "text", {**place, **look}).text = words
