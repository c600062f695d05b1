"""The launcher at the root: what it runs, and what it says when it may not install."""

import importlib.util
import re
import subprocess
from importlib.machinery import SourceFileLoader
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


@pytest.fixture
def launcher():
    loader = SourceFileLoader("launcher", str(ROOT / "topion"))
    spec = importlib.util.spec_from_loader("launcher", loader)
    module = importlib.util.module_from_spec(spec)
    loader.exec_module(module)
    return module


@pytest.fixture
def ran(launcher, monkeypatch):
    calls = []

    def run(command, **named):
        calls.append([str(part) for part in command])
        return subprocess.CompletedProcess(command, 0)

    monkeypatch.setattr(subprocess, "run", run)
    monkeypatch.setattr(launcher, "prepare", lambda dev: calls.append(["prepare", str(dev)]))
    return calls


def test_test_runs_pytest_under_a_display_of_its_own(launcher, ran):
    assert launcher.main(["test", "-k", "loom"]) == 0
    assert ran[0] == ["prepare", "True"]
    assert ran[1][-4:] == ["-m", "pytest", "-k", "loom"]


def test_any_other_command_is_passed_to_topion(launcher, ran):
    assert launcher.main(["render", "P.topion", "Yard"]) == 0
    assert ran == [
        ["prepare", "False"],
        [str(launcher.PYTHON), "-m", "topion", "render", "P.topion", "Yard"],
    ]


def test_ci_calls_lint_and_the_same_tests():
    lines = (ROOT / ".ci" / "run").read_text().splitlines()
    assert "./topion lint" in lines and "./topion test" in lines


def test_where_nothing_may_be_installed_the_one_command_is_printed(launcher, monkeypatch, capsys):
    monkeypatch.setattr(launcher.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(launcher.shutil, "which", lambda name: None)
    launcher.install_system()
    said = capsys.readouterr().err
    assert "sudo apt-get install" in said and "xvfb" in said and said.count("\n") == 2


def test_pinned_packages_are_pinned():
    for name in ("requirements.txt", "requirements-dev.txt"):
        lines = [
            line
            for line in (ROOT / name).read_text().splitlines()
            if line and not line.startswith("-r")
        ]
        assert lines and all("==" in line for line in lines)


def test_the_readme_starts_with_the_two_commands():
    text = (ROOT / "README.md").read_text()
    assert text.index("./topion demo") < text.index("./topion test") < text.index("## Using it")
    pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 10 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in text
    for link in re.findall(r"docs/screenshots/[\w-]+\.png", text):
        assert (ROOT / link).exists()
