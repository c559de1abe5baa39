"""The ledger as known: figures and attributes of all companies,
made into timelines when first asked for.
"""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.catalogue.items import ITEMS, Item, Nature
from wise_ledger.core.catalogue.measures import SHIPPED, Measure
from wise_ledger.core.dated.attributes import Attributes, DerivedAttribute
from wise_ledger.core.dated.series import Steps
from wise_ledger.core.estimates.consensus import Basis
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.estimates.known import EstimateRows, measures_of
from wise_ledger.core.fiscal.calendar import FiscalCalendar, year_end_month
from wise_ledger.core.fiscal.forming import Forming
from wise_ledger.core.fiscal.sums import summed
from wise_ledger.core.fiscal.yearends import Periods, Stage, YearEnd, learn
from wise_ledger.core.fiscal.zeros import TOTALS, Templates, sheet_there, with_zeros
from wise_ledger.core.language.functions.across import numbers_of
from wise_ledger.core.language.vocabulary import Vocabulary, vocabulary
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.money.splits import ShareBasis, Split
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.records.limits import Limits
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.timelines.asof import Presence
from wise_ledger.core.timelines.joint import FormName, Joint
from wise_ledger.core.timelines.keys import Instants, Rows, make_keys
from wise_ledger.core.timelines.places import Places
from wise_ledger.core.timelines.preference import Preference
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.core.timelines.versions import Reported, latest_ends, nominal_ends
from wise_ledger.words import whole_number

T = TypeVar("T")


def declared_year_ends(attributes: Attributes) -> list[YearEnd]:
    """The fiscal year ends that sources declare; what cannot be read as a month is passed over."""
    found = ((a, year_end_month(a.value)) for a in attributes.versions("fiscal_year_end"))
    return [
        YearEnd(a.company, a.valid_from, month, a.at) for a, month in found if month is not None
    ]


def named_by_start(attributes: Attributes) -> Steps:
    """From which instants on fiscal years are named after their start (row 1)
    or end (row 0), F4.
    """
    steps = attributes.steps("fiscal_year_named_by")
    by_start = np.array(
        [a.value == "start" for a in attributes.versions("fiscal_year_named_by")] or [False],
        np.int64,
    )
    return Steps(steps.entity, steps.at, by_start[steps.row])


class EstimateGround(Protocol):
    """What estimates rest on beside their own rows."""

    @property
    def items(self) -> Mapping[str, Item]:
        """The catalogue."""

    @property
    def market(self) -> Market:
        """Prices, dividends and splits of listings."""

    @property
    def limits(self) -> Limits:
        """What people said of how old a figure may be."""

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form."""

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute of the companies at the cut-offs."""


def estimates_on(
    ground: EstimateGround, rows: EstimateRows, max_age: int | None = None
) -> Estimates:
    """Estimates out of their rows, with the actuals that statements give;
    on the splits of main ordinary shares.

    A contribution stands for `max_age` days at most; without it for those of the limit.
    """
    units = {code: item.unit for code, item in ground.items.items()}
    stands = ground.limits.days("estimate_stands") if max_age is None else max_age
    measures = measures_of(
        rows, units, lambda code, form: ground.timeline(ground.items[code], form, False), stands
    )
    market = ground.market

    def year_end(members: Rows, cutoffs: Instants) -> NDArray[np.int64]:
        found = ground.field("fiscal_year_end", members, cutoffs)
        words = np.where(found.there, found.value, "0").ravel().astype(str)
        months = [whole_number(word) or 0 for word in words]
        return np.array(months, np.int64).reshape(found.value.shape)

    def basis(power: int) -> Basis:
        return Basis(market.splits, market.listed.main_ordinary, power, market.rate_on)

    return Estimates(measures, basis, year_end, ground.limits.stale_after)


