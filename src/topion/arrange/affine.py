"""Expressions that are moved and scaled: the numbers in them change, as few as can be."""

from __future__ import annotations

import ast

from topion.arrange.expression import Expression, read

_DIGITS = 3  # behind the point, of the numbers that are written
_ALL_MOVE = ("linspace", "uniform", "minimum", "maximum", "choice", "clip")
_FIRST_MOVES = ("normal", "arange")  # the second one is a width: it is only scaled


def affine(text: str, times: float, plus: float) -> str:
    """The text of an expression that gives `times` what this one does, and `plus`.

    Raises NotAnExpression for a text that is none.
    """
    found: Expression = read(text)
    made = _Work(times).of(found.tree, plus)
    return ast.unparse(ast.fix_missing_locations(made)).replace(" ** ", "**")


class _Work:
    def __init__(self, times: float) -> None:
        self.times = times

    def of(self, node: ast.expr, plus: float) -> ast.expr:
        """That node scaled, and so much more."""
        match node:
            case ast.Constant(value=int() | float() as value):
                return _number(value * self.times + plus)
            case ast.UnaryOp(op=ast.USub(), operand=ast.Constant(value=int() | float() as value)):
                return _number(-value * self.times + plus)
            case ast.UnaryOp(op=ast.USub(), operand=operand):
                return ast.UnaryOp(ast.USub(), self.of(operand, -plus))
            case ast.BinOp(left=left, op=ast.Add() | ast.Sub() as op, right=right):
                return self._sum(left, op, right, plus)
            case ast.BinOp(left=left, op=ast.Mult() as op, right=right) if _is_number(left):
                return _more(ast.BinOp(self.of(left, 0.0), op, right), plus)
            case ast.BinOp(left=left, op=ast.Mult() | ast.Div() as op, right=right) if isinstance(
                op, ast.Div
            ) or _is_number(right):
                if isinstance(op, ast.Div):
                    return _more(ast.BinOp(self.of(left, 0.0), op, right), plus)
                return _more(ast.BinOp(left, op, self.of(right, 0.0)), plus)
            case ast.IfExp(test=test, body=body, orelse=orelse):
                return ast.IfExp(test, self.of(body, plus), self.of(orelse, plus))
            case ast.Call(func=ast.Name(id=name)):
                made = self._called(node, name, plus)
                if made is not None:
                    return made
        if self.times == 1.0:
            return _more(node, plus)
        return _more(ast.BinOp(_number(self.times), ast.Mult(), node), plus)

    def _sum(self, left: ast.expr, op: ast.operator, right: ast.expr, plus: float) -> ast.expr:
        """A number in it takes what is added; else the first part does."""
        back = -1.0 if isinstance(op, ast.Sub) else 1.0
        mine = _is_number(right) and not _is_number(left)
        one = self.of(left, 0.0 if mine else plus)
        two = self.of(right, back * plus if mine else 0.0)
        if isinstance(two, ast.Constant) and two.value == 0:
            return one
        if isinstance(two, ast.UnaryOp) and isinstance(two.operand, ast.Constant):
            op, two = (ast.Sub() if isinstance(op, ast.Add) else ast.Add()), two.operand
        return ast.BinOp(one, op, two)

    def _called(self, node: ast.Call, name: str, plus: float) -> ast.expr | None:
        args = node.args
        if self.times < 0 and name in ("minimum", "maximum", "clip"):
            return None
        if name in _ALL_MOVE:
            return ast.Call(node.func, [self.of(arg, plus) for arg in args], [])
        if name in _FIRST_MOVES:
            return ast.Call(node.func, [self.of(args[0], plus), self.of(args[1], 0.0)], [])
        if name == "where":
            rest = [self.of(arg, plus) for arg in args[1:]]
            return ast.Call(node.func, [args[0], *rest], [])
        return None


def _is_number(node: ast.expr) -> bool:
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        node = node.operand
    return isinstance(node, ast.Constant)


def _number(value: float) -> ast.expr:
    rounded = round(value, _DIGITS)
    written = int(rounded) if rounded == int(rounded) else rounded
    if written < 0:
        return ast.UnaryOp(ast.USub(), ast.Constant(-written))
    return ast.Constant(written)


def _more(node: ast.expr, plus: float) -> ast.expr:
    """A node and so much more; nothing is written for nothing."""
    rounded = round(plus, _DIGITS)
    if not rounded:
        return node
    op = ast.Add() if rounded > 0 else ast.Sub()
    return ast.BinOp(node, op, _number(abs(rounded)))
