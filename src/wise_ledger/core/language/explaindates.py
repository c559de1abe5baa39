"""What lives on dates looked into: of which prices, shares, dividends, estimates and figures
a value of a day was reckoned, each with the instant since which it is known (M3 to M5, E2 to E4).
"""

from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from wise_ledger.core.answers.reasons import Reason, reason_of
from wise_ledger.core.answers.values import Values
from wise_ledger.core.estimates.consensus import standing
from wise_ledger.core.estimates.contributions import QUARTER, YEAR, target
from wise_ledger.core.estimates.estimates import NOTHING
from wise_ledger.core.estimates.ofcompany import announcements_at, number
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.conversion import Conversion, used
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.ondates import Samples, estimated_in
from wise_ledger.core.language.plan import (
    AtEnd,
    Before,
    Estimate,
    Quote,
    Return,
    Sampled,
    Step,
    Surprise,
    on_dates_in,
)
from wise_ledger.core.language.scope import Scope
from wise_ledger.core.market import quoted
from wise_ledger.core.market.market import PRICE_FIELDS
from wise_ledger.core.market.quoted import Paid, Quoted
from wise_ledger.core.market.value import ClassValue, MarketValue
from wise_ledger.core.market.windows import YEAR as A_YEAR
from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END

NEWEST = 31  # samples that are shown of a function over them: those of a month


@dataclass(frozen=True)
class DatedInput:
    """A value that lives on dates as it stood at a cut-off, and the `parts` it was reckoned of.

    What it is is said by the `step` of an expression, else by `name`. `as_stated` is a price as it
    was traded, a dividend as it was paid, before later splits. `read_at` is the instant at which it
    was read where that is not the cut-off.
    """

    value: float | None
    unit: str
    step: Step | None = None
    name: str = ""
    reason: Reason = Reason.NONE
    currency: int = NO_CURRENCY
    day: int | None = None
    known_at: int | None = None
    source: int | None = None
    listing: int | None = None
    as_stated: float | None = None
    period_end: int | None = None
    months: int | None = None  # of a period that is estimated
    contributor: int | None = None
    count: float | None = None
    weight: float | None = None  # of a year in the next twelve months
    read_at: int | None = None
    samples: Samples | None = None
    parts: tuple["DatedInput", ...] = ()


class Inside(Protocol):
    """Looks into an expression read at another instant: its value then, its inputs, and the rates
    it took.
    """

    def __call__(
        self, step: Step, cutoff: int, targets: int | None
    ) -> tuple[Values, tuple[DatedInput, ...], tuple[Conversion, ...]]: ...


