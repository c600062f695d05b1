"""The demo is built once, and read from the cache from then on."""

from __future__ import annotations

import json

import numpy as np
import pytest

from topion.demo import kept
from topion.demo.brinehollow import ROOM, brinehollow
from topion.demo.kept import kept_demo
from topion.model.compare import differences


@pytest.fixture
def cache(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    return tmp_path / "topion"


def no_building(monkeypatch):
    monkeypatch.setattr(kept, "brinehollow", lambda: pytest.fail("it was built again"))


def test_the_second_demo_is_the_first_one_stroke_by_stroke(cache, monkeypatch):
    first = kept_demo()
    assert not list(differences(first.data, brinehollow().data))
    no_building(monkeypatch)
    second = kept_demo()
    assert not list(differences(first.data, second.data))
    assert [e.label for e in second.history.edits] == [e.label for e in first.history.edits]
    assert not second.history.changed and second.folder is None
    for handle in (first, second):
        handle.history.jump(len(handle.history.edits) // 2)
    assert np.array_equal(first.room(ROOM).render(0.5), second.room(ROOM).render(0.5))
    for handle in (first, second):
        handle.history.jump(0)
    assert not list(differences(first.data, second.data))


@pytest.mark.parametrize("damage", [
    lambda path: path.write_text("{}"),
    lambda path: path.write_bytes(path.read_bytes()[:-500]),
    lambda path: path.write_text(json.dumps({"whole": {"label": "x", "records": []}, "strokes": []})),
    lambda path: path.unlink(),
])  # fmt: skip
def test_a_cache_that_is_not_sound_is_built_anew(cache, damage):
    kept_demo()
    (path,) = cache.glob("demo-*.json")
    text = path.read_text()
    damage(path)
    assert kept_demo().rooms() == brinehollow().rooms()
    assert path.read_text() == text


def test_what_other_code_built_is_let_go(cache, monkeypatch):
    kept_demo()
    monkeypatch.setattr(kept, "_digest", lambda: "other")
    kept_demo()
    assert [path.name for path in cache.glob("demo-*.json")] == ["demo-other.json"]


def test_without_a_cache_the_demo_still_comes(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("in the way")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "file"))
    assert kept_demo().rooms() == brinehollow().rooms()
