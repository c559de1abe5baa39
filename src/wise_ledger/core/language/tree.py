"""The tree of an expression as written, before names and units are looked at."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Place:
    """Where in the text something stands: offsets for quoting,
    line and column (from 1) for people.
    """

    begin: int
    end: int
    line: int
    column: int


@dataclass(frozen=True)
class Node:
    """Any part of an expression."""

    place: Place


@dataclass(frozen=True)
class Number(Node):
    """A bare number; 5% is 0.05."""

    value: float


@dataclass(frozen=True)
class Money(Node):
    """An amount in a currency, such as 500mn EUR."""

    value: float
    currency: str


@dataclass(frozen=True)
class Text(Node):
    """A quoted text."""

    value: str


@dataclass(frozen=True)
class Span(Node):
    """A stretch of time: `unit` is d, mo, q or y."""

    count: int
    unit: str


@dataclass(frozen=True)
class Name(Node):
    """An item, field or attribute; `selector` is q, h, fy, ttm, ytd or empty."""

    name: str
    selector: str = ""


@dataclass(frozen=True)
class Keyword(Node):
    """A named argument of a call."""

    name: str
    value: Node


@dataclass(frozen=True)
class Call(Node):
    """A function with its arguments, in the order written."""

    name: str
    arguments: tuple[Node, ...]


@dataclass(frozen=True)
class Minus(Node):
    """A change of sign."""

    operand: Node


@dataclass(frozen=True)
class Arithmetic(Node):
    """`+`, `-`, `*`, `/` or `^` between two operands."""

    operator: str
    left: Node
    right: Node


@dataclass(frozen=True)
class Comparison(Node):
    """`<`, `<=`, `>`, `>=`, `==` or `!=` between two operands."""

    operator: str
    left: Node
    right: Node


@dataclass(frozen=True)
class Membership(Node):
    """`in` (or `not in`) a list of literals."""

    operand: Node
    negated: bool
    members: tuple[Node, ...]


@dataclass(frozen=True)
class Logic(Node):
    """`and` or `or` of two or more operands."""

    operator: str
    operands: tuple[Node, ...]


@dataclass(frozen=True)
class Not(Node):
    """`not` of its operand."""

    operand: Node
