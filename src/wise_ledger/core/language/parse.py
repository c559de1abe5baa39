"""Text of the measure language to a tree, or an error with position, quote and mend."""

import re
from collections.abc import Iterator
from dataclasses import fields, replace
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any

from lark import (
    Lark,
    Token,
    Transformer,
    UnexpectedCharacters,
    UnexpectedInput,
    UnexpectedToken,
    v_args,
)
from lark.exceptions import VisitError

from wise_ledger.core.language import tree
from wise_ledger.core.language.habits import habit_at
from wise_ledger.core.language.mistakes import ExpressionError, place_at
from wise_ledger.core.language.tree import Node, Place

LONGEST, DEEPEST = 4000, 50
_DEEPEST_TREE = 120
_POWER = {"": 0, "%": -2, "k": 3, "mn": 6, "bn": 9, "tn": 12}  # of ten
_NUMBER = re.compile(r"([0-9.]+)(%|k|mn|bn|tn)?(?:\s*([A-Z]{3}))?")
_WORD = re.compile(r"[A-Za-z0-9_.%]+|\S")


@cache
def _grammar() -> Lark:
    text = files(__package__).joinpath("language.lark").read_text("utf-8")
    return Lark(text, parser="lalr", propagate_positions=True, maybe_placeholders=False)


@lru_cache(256)  # the same measures are asked for again and again
def parse(text: str) -> Node:
    """The tree of `text`; raises `ExpressionError`."""
    whole = place_at(text, 0, len(text))
    if len(text) > LONGEST:
        raise ExpressionError(
            text[:40],
            place_at(text, 0, 40),
            f"the expression has {len(text)} characters",
            f"keep it to {LONGEST}",
        )
    if not re.sub(r"#[^\n]*", "", text).strip():
        raise ExpressionError(
            text, whole, "the expression is empty", "write one, such as net_income / revenue"
        )
    _check_depth(text)
    try:
        node: Node = _Build(text).transform(_grammar().parse(text))
    except UnexpectedInput as error:
        raise _explain(text, error) from None
    except VisitError as error:
        if isinstance(error.orig_exc, ExpressionError):
            raise error.orig_exc from None
        if isinstance(error.orig_exc, RecursionError):
            raise _too_deep(text) from None
        raise
    except RecursionError:
        raise _too_deep(text) from None
    if _depth(node) > _DEEPEST_TREE:
        raise _too_deep(text)
    return node


def _too_deep(text: str) -> ExpressionError:
    problem = f"its parts are nested more than {_DEEPEST_TREE} deep"
    return ExpressionError(text, place_at(text, 0, 40), problem, "split it into measures")


def _depth(node: Node) -> int:
    """How deep a tree is, counted without going down into it by calls."""
    level, depth = [node], 0
    while level:
        depth += 1
        level = [part for each in level for part in _parts(each)]
    return depth


def _parts(node: Node) -> Iterator[Node]:
    for field in fields(node):
        child = getattr(node, field.name)
        for part in child if isinstance(child, tuple) else (child,):
            if isinstance(part, Node):
                yield part


def _check_depth(text: str) -> None:
    depth = 0
    for found in re.finditer(r'"(?:[^"\\\n]|\\.)*"|#[^\n]*|[()]|\bnot\b|-', text):
        token = found.group()
        depth += {"(": 1, ")": -1}.get(token, 0)
        if depth > DEEPEST:
            place = place_at(text, found.start(), found.end())
            raise ExpressionError(
                text, place, f"parentheses go deeper than {DEEPEST}", "split it into measures"
            )
    if re.search(rf"(?:-\s*){{{DEEPEST}}}|(?:\bnot\s+){{{DEEPEST}}}", text):
        raise ExpressionError(
            text, place_at(text, 0, 40), "too many signs in a row", "write one of them"
        )


def _explain(text: str, error: UnexpectedInput) -> ExpressionError:
    """What a person would say of the place where the parser stopped."""
    begin = error.pos_in_stream if error.pos_in_stream is not None else len(text)
    if isinstance(error, UnexpectedToken) and error.token.type == "$END":
        begin = len(text)
    if (habit := habit_at(text, begin)) is not None:
        place = place_at(text, habit.begin, habit.begin + habit.length)
        return ExpressionError(text, place, habit.problem, habit.mend)
    word = _WORD.match(text, begin)
    quote = word.group() if word else ""
    place = place_at(text, begin, begin + len(quote))
    if not quote:
        open_ = text.count("(") > text.count(")")
        mend = (
            "close the parenthesis with )"
            if open_
            else "write what should come next: a name, a number or ("
        )
        return ExpressionError(text, place, "the expression stops too early", mend)
    if quote == '"':
        return ExpressionError(text, place, "this text is not closed", 'end it with "')
    if quote[0].isdigit() and not _NUMBER.fullmatch(quote):
        return ExpressionError(
            text,
            place,
            f"{quote} is no number",
            "a number may end in %, k, mn, bn or tn; a span in d, mo, q or y",
        )
    if quote.startswith("."):
        selectors = ".q, .h, .fy, .ttm and .ytd"
        return ExpressionError(
            text, place, f"{quote} is no selector", f"the selectors are {selectors}"
        )
    if quote[0].isupper():
        return ExpressionError(
            text,
            place,
            f"{quote} is no name",
            f'names are lower case: {quote.lower()}; a text stands in quotes: "{quote}"',
        )
    if quote == "=":
        return ExpressionError(text, place, "a single = compares nothing", "write == to compare")
    if isinstance(error, UnexpectedCharacters):
        return ExpressionError(text, place, f"{quote} has no meaning here", "take it out")
    mend = (
        "put an operator between the two, such as / or and" if quote[0].isalpha() else "take it out"
    )
    return ExpressionError(text, place, f"{quote} was not expected here", mend)


