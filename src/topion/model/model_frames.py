"""Frames of animated voxel models, in named sets."""

from __future__ import annotations

from dataclasses import dataclass, replace

from topion.errors import BadValue
from topion.model.frames import STILL, Plays, Timed
from topion.model.solid import VoxelModel
from topion.model.typed import Name, typed


@typed
@dataclass(frozen=True)
class ModelSet(Timed):
    """name : such as still, walking, open.  models : each as large as the others.  ms, plays : see
    `Timed`."""

    name: Name
    models: tuple[VoxelModel, ...]
    ms: tuple[int, ...]
    plays: Plays = "loops"

    def __post_init__(self) -> None:
        self.check_times(len(self.models))
        sizes = {(model.size, model.per_cell) for model in self.models}
        if len(sizes) > 1:
            raise BadValue(f"the frames of {self.name}", "of several sizes", "all of one size")


@dataclass(frozen=True)
class FrameAt:
    """One frame of one set."""

    set_name: str = STILL
    number: int = 0


def set_of(sets: tuple[ModelSet, ...], name: str) -> ModelSet | None:
    """The set of that name."""
    return next((known for known in sets if known.name == name), None)


def with_model_frames(
    sets: tuple[ModelSet, ...], name: str, models: tuple[VoxelModel, ...], ms: tuple[int, ...],
    plays: Plays = "loops",
) -> tuple[ModelSet, ...]:  # fmt: skip
    """The sets with other frames in one of them; without that set where there are no models.

    Raises BadValue for frames that cannot be.
    """
    rest = [known for known in sets if known.name != name]
    at = next((n for n, known in enumerate(sets) if known.name == name), len(rest))
    if models:
        rest.insert(at, ModelSet(name, models, ms, plays))
    return tuple(rest)


def with_frame(sets: tuple[ModelSet, ...], at: FrameAt, model: VoxelModel) -> tuple[ModelSet, ...]:
    """The sets with another model in one frame."""
    known = set_of(sets, at.set_name)
    if known is None:
        return sets
    models = tuple(model if n == at.number else own for n, own in enumerate(known.models))
    return tuple(replace(known, models=models) if own is known else own for own in sets)
