"""A world of four rooms with doors, a goal that waits for clearing, and an end, walked and kept."""

from __future__ import annotations

import subprocess
import sys

import topion
from tests.journeys.newcomer import RIGHT, Newcomer


def test_a_world_of_four_rooms_is_linked_walked_through_and_recorded(newcomer: Newcomer):
    newcomer.begin("Deep")
    newcomer.click("Things")
    newcomer.click("Door, thing")
    newcomer.stroke((26, 30))
    newcomer.stroke((26, 42))
    for _ in range(3):
        newcomer.key("F9")
        newcomer.click("Duplicate the room")
    newcomer.key("F9")
    newcomer.click("Room 1")
    newcomer.click("Pickup, thing")
    newcomer.stroke((26, 10))
    newcomer.key("S")
    newcomer.stroke((26, 10))
    newcomer.click("no, as its prefab")  # it counts for clearing
    newcomer.key("Esc")
    newcomer.stroke((26, 42))
    newcomer.click("+ condition")
    newcomer.click("the room is cleared")
    newcomer.key("Esc", "D")

    newcomer.key("F2")
    for number in range(1, 5):
        newcomer.click_row("Rooms", f"Room {number},", button=RIGHT)
        newcomer.click("Place on the sheet")
    newcomer.key("F")
    sheet = newcomer.find("Plan of the world")
    for number in range(1, 4):
        newcomer.drag(sheet, [_door(newcomer, number, 1), _door(newcomer, number + 1, 0)])
    newcomer.click("nowhere yet")
    newcomer.click("Goal of Room 4")
    newcomer.await_words("all is well")  # every room can be got into

    newcomer.click("Walk the world")
    newcomer.await_words("Walking")
    newcomer.click("2×")
    newcomer.click("Record from here")
    newcomer.hold("Right")
    for _ in range(400):
        newcomer.key("X")
        if newcomer.sees("World done"):
            break
    newcomer.let_go_of("Right")
    newcomer.await_words("World done")
    newcomer.click("keep this walk")
    newcomer.write("Through all", enter=True)
    newcomer.await_words("Through all")
    newcomer.key("Esc")

    folder = newcomer.save()
    project = topion.open(folder).data
    assert len(project.shelf("placements")) == 4
    assert list(project.shelf("recordings")) == ["Through all"]
    (kept,) = (folder / "recordings").glob("*.json")
    replay = [sys.executable, "-m", "topion", "walk", str(folder), "Room 1", "--replay", str(kept)]
    done = subprocess.run(replay, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def _door(newcomer: Newcomer, room: int, place: int):
    """Where a door is seen on the sheet, the western one first."""

    def point():
        desk = newcomer.window.desks.desk
        doors = [port for port in desk.work.ports.values() if port.spot.room == f"Room {room}"]
        doors.sort(key=lambda port: port.point[1])
        return desk.view.looks.camera.to_px(doors[place].point).toPoint()

    return point
