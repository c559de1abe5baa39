"""Evaluate a plan over companies and dates.

What looks at no other cell is evaluated by `Cellwise`; fiscal expressions over many dates at the
events at which they may move (`OnEvents`); what lives on dates by `OnDates`. Here amounts are
converted, and companies looked at together.
"""

from collections import Counter
from collections.abc import Callable, Hashable, Sequence
from functools import cached_property
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, choose, common_currency
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.language.cellwise import Cellwise, Sides, united
from wise_ledger.core.language.conversion import (
    Conversion,
    Converter,
    Currencies,
    commonest,
    target_of,
)
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.fiscalaxis import FiscalAxis, FiscalGround
from wise_ledger.core.language.functions.function import Wants
from wise_ledger.core.language.ofseries import series_values
from wise_ledger.core.language.ondates import OnDates
from wise_ledger.core.language.onevents import OnEvents
from wise_ledger.core.language.plan import (
    Apply,
    AtEnd,
    Before,
    Compare,
    Constant,
    Field,
    Leaf,
    Member,
    Sampled,
    Seen,
    SeriesSampled,
    SeriesStep,
    Step,
    TextConstant,
    amount_on_dates,
    below,
    price_of_a_day,
)
from wise_ledger.core.language.scope import Scope
from wise_ledger.core.language.spans import Span, Whole, over_all
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable, last_day
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.time.periods import Days
from wise_ledger.core.timelines.keys import Instants, Rows
from wise_ledger.core.timelines.places import Grid
from wise_ledger.core.timelines.timeline import Timeline

T = TypeVar("T")


