"""One packed file of a project, all exports at once, and exports after each save."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tests.rooms import small_room
from topion import scripting
from topion.cli import main
from topion.errors import BadFile, TopionError
from topion.formats.exports import EXPORTS, export_all
from topion.formats.packing import pack, packed, unpack
from topion.formats.watching import saves_of


@pytest.fixture(autouse=True)
def legends_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def folder(tmp_path) -> Path:
    room = small_room((8, 10))
    room.lay("Bush", cells=[(2, 3)])
    room.project.add_room("Attic", (4, 5))
    return room.project.save(tmp_path / "small.topion")


def files_in(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes()
            for path in folder.rglob("*") if path.is_file()}  # fmt: skip


def zipped(path: Path, files: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return path


# --- packed -----------------------------------------------------------------------------------


def test_what_is_packed_unpacks_the_same(folder, tmp_path):
    pack(folder, tmp_path / "small.zip")
    made = unpack(tmp_path / "small.zip", tmp_path / "again.topion")
    assert files_in(made) == files_in(folder)


def test_the_same_project_packs_to_the_same_bytes(folder):
    assert b"".join(packed(folder)) == b"".join(packed(folder))


def test_only_files_of_the_project_are_packed(folder, tmp_path):
    (folder / "secret.txt").write_text("not ours")
    names = zipfile.ZipFile(io.BytesIO(b"".join(packed(folder)))).namelist()
    assert "small.topion/project.json" in names
    assert not any("secret" in name for name in names)


def test_a_bundle_unpacks_into_a_project_as_well(folder, tmp_path):
    assert main(["export", str(folder), "--to", "json", "-o", str(tmp_path)]) == 0
    made = unpack(next(tmp_path.glob("*.json")), tmp_path / "again.topion")
    same = {name: data for name, data in files_in(made).items() if name.endswith(".rows")}
    assert same and all(files_in(folder)[name] == data for name, data in same.items())


@pytest.mark.parametrize(
    ("name", "reason"),
    [("../evil.json", "what is no file of a project"), ("a.topion/run.py", "no file of a project"),
     ("a.topion/rooms/../../x.json", "no file of a project"),
     ("/etc/passwd", "no file of a project")],
)  # fmt: skip
def test_names_that_lead_elsewhere_are_refused_and_leave_nothing(folder, tmp_path, name, reason):
    files = {f"a.topion/{n}": data for n, data in files_in(folder).items()}
    path = zipped(tmp_path / "evil.zip", {**files, name: b"{}"})
    before = set(tmp_path.rglob("*"))
    with pytest.raises(BadFile, match=reason):
        unpack(path, tmp_path / "out.topion")
    assert set(tmp_path.rglob("*")) == before


def test_a_file_that_is_larger_than_it_declares_is_refused(folder, tmp_path):
    path = zipped(tmp_path / "bomb.zip", {f"a.topion/{n}": d for n, d in files_in(folder).items()})
    data = bytearray(path.read_bytes())
    at = data.find(b"PK\x01\x02")  # the directory: sizes of the first file
    data[at + 24 : at + 28] = (5).to_bytes(4, "little")
    path.write_bytes(bytes(data))
    with pytest.raises(BadFile, match=r"bomb\.zip"):
        unpack(path, tmp_path / "out.topion")
    assert not (tmp_path / "out.topion").exists()


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 broken", b"{}", b"\x00" * 64])
def test_what_is_no_packed_project_is_refused_in_a_sentence(tmp_path, data, capsys):
    path = tmp_path / "x.zip"
    path.write_bytes(data)
    assert main(["unpack", str(path), "-o", str(tmp_path / "out.topion")]) == 2
    said = capsys.readouterr().err
    assert said.startswith("topion: x.zip") and len(said.splitlines()) == 1


@pytest.fixture(scope="module")
def sound(tmp_path_factory) -> bytes:
    """A packed project."""
    place = tmp_path_factory.mktemp("sound")
    return b"".join(packed(small_room((6, 6)).project.save(place / "small.topion")))


@given(st.data())
def test_a_packed_file_that_was_damaged_is_sound_still_or_refused_and_leaves_nothing(
    sound, tmp_path_factory, data
):
    place = tmp_path_factory.mktemp("damaged")
    spoilt = bytearray(sound)
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(spoilt) - 1))
        spoilt[at] = data.draw(st.integers(0, 255))
    cut = data.draw(st.just(len(spoilt)) | st.integers(0, len(spoilt)))
    (place / "it.zip").write_bytes(spoilt[:cut])
    try:
        made = unpack(place / "it.zip", place / "made.topion")
    except TopionError as refused:
        assert "\n" not in str(refused)
        assert [path.name for path in place.iterdir()] == ["it.zip"]
    else:
        assert scripting.open(made).rooms()


def test_a_folder_that_is_not_empty_is_left_alone(folder, tmp_path):
    pack(folder, tmp_path / "small.zip")
    with pytest.raises(TopionError, match="is there already"):
        unpack(tmp_path / "small.zip", folder)


def test_pack_and_unpack_say_what_they_did(folder, tmp_path, capsys):
    assert main(["pack", str(folder)]) == 0
    assert "packed" in capsys.readouterr().out
    assert main(["unpack", f"{folder}.zip", "-o", str(tmp_path / "new.topion")]) == 0
    assert (tmp_path / "new.topion" / "project.json").exists()


# --- all exports ------------------------------------------------------------------------------


def test_all_writes_each_format_that_suits_into_a_folder_of_its_own(folder, tmp_path):
    assert main(["export", str(folder), "--all", "-o", str(tmp_path / "out")]) == 0
    made = {path.name for path in (tmp_path / "out").iterdir()}
    assert made == set(EXPORTS) - {"gltf", "plan-svg", "plan-png"}  # no voxel room, no plan
    assert (tmp_path / "out" / "png" / "Attic.png").exists()


def test_a_thumbnail_is_small_and_shows_the_whole_room():
    room = small_room((40, 80))
    files = dict(export_all(room.project.data, (room.name,)))
    picture = Image.open(io.BytesIO(files[f"thumbnails/{room.name}.thumbnail.png"]))
    assert picture.size == (256, 128)


def test_a_legend_that_was_asked_for_must_say_every_cell(tmp_path, capsys):
    (tmp_path / "yard.txt").write_text("##\n#.\n")
    folder, kept = tmp_path / "p.topion", tmp_path / "kept.json"
    scripting.new(None, "P").save(folder)
    main(["import", "text", str(folder), str(tmp_path / "yard.txt"), "--keep", str(kept)])
    kept.write_text(kept.read_text().replace('"#"', '"%"'))
    told = ["export", str(folder), "--to", "text", "-o", str(tmp_path / "out"), "--legend"]
    assert main([*told, str(kept)]) == 0
    assert (tmp_path / "out" / "yard.txt").read_text() == "%%\n%.\n"
    kept.write_text(json.dumps({**json.loads(kept.read_text()), "meanings": [{"symbol": "."}]}))
    capsys.readouterr()
    assert main([*told, str(kept)]) != 0
    assert "the cell 0, 0 of yard is" in capsys.readouterr().err


def test_to_and_all_are_not_said_together(folder, tmp_path, capsys):
    assert main(["export", str(folder), "--all", "--to", "png", "-o", str(tmp_path)]) == 2
    assert "not allowed with" in capsys.readouterr().err


# --- after each save --------------------------------------------------------------------------


def test_a_watched_folder_tells_the_rooms_that_a_save_changed(folder):
    from topion import scripting

    handle = scripting.open(folder)
    todo = [
        lambda: handle.room("Yard").lay("Water", cells=[(1, 1), (1, 2)]) and handle.save(),
        lambda: None,
        lambda: (handle.add_room("Cellar", (4, 4)), handle.save()),
        lambda: None,
    ]
    saves = saves_of(folder, lambda: todo.pop(0)() if todo else None)
    assert next(saves) is None  # all of it at the start
    assert next(saves) == {"Yard"}
    assert next(saves) is None  # the list of rooms changed


def test_watch_exports_again_only_what_was_changed(folder, tmp_path, monkeypatch, capsys):
    from topion import cli_export, scripting

    handle = scripting.open(folder)
    out = tmp_path / "out"
    steps = iter(range(4))

    def wait(_seconds: float) -> None:
        step = next(steps, None)
        if step is None:
            raise KeyboardInterrupt
        if step == 0:
            (out / "Attic.png").write_bytes(b"kept")
            handle.room("Yard").lay("Water", cells=[(1, 1)])
            handle.save()

    monkeypatch.setattr(cli_export.time, "sleep", wait)
    assert main(["export", str(folder), "--to", "png", "--watch", "-o", str(out)]) == 2
    told = capsys.readouterr().out.splitlines()
    assert len(told) == 2 and told[0].startswith("wrote") and told[1].startswith("wrote")
    assert (out / "Attic.png").read_bytes() == b"kept"
    assert Image.open(out / "Yard.png").size == (40, 32)


def test_watching_what_is_no_project_is_refused(tmp_path, capsys):
    assert main(["export", str(tmp_path), "--all", "--watch", "-o", str(tmp_path)]) == 2
    assert "is no project folder" in capsys.readouterr().err
