"""Shared fixtures."""

from __future__ import annotations

import os
import shutil
import subprocess

import pytest
from hypothesis import HealthCheck, settings

from tests.rooms import small_project, small_room
from topion.scripting import ProjectHandle, RoomHandle

settings.register_profile(
    "topion",
    deadline=None,
    max_examples=40,
    derandomize=True,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
settings.load_profile("topion")


def pytest_configure(config: pytest.Config) -> None:
    """A display for each worker: two windows on one would take the focus from each other."""
    if not hasattr(config, "workerinput") or os.environ.get("QT_QPA_PLATFORM") != "xcb":
        return
    told, tell = os.pipe()
    command = [shutil.which("Xvfb") or "Xvfb", "-displayfd", str(tell), "-screen", "0",
               "1600x1000x24", "-nolisten", "tcp"]  # fmt: skip
    quiet = subprocess.DEVNULL
    display = subprocess.Popen(command, pass_fds=(tell,), stdout=quiet, stderr=quiet)
    os.close(tell)
    with os.fdopen(told) as lines:
        os.environ["DISPLAY"] = f":{lines.readline().strip()}"
    os.environ.pop("XAUTHORITY", None)
    config.add_cleanup(display.terminate)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/view" in str(item.path):
            item.add_marker("gui")
    items.sort(key=lambda item: item.get_closest_marker("long") is None)  # none of them comes last


@pytest.fixture(autouse=True, scope="session")
def data_of_its_own(tmp_path_factory):
    """What tests keep for other projects stays out of the home of whoever runs them."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_DATA_HOME", str(tmp_path_factory.mktemp("data")))
        yield


@pytest.fixture
def project() -> ProjectHandle:
    return small_project()


@pytest.fixture
def room() -> RoomHandle:
    return small_room()
