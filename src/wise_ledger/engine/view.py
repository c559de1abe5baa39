"""The ledger as known, for questions: what was formed before stays,
and what a batch touched is spliced in.
"""

import threading
from collections.abc import Callable, Hashable
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.values import Values
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.zeros import TOTALS, Templates
from wise_ledger.core.language.view import LedgerView, estimates_on
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.timelines.asof import Presence
from wise_ledger.core.timelines.joint import FormName, Joint
from wise_ledger.core.timelines.keys import Instants, Rows
from wise_ledger.core.timelines.places import Places
from wise_ledger.core.timelines.splice import bare, joined, spliced
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.engine.line import Line

K = TypeVar("K")
T = TypeVar("T", Timeline, Joint, Presence)
_NOBODY = np.empty(0, np.int64)
_BLOCK = 500  # companies that are formed at once


class EngineView:
    """What an evaluation stands on (`Ground`), as of one batch, out of what its line keeps.

    `former` makes a `LedgerView` that forms the figures of some companies (ascending) or of all;
    `plain` is one that answers all that needs no figure.
    """

    def __init__(
        self,
        batch: int,
        line: Line,
        plain: LedgerView,
        former: Callable[[NDArray[np.int64] | None, bool], LedgerView],
    ) -> None:
        self.batch = batch
        self.plain = plain
        self.companies = plain.companies
        self.items = plain.items
        self.attributes = plain.attributes
        self.preference = plain.preference
        self.limits = plain.limits
        self.quarantined = plain.quarantined
        self.flagged = plain.flagged
        self.splits = plain.splits
        self.share_bases = plain.share_bases
        self.marks_out = plain.marks_out
        self._line = line
        self._make = former
        self._formers: dict[bytes, LedgerView] = {}
        self._several: dict[str, NDArray[np.int64]] = {}
        self._ends: dict[str, Timeline] = {}
        self._estimates: Estimates | None = None
        self._estimating = threading.Lock()
        self._lock = threading.Lock()

    @property
    def vocabulary(self) -> Vocabulary:
        """What an expression may name here."""
        return self.plain.vocabulary

    @property
    def rates(self) -> RateTable:
        """Rates between currencies (M2)."""
        return self.plain.rates

    @property
    def market(self) -> Market:
        """Prices, dividends and splits of listings."""
        return self.plain.market

    @property
    def series(self) -> SeriesBook:
        """Economic series."""
        return self.plain.series

    @property
    def share_counts(self) -> ShareCounts:
        """Shares outstanding of securities."""
        return self.plain.share_counts

    @property
    def estimates(self) -> Estimates:
        """What analysts expected."""
        with self._estimating:
            if self._estimates is None:
                self._estimates = estimates_on(self, self.plain.given_estimates())
            return self._estimates

    def reported_ends(self, item: Item) -> Timeline:
        """The period ends of the item as reported, as values, by the nominal end they are for."""
        if item.code not in self._ends:
            self._ends[item.code] = self.plain.reported_ends(item)
        return self._ends[item.code]

    @property
    def templates(self) -> Templates:
        """The reporting templates of all companies, as they became known."""
        return self.plain.templates

    @property
    def calendar(self) -> FiscalCalendar:
        """The fiscal year ends of all companies, as they became known."""
        return self._line.calendar(self.batch, self._former)

    def tracing(self, company: int) -> LedgerView:
        """The figures of one company with their lineage: for looking into one, not for many."""
        return self._make(np.array([company], np.int64), True)

    def tracing_all(self) -> LedgerView:
        """The figures of all companies, formed again with their lineage."""
        return self._make(None, True)

    def facts(self, item: Item) -> FactColumns:
        """The item's facts that count here, of all companies; read for this once."""
        return self.plain.read(item.code)

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form, without lineage;
        what is formed in several currencies, in `currency`.
        """

        def formed(view: LedgerView) -> Timeline:
            out = bare(view.timeline(view.items[item.code], form, first, currency))
            _ = out.moves  # worked out here, so that they are spliced with the rest
            return out

        several = self._of_several_currencies({item.code}) if currency is not None else _NOBODY
        if not len(several):
            currency = None
            return self._kept(("timeline", item.code, form, first), _behind(item), formed)
        plain = self.timeline(item, form, first)
        made = lambda *_: spliced(plain, formed(self._former(several)), several)  # noqa: E731
        return self._line.kept.get(
            ("timeline in", item.code, form, first, currency), self.batch, made
        )

    def joint(self, leaves: tuple[FormName, ...], currency: int | None = None) -> Joint:
        """Several figures side by side, to find the period end they share."""
        codes = {code for code, *_ in leaves}
        items = set[str]().union(*(_behind(self.items[code]) for code in codes))

        def formed(view: "LedgerView | EngineView") -> Joint:
            out = Joint.of(
                [
                    view.timeline(view.items[code], form, first, currency)
                    for code, form, first in leaves
                ]
            )
            _ = out.moves
            return out

        several = self._of_several_currencies(codes) if currency is not None else _NOBODY
        if not len(several):
            currency = None
            return self._kept(("joint", leaves), items, formed, whole=lambda: formed(self))
        plain = self.joint(leaves)
        made = lambda *_: spliced(plain, formed(self._former(several)), several)  # noqa: E731
        return self._line.kept.get(("joint in", leaves, currency), self.batch, made)

    def _of_several_currencies(self, codes: set[str]) -> NDArray[np.int64]:
        """The companies, ascending, whose figures of any of some items stand
        in more than one currency.
        """
        for code in codes - self._several.keys():
            self._several[code] = self.plain.facts(self.items[code]).of_several_currencies()
        return np.unique(np.concatenate([_NOBODY, *(self._several[code] for code in codes)]))

    def figures(self, item: Item) -> Presence:
        """Any figure of the item, by the end it is for."""

        def formed(view: LedgerView) -> Presence:
            out = view.figures(view.items[item.code])
            _ = out.moves
            return out

        return self._kept(("figures", item.code), {item.code}, formed)

    def statement(self, item: Item) -> Presence:
        """Any figure of the item's statement."""
        same = {i.code for i in self.items.values() if i.statement == item.statement}

        def formed(view: LedgerView) -> Presence:
            out = view.statement(view.items[item.code])
            _ = out.moves
            return out

        return self._kept(("statement", item.statement), same, formed)

    def applicable(self, item: Item, places: Places) -> NDArray[np.bool_]:
        """Whether each company's template has the item."""
        return self.plain.applicable(item, places)

    def kept(self, name: tuple[Hashable, ...], make: Callable[[], K]) -> K:
        """What was made under this name, as of this batch."""
        return self._line.kept.get(name, self.batch, lambda *_: make())

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute of the companies at the cut-offs."""
        return self.plain.field(name, members, cutoffs)

    def groups(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """The groups of companies by an attribute at each cut-off, numbered."""
        return self.plain.groups(name, members, cutoffs)

    def refresh(self) -> None:
        """Bring everything that is kept up to this batch: the next who asks need not wait."""
        for key in self._line.kept.names():
            kind, *how = key  # type: ignore[misc]
            if kind == "timeline" and how[0] in self.items:
                self.timeline(self.items[how[0]], how[1], how[2])
            elif kind == "joint":
                self.joint(how[0])
            elif kind == "figures" and how[0] in self.items:
                self.figures(self.items[how[0]])

    def _kept(
        self,
        key: tuple[object, ...],
        items: set[str],
        form: Callable[[LedgerView], T],
        whole: Callable[[], T] | None = None,
    ) -> T:
        def make(batch: int, before: T | None) -> T:
            touched = (
                None
                if before is None
                else self._line.touched(batch, self.batch, items, self._former)
            )
            if before is None or touched is None or 2 * len(touched) > self.companies:
                return (
                    whole()
                    if whole
                    else joined([form(self._make(b, False)) for b in self._blocks()])
                )
            return spliced(before, form(self._former(touched)), touched) if len(touched) else before

        return self._line.kept.get(key, self.batch, make)

    def _blocks(self) -> list[NDArray[np.int64]]:
        """All companies, so many at a time: what is formed on the way to a figure stays small."""
        return np.array_split(
            np.arange(self.companies, dtype=np.int64), max(1, -(-self.companies // _BLOCK))
        )

    def _former(self, companies: NDArray[np.int64] | None) -> LedgerView:
        """A view that forms: of all companies it is made for one use,
        since what it forms on the way is large.
        """
        if companies is None:
            return self._make(None, False)
        with self._lock:
            name = companies.tobytes()
            if name not in self._formers:
                if len(self._formers) > 8:
                    self._formers.clear()
                self._formers[name] = self._make(companies, False)
            return self._formers[name]


def _behind(item: Item) -> set[str]:
    """The items whose facts an item's figures rest on."""
    zero = item.nature is Nature.STOCK and (item.absent_is_zero or item.sum_of)
    return {item.code, *item.sum_of, *(TOTALS if zero else ())}
