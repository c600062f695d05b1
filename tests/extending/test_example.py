"""The example extension, installed beside Topion in an environment of its own."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import sysconfig
import venv
from pathlib import Path

import pytest

from tests.rooms import small_room
from topion.formats.folder import read_project
from topion.survey import survey

EXAMPLE = Path(__file__).parents[2] / "examples" / "extension"
SOURCE = Path(__file__).parents[2] / "src"


@pytest.fixture(scope="module")
def python(tmp_path_factory) -> Path:
    """The interpreter of an environment that has Topion as it is here, and the extension."""
    place = tmp_path_factory.mktemp("own") / "venv"
    venv.create(place, with_pip=False, symlinks=True)
    made = place / "bin" / "python"
    asked = [made, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"]
    packages = Path(subprocess.run(asked, capture_output=True, text=True).stdout.strip())
    ours = sysconfig.get_path("purelib")
    (packages / "here.pth").write_text(f"{SOURCE}\n{ours}\n")
    source = Path(shutil.copytree(EXAMPLE, place / "source"))  # it is built where it lies
    pip = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check", "--python", made]
    subprocess.run([*pip, "install", "--no-deps", "--no-build-isolation", "--no-index", source],
                   check=True)  # fmt: skip
    return made


def run(python: Path, *words: object, **more: str) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, **more}
    return subprocess.run([str(part) for part in (python, "-m", *words)], capture_output=True,
                          text=True, env=environment)  # fmt: skip


def test_its_own_tests_pass(python, tmp_path):
    done = run(python, "pytest", "-q", "-p", "no:cacheprovider", EXAMPLE / "tests",
               "--rootdir", tmp_path)  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.startswith("......")


def test_a_project_with_it_opens_where_it_is_missing_and_is_kept(python, tmp_path, capsys):
    folder = small_room().project.save(tmp_path / "Shore.topion")
    done = run(python, "topion", "run", "strandline", folder)
    assert done.returncode == 0, done.stderr
    before = (folder / "brushes" / "Strandline.json").read_bytes()
    project = read_project(folder)  # here nobody knows the kind
    brush = project.brush("Strandline")
    assert brush.summary() == "unknown · tidewrack strandline"
    found = [one.sentence for one in survey(project) if one.check == "unknown kind"]
    assert (
        len(found) == 1 and "Strandline is of the unknown kind “tidewrack strandline”" in found[0]
    )
    from topion.formats.writing import write_project

    project.name = "Other"
    write_project(project, folder)
    assert (folder / "brushes" / "Strandline.json").read_bytes() == before
    done = run(python, "topion", "check", folder, "--json")
    assert "unknown kind" not in done.stdout


def test_without_extensions_none_is_loaded(python):
    assert "tidewrack" in run(python, "topion", "extensions").stdout
    done = run(python, "topion", "extensions", "--json", TOPION_WITHOUT_EXTENSIONS="1")
    assert json.loads(done.stdout) == []
