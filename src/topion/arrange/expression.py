"""Expressions in ordinary arithmetic, worked out for many things at once.

The text is parsed by Python's own parser and walked over a list of allowed nodes and names; nothing
of it is ever run.  All numbers are float64, so powers cannot grow without bounds.
"""

from __future__ import annotations

import ast
import difflib
import operator
import warnings
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from topion.arrange.names import (
    BY_NUMBER,
    CONSTANTS,
    FUNCTIONS,
    ON_CURVE,
    RANDOM,
    VARIABLES,
    Dice,
    NoCurve,
    Values,
)
from topion.errors import TopionError
from topion.grid.hashing import seed_of

LONGEST = 400  # letters
_MOST_NODES, _DEEPEST = 300, 40
_LARGEST = 1e12  # of a number that is written
_OPEN_ENDS = "+-*/%<>=,"  # behind which something is missing

_BINARY: dict[type[ast.operator], Callable[[Any, Any], Any]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: np.divide,
    ast.FloorDiv: np.floor_divide, ast.Mod: np.mod, ast.Pow: np.power,
}  # fmt: skip
_COMPARED: dict[type[ast.cmpop], Callable[[Any, Any], Any]] = {
    ast.Lt: np.less, ast.LtE: np.less_equal, ast.Gt: np.greater, ast.GtE: np.greater_equal,
    ast.Eq: np.equal, ast.NotEq: np.not_equal,
}  # fmt: skip


class NotAnExpression(TopionError):
    """at : the character, from 1, at which it goes wrong.  mend : what may stand there instead;
    empty where nothing is near."""

    def __init__(self, at: int, reason: str, mend: str = "") -> None:
        self.at, self.reason, self.mend = at, reason, mend
        did = f" Did you mean {mend}?" if mend else ""
        super().__init__(f"character {at}: {reason}.{did}")


@dataclass(frozen=True)
class Expression:
    """A text that was read.  random : whether it depends on the seed."""

    text: str
    tree: ast.expr
    random: bool

    def values(
        self, variables: Mapping[str, Values], seed: int, of: str = "",
        curve: Callable[[Values], Values] | None = None,
    ) -> Values:  # fmt: skip
        """(n,) what it gives for each thing.

        variables : (n,) values of `value`, `x`, `y`, `z`; the others follow from their count.
        of : the property it is for, so that two rows draw other numbers from one seed.
        curve : see Dice.
        Raises NotAnExpression for values that are no numbers.
        """
        n = len(variables["value"])
        try:
            found = _Work(variables, n, seed_of(f"arrange {of} {seed}"), curve).of(self.tree)
        except NoCurve:
            raise NotAnExpression(1, "no curve is picked beside the things") from None
        out = np.broadcast_to(np.asarray(found, np.float64), n).copy()
        wrong = np.flatnonzero(~np.isfinite(out))
        if len(wrong):
            raise NotAnExpression(1, f"gives no number for thing {wrong[0]}")
        return out


def read(text: str) -> Expression:
    """Raises NotAnExpression, which names the character and often a mend."""
    if len(text) > LONGEST:
        raise NotAnExpression(LONGEST + 1, f"an expression has at most {LONGEST} letters")
    if not text.strip():
        raise NotAnExpression(1, "an expression has at least one number or name")
    shift = len(text) - len(text.lstrip())
    tree = _parsed(text.strip(), shift)
    nodes = list(ast.walk(tree))
    if len(nodes) > _MOST_NODES:
        raise NotAnExpression(1, "it has too many parts")
    _Check(shift).visit(tree, 0)
    used = {node.id for node in nodes if isinstance(node, ast.Name)}
    return Expression(text, tree, bool(used & RANDOM.keys()))


def _parsed(text: str, shift: int) -> ast.expr:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")  # of doubtful literals: they are no numbers of ours
            return ast.parse(text, mode="eval").body
    except SyntaxError as problem:
        at = min(max(1, problem.offset or 1), len(text) + 1)
        if text[-1] in _OPEN_ENDS:
            at = len(text) + 1
        raise NotAnExpression(at + shift, _told(text, at)) from None
    except (ValueError, RecursionError, MemoryError, OverflowError, Warning):
        raise NotAnExpression(1 + shift, "this is no expression") from None


def _told(text: str, at: int) -> str:
    """What is wrong about a text that is not read."""
    if text.count("(") != text.count(")"):
        return "a bracket is open" if text.count("(") > text.count(")") else "a bracket too many"
    if at > len(text):
        return "something is missing at the end"
    return f"“{text[at - 1]}” does not fit here"


