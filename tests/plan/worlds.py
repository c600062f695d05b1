"""A small world on a plan: rooms with doors into each other."""

from __future__ import annotations

from tests.rooms import small_project, stand
from topion.edit.logic import link_doors
from topion.edit.pieces import Pick
from topion.edit.places import place_room
from topion.model.prefab import Thing
from topion.roles import Door, Goal, Pickup, Start

ROOMS = {"Yard": (10, 20), "Attic": (8, 12), "Cave": (9, 14)}


def small_world():
    """Yard, Attic and Cave beside each other: Yard and Attic lead to each other, Cave leads to
    Yard and nothing leads there.  Yard has the start, Attic the goal and a token."""
    project = small_project()
    yard, attic, cave = (project.add_room(name, size) for name, size in ROOMS.items())
    stand(yard, Thing("Bush", 4, 17, role=Door()), Thing("Bush", 5, 2, role=Start()),
          Thing("Bush", 8, 17, role=Door()))  # fmt: skip
    stand(attic, Thing("Bush", 4, 1, role=Door()), Thing("Bush", 6, 10, role=Goal("the world")),
          Thing("Bush", 2, 6, role=Pickup()))  # fmt: skip
    stand(cave, Thing("Bush", 4, 6, role=Door()), Thing("Bush", 6, 6, role=Pickup()))
    for room, at in (("Yard", (0, 0)), ("Attic", (0, 30)), ("Cave", (20, 0))):
        project.history.apply(place_room(project.data, room, at))
    link(project, ("Yard", 1), ("Attic", 1), back=True)
    link(project, ("Cave", 1), ("Yard", 3), back=False)
    return project


def link(project, here, there, *, back, places=("", "")):
    """Let a door lead to another one; both as (room, number)."""
    ends = [(room, Pick("things", number)) for room, number in (here, there)]
    assert project.history.apply(link_doors(project.data, *ends, back=back, places=places))
