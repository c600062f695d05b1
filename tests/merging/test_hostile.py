"""Damaged files among those that are put together: told in a sentence, never a traceback."""

from __future__ import annotations

import random

import pytest

from tests.merging.pairs import quick
from topion.cli import main
from topion.comparing.files import file_changes
from topion.comparing.words import text_lines
from topion.errors import BadFile, TopionError
from topion.merging.by_file import merged_file
from topion.merging.trees import tree_in_memory, tree_of, write_tree
from topion.merging.whole import merged_trees

_BITS = (b"{", b"}", b"[", b"null", b"-1", b"1e999", b'"', b"\n", b"99999999999", b"\xff",
         b'conflict {"kind":"cells"}\n', b'{"from":[1,2]},')  # fmt: skip


def mutant(data: bytes, chance: random.Random) -> bytes:
    made = bytearray(data)
    for _ in range(chance.randrange(1, 4)):
        at = chance.randrange(len(made) or 1)
        match chance.randrange(4):
            case 0 if made:
                made[at] = chance.randrange(256)
            case 1:
                del made[at : at + chance.randrange(1, 20)]
            case 2:
                made[at:at] = chance.choice(_BITS)
            case 3:
                made[at:at] = made[max(0, at - 40) : at]
    return bytes(made)


@pytest.mark.parametrize("seed", range(4))
def test_mutants_are_merged_and_compared_or_told(seed):
    tree = quick([("Lamp", (3, 3, 1, 1)), ("Stones", (1, 1, 2, 2)), ("Reeds", (5, 5, 2, 2))]).tree
    chance, names = random.Random(f"mutants {seed}"), sorted(tree.names)
    for _ in range(150):
        name = chance.choice(names)
        data = tree.read(name)
        ours, theirs = mutant(data, chance), mutant(data, chance)
        for work in (
            lambda n=name, b=data, o=ours, t=theirs: merged_file(n, b, o, t),
            lambda n=name, o=ours, t=theirs: list(text_lines(file_changes(n, o, t))),
        ):
            try:
                work()
            except TopionError as problem:
                assert "\n" not in str(problem)


def test_a_version_that_is_not_sound_changes_nothing(tmp_path, capsys):
    tree = tree_in_memory(quick([]).room.project.data)
    for name in ("base", "ours", "theirs"):
        write_tree(tree, tmp_path / name)
    before = {p: p.read_bytes() for p in (tmp_path / "ours").rglob("*") if p.is_file()}
    rows = "rooms/Yard/ground.material.rows"
    for name, text in (("ours", b"2"), ("theirs", b"3")):
        path = tmp_path / name / rows
        path.write_bytes(path.read_bytes().replace(b"40*1\n", b"40*" + text + b"x\n", 1))
    before[tmp_path / "ours" / rows] = (tmp_path / "ours" / rows).read_bytes()
    words = ["merge", *(str(tmp_path / name) for name in ("base", "ours", "theirs"))]
    assert main(words) == 2
    error = capsys.readouterr().err
    assert rows in error and "line 2" in error and "Traceback" not in error
    assert {p: p.read_bytes() for p in (tmp_path / "ours").rglob("*") if p.is_file()} == before


def test_links_out_of_a_project_are_not_followed(tmp_path):
    tree = tree_in_memory(quick([]).room.project.data)
    write_tree(tree, tmp_path / "a")
    secret = tmp_path / "secret.json"
    secret.write_text("{}")
    (tmp_path / "a" / "brushes" / "Mud.json").unlink()
    (tmp_path / "a" / "brushes" / "Mud.json").symlink_to(secret)
    assert "brushes/Mud.json" not in tree_of(tmp_path / "a").names
    with pytest.raises(BadFile):
        merged_file("../secret.json", b"{}", b"{} ", b" {}")


def test_what_is_no_project_is_said_to_be_none(tmp_path, capsys):
    write_tree(tree_in_memory(quick([]).room.project.data), tmp_path / "a")
    (tmp_path / "empty").mkdir()
    for words in (["diff", "a", "nowhere"], ["merge", "a", "a", "empty"], ["diff", "empty", "a"]):
        assert main([words[0], *(str(tmp_path / word) for word in words[1:])]) == 2
        assert capsys.readouterr().err.startswith("topion: ")


def test_a_merge_that_goes_elsewhere_leaves_ours_as_it_was(tmp_path, capsys):
    base, ours, theirs = (
        quick([]),
        quick([("Stones", (2, 2, 1, 1))]),
        quick([("Water", (2, 3, 1, 1))]),
    )
    for name, one in (("base", base), ("ours", ours), ("theirs", theirs)):
        write_tree(tree_in_memory(one.room.project.data), tmp_path / name)
    before = dict(tree_in_memory(ours.room.project.data).files)
    words = ["merge", *(str(tmp_path / name) for name in ("base", "ours", "theirs"))]
    assert main([*words, "-o", str(tmp_path / "out")]) == 1
    assert "both changed the material of 2 cells in Ground; ours stands" in capsys.readouterr().out
    assert {n: tree_of(tmp_path / "ours").read(n) for n in before} == before
    assert main([*words, "-o", str(tmp_path / "out")]) == 2
    assert "is there already and not empty" in capsys.readouterr().err
    found = merged_trees(*(tree_of(tmp_path / name) for name in ("base", "ours", "theirs")))
    assert found.files.names == tree_of(tmp_path / "out").names
