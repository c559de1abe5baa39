"""All figures of one company at once: its items are followed side by side, as other rooms follow companies.

In the keys of these timelines stands the place of an item in the sheet, not a company: quarters, halves and trailing
sums of fifty items are formed in the one pass that forms those of one (F7, F8), which makes a statement cheap.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.asof import Presence, standing
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.items import Item, Nature
from wise_ledger.core.facts.keys import Keys, State, key_company, key_end, make_keys
from wise_ledger.core.facts.lineage import restated
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.timeline import Timeline, coalesce
from wise_ledger.core.facts.versions import Reported, nominal_ends
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.forming import Forming, implied_zero
from wise_ledger.core.fiscal.periods import Days
from wise_ledger.core.market.rates import RateTable
from wise_ledger.core.market.splits import ShareBasis

SPANS = {"q": 3, "h": 6, "fy": 12, "ttm": 12}


@dataclass(frozen=True, eq=False)
class Grid:
    """Figures of items (rows) at period ends (columns); `known` is the instant since when each reads like this."""

    ends: Days
    value: NDArray[np.float64]
    reason: NDArray[np.uint8]
    marks: NDArray[np.uint8]
    currency: NDArray[np.int16]
    start: Days  # nominal start of the period of a flow
    known: NDArray[np.int64]
    formed: NDArray[np.bool_]  # put together from other figures, not reported as such
    restated: NDArray[np.bool_]  # read differently at first
    restated_later: NDArray[np.bool_]  # reads differently after the cut-off
    fact: NDArray[np.int64]  # the ledger's row of a figure as reported; -1 for others


class Sheet:
    """The figures of `items` of one company; in `facts` the company column holds the place of the item.

    In the `calendar` too each item stands for the company. `sources` are numbers in order of preference (T5);
    `template` is the company's; `rates` serve where its currency changed (M2), `basis` moves its rows with splits (M3),
    `flagged` are facts with findings (Q2).
    """

    def __init__(
        self,
        items: Sequence[Item],
        facts: FactColumns,
        calendar: FiscalCalendar,
        sources: Sequence[int],
        template: str | None,
        rates: Callable[[], RateTable] = RateTable.empty,
        basis: ShareBasis | None = None,
        flagged: NDArray[np.int64] | None = None,
    ) -> None:
        self.rates = rates
        self._flagged = flagged
        self._basis = basis
        self.items = tuple(items)
        self._facts = facts
        self._sources = sources
        self._template = template
        self.calendar = calendar
        self._nature = np.array([i.nature.value for i in self.items])
        self._additive = np.array([i.additive for i in self.items])
        self._approximate = np.array([i.approximate for i in self.items])
        statements = sorted({i.statement for i in self.items})
        self._statement = np.array([statements.index(i.statement) for i in self.items], np.int64)
        self._nominal = nominal_ends(facts)

    def grid(self, form: str, ends: Days, cutoff: int, *, first: bool = False, as_reported: bool = False) -> Grid:
        """The figures at `ends` as known at an instant; flows in the `form` q, h, fy, ttm or ytd, balances as they are.

        `first` reads first reported versions, `as_reported` leaves out what is formed from other figures.
        """
        parts = [self._flows(form, kind, first, as_reported) for kind in ("plain", "per share", "not additive")]
        parts.append(self._balances(form, first, as_reported))
        shape = (len(self.items), len(ends))
        keys = make_keys(np.repeat(np.arange(shape[0]), shape[1]), np.tile(ends, shape[0]))
        cutoffs = np.full(len(keys), cutoff, np.int64)
        out = _Cells.empty(len(keys))
        for timeline in parts:
            rows = standing(timeline, keys, cutoffs)
            out.take(timeline, rows)
        reason = np.where(out.state == State.VALUE, 0, self._why(keys, cutoffs, out.state)).astype(np.uint8)
        return Grid(
            np.asarray(ends, np.int32),
            out.value.reshape(shape),
            reason.reshape(shape),
            out.marks.reshape(shape),
            out.currency.reshape(shape),
            out.start.reshape(shape),
            out.known.reshape(shape),
            out.formed.reshape(shape),
            out.restated.reshape(shape),
            out.restated_later.reshape(shape),
            out.fact.reshape(shape),
        )

    def ends(self, form: str, cutoff: int) -> Days:
        """The nominal ends for which a figure of this form can be told, ascending."""
        known = self._nominal[self._facts.at <= cutoff]
        found = np.unique(known).astype(np.int32)
        if form in ("fy", "h"):
            found = found[self.calendar.holds(make_keys(np.zeros(len(found), np.int64), found), SPANS[form])]
        elif len(found):  # an odd day of one document makes no column of its own
            into = self.calendar.months_into_year(make_keys(np.zeros(len(found), np.int64), found))
            found = found[(into % 3 == 0) | (into < 0)]
        return found

    def _of(self, chosen: NDArray[np.bool_]) -> Reported:
        rows = chosen[self._facts.company] if len(self._facts) else np.zeros(0, np.bool_)
        return Reported(self._facts.where(rows), self._sources, basis=self._basis, flagged=self._flagged)

    def _flows(self, form: str, kind: str, first: bool, as_reported: bool) -> Timeline:
        chosen = self._nature == Nature.FLOW.value
        if kind == "not additive":
            chosen &= ~self._additive
        else:
            chosen &= self._additive & (self._approximate == (kind == "per share"))
        if not chosen.any():
            return Timeline.empty()
        forming = Forming(
            self._of(chosen), self.calendar, first=first, approximate=kind == "per share",
            additive=kind != "not additive" and not as_reported, rates=self.rates,
        )  # fmt: skip
        return forming.form(form)

    def _balances(self, form: str, first: bool, as_reported: bool) -> Timeline:
        chosen = self._nature == Nature.STOCK.value
        if not chosen.any():
            return Timeline.empty()
        reported = self._of(chosen)
        balance = reported.any_source(0, first=first)
        if not as_reported:
            balance = coalesce([balance, *(self._implied(reported, s, first) for s in reported.sources)], having=True)
        return self.calendar.at_ends(balance, 12) if form == "fy" else balance

    def _implied(self, reported: Reported, source: int, first: bool) -> Timeline:
        """F13: the lines whose absence means zero, at each end where both totals are told."""
        place = {i.code: n for n, i in enumerate(self.items)}
        wanted = [n for n, i in enumerate(self.items) if i.absent_is_zero and self._has(i)]
        if not wanted or "total_assets" not in place or "shareholders_equity" not in place:
            return Timeline.empty()
        told = reported.of(source, 0, first=first)
        totals = []
        for code in ("total_assets", "shareholders_equity"):
            of = told.take(key_company(told.key) == place[code])
            totals.append(replace(of, key=make_keys(np.zeros(len(of), np.int64), key_end(of.key)), inputs=()))
        zero = implied_zero(totals)
        rows = np.tile(np.arange(len(zero)), len(wanted))
        many = replace(zero, inputs=()).take(rows)
        return replace(many, key=make_keys(np.repeat(np.array(wanted), len(zero)), key_end(many.key)))

    def _has(self, item: Item) -> bool:
        return self._template is None or self._template in item.templates

    def _why(self, keys: Keys, cutoffs: NDArray[np.int64], state: NDArray[np.int8]) -> NDArray[np.uint8]:
        """The reason of each missing cell, judged by what ends there (N)."""
        figures = Presence(make_keys(self._facts.company, self._nominal), self._facts.at)
        of_statement = self._statement[self._facts.company] if len(self._facts) else np.zeros(0, np.int64)
        statement = Presence(make_keys(of_statement, self._nominal), self._facts.at)
        row = key_company(keys)
        applies = np.array([self._has(i) for i in self.items], np.bool_)[row]
        there = figures.at_end(keys, cutoffs)
        return np.select(
            [
                ~applies,
                state == State.WITHDRAWN,
                there & ~self._additive[row],
                there,
                statement.at_end(make_keys(self._statement[row], key_end(keys)), cutoffs),
            ],
            [Reason.NOT_APPLICABLE, Reason.WITHDRAWN, Reason.NOT_DERIVABLE, Reason.INCOMPLETE, Reason.NOT_REPORTED],
            Reason.NOT_KNOWN,
        ).astype(np.uint8)


@dataclass(eq=False)
class _Cells:
    value: NDArray[np.float64]
    state: NDArray[np.int8]
    marks: NDArray[np.uint8]
    currency: NDArray[np.int16]
    start: Days
    known: NDArray[np.int64]
    formed: NDArray[np.bool_]
    restated: NDArray[np.bool_]
    restated_later: NDArray[np.bool_]
    fact: NDArray[np.int64]

    @classmethod
    def empty(cls, n: int) -> "_Cells":
        return cls(
            np.full(n, np.nan), np.zeros(n, np.int8), np.zeros(n, np.uint8), np.full(n, -1, np.int16),
            np.zeros(n, np.int32), np.zeros(n, np.int64), np.zeros(n, np.bool_), np.zeros(n, np.bool_),
            np.zeros(n, np.bool_), np.full(n, -1, np.int64),
        )  # fmt: skip

    def take(self, timeline: Timeline, rows: NDArray[np.int64]) -> None:
        """Take over the cells that stand in a timeline; each item is in one alone."""
        here = rows >= 0
        if not here.any():
            return
        at = rows[here]
        self.value[here], self.state[here] = timeline.value[at], timeline.state[at]
        self.marks[here], self.currency[here] = timeline.marks[at], timeline.currency[at]
        self.start[here], self.known[here] = timeline.start[at], timeline.at[at]
        self.fact[here] = _facts(timeline)[at]
        self.formed[here] = (self.fact[here] < 0) & (timeline.state[at] == State.VALUE)
        by_then, later = restated(timeline, rows)
        self.restated |= by_then
        self.restated_later |= later


def _facts(timeline: Timeline) -> NDArray[np.int64]:
    """The fact that each row is, whatever choices lie between; -1 where it was formed."""
    if timeline.chosen is None:
        return np.full(len(timeline), -1, np.int64) if timeline.fact is None else timeline.fact
    out = np.full(len(timeline), -1, np.int64)
    for n, option in enumerate(timeline.inputs):
        mine = timeline.chosen == n
        out[mine] = _facts(option.timeline)[option.rows[mine]]
    return out
