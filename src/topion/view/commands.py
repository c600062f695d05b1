"""The commands of the window: one table feeds menus, keys, tooltips and the help on keys."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from PyQt6.QtCore import QKeyCombination, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QMenu


def _always() -> bool:
    return True


@dataclass(frozen=True)
class Command:
    """name : by which others speak of it.  text : of its entry in menus and in the help.

    keys : any of which carries it out, as Qt writes them.  group : its heading in the help.
    does : what happens; False means that the key is not taken.  when : whether it can be done.
    repeats : a key that is held goes on.  let_go : what the release of its key does, for keys
    that are held.
    """

    name: str
    text: str
    does: Callable[[], object]
    keys: tuple[str, ...] = ()
    group: str = "Window"
    when: Callable[[], bool] = _always
    repeats: bool = False
    let_go: Callable[[], object] | None = None

    def key_text(self) -> str:
        """Its first key as it is printed on the keyboard; nothing without one."""
        if not self.keys:
            return ""
        return QKeySequence(self.keys[0]).toString(QKeySequence.SequenceFormat.NativeText)


class Commands:
    """All commands by name and by key."""

    def __init__(self, commands: Iterable[Command] = ()) -> None:
        self._named: dict[str, Command] = {}
        self._by_key: dict[int, Command] = {}
        self._own: dict[str, tuple[str, ...]] = {}
        self.heard: Callable[[str], object] = lambda _: None  # what a key carried out
        self.add(commands)

    def use_keys(self, changed: Mapping[str, tuple[str, ...]]) -> None:
        """Let commands have other keys than their own.  Of a key that two would have, the one that
        was changed has it; a text that is no key is passed over."""
        self._by_key = {}
        self._named = {name: replace(command, keys=self._own[name])
                       for name, command in self._named.items()}  # fmt: skip
        for name, keys in changed.items():
            if name in self._named:
                self._named[name] = replace(self._named[name], keys=tuple(filter(is_key, keys)))
        for first in (True, False):
            for name, command in self._named.items():
                for key in command.keys if (name in changed) == first else ():
                    self._by_key.setdefault(_code(key), command)

    def own_keys(self, name: str) -> tuple[str, ...]:
        """The keys that a command has by itself."""
        return self._own[name]

    def with_key(self, key: str) -> Command | None:
        """The command that a key carries out."""
        return self._by_key.get(_code(key)) if is_key(key) else None

    def add(self, commands: Iterable[Command]) -> None:
        """Raises ValueError for a name or a key that is taken."""
        for command in commands:
            if command.name in self._named:
                raise ValueError(f"there is already a command {command.name!r}")
            self._named[command.name] = command
            self._own[command.name] = command.keys
            for key in command.keys:
                code = _code(key)
                if code in self._by_key:
                    other = self._by_key[code].name
                    raise ValueError(f"key {key} of {command.name!r} is that of {other!r}")
                self._by_key[code] = command

    def __getitem__(self, name: str) -> Command:
        return self._named[name]

    def __iter__(self) -> Iterator[Command]:
        return iter(self._named.values())

    def tip(self, name: str, text: str = "") -> str:
        """A tooltip: what the command does, with its key."""
        command = self[name]
        key = command.key_text()
        return f"{text or command.text} ({key})" if key else text or command.text

    def fill(self, menu: QMenu, *names: str) -> None:
        """Add commands to a menu, with their keys; "" stands for a line between."""
        for name in names:
            if not name:
                menu.addSeparator()
                continue
            command = self[name]
            key = command.key_text()
            text = f"{command.text}\t{key}" if key else command.text
            action = menu.addAction(text, lambda c=command: c.does())
            if action is not None:
                action.setEnabled(command.when())

    # --- keys -----------------------------------------------------------------------------

    def press(self, event: QKeyEvent, only: frozenset[str] | None = None) -> bool:
        """True if the key meant something.  only : of these commands."""
        command = self._of(event)
        if command is None or (only is not None and command.name not in only):
            return False
        if event.isAutoRepeat() and not command.repeats:
            return True
        if not command.when():
            return False
        taken = command.does() is not False
        if taken:
            self.heard(command.name)
        return taken

    def release(self, event: QKeyEvent) -> None:
        """A key came up; one that was held with another modifier counts too."""
        if event.isAutoRepeat():
            return
        command = self._by_key.get(event.key())
        if command is not None and command.let_go is not None:
            command.let_go()

    def _of(self, event: QKeyEvent) -> Command | None:
        keypad = Qt.KeyboardModifier.KeypadModifier
        modifiers = event.modifiers() & ~keypad
        try:
            code = QKeyCombination(modifiers, Qt.Key(event.key())).toCombined()
        except ValueError:  # a key of some keyboard that Qt has no name for
            return None
        shift = Qt.KeyboardModifier.ShiftModifier
        found = self._by_key.get(code)
        if found is None and modifiers == shift:  # signs that are typed with Shift
            found = self._by_key.get(event.key())
        return found


def is_key(key: str) -> bool:
    """Whether a text names one key, perhaps with modifiers."""
    found = QKeySequence(key)
    return found.count() == 1 and found[0].key() != Qt.Key.Key_unknown


def _code(key: str) -> int:
    """The key and its modifiers as one number."""
    return QKeySequence(key)[0].toCombined()
