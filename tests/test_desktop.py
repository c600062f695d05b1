"""Topion's place on a desktop: its files are sound, and a wheel holds all that it needs."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import venv
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import pytest

from topion import __version__
from topion.cli import told_commands
from topion.man_page import man_page

ROOT = Path(__file__).parents[1]
DESKTOP = ROOT / "src" / "topion" / "desktop"
ID = "org.topion.Topion"


def needs(program: str):
    return pytest.mark.skipif(shutil.which(program) is None, reason=f"{program} is not installed")


def checked(*words: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run([str(word) for word in words], capture_output=True, text=True)


@needs("desktop-file-validate")
def test_the_desktop_entry_is_valid():
    done = checked("desktop-file-validate", DESKTOP / f"{ID}.desktop")
    assert done.returncode == 0 and not done.stdout, done.stdout


@needs("appstreamcli")
def test_the_metainfo_is_valid():
    done = checked("appstreamcli", "validate", "--no-net", DESKTOP / f"{ID}.metainfo.xml")
    assert done.returncode == 0, done.stdout


@needs("man")
def test_the_man_page_is_read_without_a_warning():
    done = checked("man", "--warnings", "-l", DESKTOP / "topion.1")
    assert done.returncode == 0 and not done.stderr and "git-setup" in done.stdout


def test_the_man_page_is_that_of_the_command_line_now():
    text = (DESKTOP / "topion.1").read_text(encoding="utf-8")
    assert text == man_page(), "python -m topion.man_page writes it anew"
    for name, _ in told_commands():
        assert f".SS topion {name.replace('-', chr(92) + '-')}" in text


def test_what_the_files_say_of_each_other_fits():
    entry = (DESKTOP / f"{ID}.desktop").read_text()
    info = ElementTree.parse(DESKTOP / f"{ID}.metainfo.xml").getroot()
    types = ElementTree.parse(DESKTOP / f"{ID}-mime.xml").getroot()
    named = {node.get("type") for node in types}
    line = next(line for line in entry.splitlines() if line.startswith("MimeType="))
    assert named == {*line.removeprefix("MimeType=").strip(";").split(";")}
    assert named == {node.text for node in info.iter("mediatype")}
    assert info.findtext("id") == ID and info.findtext("launchable") == f"{ID}.desktop"
    assert next(info.iter("release")).get("version") == __version__
    assert f"Icon={ID}\n" in entry and ElementTree.parse(DESKTOP / f"{ID}.svg")


@pytest.fixture(scope="module")
def wheel(tmp_path_factory) -> Path:
    """Built from a copy of the source, so that nothing is left here."""
    place = tmp_path_factory.mktemp("wheel")
    source = place / "source"
    shutil.copytree(
        ROOT / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info")
    )
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    pip = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check"]
    subprocess.run([*pip, "wheel", "--no-deps", "--no-build-isolation", "--no-index", "-w", place, source],
                   check=True)  # fmt: skip
    return next(place.glob("topion-*.whl"))


def test_every_file_of_the_source_is_in_the_wheel(wheel):
    source = ROOT / "src"
    own = {path.relative_to(source).as_posix() for path in (source / "topion").rglob("*")
           if path.is_file() and "__pycache__" not in path.parts}  # fmt: skip
    with zipfile.ZipFile(wheel) as archive:
        names = {*archive.namelist()}
    assert own <= names
    shared = {name.split("/data/share/")[1] for name in names if "/data/share/" in name}
    assert shared == {
        f"applications/{ID}.desktop", f"icons/hicolor/scalable/apps/{ID}.svg",
        f"metainfo/{ID}.metainfo.xml", f"mime/packages/{ID}-mime.xml", "man/man1/topion.1",
    }  # fmt: skip


def test_the_wheel_alone_is_a_working_topion(wheel, tmp_path):
    place = tmp_path / "venv"
    venv.create(place, with_pip=False, symlinks=True)
    python = place / "bin" / "python"
    pip = [
        sys.executable,
        "-m",
        "pip",
        "--quiet",
        "--disable-pip-version-check",
        "--python",
        python,
    ]
    subprocess.run([*pip, "install", "--no-deps", "--no-index", wheel], check=True)
    packages = Path(
        checked(
            python, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"
        ).stdout.strip()
    )
    (packages / "others.pth").write_text(sysconfig.get_path("purelib") + "\n")  # NumPy, Qt …
    assert (place / "share" / "applications" / f"{ID}.desktop").is_file()
    topion, home = (
        place / "bin" / "topion",
        {**os.environ, "HOME": str(tmp_path), "QT_QPA_PLATFORM": "offscreen"},
    )

    def run(*words: object) -> str:
        done = subprocess.run([str(word) for word in (topion, *words)], capture_output=True,
                              text=True, env=home, cwd=tmp_path)  # fmt: skip
        assert done.returncode == 0, done.stderr
        return done.stdout

    assert run("--version").strip() == f"topion {__version__}"
    where = checked(python, "-c", "import topion; print(topion.__file__)").stdout
    assert str(place) in where
    run("new", "--kit", "K.topion")
    run("check", "K.topion")
    run("export", "K.topion", "--all", "-o", "out")
    run("pack", "K.topion")
    run("unpack", "K.topion.zip", "-o", "L.topion")
    assert run("diff", "K.topion", "L.topion").strip() == "nothing changed"
    script = (
        "from topion.view.app import application, dress_for_desktop\n"
        "app = application()\n"
        "from topion.view import style\n"
        "style.load_fonts(); style.dress(app); dress_for_desktop()\n"
        "from topion.view.opening import opened\n"
        "from topion.view.window import Window\n"
        "from pathlib import Path\n"
        "found = opened(Path('K.topion'), lambda _: None)\n"
        "window = Window(found.handle, found.keeper)\n"
        "assert not app.windowIcon().pixmap(64, 64).isNull()\n"
        "assert style.font(12).family() == 'Lato'\n"
        "print('seen', window.windowTitle()); import os; os._exit(0)\n"
    )
    done = subprocess.run(
        [str(python), "-c", script], capture_output=True, text=True, env=home, cwd=tmp_path
    )
    assert "seen" in done.stdout, done.stderr
