"""Files are named so that people can read them, and never two alike."""

from __future__ import annotations

import shutil
import unicodedata
from dataclasses import replace
from urllib.parse import quote

from hypothesis import example, given
from hypothesis import strategies as st

import topion.scripting as topion
from tests.rooms import small_project
from topion.formats.stems import LONGEST_STEM, former_stem, stem

NAMES = st.text(st.characters(exclude_categories=("Cs",)), min_size=1, max_size=120)


def test_names_of_all_scripts_stay_readable():
    for name in ("Sluice Yard", "盐田水闸", "Соляной двор", "Grüne Wiese", "नमक", "room-2_b"):
        assert stem(name) == name


def test_what_a_file_system_may_mistake_is_escaped():
    assert stem("a/b") == "a%2Fb" and stem("a\\b") == "a%5Cb" and stem("..") == "%2E%2E"
    assert stem("   ") == "%20%20%20" and stem(" a b ") == "%20a b%20"
    assert stem("CON.") == "CON%2E" and stem("50%") == "50%25" and stem("a+b") == "a%2Bb"
    assert stem("\u202egnp") == quote("\u202e") + "gnp"  # a mark that turns the letters round


@given(st.lists(NAMES, min_size=2, max_size=8, unique=True))
@example(["ä", "a\u0308"])
@example(["盐" * 80, "盐" * 79 + "田"])
@example(["a" * 300, stem("a" * 300)])
def test_two_names_never_share_a_file(names):
    made = [unicodedata.normalize("NFC", stem(name)) for name in names]
    assert len(set(made)) == len(names)
    for text in made:
        assert 0 < len(text.encode()) <= LONGEST_STEM
        assert not set('/\\.:*?"<>|\0') & set(text) and text.strip() == text


ODD = ("盐田水闸", "Grüner Hof · 3", "盐" * 29, "ö" * 100, " padded ", "Plain")


def with_former_names(project, folder):
    """The project as the first versions would have named its files."""
    project.save(folder)
    for path in sorted(folder.rglob("*"), key=lambda p: -len(p.parts)):
        known, dot, more = path.name.partition(".")
        if path.is_dir() and path.parent.name != "rooms":
            continue
        if path.parent == folder or (path.is_file() and path.parent.parent.name == "rooms"):
            continue
        former = former_stem(known)
        if former.startswith("*"):
            former = f"{known.rpartition('+')[0]}-{former[2:]}"
        path.rename(path.with_name(former + dot + more))


def listed(folder):
    return sorted(str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file())


def project_of_odd_names():
    project = small_project()
    for name in ODD:
        project.add_room(name, (3, 4)).lay("Mud", cells=[(1, 1)])
        project.add_brush(replace(project.data.brush("Water"), name=name))
    return project


def test_a_project_with_file_names_of_the_first_versions_opens_and_is_saved_by_the_new_ones(
    tmp_path,
):
    made = project_of_odd_names()
    new, old = tmp_path / "new.topion", tmp_path / "old.topion"
    with_former_names(made, old)
    made.save(new)
    assert listed(new) != listed(old)
    for touched in ((), ODD):
        work = tmp_path / f"work{len(touched)}.topion"
        shutil.copytree(old, work)
        opened = topion.open(work)
        assert all(opened.room(name).material(1, 1) == "Mud" for name in touched)
        opened.room("盐田水闸").lay("Water", cells=[(2, 2)])
        opened.save()
        again = topion.open(work)
        assert again.room("盐田水闸").material(2, 2) == "Water"
        assert all(again.room(name).material(1, 1) == "Mud" for name in ODD)
        assert all(again.data.brush(name).kind == "weave" for name in ODD)
        copy = tmp_path / f"copy{len(touched)}.topion"
        again.save(copy)
        assert listed(copy) == listed(new)
    assert listed(tmp_path / f"work{len(ODD)}.topion") == listed(new)