class _Check:
    """Walks a tree and refuses whatever is not allowed."""

    def __init__(self, shift: int) -> None:
        self._shift = shift

    def _no(self, node: ast.AST, reason: str, mend: str = "") -> NotAnExpression:
        return NotAnExpression(getattr(node, "col_offset", 0) + 1 + self._shift, reason, mend)

    def visit(self, node: ast.expr, depth: int) -> None:
        """Raises NotAnExpression."""
        if depth > _DEEPEST:
            raise self._no(node, "it is nested too deeply")
        for part in self._parts(node):
            self.visit(part, depth + 1)

    def _parts(self, node: ast.expr) -> list[ast.expr]:
        """The parts of a node that is allowed."""
        match node:
            case ast.Constant(value=value):
                self._number(node, value)
                return []
            case ast.Name(id=name):
                self._name(node, name)
                return []
            case ast.BinOp(left=left, op=op, right=right) if type(op) in _BINARY:
                return [left, right]
            case ast.UnaryOp(op=ast.UAdd() | ast.USub() | ast.Not(), operand=operand):
                return [operand]
            case ast.Compare(left=left, ops=ops, comparators=others) if all(
                type(op) in _COMPARED for op in ops
            ):
                return [left, *others]
            case ast.BoolOp(values=values):
                return list(values)
            case ast.IfExp(test=test, body=body, orelse=orelse):
                return [test, body, orelse]
            case ast.Call(func=ast.Name(id=name), args=args, keywords=[]):
                self._call(node, name, args)
                return args
        raise self._no(node, f"{_WORDS.get(type(node), 'this')} may not stand here")

    def _number(self, node: ast.expr, value: object) -> None:
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise self._no(node, "only numbers may stand here")
        if not abs(value) <= _LARGEST:
            raise self._no(node, "this number is too large")

    def _name(self, node: ast.expr, name: str) -> None:
        if name in VARIABLES or name in CONSTANTS:
            return
        if name in FUNCTIONS:
            shown = FUNCTIONS[name].shown
            raise self._no(node, f"“{name}” is written with brackets", shown)
        raise self._no(node, f"“{name:.30}” is not a name here",
                       _near(name, (*VARIABLES, *CONSTANTS, *FUNCTIONS)))  # fmt: skip

    def _call(self, node: ast.expr, name: str, args: list[ast.expr]) -> None:
        function = FUNCTIONS.get(name)
        if function is None:
            known = "is no function" if name in VARIABLES or name in CONSTANTS else (
                "is not a name here")  # fmt: skip
            raise self._no(node, f"“{name:.30}” {known}", _near(name, FUNCTIONS))
        low, high = function.args
        if not low <= len(args) <= high or any(isinstance(arg, ast.Starred) for arg in args):
            wanted = f"{low}" if low == high else f"{low} to {high}"
            raise self._no(node, f"“{name}” takes {wanted} values, not {len(args)}",
                           function.shown)  # fmt: skip


_WORDS: dict[type[ast.AST], str] = {
    ast.Attribute: "a dot behind a name", ast.Subscript: "a square bracket", ast.List: "a list",
    ast.Tuple: "a comma", ast.Lambda: "lambda", ast.ListComp: "a loop", ast.SetComp: "a loop",
    ast.GeneratorExp: "a loop", ast.DictComp: "a loop", ast.Dict: "a curly bracket",
    ast.Set: "a curly bracket", ast.NamedExpr: ":=", ast.JoinedStr: "text", ast.Starred: "a star",
    ast.Await: "await", ast.Yield: "yield", ast.Call: "a call of this kind",
    ast.BinOp: "this sign", ast.Compare: "this comparison", ast.UnaryOp: "this sign",
}  # fmt: skip


def _near(name: str, known: object) -> str:
    """The nearest of some names."""
    found = difflib.get_close_matches(name[:30], list(known), 1, 0.6)  # type: ignore[call-overload]
    return str(found[0]) if found else ""


class _Work:
    """Works a tree out for n things."""

    def __init__(
        self, variables: Mapping[str, Values], n: int, seed: int,
        curve: Callable[[Values], Values] | None,
    ) -> None:  # fmt: skip
        self._i, self._curve = np.arange(n), curve
        self._seed, self._calls = seed, 0
        own = {"i": self._i.astype(np.float64), "n": float(n), "t": self._i / max(1, n)}
        self._known: dict[str, Any] = {**CONSTANTS, **variables, **own}

    def of(self, node: ast.expr) -> Any:
        with np.errstate(all="ignore"):
            return self._of(node)

    def _of(self, node: ast.expr) -> Any:
        match node:
            case ast.Constant(value=value):
                return float(value)  # type: ignore[arg-type]
            case ast.Name(id=name):
                return self._known[name]
            case ast.BinOp(left=left, op=op, right=right):
                return _BINARY[type(op)](np.float64(self._of(left)), np.float64(self._of(right)))
            case ast.UnaryOp(op=op, operand=operand):
                found = np.float64(self._of(operand))
                return -found if isinstance(op, ast.USub) else (
                    np.float64(found == 0) if isinstance(op, ast.Not) else found)  # fmt: skip
            case ast.Compare(left=left, ops=ops, comparators=others):
                return self._compared([left, *others], ops)
            case ast.BoolOp(op=op, values=parts):
                join = np.logical_and if isinstance(op, ast.And) else np.logical_or
                found = self._of(parts[0])
                for part in parts[1:]:
                    found = join(found, self._of(part))
                return np.float64(found)
            case ast.IfExp(test=test, body=body, orelse=orelse):
                return np.where(np.asarray(self._of(test)) != 0, self._of(body), self._of(orelse))
            case ast.Call(func=ast.Name(id=name), args=args):
                return self._called(name, [np.float64(self._of(arg)) for arg in args])
        raise NotAnExpression(1, "this is no expression")  # `read` lets nothing else through

    def _compared(self, parts: list[ast.expr], ops: list[ast.cmpop]) -> Any:
        values = [self._of(part) for part in parts]
        found: Any = True
        for left, op, right in zip(values, ops, values[1:], strict=False):
            found = np.logical_and(found, _COMPARED[type(op)](left, right))
        return np.float64(found)

    def _called(self, name: str, args: list[Any]) -> Any:
        function = FUNCTIONS[name]
        if name in RANDOM or name in BY_NUMBER or name in ON_CURVE:
            self._calls += 1
            return function.does(Dice(self._seed, self._calls, self._i, self._curve), *args)
        return function.does(*args)
