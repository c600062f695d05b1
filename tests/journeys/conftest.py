"""A bare start for each journey: nothing kept, nothing remembered, Home."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.QtWidgets import QApplication

from tests.journeys.newcomer import Newcomer
from topion.view import app, style

_PATIENCE_S = 90


@pytest.fixture
def newcomer(qapp, tmp_path, monkeypatch):
    for name in ("STATE", "CONFIG", "DATA", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))
    home = tmp_path / "home"
    home.mkdir()
    monkeypatch.setenv("HOME", str(home))
    style.use_dark(False)
    started = app.Start(None)
    _spin(lambda: started.window is not None)
    started.window.resize(1280, 800)
    found = Newcomer(started, home)
    yield found
    window = started.window
    size = window.width(), window.height()
    window.session.handle.history.mark_saved()
    window.close()
    window.deleteLater()
    assert size == (1280, 800), "the window grew by itself"
    assert found.cut == set()


@pytest.hookimpl(tryfirst=True)
def pytest_pyfunc_call(pyfuncitem: pytest.Function) -> bool | None:
    """The journey runs on a thread, so that dialogs may wait for it."""
    if "newcomer" not in pyfuncitem.fixturenames:
        return None
    arguments = {name: pyfuncitem.funcargs[name]
                 for name in pyfuncitem._fixtureinfo.argnames}  # fmt: skip
    wrong: list[BaseException] = []

    def journey() -> None:
        try:
            pyfuncitem.obj(**arguments)
        except BaseException as found:
            wrong.append(found)

    thread = threading.Thread(target=journey, daemon=True)
    thread.start()
    _spin(lambda: not thread.is_alive())
    for _ in range(9):
        waiting = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if waiting is not None:
            waiting.close()
    if wrong:
        raise wrong[0]
    return True


def _spin(done) -> None:
    """Let the window live until it is so."""
    loop, watch, most = QEventLoop(), QTimer(), QTimer()
    watch.timeout.connect(lambda: loop.quit() if done() else None)
    watch.start(10)
    most.setSingleShot(True)
    most.timeout.connect(loop.quit)
    most.start(_PATIENCE_S * 1000)
    loop.exec()
    assert done(), "nothing happened for too long"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if Path(__file__).parent in item.path.parents:
            item.add_marker("gui")
