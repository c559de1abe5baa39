"""Evaluate a plan over companies and dates.

Fiscal leaves are read from timelines: for each scope (a comparison, or all that stands outside comparisons) one
period end E is found per company and date (F11), then every leaf is read at it.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, common_currency
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.fiscal.missing import reason_at_end, reason_at_no_end
from wise_ledger.core.language.conversion import Conversion, Converter, Currencies, commonest, target_of
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.functions.across import numbers_of
from wise_ledger.core.language.functions.choices import choose
from wise_ledger.core.language.functions.elementwise import OPERATORS, compare
from wise_ledger.core.language.functions.function import Wants
from wise_ledger.core.language.ofseries import series_values
from wise_ledger.core.language.ondates import OnDates
from wise_ledger.core.language.plan import (
    Apply,
    AtEnd,
    Before,
    Compare,
    Constant,
    Estimate,
    Field,
    Leaf,
    Member,
    Quote,
    Return,
    Sampled,
    Seen,
    SeriesSampled,
    SeriesStep,
    Step,
    Surprise,
    TextConstant,
    amount_on_dates,
)
from wise_ledger.core.language.scope import Scope, ScopeName, scope_name
from wise_ledger.core.language.spans import Span, over_all
from wise_ledger.core.language.units import PURE
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable, last_day
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, Days, shift_months
from wise_ledger.core.timelines.asof import Presence, newest, newest_row, standing
from wise_ledger.core.timelines.joint import FormName, Joint
from wise_ledger.core.timelines.keys import Instants, Keys, Mark, Rows, State, company_starts, key_end, make_keys
from wise_ledger.core.timelines.merge import gather
from wise_ledger.core.timelines.moves import Moves
from wise_ledger.core.timelines.timeline import Timeline

STALE_AFTER = 550  # days, F12
_LARGE = 1000.0  # of a ratio: so large, or so small turned over, that it says nothing


_RECKONED = frozenset({Wants.TOGETHER, Wants.SHIFTED, Wants.WINDOW})


def _extremes_marked(ratio: Values) -> Values:
    """With a mark where a ratio is above 1,000 or below 0.001: as of earnings near zero."""
    size = np.abs(ratio.value)
    extreme = ratio.there & ((size > _LARGE) | ((size < 1 / _LARGE) & (size > 0)))
    return replace(ratio, marks=ratio.marks | np.where(extreme, np.uint8(Mark.EXTREME), np.uint8(0)))


def _united(step: Apply, parts: Sequence[Values]) -> Values:
    """The result of a function; its currency follows from its unit: what is no money has none (M2)."""
    out = step.function.numbers(parts, step.option)
    if step.function is OPERATORS["/"] and step.unit.plain() == PURE:
        out = _extremes_marked(out)
    if step.function.wants not in _RECKONED:
        return out
    money = step.unit.money and step.unit.kind == "number"
    currency = common_currency(list(parts))[0] if money else np.full(out.value.shape, NO_CURRENCY, np.int16)
    return replace(out, currency=currency)


class Ground(Protocol):
    """What an evaluation stands on: figures and fields of all companies, as the ledger knows them."""

    companies: int

    @property
    def vocabulary(self) -> Vocabulary:
        """What an expression may name."""

    @property
    def rates(self) -> RateTable:
        """Rates between currencies."""

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form; those formed of parts in several currencies in the one given (M2)."""

    def joint(self, leaves: tuple[FormName, ...], currency: int | None = None) -> Joint:
        """Several figures side by side, to find the period end they share."""

    def figures(self, item: Item) -> Presence:
        """Any figure of the item."""

    def statement(self, item: Item) -> Presence:
        """Any figure of the item's statement."""

    def applicable(self, item: Item, members: Rows, cutoffs: Instants) -> NDArray[np.bool_]:
        """Whether each company's template has the item."""

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute of the companies at the cut-offs."""

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


@dataclass(frozen=True, eq=False)
class Sides:
    """A comparison looked at: both sides as values, and their period ends."""

    left: Values
    right: Values
    ends: Days


class Evaluation:
    """One evaluation: companies `members` (numbers) x ascending `cutoffs`; comparisons seen are kept in `sides`.

    With `ends` given the period is asked for by name: E is that, and nothing is stale (F11). Results that are money
    come in `currency` (M2), without one each in its own.
    """

    def __init__(
        self,
        ground: Ground,
        members: Rows,
        cutoffs: Instants,
        *,
        ends: Days | None = None,
        stale_after: int = STALE_AFTER,
        currency: str | None = None,
        targets: Instants | None = None,
        counted: Counted | None = None,
    ) -> None:
        self._ground = ground
        self._members = members
        self._cutoffs = cutoffs
        self._shape = (len(members), len(cutoffs))
        self._given_ends = ends
        self._stale_after = stale_after
        self._currency = None if currency is None else currency_code(currency)
        self._converter = Converter(lambda: ground.rates, cutoffs)
        self._on_dates = OnDates(
            ground, members, cutoffs, lambda at, of=None: Evaluation(ground, members, at, targets=of), targets
        )
        self._counted = counted
        self._repeated: set[tuple[Step, ScopeName]] = set()
        self._kept: dict[tuple[Step, ScopeName], Values] = {}
        self._scopes: dict[ScopeName, Scope] = {}
        self._newest: dict[tuple[int, bytes], tuple[Moves, Rows]] = {}
        self._everybody = bool(len(members) == ground.companies and (members == np.arange(len(members))).all())
        self._grouped: dict[str, Values] = {}
        self._templates: dict[frozenset[str], NDArray[np.bool_]] = {}
        self.sides: dict[int, Sides] = {}

    @property
    def conversions(self) -> tuple[Conversion, ...]:
        """The rates used in the first cell."""
        return tuple(self._converter.used)

    def share(self, steps: Sequence[Step]) -> None:
        """Tell what will be run: what occurs in it more than once is evaluated once, and kept."""
        count: Counter[tuple[Step, ScopeName]] = Counter()
        for step in steps:
            _count(step, scope_name(step), count)
        self._repeated = {key for key, n in count.items() if n > 1}

    def run(self, step: Step) -> tuple[Values, Days]:
        """The values of a plan, and the period ends of what stands outside comparisons."""
        scope = self._scope(step)
        return self._asked(step, self._value(step, scope), scope), scope.ends

    def _value(self, step: Step, scope: Scope) -> Values:
        if not self._repeated or (key := (step, scope.name)) not in self._repeated:
            return self._made(step, scope)
        if key not in self._kept:
            self._kept[key] = self._made(step, scope)
        return self._kept[key]

    def _made(self, step: Step, scope: Scope) -> Values:
        match step:
            case Constant():
                currency = -1 if step.currency is None else currency_code(step.currency)
                return Values.constant(step.value, self._shape, currency)
            case TextConstant():
                return Values.known(np.full(self._shape, step.value, object))
            case Field():
                return self._ground.field(step.name, self._members, self._cutoffs)
            case Leaf():
                return self._leaf(step, scope)
            case Seen():
                return self._seen(step.item)
            case SeriesStep() | SeriesSampled():
                return series_values(self._ground.series, step, self._cutoffs, self._shape)
            case Quote() | Return() | Estimate() | Surprise() | Before() | Sampled() | AtEnd():
                return self._on_dates.value(step, scope)
            case Compare():
                own = self._scope(step)
                left, right = self._meeting((step.left, step.right), own)
                shown = self._shown(step.left, left, own), self._shown(step.right, right, own)
                self.sides[id(step)] = Sides(*shown, own.ends)
                return compare(step.operator, left, right)
            case Member():
                own = self._scope(step)
                pairs = [self._meeting((step.operand, m), own) for m in step.members]
                value = self._shown(step.operand, pairs[0][0], own)
                self.sides[id(step)] = Sides(value, value, own.ends)
                return OPERATORS["or"].numbers([compare("==", *pair) for pair in pairs], 0.0)
            case Apply():
                if step.function.wants is Wants.APART:
                    parts = [self._value(o, scope) for o in step.operands]
                else:
                    parts = self._meeting(step.operands, scope)
                if step.function.wants is Wants.ACROSS:
                    return self._across(step, parts[0], scope)
                return _united(step, parts)
        raise AssertionError(step)

    def _meeting(self, steps: Sequence[Step], scope: Scope) -> list[Values]:
        """Operands; where amounts in different currencies would meet, each is converted first, at its own rate (M2)."""
        parts = [self._value(s, scope) for s in steps]
        clash = common_currency(parts)[1]
        if not clash.any():
            return parts
        target = target_of(steps, parts, self._currency)
        both = list(zip(steps, parts, strict=True))
        # Beside an amount that lives on dates a fiscal one takes the rate of the date: a ratio and its inverse agree.
        dated = any(amount_on_dates(s) for s in steps)
        return [choose(clash, self._converted(s, p, scope, target, dated), p) for s, p in both]

    def _converted(self, step: Step, plain: Values, scope: Scope, target: Currencies, dated: bool) -> Values:
        if not (plain.currency != NO_CURRENCY).any():
            return plain
        if isinstance(step, Apply) and step.function.wants is not Wants.ACROSS:
            parts = [self._converted(o, self._value(o, scope), scope, target, dated) for o in step.operands]
            return _united(step, parts)
        return self._converter.convert(step, plain, self._span(step, scope, dated), target)

    def _asked(self, step: Step, values: Values, scope: Scope) -> Values:
        """A result that is money, in the currency asked for: at the mean over its flow's period, else the rate of E."""
        if self._currency is None or not (values.currency != NO_CURRENCY).any():
            return values
        span = self._span(step, scope, amount_on_dates(step))
        return self._converter.convert(step, values, span, np.full(self._shape, self._currency, np.int16))

    def _shown(self, step: Step, met: Values, scope: Scope) -> Values:
        """A side of a comparison as people read it: as it met the other, or in the currency asked for."""
        return met if self._currency is None else self._asked(step, self._value(step, scope), scope)

    def _across(self, step: Apply, x: Values, scope: Scope) -> Values:
        """A cross-section of those who count, their amounts in one currency."""
        operand, counted = step.operands[0], self._counted
        groups = self._groups(step.within) if step.within else None
        if counted is None:
            target = commonest(x, self._currency)
            x = self._converted(operand, x, scope, target, amount_on_dates(operand))
            return _united(step, [x] if groups is None else [x, groups])
        only = counted.seen(x).missing_where(~counted.members, Reason.INACTIVE)
        target = np.broadcast_to(commonest(only, self._currency), only.value.shape)
        if counted.date is not None:
            target = target[:, counted.date]
        x = self._converted(operand, x, scope, target, amount_on_dates(operand))
        x = counted.seen(x).missing_where(~counted.members, Reason.INACTIVE)
        return counted.spread(_united(step, [x] if groups is None else [x, counted.seen(groups)]))

    def _groups(self, attribute: str) -> Values:
        """The groups of companies by an attribute, numbered."""
        if attribute not in self._grouped:
            self._grouped[attribute] = numbers_of(self._ground.field(attribute, self._members, self._cutoffs))
        return self._grouped[attribute]

    def _span(self, step: Step, scope: Scope, dated: bool) -> Span:
        """Over which days a result is converted; `dated` says that the rate of the date is asked for."""
        if isinstance(step, Before) and not dated:
            earlier = last_day(step.span.before(self._cutoffs))
            return Span.of_day(np.broadcast_to(earlier, self._shape))
        if isinstance(step, AtEnd) and not dated:
            return Span.of_day(self._on_dates.period_end(step, scope).astype(np.int64))
        if dated or not isinstance(step, Leaf | Apply):
            return self._converter.today(self._shape[0])
        if isinstance(step, Apply):
            spans = [self._span(operand, scope, dated) for operand in step.operands]
            if step.function.chosen is None:
                return over_all(spans, scope.ends.astype(np.int64))
            place = step.function.chosen([self._value(operand, scope) for operand in step.operands])
            out = spans[-1]
            for n, span in enumerate(spans[:-1]):
                out = span.chosen(place == n, out)
            return out
        ends = shift_months(np.where(scope.ends != NO_END, scope.ends, 0).ravel().astype(np.int32), -step.months)
        end = ends.reshape(self._shape).astype(np.int64)
        if step.item.nature is not Nature.FLOW:
            return Span.of_figure(None, end, step.months)
        timeline = self._timeline(step)
        company, cutoffs = np.repeat(self._members, self._shape[1]), np.tile(self._cutoffs, self._shape[0])
        rows = standing(timeline, make_keys(company, ends), cutoffs)
        start = gather(timeline.start, rows, 0).reshape(self._shape).astype(np.int64)
        return Span.of_figure(start, end, step.months)

    def _timeline(self, leaf: Leaf) -> Timeline:
        return self._ground.timeline(leaf.item, leaf.form, leaf.first, self._currency)

    def _scope(self, step: Step) -> Scope:
        name = found, per_share = scope_name(step)
        if name not in self._scopes:
            scope = replace(self._ends([*found]), leaves=found, per_share=per_share)
            if not self._repeated:
                return scope
            self._scopes[name] = scope
        return self._scopes[name]

    def _ends(self, found: list[Leaf]) -> Scope:
        if self._given_ends is not None or not found:
            ends = np.full(self._shape, NO_END, np.int32) if self._given_ends is None else self._given_ends
            return Scope(ends, np.zeros(self._shape, np.uint8), {})
        movers = {(f.item.code, f.form, f.first): f for f in found if f.moves_period}
        if not movers:
            ends = self._statement_end(found)
            reason = np.zeros(self._shape, np.uint8)
            if (none := ends == NO_END).any():
                reason = np.where(none, self._no_end(found, none), reason)
            return self._stale(Scope(ends, reason, {}))
        joint = self._ground.joint(tuple(movers), self._currency)
        at_rows = newest_row(joint.moves, joint.key, self._ground.companies, self._cutoffs)
        if not self._everybody:
            at_rows = at_rows[self._members]
        state = gather(joint.state, at_rows.ravel(), State.ABSENT).reshape(self._shape)
        has_end = state == State.VALUE
        key = gather(joint.key, at_rows.ravel(), 0).reshape(self._shape)
        # A withdrawn end is kept too: it is where the figure stood, and where its versions are to be found.
        ends = np.where(state != State.ABSENT, key_end(key), NO_END).astype(np.int32)
        reason = np.where(state == State.WITHDRAWN, np.uint8(Reason.WITHDRAWN), np.uint8(Reason.NONE))
        if (absent := state == State.ABSENT).any():
            reason = np.where(absent, self._no_end(list(movers.values()), absent), reason)
        rows = {}
        for (name, leaf), own in zip(movers.items(), joint.rows, strict=True):
            row = gather(own, at_rows.ravel(), -1).reshape(self._shape)
            first = company_starts(self._timeline(leaf).key, self._members)
            rows[name] = np.where(has_end & (row >= 0), row + first[:, None], -1)
        return self._stale(Scope(ends, reason, rows))

    def _stale(self, scope: Scope) -> Scope:
        today = (self._cutoffs // DAY).astype(np.int64)
        old = (scope.ends != NO_END) & (today - scope.ends.astype(np.int64) > self._stale_after)
        reason = np.where(old & (scope.reason == 0), np.uint8(Reason.STALE), scope.reason)
        return replace(scope, reason=reason)

    def _statement_end(self, found: list[Leaf]) -> Days:
        both = Presence.union([self._ground.statement(leaf.item) for leaf in found])
        return np.asarray(both.newest_end(self._ground.companies, self._cutoffs)[self._members], np.int32)

    def _no_end(self, found: list[Leaf], absent: NDArray[np.bool_]) -> NDArray[np.uint8]:
        """N: without any E, the first input with no value at any end gives the reason, else `incomplete`.

        Only at cut-offs at which somebody has none: mostly the first ones.
        """
        at = np.flatnonzero(absent.any(axis=0))
        out = np.full(self._shape, Reason.INCOMPLETE, np.uint8)
        cutoffs = self._cutoffs[at]
        reason = out[:, at]
        for leaf in reversed(found):
            timeline = self._timeline(leaf)
            has = self._rows(timeline.ever, timeline.key, cutoffs) >= 0
            figures, statement = (
                self._rows(p.moves, p.key, cutoffs) >= 0
                for p in (self._ground.figures(leaf.item), self._ground.statement(leaf.item))
            )
            why = reason_at_no_end(self._applicable(leaf)[:, at], leaf.item.additive, figures, statement)
            reason = np.where(has, reason, why).astype(np.uint8)
        out[:, at] = reason
        return out

    def _rows(self, moves: Moves, key: Keys, cutoffs: Instants) -> Rows:
        """The newest row of each member at some of the cut-offs; the same once asked for is the same again."""
        name = id(moves), cutoffs.tobytes()
        if name not in self._newest:
            found = newest_row(moves, key, self._ground.companies, cutoffs)
            self._newest[name] = moves, found if self._everybody else found[self._members]
        return self._newest[name][1]

    def _applicable(self, leaf: Leaf) -> NDArray[np.bool_]:
        templates = leaf.item.templates
        if templates not in self._templates:
            self._templates[templates] = self._ground.applicable(leaf.item, self._members, self._cutoffs)
        return self._templates[templates]

    def _seen(self, item: Item) -> Values:
        """F14: the last observation known at each date; missing, `stale`, after the item's limit."""
        timeline = self._ground.timeline(item, "", False)
        rows = newest(timeline, self._ground.companies, self._cutoffs)[self._members]
        state = gather(timeline.state, rows.ravel(), State.ABSENT).reshape(self._shape)
        seen = key_end(gather(timeline.key, rows.ravel(), 0)).reshape(self._shape).astype(np.int64)
        old = np.zeros(self._shape, np.bool_)
        if item.stale_after is not None:
            old = (self._cutoffs // DAY).astype(np.int64) - seen > item.stale_after
        reason = np.select(
            [state == State.ABSENT, state == State.WITHDRAWN, old],
            [Reason.NOT_KNOWN, Reason.WITHDRAWN, Reason.STALE],
            Reason.NONE,
        ).astype(np.uint8)
        return self._read(timeline, rows, reason)

    def _leaf(self, leaf: Leaf, scope: Scope) -> Values:
        timeline = self._timeline(leaf)
        rows = scope.rows.get((leaf.item.code, leaf.form, leaf.first)) if leaf.moves_period else None
        if rows is None:
            return self._at_end(leaf, timeline, scope)
        return self._read(timeline, rows, scope.reason)

    def _read(self, timeline: Timeline, rows: NDArray[np.int64], reason: NDArray[np.uint8]) -> Values:
        flat = rows.ravel()
        nothing = flat < 0
        columns = []
        for column, fill, plain in (
            (timeline.value, np.nan, None),
            (timeline.marks, 0, timeline.only_mark),
            (timeline.currency, NO_CURRENCY, timeline.only_currency),
        ):
            if plain is None:
                out = gather(column, flat, fill)
            else:  # the same in every row
                out = np.full(len(flat), plain, column.dtype)
                out[nothing] = fill
            columns.append(out.reshape(self._shape))
        return Values(columns[0], reason, columns[1], columns[2])

    def _at_end(self, leaf: Leaf, timeline: Timeline, scope: Scope) -> Values:
        """A leaf read at a given end: shifted ones, and those that do not set E."""
        known = (scope.ends != NO_END).ravel()
        ends = np.where(known, scope.ends.ravel(), 0).astype(np.int32)
        company = np.repeat(self._members, self._shape[1])
        cutoffs = np.tile(self._cutoffs, self._shape[0])
        keys = make_keys(company, shift_months(ends, -leaf.months))
        rows = np.where(known, standing(timeline, keys, cutoffs), -1)
        state = gather(timeline.state, rows, State.ABSENT)
        why = np.zeros(len(keys), np.uint8)
        if len(lacks := np.flatnonzero(state != State.VALUE)):
            why[lacks] = reason_at_end(
                state[lacks],
                self._applicable(leaf).ravel()[lacks],
                np.full(len(lacks), leaf.item.additive),
                self._ground.figures(leaf.item).at_end(keys[lacks], cutoffs[lacks]),
                self._ground.statement(leaf.item).at_end(keys[lacks], cutoffs[lacks]),
            )
        reason = np.where(scope.reason == 0, why.reshape(self._shape), scope.reason)
        return self._read(timeline, np.where(state == State.VALUE, rows, -1).reshape(self._shape), reason)


def _count(step: Step, name: ScopeName, count: Counter[tuple[Step, ScopeName]]) -> None:
    """How often each part is to be evaluated; what is inside one that is kept is evaluated once."""
    if isinstance(step, Compare | Member):
        name = scope_name(step)
    count[step, name] += 1
    if count[step, name] == 1 and not isinstance(step, Before | Sampled | AtEnd):
        below = (getattr(step, part, None) for part in ("operand", "left", "right"))
        for part in (*(p for p in below if p is not None), *getattr(step, "operands", ())):
            _count(part, name, count)