@v_args(meta=True)
class _Build(Transformer[Token, Node]):
    """Lark's tree to ours."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self._text = text

    def _place(self, meta: Any) -> Place:
        return place_at(self._text, meta.start_pos, meta.end_pos)

    def _of(self, first: Node, last: Node) -> Place:
        return place_at(self._text, first.place.begin, last.place.end)

    def number(self, meta: Any, children: list[Any]) -> Node:
        number, _ = _read_number(children[0])
        return tree.Number(self._place(meta), number)

    def money(self, meta: Any, children: list[Any]) -> Node:
        number, currency = _read_number(children[0])
        return tree.Money(self._place(meta), number, currency)

    def percent_money(self, meta: Any, children: list[Any]) -> Node:
        place = self._place(meta)
        raise ExpressionError(
            self._text,
            place,
            "a percent is no amount of money",
            "write the percent or the amount, such as 5mn EUR",
        )

    def string(self, meta: Any, children: list[Any]) -> Node:
        return tree.Text(self._place(meta), re.sub(r"\\(.)", r"\1", children[0][1:-1]))

    def span(self, meta: Any, children: list[Any]) -> Node:
        found = re.fullmatch(r"([0-9]+)(d|mo|q|y)", children[0])
        assert found
        return tree.Span(self._place(meta), int(found[1]), found[2])

    def name(self, meta: Any, children: list[Any]) -> Node:
        selector = str(children[1])[1:] if len(children) > 1 else ""
        return tree.Name(self._place(meta), str(children[0]), selector)

    def keyword(self, meta: Any, children: list[Any]) -> Node:
        return tree.Keyword(self._place(meta), str(children[0]), children[1])

    def arguments(self, meta: Any, children: list[Any]) -> list[Node]:
        return children

    def call(self, meta: Any, children: list[Any]) -> Node:
        return tree.Call(self._place(meta), str(children[0]), tuple(children[1]))

    def minus(self, meta: Any, children: list[Any]) -> Node:
        return tree.Minus(self._place(meta), children[1])

    def power(self, meta: Any, children: list[Any]) -> Node:
        return tree.Arithmetic(self._place(meta), "^", children[0], children[1])

    def _leftward(self, children: list[Any]) -> Node:
        left: Node = children[0]
        for operator, right in zip(children[1::2], children[2::2], strict=True):
            left = tree.Arithmetic(self._of(left, right), str(operator), left, right)
        return left

    def sum(self, meta: Any, children: list[Any]) -> Node:
        return self._leftward(children)

    def product(self, meta: Any, children: list[Any]) -> Node:
        return self._leftward(children)

    def compare(self, meta: Any, children: list[Any]) -> Node:
        return tree.Comparison(self._place(meta), str(children[1]), children[0], children[2])

    def chain(self, meta: Any, children: list[Any]) -> Node:
        place = place_at(self._text, children[3].start_pos, children[4].place.end)
        raise ExpressionError(
            self._text, place, "comparisons do not chain", "join two of them with and"
        )

    def membership(self, meta: Any, children: list[Any]) -> Node:
        negated = isinstance(children[1], Token)
        members = tuple(children[2 if negated else 1 :])
        return tree.Membership(self._place(meta), children[0], negated, members)

    def literal(self, meta: Any, children: list[Any]) -> Node:
        token = children[-1]
        if token.type == "STRING":
            return self.string(meta, [token])
        read = self.money if token.type == "MONEY" else self.number
        value = replace(
            read(meta, [token]), place=place_at(self._text, token.start_pos, token.end_pos)
        )
        return tree.Minus(self._place(meta), value) if len(children) == 2 else value

    def negation(self, meta: Any, children: list[Any]) -> Node:
        return tree.Not(self._place(meta), children[1])

    def _or_and(self, operator: str, meta: Any, children: list[Any]) -> Node:
        return tree.Logic(self._place(meta), operator, tuple(children))


# `or` and `and` are words of Python too, so these two builders are set by name.
setattr(
    _Build, "or", v_args(meta=True)(lambda self, meta, children: self._or_and("or", meta, children))
)
setattr(
    _Build,
    "and",
    v_args(meta=True)(lambda self, meta, children: self._or_and("and", meta, children)),
)


def _read_number(token: str) -> tuple[float, str]:
    """The number as it is written, to the last bit, and its currency."""
    found = _NUMBER.fullmatch(re.sub(r"\s+", " ", token))
    assert found
    return float(f"{found[1]}e{_POWER[found[2] or '']}"), found[3] or ""
