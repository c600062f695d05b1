"""The recordings of the project: played, and whether they still end the same."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.model.recording import Recording
from topion.view import style
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import heading
from topion.view.walk.replays import Answer
from topion.walk.scale import TICKS


class RecordingList(QWidget):
    """plays, removes : called with the name of a recording.  keep : called with a name for the
    walk so far.  surveys : called with whether the survey shall play them."""

    def __init__(self) -> None:
        super().__init__()
        self.plays: Callable[[str], object] = lambda _: None
        self.removes: Callable[[str], object] = lambda _: None
        self.keep: Callable[[str], object] = lambda _: None
        self.surveys: Callable[[bool], object] = lambda _: None
        self.rows: dict[str, QPushButton] = {}
        self.words: dict[str, QLabel] = {}
        head = QHBoxLayout()
        head.addWidget(heading("Recordings"))
        head.addStretch(1)
        self.keeps = QPushButton("keep this walk…")
        self.keeps.setObjectName("plain")
        self.keeps.setToolTip("Keep the keys so far as a recording of the project")
        self.keeps.clicked.connect(lambda _: self._ask_name())
        head.addWidget(self.keeps)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        self._column = QVBoxLayout()
        self._column.setSpacing(2)
        column.addLayout(self._column)
        self.surveyed = QCheckBox("Play all of them with each survey")
        self.surveyed.setToolTip("Let the survey tell which recordings no longer end the same")
        self.surveyed.clicked.connect(lambda on: self.surveys(on))
        column.addWidget(self.surveyed)
        self._none = QLabel("None yet: walk, then keep it as a test of the room")
        self._none.setWordWrap(True)
        style.tint(self._none, "soft")
        column.addWidget(self._none)

    def show_recordings(self, known: Mapping[str, Recording], answers: Mapping[str, Answer],
                        *, busy: bool, surveyed: bool) -> None:  # fmt: skip
        """Show these, with what was found out about each.  surveyed : the survey plays them."""
        self.surveyed.setVisible(bool(known))
        self.surveyed.setChecked(surveyed)
        self._none.setVisible(not known)
        if [*known] != [*self.rows]:
            self._rebuild(known)
        for name, recording in known.items():
            answer = answers.get(name)
            seconds = f"{recording.ticks / TICKS:.1f} s"
            told, ink = "ends the same", "tidal"
            if answer is None or (busy and not answer.told):
                told, ink = "being played" if busy else "", "soft"
            elif answer.told:
                told, ink = answer.told, "ochre"
                told += f" since “{answer.since}”" if answer.since else ""
            self.words[name].setText(f"{seconds} · {told}" if told else seconds)
            style.tint(self.words[name], ink)

    def _rebuild(self, known: Mapping[str, Recording]) -> None:
        emptied(self._column)
        self.rows, self.words = {}, {}
        for name in known:
            self._column.addWidget(self._row(name))

    def _row(self, name: str) -> QWidget:
        row = QWidget()
        line = QVBoxLayout(row)
        line.setContentsMargins(0, 2, 0, 2)
        line.setSpacing(0)
        button = QPushButton(f"▸ {name}")
        button.setObjectName("plain")
        button.setToolTip("Play it from its start")
        button.setAccessibleName(f"Play {name}")
        button.clicked.connect(lambda _: self.plays(name))
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        button.customContextMenuRequested.connect(partial(self._menu, name))
        words = QLabel()
        words.setWordWrap(True)
        words.setContentsMargins(18, 0, 0, 0)
        line.addWidget(button)
        line.addWidget(words)
        self.rows[name], self.words[name] = button, words
        return row

    def _menu(self, name: str, at: object) -> None:
        menu = QMenu(self)
        menu.addAction("Play", lambda: self.plays(name))
        menu.addAction("Record it anew, as it ends now", lambda: self.keep(name))
        menu.addAction("Take it away", lambda: self.removes(name))
        button = self.rows[name]
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def _ask_name(self) -> None:
        name, ok = QInputDialog.getText(self, "Keep this walk", "Name")
        if ok and name.strip():
            self.keep(name.strip())
