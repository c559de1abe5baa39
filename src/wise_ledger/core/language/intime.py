"""Calls that look at other times: shifts, windows of samples, returns,
and what is read on a period end.
"""

from collections.abc import Callable
from contextlib import AbstractContextManager

from wise_ledger.core.language import tree
from wise_ledger.core.language.functions.function import Function
from wise_ledger.core.language.meeting import Meeting
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.plan import (
    Apply,
    AtEnd,
    Before,
    Quote,
    Return,
    Sampled,
    Step,
    Stretch,
    leaves,
    parts,
)
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import PURE, Axis
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.nearest import mend_for

MOST_SAMPLES, LONGEST_SPAN = 60, 600
MOST_DAYS = 3_660  # of a span on dates that is sampled
_STEPS = {"q": 3, "h": 6, "fy": 12, "balance_fy": 12}  # months between samples, by the selector
_QUARTER = 3
_MONTHS = {"mo": 1, "q": 3, "y": 12}
Below = Callable[..., Step]  # types a part of the call, shifted by months


class InTime:
    """Types the calls of one expression that look at other times."""

    def __init__(
        self,
        text: str,
        vocabulary: Vocabulary,
        meeting: Meeting,
        uncounted: Callable[[], AbstractContextManager[None]],
    ) -> None:
        self._text = text
        self._vocabulary = vocabulary
        self._meeting = meeting
        self._uncounted = uncounted  # parts that are typed meanwhile do not count

    def shifted(
        self,
        node: tree.Call,
        function: Function,
        operand: Node,
        span: Node | None,
        below: Callable[..., Step],
    ) -> Step:
        now = self._in_time(operand, below(operand))
        if now.axis is Axis.DATE:
            stretch = self._stretch(span)
            before: Step = Before(
                now.unit.plain(), Axis.DATE, node.place, operand=now, span=stretch
            )
            years = stretch.years
        else:
            months = self._months(span)
            with self._uncounted():  # the same once more is no part of what was written
                before, years = below(operand, months), months / 12
        if function.name == "ago":
            return before
        unit = self._meeting.result(node, function, now.unit)
        return Apply(
            unit, now.axis, node.place, function=function, operands=(now, before), option=years
        )

    def window(
        self,
        node: tree.Call,
        function: Function,
        operand: Node,
        span: Node | None,
        below: Callable[..., Step],
    ) -> Step:
        """Samples at offsets 0, step, … below the span;
        the step follows the selectors of what is sampled.
        """
        now = self._in_time(operand, below(operand))
        if now.axis is Axis.DATE:
            return self._sampled(node, function, now, span)
        months = self._months(span)
        steps = {_STEPS[leaf.form] for leaf in leaves(now) if leaf.form in _STEPS}
        by_years = isinstance(span, tree.Span) and span.unit == "y"
        step = min(steps) if steps else 12 if by_years else 3
        if months % step or months < step:
            mend = f"write a multiple of {step} months, such as {max(1, round(months / step)) * step}mo"
            raise self._error(span or node, f"the samples are {step} months apart", mend)
        if months // step > MOST_SAMPLES:
            raise self._error(span or node, f"more than {MOST_SAMPLES} samples", "shorten the span")
        with self._uncounted():  # a sample is no part of what was written
            samples = (now, *(below(operand, n) for n in range(step, months, step)))
        unit = self._meeting.result(node, function, now.unit)
        return Apply(
            unit, now.axis, node.place, function=function, operands=samples, option=step / 12
        )

    def returned(self, node: tree.Call, span: Node | None, over: tree.Keyword | None) -> Step:
        name = None
        if over is not None:
            if not isinstance(over.value, tree.Text):
                raise self._error(over.value, "a list is named in quotes", 'write over="…"')
            known = self._vocabulary.values("list")
            name = over.value.value
            if name not in known:
                raise self._error(
                    over.value, f"there is no list {name} with levels", mend_for(name, known)
                )
        return Return(
            PURE,
            Axis.DATE,
            node.place,
            node.name == "total_return",
            span=self._stretch(span),
            over=name,
        )

    def at_end(self, part: Node, node: tree.Call, inner: Step, months: int) -> Step:
        if inner.axis is not Axis.DATE or inner.unit.kind != "number":
            problem = "only what lives on dates is read on a period end: a price, a market value, an estimate"
            raise self._error(part, problem, "write at_period_end(market_value)")
        return AtEnd(inner.unit, Axis.FISCAL, node.place, operand=inner, months=months)

    def _sampled(self, node: tree.Call, function: Function, now: Step, span: Node | None) -> Step:
        stretch = self._stretch(span)
        if stretch.years * 365 > MOST_DAYS:
            raise self._error(
                span or node, f"the span has more than {MOST_DAYS:,} days", "shorten it"
            )
        priced = any(isinstance(part, Quote | Return) for part in parts(now))
        unit = self._meeting.result(node, function, now.unit)
        return Sampled(
            unit, Axis.DATE, node.place, function=function, operand=now, span=stretch, priced=priced
        )

    def _months(self, span: Node | None) -> int:
        """The months of a span on the fiscal axis; a year where none is written."""
        if not isinstance(span, tree.Span):
            return _MONTHS["y"]
        if span.unit == "d":
            raise self._error(
                span,
                "fiscal figures are not shifted by days",
                "use months, quarters or years: 3mo, 1q, 1y",
            )
        months = span.count * _MONTHS[span.unit]
        if months > LONGEST_SPAN:
            raise self._error(
                span, f"the span is longer than {LONGEST_SPAN // 12} years", "write a shorter one"
            )
        if months % _QUARTER or not months:
            nearest_ = max(1, round(months / _QUARTER)) * _QUARTER
            problem = "fiscal figures end a whole number of quarters apart"
            raise self._error(span, problem, f"write a multiple of 3 months, such as {nearest_}mo")
        return months

    def _stretch(self, span: Node | None) -> Stretch:
        """A span on the date axis; a year where none is written."""
        if not isinstance(span, tree.Span):
            return Stretch(1, "y")
        found = Stretch(span.count, span.unit)
        if not span.count:
            raise self._error(span, "the span has no length", "write one such as 30d or 1y")
        if found.years > LONGEST_SPAN / 12:
            raise self._error(
                span, f"the span is longer than {LONGEST_SPAN // 12} years", "write a shorter one"
            )
        return found

    def _in_time(self, part: Node, step: Step) -> Step:
        """Something that lives on period ends or dates, and can be read on others."""
        if step.axis is Axis.CROSS:
            raise self._error(
                part, "a cross-section cannot be shifted in time", "shift what is inside it"
            )
        if step.axis is Axis.CONSTANT:
            self._meeting.number(part, step)
            raise self._error(
                part,
                "this is the same at all times and cannot be shifted",
                "name an item or a price",
            )
        return self._meeting.number(part, step)

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)
