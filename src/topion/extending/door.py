"""The door through which an extension adds to Topion; ours come through the same registries."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from topion.brushes.kind import BrushKind
from topion.conditions import ConditionKind
from topion.errors import BadValue
from topion.extending.commands import COMMANDS, ExtraCommand
from topion.extending.extension import Extension
from topion.extending.guard import Plain, guard, guarded_call
from topion.formats.exports import EXPORTS, ExportKind
from topion.model.brush import Brush
from topion.model.condition import Condition
from topion.model.edit import Edit
from topion.model.plain import KINDS
from topion.model.prefab import PlacementRule
from topion.model.role import Role
from topion.model.shelves import SHELVES, Shelf, add_shelf
from topion.model.typed import register_kinds
from topion.roles import RoleKind
from topion.survey.check import Check
from topion.survey.ledger import CHECKS, add_check
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


class Door:
    """What an extension's entry point is called with.  Each call adds one kind; a name that is
    taken raises ValueError, and nothing of that extension is added."""

    def __init__(self, extension: Extension) -> None:
        self.extension = extension
        self._undo: list[Callable[[], object]] = []

    def brush(self, kind: type[BrushKind]) -> None:
        """A kind of brush: a frozen dataclass after BrushKind."""
        self._kind("brushes", Brush, BrushKind, kind, self._of_brush())

    def rule(self, kind: type[RuleKind]) -> None:
        """A placement rule: a frozen dataclass after RuleKind."""
        off = f"a rule of extension {self.extension.name}, which is switched off"
        plain: dict[str, Plain] = {
            "sentence": lambda rule: off,
            "short": lambda rule: "switched off",
            "reason": lambda rule, measured: (off, "", ""),
            "check": lambda rule, ground, spots: Answer.of(spots),
        }
        self._kind("rules", PlacementRule, RuleKind, kind, plain)

    def role(self, kind: type[RoleKind]) -> None:
        """What things are while a room is walked: a frozen dataclass after RoleKind."""
        self._kind("roles", Role, RoleKind, kind, {})

    def condition(self, kind: type[ConditionKind]) -> None:
        """When things appear or open: a frozen dataclass after ConditionKind."""
        self._kind("conditions", Condition, ConditionKind, kind, {"holds": lambda *_: False})

    def check(self, kind: type[Check]) -> None:
        """A check of the survey: a class after RoomCheck, LibraryCheck or WorldCheck."""
        plain: dict[str, Plain] = {"findings": lambda *_: iter(()), "fix": lambda *_: None}
        guard(kind, kind, self.extension, plain)
        made = guarded_call(self.extension, "begin a check", kind)()
        add_check(made)
        self._undo.append(lambda: CHECKS.remove(made))
        self._note("checks", made.name)

    def export(self, kind: type[ExportKind]) -> None:
        """A format that rooms are written in: a class after ExportKind."""
        if kind.kind in EXPORTS:
            raise ValueError(f"export {kind.kind!r} is there already")
        guard(kind, ExportKind, self.extension, {})
        EXPORTS[kind.kind] = guarded_call(self.extension, "begin an export", kind)()
        self._undo.append(lambda: EXPORTS.pop(kind.kind))
        self._note("formats", kind.kind)

    def shelf(self, shelf: Shelf) -> None:
        """Another shelf of the library."""
        add_shelf(shelf)
        self._undo.append(lambda: SHELVES.pop(shelf.name))
        self._note("shelves", shelf.name)

    def command(self, name: str, text: str, run: Callable[[Any, str], Any]) -> None:
        """A command; see ExtraCommand."""
        if name in COMMANDS:
            raise ValueError(f"command {name!r} is there already")
        call = guarded_call(self.extension, f"run {name}", run)
        COMMANDS[name] = ExtraCommand(name, text, call, self.extension.name)
        self._undo.append(lambda: COMMANDS.pop(name))
        self._note("commands", name)

    # --- how ------------------------------------------------------------------------------

    def _kind(
        self, what: str, protocol: type, base: type, kind: type, plain: dict[str, Plain]
    ) -> None:
        if not issubclass(kind, base):
            raise BadValue(f"the kind {kind.__name__}", kind.__mro__[1].__name__, base.__name__)
        name = kind.kind  # type: ignore[attr-defined]
        if name in KINDS.get(protocol, {}):
            raise ValueError(f"kind {name!r} is there already")
        guard(kind, base, self.extension, plain)
        register_kinds(protocol, kind)
        self._undo.append(lambda: KINDS[protocol].pop(name))
        self._note(what, name)

    def _of_brush(self) -> dict[str, Plain]:
        extension = self.extension

        def plan(brush: BrushKind, *_: object) -> Edit:
            reason = f"extension {extension.name} is switched off: {extension.off}"
            return Edit(brush.name, (), brush.colour, (reason,))

        return {"plan": plan, "summary": lambda brush: f"{brush.kind} · switched off"}

    def _note(self, what: str, name: str) -> None:
        self.extension.adds.setdefault(what, []).append(name)

    def take_back(self) -> None:
        """What was added is there no longer: the extension failed before it was all there."""
        for undo in reversed(self._undo):
            undo()
        self._undo.clear()
        self.extension.adds.clear()
