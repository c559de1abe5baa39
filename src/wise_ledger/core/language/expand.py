"""Names of measures, replaced in the tree by what they stand for: before anything is typed.

All that comes out of a measure stands where its name is written, so that a mistake quotes what a
person wrote. A selector on a measure goes to every flow in it that has none of its own.
"""

from collections.abc import Mapping
from dataclasses import fields, replace
from functools import lru_cache
from typing import TypeVar

from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.catalogue.measures import Measure
from wise_ledger.core.language import tree
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.functions.function import Wants
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.tree import Node, Place
from wise_ledger.core.language.vocabulary import Vocabulary

DEEPEST = 50  # of a tree, when all measures are expanded
N = TypeVar("N", bound=Node)
_parsed = lru_cache(1024)(parse)


def expanded(text: str, node: Node, vocabulary: Vocabulary) -> Node:
    """The tree of `text` without names of measures; raises `ExpressionError`,
    with the path of a circle.
    """
    return _Expander(text, vocabulary).expand(node, (), 0)


def measures_in(node: Node, measures: Mapping[str, Measure]) -> list[str]:
    """The measures that an expression names itself, in the order written."""
    found = [
        part.name
        for part in named_parts(node)
        if isinstance(part, tree.Name) and part.name in measures
    ]
    return list(dict.fromkeys(found))


def measures_under(node: Node, measures: Mapping[str, Measure]) -> list[str]:
    """The measures that an expression rests on, those that these rest on included;
    there must be no circle.
    """
    out: dict[str, None] = {}
    for name in measures_in(node, measures):
        out |= dict.fromkeys((name, *measures_under(_parsed(measures[name].formula), measures)))
    return list(out)


def named_parts(node: Node) -> list[Node]:
    """The parts of a tree in which a name stands for something:
    not words such as those of `estimate`.
    """
    if isinstance(node, tree.Keyword) or (isinstance(node, tree.Call) and _takes_words(node)):
        return []
    return [node, *(part for child in _children(node) for part in named_parts(child))]


def _children(node: Node) -> list[Node]:
    out: list[Node] = []
    for field in fields(node):
        value = getattr(node, field.name)
        out += [v for v in (value if isinstance(value, tuple) else (value,)) if isinstance(v, Node)]
    return out


def _takes_words(call: tree.Call) -> bool:
    function = FUNCTIONS.get(call.name)
    return function is not None and function.wants is Wants.ESTIMATE


class _Expander:
    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary

    def expand(self, node: Node, path: tuple[str, ...], depth: int) -> Node:
        if depth > DEEPEST:
            mend = (
                "keep a part of it as a measure that is not so deep"
                if path
                else "split it into measures"
            )
            raise ExpressionError(
                self._text, node.place, f"the expression goes deeper than {DEEPEST} levels", mend
            )
        if isinstance(node, tree.Keyword) or (isinstance(node, tree.Call) and _takes_words(node)):
            return node
        if isinstance(node, tree.Name) and (measure := self._measure(node)) is not None:
            return self._of(measure, node, path, depth)
        return _with_parts(node, lambda part: self.expand(part, path, depth + 1))

    def _measure(self, node: tree.Name) -> Measure | None:
        """Items and fields go first: a measure hides none."""
        v = self._vocabulary
        return None if node.name in v.items or node.name in v.fields else v.measures.get(node.name)

    def _of(self, measure: Measure, node: tree.Name, path: tuple[str, ...], depth: int) -> Node:
        if measure.name in path:
            circle = " → ".join((*path[path.index(measure.name) :], measure.name))
            problem = f"the measure {measure.name} rests on itself: {circle}"
            raise ExpressionError(
                self._text, node.place, problem, "write one of them out without the others"
            )
        try:
            found = _parsed(measure.formula)
        except ExpressionError as error:
            problem = f"the measure {measure.name} cannot be read: {error.problems[0].problem}"
            raise ExpressionError(self._text, node.place, problem, "keep it again") from None
        inner = self.expand(_placed(found, node.place), (*path, measure.name), depth)
        return selected(inner, node.selector, self._vocabulary) if node.selector else inner


def selected(node: Node, selector: str, vocabulary: Vocabulary) -> Node:
    """With the selector on every flow that has none."""
    if isinstance(node, tree.Name):
        item = vocabulary.items.get(node.name)
        flow = item is not None and item.nature is Nature.FLOW and not node.selector
        return replace(node, selector=selector) if flow else node
    if isinstance(node, tree.Keyword) or (isinstance(node, tree.Call) and _takes_words(node)):
        return node
    return _with_parts(node, lambda part: selected(part, selector, vocabulary))


def _with_parts(node: N, change) -> N:  # type: ignore[no-untyped-def]
    """The node with each part below it changed."""
    changed = {}
    for field in fields(node):
        value = getattr(node, field.name)
        if isinstance(value, Node):
            changed[field.name] = change(value)
        elif isinstance(value, tuple) and any(isinstance(v, Node) for v in value):
            changed[field.name] = tuple(change(v) for v in value)
    return replace(node, **changed) if changed else node


def _placed(node: Node, place: Place) -> Node:
    """As if all of it were written at one place."""
    return replace(_with_parts(node, lambda part: _placed(part, place)), place=place)
