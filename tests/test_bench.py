"""The bench keeps up with what it measures."""

import importlib
import pkgutil

import bench
import numpy as np
import pytest
from bench.learning import patches, woven
from bench.plain_echo import Sample, Solver
from bench.plain_learn import learned, plain_of

from topion.weaving.learn import learn


@pytest.mark.parametrize("name", [m.name for m in pkgutil.iter_modules(bench.__path__)])
def test_every_part_can_be_begun(name):
    if name != "__main__":
        importlib.import_module(f"bench.{name}")


@pytest.mark.parametrize("once", [True, False])
def test_the_plain_way_of_learning_finds_as_few_cards(once):
    example, refs = woven(32)
    cards = learned(plain_of(example, 1), once=once)
    assert len(cards) == len(learn(example, refs, ("Mud", "Water"), 1).book.rules)


@pytest.mark.parametrize("by_cells", [True, False])
def test_the_plain_way_of_echo_lays_only_what_was_seen(by_cells):
    sample = patches(2, 12, 4)
    filled = np.array(Solver(Sample.of(sample.tolist(), 2, by_cells=by_cells), (8, 8), 1).filled())
    view = np.lib.stride_tricks.sliding_window_view
    known = {tuple(w) for w in view(sample, (2, 2)).reshape(-1, 4).tolist()}
    assert {tuple(w) for w in view(filled, (2, 2)).reshape(-1, 4).tolist()} <= known
