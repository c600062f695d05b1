"""What a brush has beside what all have is asked of its class once."""

from typing import Protocol, runtime_checkable

import pytest

from topion.brushes.kind import DrawsCurves, LaysScrap, Nibbed, Seeded, SoftEdged, Stepped
from topion.demo.brinehollow import brinehollow
from topion.model.facets import Facet
from topion.things.field import Sows
from topion.weaving.looms import Weaves
from topion.weaving.shapes import Shapes

FACETS = {
    DrawsCurves: ("fill", "curves"), LaysScrap: ("content", "way", "corner_of"),
    Nibbed: ("nib",), Seeded: ("seed",), SoftEdged: ("radius", "soft"), Stepped: ("cell_parts",),
    Sows: ("field",), Weaves: ("seed", "material", "book"),
    Shapes: ("axes", "joins", "material", "forms", "coded"),
}  # fmt: skip


@runtime_checkable
class Loud(Facet, Protocol):
    volume: int

    def shout(self) -> str: ...


class Horn:
    def __init__(self) -> None:
        self.volume = 3
        self.asked = 0

    def shout(self) -> str:
        self.asked += 1
        return "toot"


class Stone:
    volume = 1


def test_a_facet_is_had_by_what_has_all_its_names():
    assert isinstance(Horn(), Loud) and isinstance(Horn(), Loud)
    assert not isinstance(Stone(), Loud) and not isinstance(3, Loud)


def test_nothing_is_called_to_find_out():
    horn = Horn()
    assert isinstance(horn, Loud) and horn.asked == 0


def test_a_class_that_takes_after_one_is_asked_for_itself():
    class Whistle(Horn):
        pass

    class Silent(Stone):
        pass

    assert isinstance(Whistle(), Loud) and not isinstance(Silent(), Loud)


@pytest.fixture(scope="module")
def brushes():
    return brinehollow().data.brushes


@pytest.mark.parametrize("facet", FACETS)
def test_each_brush_of_the_demo_answers_for_itself(brushes, facet):
    for brush in brushes.values():
        has_all = all(hasattr(brush, name) for name in FACETS[facet])
        assert isinstance(brush, facet) == has_all