@dataclass(eq=False)
class LedgerView:
    """Everything an evaluation stands on (`Ground`), for one state of the ledger.

    `columns` gives an item's facts; `preference` says which source goes before which (T5), without
    it the lower number does; `recorded_by` leaves out later batches (T7), and without
    `with_assumed` assumed publication dates do not count (T4).
    """

    companies: int
    columns: Callable[[str], FactColumns]
    attributes: Attributes
    recorded_by: int | None = None
    with_assumed: bool = True
    marks_out: int = 0  # marks of figures that do not count
    preference: Preference | None = None  # of sources, where people said (T5)
    limits: Limits = field(default_factory=Limits)  # that people set (T4, F12)
    quarantined: NDArray[np.int64] | None = None  # facts that are not used (Q2)
    flagged: NDArray[np.int64] | None = None  # facts that a check found something about (Q2)
    items: Mapping[str, Item] = field(default_factory=lambda: ITEMS)
    measures: Mapping[str, Measure] = field(default_factory=lambda: SHIPPED)
    read_rates: Callable[[], RateTable] = RateTable.empty
    given_estimates: Callable[[], EstimateRows] = EstimateRows
    given_series: Callable[[], SeriesBook] = SeriesBook
    given_market: Callable[[], tuple[Market, ShareCounts]] = lambda: (Market.empty(), ShareCounts())
    splits: Sequence[Split] = ()
    # facts whose source states it, and the day
    share_bases: Mapping[int, int] = field(default_factory=dict)
    # Attributes that are not stated of the company itself, by name.
    derived: Callable[[], Mapping[str, DerivedAttribute]] = dict
    traced: bool = True  # whether timelines know what they were made of
    # codes of attributes that there are, with names
    values: Callable[[str], Mapping[str, str]] = lambda _: {}
    only: Rows | None = None  # the companies whose facts are here; all of them without
    given_calendar: Callable[[], FiscalCalendar] | None = None  # where it is known already

    def __post_init__(self) -> None:
        self._facts: dict[str, FactColumns] = {}
        self._reported: dict[str, Reported] = {}
        self._forming: dict[tuple[str, bool, int | None], Forming] = {}
        self._timelines: dict[tuple[FormName, int | None], Timeline] = {}
        self._joint: dict[tuple[tuple[FormName, ...], int | None], Joint] = {}
        self._several: dict[str, bool] = {}
        self.reckoned: dict[tuple[Hashable, ...], Any] = {}
        self._presence: dict[str, Presence] = {}
        self._sheets: dict[bool, dict[int, Timeline]] = {}

    @cached_property
    def rates(self) -> RateTable:
        """Rates between currencies (M2)."""
        return self.read_rates()

    @property
    def market(self) -> Market:
        """Prices, dividends and splits of listings."""
        return self.given_market()[0]

    @property
    def series(self) -> SeriesBook:
        """Economic series."""
        return self.given_series()

    @property
    def share_counts(self) -> ShareCounts:
        """Shares outstanding of securities."""
        return self.given_market()[1]

    @cached_property
    def estimates(self) -> Estimates:
        """What analysts expected."""
        return estimates_on(self, self.given_estimates())

    def reported_ends(self, item: Item) -> Timeline:
        """The period ends of the item as reported, as values,
        by the nominal end they are for: the latest of each.
        """
        facts = self.facts(item)
        return latest_ends(make_keys(facts.company, nominal_ends(facts)), facts.at, facts.end)

    @cached_property
    def calendar(self) -> FiscalCalendar:
        """The fiscal year ends of all companies, as they became known."""
        if self.given_calendar is not None:
            return self.given_calendar()
        return FiscalCalendar(self.stages, named_by_start(self.attributes))

    @cached_property
    def stages(self) -> list[Stage]:
        """What was known of fiscal year ends, company by company, in order."""
        declared = declared_year_ends(self.attributes)
        if self.only is not None:
            own = set(self.only.tolist())
            declared = [y for y in declared if y.company in own]
        return learn(declared, self._periods(None), self._periods)

    def _periods(self, companies: Rows | None) -> Periods:
        """The periods of flows: the 12-month ones of all companies, or all of some."""
        flows = [i for i in self.items.values() if i.nature is Nature.FLOW]
        found = [self.facts(i) for i in flows]
        return Periods.union([Periods.of(facts, companies) for facts in found if len(facts)])

    @cached_property
    def templates(self) -> Templates:
        """The reporting templates of all companies, as they became known."""
        return Templates.of(self.attributes)

    def facts(self, item: Item) -> FactColumns:
        """The item's facts that count here."""
        if item.code not in self._facts:
            self._facts[item.code] = self.read(item.code)
        return self._facts[item.code]

    def read(self, code: str) -> FactColumns:
        """The facts of an item that count here, read anew."""
        return self.limits.published(self.columns(code)).known(
            self.recorded_by, self.with_assumed, self.quarantined
        )

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form: q, h, fy, ttm, ytd, balance or balance_fy.

        Those formed of parts in several currencies stand in `currency` (M2), all others in their
        own.
        """
        key = ((item.code, form, first), self._met_in(item, currency))
        if key not in self._timelines:
            self._timelines[key] = self._form(item, form, first, key[1]).without(self.marks_out)
        return self._timelines[key]

    def joint(self, leaves: tuple[FormName, ...], currency: int | None = None) -> Joint:
        """Several figures side by side, to find the period end they share."""
        met_in = [self._met_in(self.items[code], currency) for code, *_ in leaves]
        key = (leaves, next((c for c in met_in if c is not None), None))
        if key not in self._joint:
            timelines = [
                self.timeline(self.items[code], form, first, currency)
                for code, form, first in leaves
            ]
            self._joint[key] = Joint.of(timelines)
        return self._joint[key]

    def _met_in(self, item: Item, currency: int | None) -> int | None:
        """The currency asked for, where any company's figures of the item stand in several."""
        if currency is None or item.nature is not Nature.FLOW:
            return None
        if item.code not in self._several:
            self._several[item.code] = len(self.facts(item).of_several_currencies()) > 0
        return currency if self._several[item.code] else None

    def _form(self, item: Item, form: str, first: bool, currency: int | None) -> Timeline:
        reported = self._reported_of(item)
        if item.nature is Nature.OBSERVATION:
            return reported.any_source(0, first=first)
        if item.nature is Nature.STOCK:
            if item.sum_of:
                parts = [self.items[code] for code in item.sum_of]
                balance = summed(
                    reported,
                    self._sources_of(*parts, *(self.items[code] for code in TOTALS)),
                    lambda source: self._parts_of(item, source, first),
                    lambda source, companies: self._ranked(
                        item, companies, np.full(len(companies), source, np.int16)
                    ),
                    " and ".join(part.title.lower() for part in parts),
                    first=first,
                )
            else:
                balance = reported.any_source(0, first=first)
            if item.absent_is_zero:
                zeros = [
                    self.templates.having(zero, item.templates)
                    for zero in self._sheets_there(first).values()
                ]
                balance = with_zeros(balance, zeros)
            return self.calendar.at_ends(balance, 12) if form == "balance_fy" else balance
        if (item.code, first, currency) not in self._forming:
            self._forming[item.code, first, currency] = Forming(
                reported,
                self.calendar,
                approximate=item.approximate,
                first=first,
                additive=item.additive,
                rates=lambda: self.rates,
                currency=currency,
            )
        return self._forming[item.code, first, currency].form(form)

    def _parts_of(self, item: Item, source: int, first: bool) -> list[Timeline]:
        """The items that one is the sum of, as a source has them;
        absent lines are 0 where its sheet is there (F13).
        """
        out = []
        for part in (self.items[code] for code in item.sum_of):
            own = self._reported_of(part).of_source(source, 0, first=first)
            if part.absent_is_zero and source in self._sheets_there(first):
                sheet = self._sheets_there(first)[source]
                own = with_zeros(own, [self.templates.having(sheet, part.templates)])
            out.append(own)
        return out

    def _reported_of(self, item: Item) -> Reported:
        """The item's reported figures, made once for all its forms."""
        if item.code not in self._reported:
            facts = self.facts(item)
            self._reported[item.code] = Reported(
                facts,
                ranks=self._ranked(item, facts.company, facts.source),
                seen=item.nature is Nature.OBSERVATION,
                basis=ShareBasis.of(self.splits, item.unit, self.share_bases),
                flagged=self.flagged,
                traced=self.traced,
            )
        return self._reported[item.code]

    def _ranked(
        self, item: Item, companies: NDArray[Any], sources: NDArray[np.int16]
    ) -> NDArray[np.int16]:
        """The place of each source in the order of preference of each company (T5)."""
        return self.preference.ranked(item.code, companies, sources) if self.preference else sources

    def _sources_of(self, *items: Item) -> list[int]:
        """The numbers of the sources that have figures of any of them."""
        return sorted({source for item in items for source in self._reported_of(item).sources})

    def _sheets_there(self, first: bool) -> dict[int, Timeline]:
        """F13, by source: from when on there is a whole sheet of each company and end."""
        if first not in self._sheets:
            assets, equity = (self._reported_of(self.items[code]) for code in TOTALS)
            self._sheets[first] = {
                source: sheet_there(
                    *(r.of_source(source, 0, first=first) for r in (assets, equity))
                )
                for source in self._sources_of(*(self.items[code] for code in TOTALS))
            }
        return self._sheets[first]

    def figures(self, item: Item) -> Presence:
        """Any figure of the item, by the end it is for."""
        if item.code not in self._presence:
            facts = self.facts(item)
            self._presence[item.code] = Presence.of(
                make_keys(facts.company, nominal_ends(facts)), facts.at
            )
        return self._presence[item.code]

    def statement(self, item: Item) -> Presence:
        """Any figure of the item's statement."""
        name = f"statement {item.statement}"
        if name not in self._presence:
            # Observations make no statement known (N).
            same = [
                i
                for i in self.items.values()
                if i.statement == item.statement and i.nature is not Nature.OBSERVATION
            ]
            self._presence[name] = Presence.union([self.figures(i) for i in same])
        return self._presence[name]

    @property
    def vocabulary(self) -> Vocabulary:
        """What an expression may name here."""
        return vocabulary(
            self.items, self.values, lambda: self.series, self.measures, self.limits.stale_after
        )

    def applicable(self, item: Item, places: Places) -> NDArray[np.bool_]:
        """Whether each company's template has the item; a company without template has all."""
        return self.attributes.among("template", item.templates, places.read)

    def kept(self, name: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """What was made under this name; made when first asked for."""
        if name not in self.reckoned:
            self.reckoned[name] = make()
        return self.reckoned[name]  # type: ignore[no-any-return]

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute as known at each cut-off (T9)."""
        if name == "fiscal_year_end":
            found = self.attributes.read(name, members, cutoffs)
            months = [str(year_end_month(word) or word) for word in found.value.ravel()]
            return replace(found, value=np.array(months, object).reshape(found.value.shape))
        if name not in _DERIVED:
            return self.attributes.read(name, members, cutoffs)
        derived = self.derived()
        if name not in derived:
            return Values.known(
                np.full((len(members), len(cutoffs)), "", object), _unknown(members, cutoffs)
            )
        return derived[name].read(members, cutoffs)

    def groups(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The groups of companies by an attribute at each cut-off, numbered."""
        if name == "fiscal_year_end" or name in _DERIVED:
            return numbers_of(self.field(name, members, cutoffs))
        return self.attributes.groups(name, members, cutoffs)


_DERIVED = frozenset({"venue", "security_type"})


def _unknown(members: Rows, cutoffs: Instants) -> NDArray[np.uint8]:
    return np.full((len(members), len(cutoffs)), Reason.NOT_KNOWN, np.uint8)