class DatedInputs:
    """Looks into what lives on dates in one evaluation of one company at one cut-off.

    `inside` looks into what is read at other instants; `targets` is the later date whose periods
    estimates are for. The rates that were met are kept in `conversions`.
    """

    def __init__(
        self,
        ground: Ground,
        evaluation: Evaluation,
        company: int,
        cutoff: int,
        inside: Inside,
        targets: int | None = None,
    ) -> None:
        self._ground = ground
        self._evaluation = evaluation
        self._cutoff = cutoff
        self._day = cutoff // DAY
        self._inside = inside
        self._targets = cutoff if targets is None else targets
        self._one = np.array([company], np.int64)
        self._at = np.array([cutoff], np.int64)
        self.conversions: list[Conversion] = []

    def of(self, step: Step) -> tuple[DatedInput, ...]:
        """The inputs of an expression that live on dates, in the order written."""
        found = {}
        for part, opens in on_dates_in(step, step):
            if part not in found:
                found[part] = self._looked_into(part, self._evaluation.axis.scope(opens))
        return tuple(found.values())

    def _looked_into(self, step: Step, scope: Scope) -> DatedInput:
        values = self._evaluation.value(step, scope)
        plain = _plain(values, step.unit.plain().name, step)
        match step:
            case Before() | AtEnd():
                return self._elsewhere(step, scope, plain)
            case Sampled():
                return self._sampled(step, plain)
            case Return():
                return replace(plain, parts=self._return(step))
            case Quote(name="market_value"):
                return replace(plain, parts=self._market_value(step, plain))
            case Estimate():
                return self._estimate(step, plain)
            case Surprise():
                return self._surprise(step, plain)
        if plain.value is None:
            return plain
        match step:
            case Quote() if step.name in PRICE_FIELDS:
                return self._price(step, plain)
            case Quote(name="dividend_12mo"):
                return replace(plain, parts=self._dividends(step, plain))
            case Quote():
                found = quoted.extreme(
                    self._ground.market, step.name, self._listing(), self._day, self._cutoff
                )
                return plain if found is None else _shown(plain, found)
        return plain

    # ---- other instants

    def _sampled(self, step: Sampled, plain: DatedInput) -> DatedInput:
        """What a function was reckoned over: the newest samples, the lowest and the highest, the
        newest first.
        """
        found = self._evaluation.on_dates.samples(step)
        if found is None:
            return plain
        count, unit = len(found.days), step.operand.unit.plain().name
        lacks = np.isnan(found.values)
        ordered = np.argsort(found.values, kind="stable")[: count - int(lacks.sum())]
        ends = (*ordered[:1].tolist(), *ordered[-1:].tolist())  # the lowest and the highest
        shown = sorted({*range(max(0, count - NEWEST), count), *ends}, reverse=True)
        parts = [
            DatedInput(
                None if lacks[n] else float(found.values[n]), unit, step.operand,
                reason=Reason.NO_RATE if lacks[n] else Reason.NONE,
                currency=int(found.currency[n]), day=int(found.days[n]),
            )
            for n in shown
        ]  # fmt: skip
        return replace(plain, samples=found, parts=tuple(parts))

    def _elsewhere(self, step: Before | AtEnd, scope: Scope, plain: DatedInput) -> DatedInput:
        """What was read so long before, or on the end of a period."""
        if isinstance(step, Before):
            at, targets = int(step.span.before(self._at)[0]), self._targets
        else:
            end = int(self._evaluation.on_dates.period_end(step, scope)[0, 0])
            if end == NO_END:
                return plain
            at, targets = min((end + 1) * DAY - 1, self._cutoff), None
        then, parts, conversions = self._inside(step.operand, at, targets)
        self.conversions += conversions
        stated = None if then.reason[0, 0] else float(then.value[0, 0])
        return replace(plain, read_at=at, as_stated=stated, parts=parts)

    # ---- market

    def _listing(self) -> int:
        return int(self._ground.market.listed.of_companies.read(self._one, self._at)[0, 0])

    def _price(self, step: Quote, plain: DatedInput) -> DatedInput:
        found, _ = quoted.quoted(
            self._ground.market, step.name, self._listing(), self._day, self._cutoff
        )
        return plain if found is None else _shown(plain, found)

    def _close(self, listing: int, day: int, value: float | None = None) -> DatedInput:
        """The close of a listing on or before a day, on the share basis of the cut-off's; of a
        receipt the `value` of one ordinary share, if that is given.
        """
        market = self._ground.market
        currency = int(market.listed.currency[listing])
        found, why = quoted.quoted(market, "close", listing, day, self._cutoff, self._day)
        part = DatedInput(None, "money_per_share", name="close", reason=why, currency=currency)
        if found is None:
            return replace(part, day=day, listing=listing)
        value = number(found.value) if value is None else value
        return _shown(replace(part, value=value), found)

    def _market_value(self, step: Quote, plain: DatedInput) -> tuple[DatedInput, ...]:
        """Close and number of shares of each class; by class where there are several (M5)."""
        into = np.full((1, 1), plain.currency, np.int64)
        reported: list[DatedInput] = []

        def item() -> Values:
            values, parts, _ = self._inside(plan("shares_outstanding"), self._cutoff, None)
            reported.extend(parts)
            return values

        reckoned = MarketValue(self._ground.market, self._ground.share_counts)
        found = [c for c in reckoned.classes(self._one, self._at, into, item) if c.there[0, 0]]
        out: list[DatedInput] = []
        for one in found:
            parts = self._class(step, one, plain.currency, reported)
            if len(found) > 1:
                why = Reason(int(one.reason[0, 0]))
                value = None if why else number(one.value[0, 0])
                whole = DatedInput(value, "money", name="class", currency=plain.currency)
                listing = int(one.listing[0, 0])
                parts = (replace(whole, reason=why, listing=listing, parts=parts),)
            out += parts
        return tuple(out)

    def _class(
        self, step: Quote, one: ClassValue, into: int, reported: list[DatedInput]
    ) -> tuple[DatedInput, ...]:
        close = self._close(int(one.listing[0, 0]), self._day, number(one.price[0, 0]))
        if close.value is not None:
            self._met(step, int(one.paid_in[0, 0]), into, self._day)
        why, row = Reason(int(one.no_shares[0, 0])), int(one.count[0, 0])
        value = None if why not in (Reason.NONE, Reason.STALE) else number(one.shares[0, 0])
        lacks = why if value is None else Reason.NONE  # an old number says how old it is
        shares = DatedInput(value, "shares", name="shares outstanding", reason=lacks)
        counts = self._ground.share_counts.series
        if row >= 0:
            shares = replace(shares, day=int(counts.date[row]), known_at=int(counts.at[row]))
        elif reported:  # the item serves
            of = reported[0]
            shares = replace(shares, period_end=of.period_end, known_at=of.known_at)
        return close, shares

    def _dividends(self, step: Quote, plain: DatedInput) -> tuple[DatedInput, ...]:
        found = quoted.dividends(
            self._ground.market,
            self._listing(),
            self._day - A_YEAR,
            self._day,
            self._cutoff,
            special=False,
        )
        return tuple(self._paid(step, p, plain.currency) for p in found)

    def _return(self, step: Return) -> tuple[DatedInput, ...]:
        market, start = self._ground.market, int(step.span.days_before(self._at // DAY)[0])
        listing = self._listing()
        out = [self._close(listing, day) for day in (start, self._day)]
        first, last = (part.day if part.value is not None else None for part in out)
        if step.total and first is not None and last is not None:
            own, at = int(market.listed.currency[listing]), (self._cutoff, self._day)
            found = quoted.dividends(market, listing, first, last, at[0], special=True, basis=at[1])
            out += [self._paid(step, p, own) for p in found]
        final = quoted.final_return(market, listing, start, self._day, self._cutoff)
        if final is not None:
            day, value = final[0], number(final[1])
            why = Reason.NOT_KNOWN if value is None else Reason.NONE
            out.append(DatedInput(value, "pure", name="final return", day=day, reason=why))
        if step.over is not None:
            for on in (start, self._day):
                level, why = quoted.level(market, step.over, on, self._cutoff, total=step.total)
                part = DatedInput(None, "pure", name=f"level of {step.over}", day=on, reason=why)
                if level is not None:
                    part = _shown(replace(part, value=number(level.value)), level, listed=False)
                out.append(part)
        return tuple(out)

    def _paid(self, step: Step, paid: Paid, into: int) -> DatedInput:
        """A dividend, in the currency it was paid in."""
        dividend = paid.dividend
        self._met(step, dividend.currency, into, dividend.ex_date)
        return DatedInput(
            paid.value,
            "money_per_share",
            name="special dividend" if dividend.special else "dividend",
            currency=dividend.currency,
            day=dividend.ex_date,
            known_at=dividend.known,
            as_stated=dividend.amount,
        )

    def _met(self, step: Step, source: int, into: int, day: int) -> None:
        """A rate of a day that was taken."""
        if source != into and NO_CURRENCY not in (source, into):
            rates = self._ground.rates
            self.conversions.append(used(rates, step.place, source, into, None, day, self._cutoff))

    # ---- estimates

    def _estimate(self, step: Estimate, plain: DatedInput) -> DatedInput:
        of, later = self._ground.estimates, np.array([self._targets], np.int64)
        if step.horizon == "ntm":
            first, second, weight = (x[0, 0] for x in of.blended(self._one, later))
            if first == NOTHING:
                return plain
            years = [(int(first), float(weight)), (int(second), 1 - float(weight))]
            parts = [self._year(step, plain, end, w) for end, w in years if w > 0]
            return replace(plain, parts=tuple(parts))
        kind = QUARTER if step.horizon[0] == "q" else YEAR
        end = int(of.period(kind, int(step.horizon[-1]), self._one, later)[0, 0])
        if end == NOTHING:
            return plain
        opinions = self._opinions(step, kind, end)
        count = float(len(opinions))
        return replace(plain, period_end=end, months=kind, count=count, parts=opinions)

    def _year(self, step: Estimate, plain: DatedInput, end: int, weight: float) -> DatedInput:
        """One of the two fiscal years of the next twelve months."""
        into = np.full((1, 1), plain.currency, np.int64)
        ends = np.full((1, 1), end, np.int64)
        values = self._ground.estimates.consensus_for(
            step.measure, YEAR, step.statistic, self._one, ends, self._at, into
        )
        opinions = self._opinions(step, YEAR, end)
        return replace(
            _plain(values, plain.unit),
            name=step.statistic,
            weight=weight,
            period_end=end,
            months=YEAR,
            count=float(len(opinions)),
            parts=opinions,
        )

    def _opinions(self, step: Estimate, kind: int, end: int) -> tuple[DatedInput, ...]:
        """The contributions that count, as they were given, the newest first (E2)."""
        of = self._ground.estimates.measures[step.measure]
        contributions = of.contributions[kind]
        keys = target(self._one, np.array([end]))
        into = estimated_in(self._ground, self._one, self._at)[0]
        basis = self._ground.estimates.basis(of.power)
        found = standing(contributions, basis, keys, self._at, into)
        unit = self._ground.vocabulary.items[step.measure].unit
        out = []
        for row in found.row[np.argsort(-contributions.at[found.row], kind="stable")].tolist():
            since, currency = int(contributions.at[row]), int(contributions.currency[row])
            moved = basis.factor(self._one, contributions.at[row : row + 1], self._at)
            value = float(contributions.value[row] * moved[0])
            self._met(step, currency, int(into[0]), since // DAY)
            out.append(
                DatedInput(
                    value,
                    unit,
                    name="contribution",
                    currency=currency,
                    known_at=since,
                    contributor=int(contributions.contributor[row]),
                )
            )
        return tuple(out)

    def _surprise(self, step: Surprise, plain: DatedInput) -> DatedInput:
        """What was announced, and what was expected the instant before (E4)."""
        estimates = self._ground.estimates
        of = estimates.measures[step.measure]
        ends, kinds, _ = estimates.latest_actual(of, self._one, self._at, step.kind or None)
        kind, end = int(kinds[0, 0]), int(ends[0, 0])
        if end == NOTHING:
            return plain
        into = int(estimated_in(self._ground, self._one, self._at)[0, 0])
        found = announcements_at(
            estimates, of, kind, target(self._one, np.array([end])), self._cutoff, into
        )[0]
        unit = self._ground.vocabulary.items[step.measure].unit
        common = DatedInput(None, unit, currency=into, period_end=end, months=kind)
        parts = [
            replace(
                common,
                name="actual",
                value=found.actual,
                reason=reason_of(found.actual_reason),
                known_at=found.at,
            ),
            replace(
                common,
                name="expected mean",
                value=found.expected["mean"],
                reason=reason_of(found.expected_reason),
                known_at=found.at - 1,
                count=found.expected["count"],
            ),
        ]
        if step.how == "deviations":
            spread = found.expected["stdev"]
            lone = Reason.INCOMPLETE.code if spread is None else None
            why = reason_of(found.expected_reason or lone)
            parts.append(replace(common, name="deviation", value=spread, reason=why))
        return replace(plain, period_end=end, months=kind, parts=tuple(parts))


def _plain(values: Values, unit: str, step: Step | None = None) -> DatedInput:
    """A value of one cell."""
    reason = Reason(values.reason[0, 0])
    value = None if reason else float(values.value[0, 0])
    return DatedInput(value, unit, step, reason=reason, currency=int(values.currency[0, 0]))


def _shown(part: DatedInput, found: Quoted, *, listed: bool = True) -> DatedInput:
    """With where a price or level stands."""
    return replace(
        part,
        day=found.day,
        known_at=found.known_at,
        source=found.source,
        listing=found.listing if listed else None,
        as_stated=found.as_traded if listed else None,
    )
