"""Economic series in expressions: `series("key")`, and functions of time directly on one,
in its own periods (S4).
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language import tree
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.functions.function import Wants
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.plan import Apply, SeriesSampled, SeriesStep, Step, Stretch
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import NAMED, PURE, Axis, Unit
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code, is_currency
from wise_ledger.core.series.book import SeriesBook, periods_in
from wise_ledger.core.series.periods import Frequency
from wise_ledger.core.timelines.keys import Mark

_LONGEST = 50  # years
_SPANS = {
    Frequency.A: "1y",
    Frequency.Q: "1q or 1y",
    Frequency.M: "3mo or 1y",
    Frequency.W: "28d or 1y",
}


class SeriesTyping:
    """Types the calls of one expression that are about series; `call` gives None for all others."""

    def __init__(self, text: str, vocabulary: Vocabulary) -> None:
        self._text = text
        self._vocabulary = vocabulary

    def call(self, node: tree.Call, first: bool) -> Step | None:
        """The step of `series("key")`, or of a function of time directly on one."""
        if node.name == "series":
            return self._series(node, first)
        function = FUNCTIONS.get(node.name)
        if (
            function is None
            or function.wants not in (Wants.SHIFTED, Wants.WINDOW)
            or not node.arguments
        ):
            return None
        operand, only_first = node.arguments[0], first
        if (
            isinstance(operand, tree.Call)
            and operand.name == "first_reported"
            and len(operand.arguments) == 1
        ):
            operand, only_first = operand.arguments[0], True
        if not (isinstance(operand, tree.Call) and operand.name == "series"):
            return None
        now = self._series(operand, only_first)
        span = self._span(node, now, node.arguments[1:])
        if function.wants is Wants.WINDOW:
            unit = function.result(now.unit)
            return SeriesSampled(
                unit,
                Axis.DATE,
                node.place,
                function=function,
                key=now.key,
                span=span,
                first=now.first,
            )
        one_base = function.name != "ago"
        before = SeriesStep(
            now.unit.plain(), Axis.DATE, node.place, now.key, span, now.first, one_base
        )
        if function.name == "ago":
            return before
        unit = function.result(now.unit)
        return Apply(
            unit,
            Axis.DATE,
            node.place,
            function=function,
            operands=(now, before),
            option=span.years,
        )

    def _series(self, node: tree.Call, first: bool) -> SeriesStep:
        if len(node.arguments) != 1 or not isinstance(node.arguments[0], tree.Text):
            raise self._error(
                node, "a series is named by its key in quotes", 'write series("FAMILY/M.XA.SA")'
            )
        named = node.arguments[0]
        book = self._vocabulary.series()
        try:
            number = book.of(named.value)
        except BadInput as error:
            raise self._error(named, error.problems[0].problem, error.problems[0].mend) from None
        return SeriesStep(unit_of(book, number), Axis.DATE, node.place, named.value, None, first)

    def _span(self, node: tree.Call, series: SeriesStep, given: Sequence[Node]) -> Stretch:
        if not given and node.name == "average_balance":
            given = (tree.Span(node.place, 1, "y"),)
        if len(given) != 1 or not isinstance(given[0], tree.Span):
            raise self._error(
                node,
                "a span is needed",
                f"write {FUNCTIONS[node.name].call} with a span such as 1y",
            )
        span = given[0]
        stretch = Stretch(span.count, span.unit)
        if not span.count or stretch.years > _LONGEST:
            raise self._error(
                span, f"a span is not empty, and {_LONGEST} years at most", "write one such as 1y"
            )
        book = self._vocabulary.series()
        frequency = book.frequency(book.number[series.key])
        if frequency is not None and not periods_in(frequency, span.count, span.unit):
            problem = f"{series.key} is {frequency.adverb}, and this is no whole number of its {frequency.noun}s"
            raise self._error(span, problem, f"write {_SPANS.get(frequency, '30d')}")
        return stretch

    def _error(self, node: Node, problem: str, mend: str) -> ExpressionError:
        return ExpressionError(self._text, node.place, problem, mend)


def unit_of(book: SeriesBook, number: int) -> Unit:
    """Money where the series is stated in a currency; else a plain number."""
    return NAMED["money"] if is_currency(book.text(number, "unit")) else PURE


def series_values(
    book: SeriesBook,
    step: SeriesStep | SeriesSampled,
    cutoffs: NDArray[np.int64],
    shape: tuple[int, int],
) -> Values:
    """A series at each cut-off, the same for every company."""
    number = book.of(step.key)
    assumed = np.zeros(len(cutoffs), np.bool_)
    if isinstance(step, SeriesStep):
        back = (0, "d") if step.back is None else (step.back.count, step.back.unit)
        value, reason, assumed, _ = book.at(
            number, cutoffs, back=back, first=step.first, one_base=step.one_base
        )
    else:
        value, reason = _sampled(book, number, step, cutoffs)
    unit = book.text(number, "unit")
    money = currency_code(unit) if is_currency(unit) and step.unit.money else NO_CURRENCY
    marks = np.where(assumed, np.uint8(Mark.ASSUMED), np.uint8(0)).astype(np.uint8)
    each = np.zeros(shape[0], np.intp)
    value, reason, marks = value[None, :][each], reason[None, :][each], marks[None, :][each]
    return Values(value, reason, marks, np.full(shape, money, np.int16))


def _sampled(
    book: SeriesBook, number: int, step: SeriesSampled, cutoffs: NDArray[np.int64]
) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    span = (step.span.count, step.span.unit)
    samples, reason, counts, broken = book.samples(number, cutoffs, span, first=step.first)
    assert step.function.window is not None
    value = np.full(len(cutoffs), np.nan)
    for n, (values, times) in enumerate(samples):
        there = int((~np.isnan(values)).sum())
        if reason[n]:
            continue
        if broken[n]:
            reason[n] = Reason.NOT_MEANINGFUL
        elif 2 * there < counts[n] or there < step.function.samples:
            reason[n] = Reason.INCOMPLETE
        else:
            with np.errstate(all="ignore"):
                value[n] = step.function.window(values[:, None], times)[0]
    return value, np.where(
        (reason == 0) & ~np.isfinite(value), np.uint8(Reason.NOT_MEANINGFUL), reason
    )
