"""Type an expression before any number is touched: tree in, plan out,
or an error with its place.
"""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from itertools import pairwise

from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.language import tree
from wise_ledger.core.language.expand import expanded, selected
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.functions.choices import INDUSTRIALS
from wise_ledger.core.language.functions.function import Function, Second, Wants, truth
from wise_ledger.core.language.habits import ELSEWHERE
from wise_ledger.core.language.intime import InTime
from wise_ledger.core.language.meeting import Meeting
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.ofestimates import EstimateTyping
from wise_ledger.core.language.ofseries import SeriesTyping
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.plan import (
    Apply,
    AtEnd,
    Compare,
    Constant,
    Field,
    Leaf,
    Member,
    Quote,
    Seen,
    Step,
    TextConstant,
    applied,
    leaves,
    placed,
    within_scope,
)
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import AMOUNT, BARE, NAMED, PURE, TEXT, TRUTH, Axis
from wise_ledger.core.language.vocabulary import ENTERPRISE_VALUE, MARKET, STANDARD, Vocabulary
from wise_ledger.core.money.currencies import is_currency, near_currencies
from wise_ledger.core.nearest import mend_for

MOST_NODES = 200
# typed in all: samples within samples are as many as both multiplied, and so on
MOST_TYPED = 3_000


def plan(
    text: str, vocabulary: Vocabulary = STANDARD, *, selector: str = "", first: bool = False
) -> Step:
    """The typed plan of an expression; raises `ExpressionError`.

    `selector` goes to every flow that has none of its own; `first` asks for all of it as first
    reported (F10).
    """
    node = expanded(text, parse(text), vocabulary)
    if selector:
        node = selected(node, selector, vocabulary)
    return _Checker(text, vocabulary).check(node, first=first)


def plan_rule(text: str, vocabulary: Vocabulary = STANDARD) -> Step:
    """The plan of a screen's rule, which must say yes or no."""
    step = plan(text, vocabulary)
    if step.unit.kind != "truth":
        raise ExpressionError(
            text,
            step.place,
            f"a rule says yes or no, but this is {step.unit.name}",
            f"compare it: {text.strip()} > 0",
        )
    return step


