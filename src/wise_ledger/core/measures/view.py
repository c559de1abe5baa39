"""The ledger as known: figures and attributes of all companies, made into timelines when first asked for."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.asof import Presence
from wise_ledger.core.facts.attributes import Attributes
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.items import ITEMS, Item, Nature
from wise_ledger.core.facts.keys import Instants, Rows, key_company, make_keys
from wise_ledger.core.facts.moves import DAY
from wise_ledger.core.facts.preference import Preference
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.timeline import Timeline, coalesce
from wise_ledger.core.facts.values import Values
from wise_ledger.core.facts.versions import Reported, nominal_ends
from wise_ledger.core.fiscal.calendar import FiscalCalendar, YearEnd
from wise_ledger.core.fiscal.forming import Forming, implied_zero
from wise_ledger.core.fiscal.inferring import READ_FROM, Inferred, infer_year_ends
from wise_ledger.core.market.rates import RateTable
from wise_ledger.core.market.splits import ShareBasis, Split
from wise_ledger.core.measures.joint import FormName, Joint
from wise_ledger.core.measures.vocabulary import ATTRIBUTES, Vocabulary

_TOTALS = ("total_assets", "shareholders_equity")  # where both are told, a line that is not told is nothing (F13)


@dataclass(eq=False)
class LedgerView:
    """Everything an evaluation stands on (`Ground`), for one state of the ledger.

    `columns` gives an item's facts; `sources` are source numbers in order of preference (T5); `recorded_by` leaves
    out later batches (T7), and without `with_assumed` assumed publication dates do not count (T4).
    """

    companies: int
    columns: Callable[[str], FactColumns]
    attributes: Attributes
    sources: Sequence[int]
    recorded_by: int | None = None
    with_assumed: bool = True
    preference: Preference | None = None  # of sources, where people said (T5)
    quarantined: NDArray[np.int64] | None = None  # facts that are not used (Q2)
    flagged: NDArray[np.int64] | None = None  # facts that a check found something about (Q2)
    items: Mapping[str, Item] = field(default_factory=lambda: ITEMS)
    told_rates: Callable[[], RateTable] = RateTable.empty
    splits: Sequence[Split] = ()
    share_bases: Mapping[int, int] = field(default_factory=dict)  # facts whose source states it, and the day
    # Attributes that are not said of the company itself: its value by number and day.
    derived: Mapping[str, Callable[[int, int], str | None]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._facts: dict[str, FactColumns] = {}
        self._reported: dict[str, Reported] = {}
        self._forming: dict[tuple[str, bool], Forming] = {}
        self._timelines: dict[FormName, Timeline] = {}
        self._joint: dict[tuple[FormName, ...], Joint] = {}
        self._presence: dict[str, Presence] = {}
        self._calendar: FiscalCalendar | None = None

    @cached_property
    def rates(self) -> RateTable:
        """Rates between currencies (M2)."""
        return self.told_rates()

    @property
    def calendar(self) -> FiscalCalendar:
        """The fiscal year ends of all companies."""
        if self._calendar is None:
            said = self.attributes.said("fiscal_year_end")
            by_start = (a.company for a in self.attributes.said("fiscal_year_named_by") if a.value == "start")
            declared = [YearEnd(a.company, a.valid_from, int(a.value)) for a in said]
            self._calendar = FiscalCalendar(declared, by_start, self._inferred({y.company for y in declared}))
        return self._calendar

    def _inferred(self, declared: set[int]) -> list[Inferred]:
        """Year ends of the companies that declared none."""
        silent = np.ones(self.companies, np.bool_)
        silent[list(declared)] = False
        if not silent.any():
            return []
        return infer_year_ends([self.facts(self.items[code]) for code in READ_FROM], silent)

    def facts(self, item: Item) -> FactColumns:
        """The item's facts that count here."""
        if item.code not in self._facts:
            known = self.columns(item.code).known(self.recorded_by, self.with_assumed, self.quarantined)
            if self.preference:
                known = replace(known, source=self.preference.ranked(item.code, known.company, known.source))
            self._facts[item.code] = known
        return self._facts[item.code]

    def timeline(self, item: Item, form: str, first: bool) -> Timeline:
        """The item's figures of one form: q, h, fy, ttm, ytd, balance or balance_fy."""
        key = (item.code, form, first)
        if key not in self._timelines:
            self._timelines[key] = self._form(item, form, first)
        return self._timelines[key]

    def joint(self, leaves: tuple[FormName, ...]) -> Joint:
        """Several figures side by side, to find the period end they share."""
        if leaves not in self._joint:
            timelines = [self.timeline(self.items[code], form, first) for code, form, first in leaves]
            self._joint[leaves] = Joint.of(timelines)
        return self._joint[leaves]

    def _form(self, item: Item, form: str, first: bool) -> Timeline:
        seen = item.nature is Nature.OBSERVATION
        reported = self._told(item)
        if seen:
            return reported.any_source(0, first=first)
        if item.nature is Nature.STOCK:
            balance = reported.any_source(0, first=first)
            if item.absent_is_zero:
                balance = coalesce([balance, *(self._implied(item, s, first) for s in self.sources)], having=True)
            return self.calendar.at_ends(balance, 12) if form == "balance_fy" else balance
        if (item.code, first) not in self._forming:
            self._forming[item.code, first] = Forming(
                reported,
                self.calendar,
                approximate=item.approximate,
                first=first,
                additive=item.additive,
                rates=lambda: self.rates,
            )
        return self._forming[item.code, first].form(form)

    def _told(self, item: Item) -> Reported:
        """The item's reported figures, made once for all its forms."""
        if item.code not in self._reported:
            self._reported[item.code] = Reported(
                self.facts(item), self.sources, seen=item.nature is Nature.OBSERVATION,
                basis=ShareBasis.of(self.splits, item.unit, self.share_bases), flagged=self.flagged,
            )  # fmt: skip
        return self._reported[item.code]

    def _implied(self, item: Item, source: int, first: bool) -> Timeline:
        """F13: 0 at every end where the totals of the source are known; what it reports itself goes before."""
        totals = []
        for code in _TOTALS:
            total = self.items[code]
            totals.append(self._told(total).of(source, 0, first=first))
        zero = implied_zero(totals)
        companies = key_company(zero.key)
        template = self.attributes.first("template", self.companies)
        lacks = np.array([t is not None and t not in item.templates for t in template], np.bool_)
        return zero.take(~lacks[companies]) if lacks.any() else zero

    def figures(self, item: Item) -> Presence:
        """Any figure of the item, by the end it is for."""
        if item.code not in self._presence:
            facts = self.facts(item)
            self._presence[item.code] = Presence(make_keys(facts.company, nominal_ends(facts)), facts.at)
        return self._presence[item.code]

    def statement(self, item: Item) -> Presence:
        """Any figure of the item's statement."""
        name = f"statement {item.statement}"
        if name not in self._presence:
            same = [i for i in self.items.values() if i.statement == item.statement]
            self._presence[name] = Presence.union([self.figures(i) for i in same])
        return self._presence[name]

    @property
    def vocabulary(self) -> Vocabulary:
        """What an expression may name here."""
        return Vocabulary(self.items, ATTRIBUTES)

    def applicable(self, item: Item, members: Rows, cutoffs: Instants) -> NDArray[np.bool_]:
        """Whether each company's template has the item; a company without template has all."""
        template = self.attributes.read("template", members, cutoffs)
        has = np.isin(template.value.astype(str), sorted(item.templates))
        return has | ~template.there

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute as known at each cut-off (T9)."""
        if name in self.derived:
            days = (cutoffs // DAY).tolist()
            said = [[self.derived[name](n, d) for d in days] for n in members.tolist()]
            value = np.array(said, object).reshape(len(members), len(cutoffs))
            missing = np.array([[v is None for v in row] for row in said]).reshape(value.shape)
            return Values.known(np.where(missing, "", value), np.where(missing, Reason.NOT_KNOWN, 0).astype(np.uint8))
        return self.attributes.read(name, members, cutoffs)