class Ground(FiscalGround, Protocol):
    """What an evaluation stands on: figures and fields of all companies,
    as the ledger knows them.
    """

    companies: int

    @property
    def vocabulary(self) -> Vocabulary:
        """What an expression may name."""

    @property
    def attributes(self) -> Attributes:
        """What was stated about companies."""

    @property
    def rates(self) -> RateTable:
        """Rates between currencies."""

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute of the companies at the cut-offs."""

    def groups(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The groups of companies by an attribute at each cut-off, numbered."""

    @property
    def market(self) -> Market:
        """Prices, dividends and splits of listings."""

    @property
    def share_counts(self) -> ShareCounts:
        """Shares outstanding of securities."""

    @property
    def series(self) -> SeriesBook:
        """Economic series."""

    @property
    def estimates(self) -> Estimates:
        """What analysts expected."""

    def reported_ends(self, item: Item) -> Timeline:
        """The period ends of the item as reported, as values, by the nominal end they are for."""

    def kept(self, name: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """What was made under this name, as kept; else as made now."""


class Evaluation(Cellwise):
    """One evaluation: companies `members` (numbers) x ascending `cutoffs`;
    comparisons seen are kept in `sides`.

    With `ends` given the period is asked for by name: E is that, and nothing is stale (F11).
    Results that are money come in `currency` (M2), without one each in its own.
    """

    def __init__(
        self,
        ground: Ground,
        members: Rows,
        cutoffs: Instants,
        *,
        ends: Days | None = None,
        stale_after: int | None = None,
        currency: str | None = None,
        targets: Instants | None = None,
        counted: Counted | None = None,
    ) -> None:
        self._currency = None if currency is None else currency_code(currency)
        places = Grid(members, cutoffs, ground.companies)
        super().__init__(
            FiscalAxis(ground, places, ends=ends, stale_after=stale_after, currency=self._currency)
        )
        self._ground = ground
        self._members = members
        self._cutoffs = cutoffs
        self._converter = Converter(lambda: ground.rates, cutoffs)
        self.on_dates = OnDates(
            ground,
            members,
            cutoffs,
            lambda at, of=None: Evaluation(ground, members, at, targets=of),
            targets,
            self._currency,
        )
        self._on_events = OnEvents(ground, self.axis, members, cutoffs)
        self._counted = counted
        # by step and scope: a scope is one object as long as scopes are shared
        self._repeated: set[tuple[Step, int]] | None = None
        self._kept: dict[tuple[Step, int], Values] = {}
        self._grouped: dict[str, Values] = {}
        self.sides: dict[Step, Sides] = {}  # of each comparison

    @property
    def conversions(self) -> tuple[Conversion, ...]:
        """The rates used in the first cell."""
        return tuple(self._converter.used)

    def share(self, steps: Sequence[Step]) -> None:
        """Tell what will be run: what occurs in it more than once is evaluated once, and kept."""
        self.axis.shared = True
        count: Counter[tuple[Step, int]] = Counter()
        for step in steps:
            self._count(step, id(self.axis.scope(step)), count)
        self._repeated = {key for key, n in count.items() if n > 1}

    def _count(self, step: Step, scope: int, count: Counter[tuple[Step, int]]) -> None:
        """How often each part is to be evaluated; what is inside one that is kept is so once."""
        if isinstance(step, Compare | Member):
            scope = id(self.axis.scope(step))
        count[step, scope] += 1
        if count[step, scope] == 1 and not isinstance(step, Before | Sampled | AtEnd):
            for part in below(step):
                self._count(part, scope, count)

    def run(self, step: Step) -> tuple[Values, Days]:
        """The values of a plan, and the period ends of what stands outside comparisons."""
        if self._repeated is None:
            self.share([step])
        scope = self.axis.scope(step)
        values = self._asked(step, self.value(step, scope), scope)
        ends = self._on_events.ends(scope)
        return values, scope.ends if ends is None else ends

    def value(self, step: Step, scope: Scope) -> Values:
        """The values of a step that stands in a scope; what occurs more than once is kept."""
        if not self._repeated or (key := (step, id(scope))) not in self._repeated:
            return self._made(step, scope)
        if key not in self._kept:
            self._kept[key] = self._made(step, scope)
        return self._kept[key]

    def _made(self, step: Step, scope: Scope) -> Values:
        found = self._on_events.value(step, scope)
        return super().value(step, scope) if found is None else found

    def other(self, step: Step, scope: Scope) -> Values:
        """What lives on dates."""
        match step:
            case TextConstant():
                return Values.known(np.full(self._shape, step.value, object))
            case Field():
                return self._ground.field(step.name, self._members, self._cutoffs)
            case Seen():
                return self.axis.observation(step.item)
            case SeriesStep() | SeriesSampled():
                return series_values(self._ground.series, step, self._cutoffs, self._shape)
        return self.on_dates.value(step, scope)

    def compared(
        self, step: Step, left: tuple[Step, Values], right: tuple[Step, Values], own: Scope
    ) -> None:
        """Keep both sides of a comparison, as people read them."""
        self.sides[step] = Sides(self._shown(*left, own), self._shown(*right, own), own)

    def applied(self, step: Apply, parts: Sequence[Values], scope: Scope) -> Values:
        """A function of its operands, or of all companies of each date."""
        return (
            self._across(step, parts[0], scope)
            if step.function.wants is Wants.ACROSS
            else united(step, parts)
        )

    def meeting(self, steps: Sequence[Step], scope: Scope) -> list[Values]:
        """Operands; where amounts in different currencies would meet,
        each is converted first, at its own rate (M2).
        """
        parts = [self.value(s, scope) for s in steps]
        clash = common_currency(parts)[1]
        if not clash.any():
            return parts
        target = target_of(steps, parts, self._currency)
        both = list(zip(steps, parts, strict=True))
        # Beside an amount that lives on dates a fiscal one takes the rate of the date: a
        # ratio and its inverse agree.
        date = self._date(steps)
        return [choose(clash, self._converted(s, p, scope, target, date), p) for s, p in both]

    def _date(self, steps: Sequence[Step]) -> Whole | None:
        """On which days amounts that live on dates are converted, and figures beside them: a price
        on its own (M2), all else on those of the cut-offs; None where there is none of them.
        """
        if not any(amount_on_dates(s) for s in steps):
            return None
        if any(price_of_a_day(s) for s in steps):
            return self._price_days
        return self._converter.today(self._shape[0]).end

    @cached_property
    def _price_days(self) -> Whole:
        return self.on_dates.price_days(self._cutoffs)

    def _converted(
        self, step: Step, plain: Values, scope: Scope, target: Currencies, date: Whole | None
    ) -> Values:
        if not (plain.currency != NO_CURRENCY).any():
            return plain
        if isinstance(step, Apply) and step.function.wants is not Wants.ACROSS:
            parts = [
                self._converted(o, self.value(o, scope), scope, target, date) for o in step.operands
            ]
            return united(step, parts)
        return self._converter.convert(step, plain, self._span(step, scope, date), target)

    def _asked(self, step: Step, values: Values, scope: Scope) -> Values:
        """A result that is money, in the currency asked for:
        at the mean over its flow's period, else the rate of E.
        """
        if self._currency is None or not (values.currency != NO_CURRENCY).any():
            return values
        span = self._span(step, scope, self._date([step]))
        return self._converter.convert(
            step, values, span, np.full(self._shape, self._currency, np.int16)
        )

    def _shown(self, step: Step, met: Values, scope: Scope) -> Values:
        """A side of a comparison as people read it: as it met the other,
        or in the currency asked for.
        """
        return met if self._currency is None else self._asked(step, self.value(step, scope), scope)

    def _across(self, step: Apply, x: Values, scope: Scope) -> Values:
        """A cross-section of those who count, their amounts in one currency."""
        operand, counted = step.operands[0], self._counted
        groups = self._groups(step.within) if step.within else None
        if counted is None:
            target = commonest(x, self._currency)
            x = self._converted(operand, x, scope, target, self._date([operand]))
            return united(step, [x] if groups is None else [x, groups])
        only = counted.seen(x).missing_where(~counted.members, Reason.INACTIVE)
        target = np.broadcast_to(commonest(only, self._currency), only.value.shape)
        if counted.date is not None:
            target = target[:, counted.date]
        x = self._converted(operand, x, scope, target, self._date([operand]))
        x = counted.seen(x).missing_where(~counted.members, Reason.INACTIVE)
        return counted.spread(united(step, [x] if groups is None else [x, counted.seen(groups)]))

    def _groups(self, attribute: str) -> Values:
        """The groups of companies by an attribute, numbered."""
        if attribute not in self._grouped:
            self._grouped[attribute] = self._ground.groups(attribute, self._members, self._cutoffs)
        return self._grouped[attribute]

    def _span(self, step: Step, scope: Scope, date: Whole | None) -> Span:
        """Over which days a result is converted; `date` is given where an amount of the date axis
        is part of it.
        """
        today = self._converter.today(self._shape[0])
        if isinstance(step, Apply):
            spans = [self._span(operand, scope, date) for operand in step.operands]
            if step.function.chosen is None:
                return over_all(spans, scope.ends.astype(np.int64) if date is None else date)
            place = step.function.chosen([self.value(operand, scope) for operand in step.operands])
            out = spans[-1]
            for n, span in enumerate(spans[:-1]):
                out = span.chosen(place == n, out)
            return out
        if isinstance(step, Constant | TextConstant | Compare | Member):
            return today
        if date is not None or not isinstance(step, Leaf):
            day = self._read_on(step, scope, today.end if date is None else date)
            return Span.of_day(day) if date is None else Span.of_amount(day, date)
        flow = step.item.nature is Nature.FLOW
        start = self.axis.start(step, scope).astype(np.int64) if flow else None
        return Span.of_figure(start, self.axis.end(step, scope).astype(np.int64), step.months)

    def _read_on(self, step: Step, scope: Scope, today: NDArray[np.int64]) -> NDArray[np.int64]:
        """On which days what lives on dates is read."""
        if isinstance(step, Before):
            then = step.span.before(self._cutoffs)
            if price_of_a_day(step.operand):
                return self.on_dates.price_days(then)
            return np.broadcast_to(last_day(then), self._shape)
        if isinstance(step, AtEnd):
            return self.on_dates.period_end(step, scope).astype(np.int64)
        return today