class _Checker:
    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary
        self._nodes = self._typed = 0
        self._meeting = Meeting(text, vocabulary)
        self._in_time = InTime(text, vocabulary, self._meeting, self._uncounted)
        self._series = SeriesTyping(text, vocabulary)
        self._estimates = EstimateTyping(text, vocabulary)

    def check(self, node: Node, *, first: bool) -> Step:
        step = self._step(node, 0, first, True)
        self._beside_figures(step)
        if not step.unit.listed:
            raise self._error(
                node,
                f"the result is {step.unit.name}, which is no unit of a column",
                "divide it out",
            )
        return step

    @contextmanager
    def _uncounted(self) -> Iterator[None]:
        counted = self._nodes
        yield
        self._nodes = counted

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)

    def _step(self, node: Node, months: int, first: bool, moves: bool) -> Step:
        """`months` and `first` hold for every leaf below;
        `moves` says whether leaves below can set E (F11).
        """
        self._nodes, self._typed = self._nodes + 1, self._typed + 1
        if self._typed > MOST_TYPED:
            problem = (
                f"functions over time within one another take more than {MOST_TYPED:,} figures"
            )
            raise self._error(node, problem, "put fewer into one another, or shorten their spans")
        if self._nodes > MOST_NODES:
            raise self._error(
                node, f"the expression has more than {MOST_NODES} parts", "split it into measures"
            )

        def below(part: Node) -> Step:
            return self._step(part, months, first, moves)

        match node:
            case tree.Number(place, value):
                return Constant(replace(BARE, zero=value == 0), Axis.CONSTANT, place, value)
            case tree.Money(place, value, currency):
                if not is_currency(currency):
                    raise self._error(
                        node, f"{currency} is no currency of ISO 4217", near_currencies(currency)
                    )
                return Constant(AMOUNT, Axis.CONSTANT, place, value, currency)
            case tree.Text(place, text):
                return TextConstant(TEXT, Axis.CONSTANT, place, text)
            case tree.Name():
                return self._name(node, months, first, moves)
            case tree.Minus(place, operand):
                inner = self._meeting.number(operand, below(operand))
                if isinstance(inner, Constant):
                    return replace(inner, value=-inner.value, place=place)
                return applied("minus", inner.unit, inner.axis, place, (inner,))
            case tree.Arithmetic():
                return self._arithmetic(node, below)
            case tree.Comparison(place, operator, left, right):
                a, b = self._meeting.coded((left, below(left)), (right, below(right)))
                if "text" in (a.unit.kind, b.unit.kind) and operator not in ("==", "!="):
                    raise self._error(node, "texts have no order", "compare them with == or !=")
                self._meeting.meet(node, (left, a), (right, b))
                self._meeting.within_bounds((left, a), (right, b))
                self._beside_figures(a, b)
                return Compare(TRUTH, max(a.axis, b.axis), place, operator, left=a, right=b)
            case tree.Membership(place, operand, negated, members):
                inner = below(operand)
                list_ = tuple(
                    self._meeting.coded((operand, inner), (m, below(m)))[1] for m in members
                )
                for part, step in zip(members, list_, strict=True):
                    self._meeting.meet(part, (operand, inner), (part, step))
                found = Member(TRUTH, inner.axis, place, operand=inner, members=list_)
                return applied("not", TRUTH, inner.axis, place, (found,)) if negated else found
            case tree.Logic(place, operator, parts):
                steps = tuple(self._meeting.truth(p, below(p)) for p in parts)
                return applied(operator, TRUTH, max(s.axis for s in steps), place, steps)
            case tree.Not(place, operand):
                inner = self._meeting.truth(operand, below(operand))
                return applied("not", TRUTH, inner.axis, place, (inner,))
            case tree.Call():
                return self._call(node, months, first, moves)
            case tree.Span():
                raise self._error(
                    node, "a span stands only inside a function", "write it as in ago(x, 1y)"
                )
            case tree.Keyword():
                raise self._error(node, f"{node.name}= has no meaning here", "take it out")
        raise AssertionError(node)

    def _name(self, node: tree.Name, months: int, first: bool, moves: bool) -> Step:
        if item := self._vocabulary.items.get(node.name):
            if item.nature is Nature.OBSERVATION:
                if node.selector:
                    problem = (
                        f"{node.name} is dated by when it was seen: it has no .{node.selector}"
                    )
                    raise self._error(node, problem, f"write {node.name}")
                return Seen(NAMED[item.unit], Axis.DATE, node.place, item=item)
            if item.nature is Nature.FLOW:
                form = node.selector or "ttm"
            elif node.selector in ("", "fy"):
                form = "balance_fy" if node.selector else "balance"
            else:
                mend = f"write {node.name}, or {node.name}.fy for fiscal year ends"
                raise self._error(
                    node, f"{node.name} is a balance: it has no .{node.selector}", mend
                )
            unit = NAMED[item.unit]
            return Leaf(
                unit, Axis.FISCAL, node.place,
                item=item, form=form, months=months, first=first, moves_period=moves and not months,
            )  # fmt: skip
        if (unit_ := self._vocabulary.fields.get(node.name)) is not None:
            if node.selector:
                raise self._error(
                    node,
                    f"{node.name} is no item: it has no .{node.selector}",
                    f"write {node.name}",
                )
            if node.name == "enterprise_value":
                return self._enterprise_value(node)
            if node.name in MARKET:
                return Quote(unit_, Axis.DATE, node.place, node.name)
            return Field(unit_, Axis.DATE, node.place, node.name)
        if node.name in FUNCTIONS:
            raise self._error(
                node, f"{node.name} is a function", f"write {FUNCTIONS[node.name].call}"
            )
        if node.name in ("true", "false", "null", "none", "nan", "yes", "no"):
            mend = "write active or not active, without a comparison; missing(x) asks for what is missing"
            raise self._error(node, f"{node.name} is no word of this language", mend)
        raise self._error(
            node,
            f"there is no item, attribute or measure {node.name}",
            self._vocabulary.mend(node.name),
        )

    def _enterprise_value(self, node: tree.Name) -> Step:
        """M5, as one name: its parts stand where the name does."""
        formed = self._step(parse(ENTERPRISE_VALUE), 0, False, True)
        template = Field(TEXT, Axis.DATE, node.place, "template")
        step = Apply(
            formed.unit, Axis.DATE, node.place, function=INDUSTRIALS, operands=(template, formed)
        )
        return placed(step, node.place)

    def _beside_figures(self, *sides: Step) -> None:
        """What is read on a period end needs a figure beside it that has one."""
        for side in sides:
            for part in within_scope(side):
                if isinstance(part, AtEnd) and not any(leaves(s) for s in sides):
                    problem = "there is no figure here whose period end it is"
                    mend = "write it beside a figure, as in shareholders_equity / at_period_end(market_value)"
                    raise ExpressionError(self._text, part.place, problem, mend)

    def _arithmetic(self, node: tree.Arithmetic, below: Callable[[Node], Step]) -> Step:
        a, b = (
            self._meeting.number(node.left, below(node.left)),
            self._meeting.number(node.right, below(node.right)),
        )
        axis = max(a.axis, b.axis)
        if node.operator in "+-":
            unit = self._meeting.meet(node, (node.left, a), (node.right, b))
        elif node.operator in "*/":
            unit = a.unit.times(b.unit, 1 if node.operator == "*" else -1)
        elif a.unit.plain() == PURE:
            if b.unit.plain() != PURE:
                raise self._error(
                    node.right, f"the exponent is {b.unit.name}", "use a plain number"
                )
            unit = a.unit if b.axis is Axis.CONSTANT else PURE
        elif isinstance(b, Constant) and b.value == int(b.value):
            unit = a.unit.to_power(int(b.value))
        else:
            raise self._error(
                node.right, f"a power of {a.unit.name} needs a whole number", "write one, such as 2"
            )
        return applied(node.operator, replace(unit, zero=False), axis, node.place, (a, b))

    def _call(self, node: tree.Call, months: int, first: bool, moves: bool) -> Step:
        if (of_series := self._series.call(node, first)) is not None:
            return of_series
        function = FUNCTIONS.get(node.name)
        if function is None:
            if node.name in self._vocabulary.names:
                mend = f"write {node.name}, or ago({node.name}, 1y) for the one of a year before"
                raise self._error(node, f"{node.name} is no function", mend)
            known = ELSEWHERE.get(node.name)
            mend = (
                f"write {getattr(FUNCTIONS.get(known), 'call', known)}"
                if known
                else mend_for(node.name, FUNCTIONS)
            )
            raise self._error(node, f"there is no function {node.name}", mend)
        keywords = {k.name: k for k in node.arguments if isinstance(k, tree.Keyword)}
        given = [a for a in node.arguments if not isinstance(a, tree.Keyword)]
        across = function.wants is Wants.ACROSS
        for one, later in pairwise(node.arguments):
            if isinstance(one, tree.Keyword) and not isinstance(later, tree.Keyword):
                raise self._error(
                    later,
                    f"this stands behind {one.name}=",
                    f"write it before, as in {function.call}",
                )
        for key in keywords.values():
            if not (key.name == "within" and across) and key.name not in function.keywords:
                mend = (
                    "write within=industry, or another attribute"
                    if across
                    else f"write {function.call}"
                )
                raise self._error(key, f"{node.name} takes no {key.name}=", mend)

        def below(part: Node, shift: int = 0, only_first: bool = first) -> Step:
            return self._step(part, months + shift, only_first, moves and function.moves_period)

        operands, second = self._arguments(node, function, given)
        match function.wants:
            case Wants.SHIFTED:
                return self._in_time.shifted(node, function, operands[0], second, below)
            case Wants.WINDOW:
                return self._in_time.window(node, function, operands[0], second, below)
            case Wants.ACROSS:
                return self._across(
                    node, function, operands[0], second, keywords.get("within"), below
                )
            case Wants.VERSION:
                return below(operands[0], only_first=True)
            case Wants.RETURN:
                return self._in_time.returned(node, second, keywords.get("over"))
            case Wants.ESTIMATE:
                return self._estimates.call(node, operands, keywords.get("period"))
            case Wants.AT_END:
                return self._in_time.at_end(operands[0], node, below(operands[0]), months)
        return self._plain(node, function, operands, below)

    def _arguments(
        self, node: tree.Call, function: Function, given: Sequence[Node]
    ) -> tuple[Sequence[Node], Node | None]:
        """The operands, and what comes after them."""
        if function.second is Second.SPAN:
            most = function.most + 1
            if len(given) > most:
                problem = (
                    f"{node.name} takes {most} argument{'s' if most > 1 else ''}, not {len(given)}"
                )
                raise self._error(given[most], problem, f"write {function.call}")
            if len(given) != most or not isinstance(given[-1], tree.Span):
                mend = f"write {function.call} with a span such as 1y"
                raise self._error(node, "a span is needed", mend)
            return given[:-1], given[-1]
        extra = function.second is not Second.NOTHING
        if not function.least + extra <= len(given) <= function.most + extra:
            takes = f"{function.least + extra} arguments" if extra else function.takes
            problem = f"{node.name} takes {takes}, not {len(given)}"
            raise self._error(node, problem, f"write {function.call}")
        return (given[:-1], given[-1]) if extra else (given, None)

    def _plain(
        self,
        node: tree.Call,
        function: Function,
        operands: Sequence[Node],
        below: Callable[..., Step],
    ) -> Step:
        """Cell by cell: leading tests say yes or no, the others share a unit."""
        tests = [self._meeting.truth(part, below(part)) for part in operands[: function.tests]]
        shared = operands[function.tests :]
        steps = [below(part) for part in shared]
        if function.result is not truth and function.tests == 0:
            steps = [
                self._meeting.number(part, step) for part, step in zip(shared, steps, strict=True)
            ]
        unit = (
            steps[0].unit
            if len(steps) == 1
            else self._meeting.meet(node, *zip(shared, steps, strict=True))
        )
        if (
            function.bounds
            and all(isinstance(s, Constant) for s in steps[-2:])
            and _above(*steps[-2:])
        ):
            raise self._error(
                shared[-2], "the lower bound lies above the upper one", "turn the two around"
            )
        axis = max(s.axis for s in (*tests, *steps))
        return Apply(
            self._meeting.result(node, function, unit),
            axis,
            node.place,
            function=function,
            operands=(*tests, *steps),
        )

    def _across(
        self,
        node: tree.Call,
        function: Function,
        operand: Node,
        second: Node | None,
        within: tree.Keyword | None,
        below: Callable[..., Step],
    ) -> Step:
        group = None
        if within is not None:
            by = below(within.value)
            if not isinstance(by, Field):
                raise self._error(
                    within.value, "companies are grouped by an attribute", "write within=industry"
                )
            group = by.name
        option = 0.0
        if second is not None:
            value, whole = below(second), function.second is Second.COUNT
            if not isinstance(value, Constant) or not (
                value.value >= 1 and value.value == int(value.value)
                if whole
                else 0 < value.value < 0.5
            ):
                mend = (
                    "write a whole number such as 5"
                    if whole
                    else "write a share below half, such as 1%"
                )
                raise self._error(second, f"{node.name} needs a plain number here", mend)
            option = value.value
        inner = self._meeting.number(operand, below(operand))
        unit = self._meeting.result(node, function, inner.unit)
        return Apply(
            unit,
            Axis.CROSS,
            node.place,
            function=function,
            operands=(inner,),
            option=option,
            within=group,
        )


def _above(low: Step, high: Step) -> bool:
    """Whether a constant lies above another."""
    return isinstance(low, Constant) and isinstance(high, Constant) and low.value > high.value
