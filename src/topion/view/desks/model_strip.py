"""The frames of a voxel model: as those of a picture, each shown by a portrait of its model."""

from __future__ import annotations

from collections.abc import Callable

from topion.model.frames import FrameSet, Plays
from topion.model.model_frames import FrameAt, ModelSet, set_of, with_model_frames
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.solid import VoxelModel
from topion.pictures.png import picture_of
from topion.render.portraits import model_portrait
from topion.view.desks.frame_strip import FrameStrip

_SIDE = 44  # px


class ModelStrip(FrameStrip):
    """put_sets : called with all sets once one was changed.  shows : with the frame to be built, or
    None where the set has none."""

    def __init__(self) -> None:
        super().__init__()
        self.put_sets: Callable[[tuple[ModelSet, ...]], object] = lambda _: None
        self.shows: Callable[[FrameAt | None], object] = lambda _: None
        self._portraits: dict[int, tuple[VoxelModel, Picture]] = {}
        self.add.setText("+ frame")
        self.add.setToolTip("One more frame, as the chosen one is now")

    def portrait(self, model: VoxelModel) -> Picture:
        """What a model is shown by; the same for the same one."""
        found = self._portraits.get(id(model))
        if found is None or found[0] is not model:
            found = self._portraits[id(model)] = (model, picture_of(model_portrait(model, _SIDE)))
        return found[1]

    def models(self) -> ModelSet | None:
        """The frames that are shown."""
        return set_of(self.prefab.model_frames, self.set_name) if self.prefab else None

    def shown(self) -> FrameSet | None:
        found = self.models()
        if found is None:
            return None
        pictures = tuple(self.portrait(model) for model in found.models)
        return FrameSet(found.name, pictures, found.ms, found.plays)

    def show_prefab(self, prefab: Prefab) -> None:
        super().show_prefab(prefab)
        self.shows(FrameAt(self.set_name, self.chosen) if self.models() is not None else None)

    def own_sets(self, prefab: Prefab) -> list[str]:
        return [known.name for known in prefab.model_frames]

    def put_frames(self, pictures: tuple[Picture, ...], ms: tuple[int, ...], plays: Plays) -> None:
        of = {id(picture): model for model, picture in self._portraits.values()}
        if self.prefab is not None:
            models = tuple(of[id(picture)] for picture in pictures)
            known = self.prefab.model_frames
            self.put_sets(with_model_frames(known, self.set_name, models, ms, plays))

    def ask(self) -> None:
        """One more frame, after the chosen one."""
        found, prefab = self.models(), self.prefab
        if prefab is None or prefab.model is None:
            return
        if found is None:
            twice = (prefab.model, prefab.model)
            self.chosen = 1
            self.put_sets(with_model_frames(prefab.model_frames, self.set_name, twice, (160, 160)))
            return
        at = self.chosen + 1
        models = (*found.models[:at], found.models[self.chosen], *found.models[at:])
        ms = (*found.ms[:at], found.ms[self.chosen], *found.ms[at:])
        self.chosen = at
        self.put_sets(with_model_frames(prefab.model_frames, self.set_name, models, ms,
                                        found.plays))  # fmt: skip
