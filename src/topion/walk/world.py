"""The rooms of a project, made ready to be walked by one figure as they are entered."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from topion.errors import UnknownName
from topion.model.figure import PLAIN_FIGURE, Figure
from topion.model.project import Project
from topion.model.room import Room
from topion.roles import RoleKind
from topion.walk.scale import Scale
from topion.walk.stage import AnyTerrain, Stage, stage_of
from topion.walk.state import State

_MOST_TRIED = 4000  # cells, for a place where the figure can stand


class World:
    """figure : the body that walks.  Rooms are read and made ready at first use."""

    def __init__(self, project: Project, figure: Figure | None = None) -> None:
        """project : frozen, or not changed while it is walked."""
        self.project = project
        self.figure = figure or figure_of(project)
        self.scale = Scale.of(self.figure)
        self._stages: dict[str, Stage] = {}

    def stage(self, room: str) -> Stage:
        """A room made ready.  Raises UnknownName."""
        found = self._stages.get(room)
        if found is None:
            if room not in self.project.rooms:
                raise UnknownName("room", room, self.project.rooms)
            found = stage_of(self.project, self.project.room(room), self.scale)
            self._stages[room] = found
        return found

    def showing(self, stage: Stage) -> World:
        """Another world for the same figure, in which that room is as given."""
        other = World(self.project, self.figure)
        other._stages[stage.room] = stage
        return other

    def terrain(self, room: str) -> AnyTerrain:
        """What the figure meets in a room."""
        return self.stage(room).terrain

    def room(self, name: str) -> Room:
        """A room as it was painted."""
        return self.project.room(name)

    def role_of(self, prefab: str) -> RoleKind | None:
        """What things of a prefab do that were sent out."""
        found = self.project.prefabs.get(prefab)
        return found.role if found is not None and isinstance(found.role, RoleKind) else None

    def counted_as(self, prefab: str) -> tuple[str, ...]:
        """The names by which a condition may count a taken thing."""
        found = self.project.prefabs.get(prefab)
        return (prefab, found.class_name if found is not None else "", "anything")

    # --- places ---------------------------------------------------------------------------

    def begin(self, room: str, at: tuple[float, ...] | None = None) -> State:
        """A walk that begins in a room: at a place in cells, or where the room starts, or in the
        first place where the figure can stand.  Raises UnknownName."""
        stage = self.stage(room)
        looks = 1
        if at is None:
            start = stage.start()
            if start is not None:
                looks = -1 if getattr(start.role, "looks", "right") == "left" else 1
                x, y, z = self.standing_in(stage, start.home)
            else:
                x, y, z = self._somewhere(stage)
        else:
            x, y, z = self.at_place(stage, at)
        over = self.falls_up(stage)
        worn = self.placed_as(room, self._begins_in(room))
        return State(self, room, 0, x, y, z, stage.first(), looks=looks, over=over,
                     safe=(room, x, y, z, over), worn=worn)  # fmt: skip

    def _begins_in(self, room: str) -> str:
        """The place of a room at which the world starts; empty for none."""
        places = self.project.shelf("placements")
        return next((n for n, known in places.items() if known.room == room and known.begins), "")

    def placed_as(self, room: str, place: str = "") -> str:
        """The place on the plan that a room is entered as: the one that is named, else its first;
        empty for a room that is not on the plan."""
        places = self.project.shelf("placements")
        if place in places and places[place].room == room:
            return place
        return next((name for name, known in places.items() if known.room == room), "")

    def falls_up(self, stage: Stage) -> bool:
        """Whether the figure falls up there as long as nothing turns gravity over."""
        return stage.view == "side" and self.figure.gravity == "up"

    def sizes(self, view: str) -> tuple[int, int]:
        """(wide, high) of the box of the figure as it is seen: from above it is as deep as wide."""
        scale = self.scale
        return (scale.wide, scale.wide) if view == "top" else (scale.wide, scale.high)

    def standing_in(self, stage: Stage, home: tuple[int, ...]) -> tuple[int, int, int]:
        """(x, y, z) with its feet in the bottom middle of a box, in the top middle if it falls up;
        in the middle seen from above."""
        wide, high = self.sizes(stage.view)
        middle = (home[0] + home[2]) // 2
        if stage.view == "side":
            return middle - wide // 2, home[1] if self.falls_up(stage) else home[3] - high, 0
        y = (home[1] + home[3]) // 2 - wide // 2
        return middle - wide // 2, y, home[4] if len(home) == 6 else 0

    def at_place(self, stage: Stage, at: tuple[float, ...]) -> tuple[int, int, int]:
        """(x, y, z) with its feet in a cell, whose middle is told by whole numbers."""
        cell, units = self.scale.cell, self.scale.units
        *level, y, x = at
        left, top = units(x), units(y)
        foot = units(level[0]) if level else 0
        home = (left, top, left + cell, top + cell)
        return self.standing_in(stage, (*home, foot, foot + cell) if level else home)

    def place_of(self, state: State) -> tuple[float, float, float]:
        """(z, y, x) in cells of the cell its feet are in the middle of; see State.place."""
        stage, cell = self.stage(state.room), self.scale.cell
        wide, high = self.sizes(stage.view)
        x = (state.x + wide / 2) / cell - 0.5
        if stage.view == "side":
            feet = state.y if state.over else state.y + high
            return 0.0, feet / cell - (0 if state.over else 1), x
        return state.z / cell, (state.y + wide / 2) / cell - 0.5, x

    def _somewhere(self, stage: Stage) -> tuple[int, int, int]:
        from topion.walk.ways import is_free  # the ways stand on the world's stages

        cell = self.scale.cell
        columns, rows = stage.size[0] // cell, stage.size[1] // cell
        levels = range(max(1, stage.size[2] // cell)) if stage.view == "voxel" else (0,)
        for row, column in islice(_outwards(rows, columns), _MOST_TRIED):
            for level in levels:
                at = (level, row, column) if stage.view == "voxel" else (row, column)
                x, y, z = self.at_place(stage, at)
                if is_free(self, stage, x, y, z):
                    return x, y, z
        middle = (rows // 2, columns // 2)
        return self.at_place(stage, (0, *middle) if stage.view == "voxel" else middle)


def _outwards(rows: int, columns: int) -> Iterator[tuple[int, int]]:
    """The cells of a room from its middle on, the nearest first."""
    row, column = rows // 2, columns // 2
    for far in range(rows + columns):
        for y in range(max(0, row - far), min(rows, row + far + 1)):
            beside = far - abs(y - row)
            for x in sorted({column - beside, column + beside}):
                if 0 <= x < columns:
                    yield y, x


def figure_of(project: Project) -> Figure:
    """The figure of a project: the first of its library, or a plain one."""
    return next(iter(project.shelf("figures").values()), PLAIN_FIGURE)
