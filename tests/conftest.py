"""Shared fixtures."""

from __future__ import annotations

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


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "tests/view" in str(item.path):
            item.add_marker("gui")


@pytest.fixture
def project() -> ProjectHandle:
    return small_project()


@pytest.fixture
def room() -> RoomHandle:
    return small_room()
