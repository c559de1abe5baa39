"""One canonical form of an expression: as few parentheses as it needs,
one blank around operators, literals as written.

Comments stand before it, each on a line of its own; an expression too long for a line is broken at
its outermost `or`, `and`, `+` or `-`.
"""

import re

from wise_ledger.core.language import tree
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.tree import Node

WIDTH = 100
_OR, _AND, _NOT, _COMPARE, _SUM, _PRODUCT, _MINUS, _POWER, _PRIMARY = range(9)
_OPERATORS = {"+": _SUM, "-": _SUM, "*": _PRODUCT, "/": _PRODUCT, "^": _POWER}
_COMMENT = re.compile(r'"(?:[^"\\\n]|\\.)*"|#[^\n]*')


def formatted(text: str) -> str:
    """The expression in its canonical form, which means the same;
    raises `ExpressionError` where it cannot be read.

    >>> formatted("(net_income)/( revenue+1mn  EUR)>5%")
    'net_income / (revenue + 1mn EUR) > 5%'
    """
    printer = _Printer(text)
    node = parse(text)
    comments = [found for found in _COMMENT.findall(text) if found.startswith("#")]
    return "\n".join([*(c.rstrip() for c in comments), printer.lines(node)])


class _Printer:
    def __init__(self, text: str) -> None:
        self._text = text

    def lines(self, node: Node) -> str:
        """On one line where it fits, else broken at its outermost operators."""
        whole = self._of(node)
        if len(whole) <= WIDTH:
            return whole
        if isinstance(node, tree.Logic):
            level = _OR if node.operator == "or" else _AND
            parts = [self._at(part, level + 1) for part in node.operands]
            return f"\n{node.operator} ".join(parts)
        if isinstance(node, tree.Arithmetic) and node.operator in "+-":
            terms = self._terms(node)
            first, *rest = terms
            return "\n".join([first[1], *(f"{operator} {term}" for operator, term in rest)])
        return whole

    def _terms(self, node: Node) -> list[tuple[str, str]]:
        if isinstance(node, tree.Arithmetic) and node.operator in "+-":
            return [*self._terms(node.left), (node.operator, self._at(node.right, _SUM + 1))]
        return [("+", self._at(node, _SUM))]

    def _literal(self, node: Node) -> str:
        return re.sub(r"\s+", " ", self._text[node.place.begin : node.place.end])

    def _at(self, node: Node, least: int) -> str:
        """With parentheses where it binds less than its place needs."""
        return self._of(node) if _level(node) >= least else f"({self._of(node)})"

    def _of(self, node: Node) -> str:
        match node:
            case tree.Number() | tree.Money() | tree.Text():
                return self._literal(node)
            case tree.Span(_, count, unit):
                return f"{count}{unit}"
            case tree.Name(_, name, selector):
                return f"{name}.{selector}" if selector else name
            case tree.Keyword(_, name, value):
                return f"{name}={self._of(value)}"
            case tree.Call(_, name, arguments):
                return f"{name}({', '.join(self._of(a) for a in arguments)})"
            case tree.Minus(_, operand):
                return f"-{self._at(operand, _MINUS)}"
            case tree.Arithmetic(_, "^", left, right):
                return f"{self._at(left, _PRIMARY)} ^ {self._at(right, _MINUS)}"
            case tree.Arithmetic(_, operator, left, right):
                level = _OPERATORS[operator]
                return f"{self._at(left, level)} {operator} {self._at(right, level + 1)}"
            case tree.Comparison(_, operator, left, right):
                return f"{self._at(left, _SUM)} {operator} {self._at(right, _SUM)}"
            case tree.Membership(_, operand, negated, members):
                listed = ", ".join(self._of(m) for m in members)
                return f"{self._at(operand, _SUM)} {'not ' if negated else ''}in ({listed})"
            case tree.Logic(_, operator, operands):
                level = _OR if operator == "or" else _AND
                return f" {operator} ".join(self._at(o, level + 1) for o in operands)
            case tree.Not(_, operand):
                return f"not {self._at(operand, _NOT)}"
        raise AssertionError(node)


def _level(node: Node) -> int:
    """How tightly a part binds."""
    match node:
        case tree.Logic(_, operator, _):
            return _OR if operator == "or" else _AND
        case tree.Not():
            return _NOT
        case tree.Comparison() | tree.Membership():
            return _COMPARE
        case tree.Arithmetic(_, operator, _, _):
            return _OPERATORS[operator]
        case tree.Minus():
            return _MINUS
    return _PRIMARY
