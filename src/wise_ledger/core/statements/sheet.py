"""All figures of one company at once: its items are followed side by side,
as other rooms follow companies.

In the keys of these timelines stands the place of an item in the sheet, not a company: quarters,
halves and trailing sums of fifty items are formed in the one pass that forms those of one (F7, F8),
which makes a statement cheap.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.forming import Forming
from wise_ledger.core.fiscal.missing import reason_at_end
from wise_ledger.core.fiscal.sums import summed
from wise_ledger.core.fiscal.zeros import TOTALS, Templates, for_rows, sheet_there, with_zeros
from wise_ledger.core.money.rates import RateTable
from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.periods import Days, shift_months
from wise_ledger.core.timelines.asof import Presence, standing
from wise_ledger.core.timelines.keys import Keys, Rows, State, key_company, key_end, make_keys
from wise_ledger.core.timelines.lineage import story
from wise_ledger.core.timelines.merge import coalesce
from wise_ledger.core.timelines.stages import Stages
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.core.timelines.versions import Reported, nominal_ends

SPANS = {"q": 3, "h": 6, "fy": 12, "ttm": 12}


@dataclass(frozen=True, eq=False)
class Grid:
    """Figures of items (rows) at period ends (columns);
    `known` is the instant since when each reads like this.
    """

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
    """The figures of `items` of one company;
    in `facts` the company column holds the place of the item.

    In the `calendar` and the `templates` too each item stands for the company. `places` holds for
    each item and source its place in the order of preference (T5); `rates` serve where its currency
    changed, for figures in `currency` if one is asked for (M2), `basis` moves its rows with splits
    (M3), `flagged` are facts with findings (Q2); figures with any of the marks `marks_out` do not
    count.
    """

    def __init__(
        self,
        items: Sequence[Item],
        facts: FactColumns,
        calendar: FiscalCalendar,
        templates: Templates | None = None,
        *,
        places: NDArray[np.int16] | None = None,
        rates: Callable[[], RateTable] = RateTable.empty,
        currency: int | None = None,
        basis: ShareBasis | None = None,
        flagged: NDArray[np.int64] | None = None,
        marks_out: int = 0,
    ) -> None:
        self.rates = rates
        self._currency = currency
        self.items = tuple(items)
        self.calendar = calendar
        self._flagged = flagged
        self._marks_out = marks_out
        self._basis = basis
        self._facts = facts
        self._places = places
        self._ranks = facts.source if places is None else places[facts.company, facts.source]
        self._templates = templates or Templates(Stages.none(), np.empty(0, "U1"))
        self._nature = np.array([i.nature.value for i in self.items])
        self._additive = np.array([i.additive for i in self.items])
        self._approximate = np.array([i.approximate for i in self.items])
        self._place = {i.code: n for n, i in enumerate(self.items)}
        statements = sorted({i.statement for i in self.items})
        self._statement = np.array([statements.index(i.statement) for i in self.items], np.int64)
        self._nominal = nominal_ends(facts)
        # rows of a company; there may be several companies, one behind another
        self._count = len(self.items)
        self._formed: dict[tuple[str, bool, bool], list[Timeline]] = {}
        # the sheet that forms the figures of this one, and its first row
        self._whole: tuple[Sheet, int] | None = None

    @staticmethod
    def form_together(sheets: Sequence["Sheet"]) -> None:
        """Let the figures of several companies' sheets, all of the same
        items, be formed in one pass.
        """
        first = sheets[0]
        count = len(first.items)
        rows = [
            replace(s._facts, company=(s._facts.company + n * count).astype(np.int32))
            for n, s in enumerate(sheets)
        ]
        names = [f.name for f in fields(FactColumns)]
        facts = FactColumns.of(
            {name: np.concatenate([getattr(r, name) for r in rows]) for name in names}
        )
        places = [s._places for s in sheets if s._places is not None]
        whole = Sheet(
            first.items * len(sheets),
            facts,
            FiscalCalendar.together([s.calendar for s in sheets], count),
            Templates.together([s._templates for s in sheets], count),
            places=np.concatenate(places) if places else None,
            rates=first.rates,
            currency=first._currency,
            basis=ShareBasis.together([s._basis for s in sheets], count),
            flagged=first._flagged,
            marks_out=first._marks_out,
        )
        whole._count = count
        whole._place = first._place
        for n, sheet in enumerate(sheets):
            sheet._whole = (whole, n * count)

    def grid(
        self, form: str, ends: Days, cutoff: int, *, first: bool = False, as_reported: bool = False
    ) -> Grid:
        """The figures at `ends` as known at an instant; flows in the `form` q, h, fy,
        ttm or ytd, balances as they are.

        `first` reads first reported versions, `as_reported` leaves out what is formed from other
        figures.
        """
        asked = (form, first, as_reported)
        return self._grid(ends, cutoff, lambda s: s._parts(*asked), asked if form == "fy" else None)

    def grid_before(
        self, form: str, ends: Days, cutoff: int, *, first: bool = False, as_reported: bool = False
    ) -> Grid:
        """The figures of a year before: flows in the same form alone, balances of any end."""

        def parts(sheet: Sheet) -> list[Timeline]:
            flows = sheet._parts(form, first, as_reported)[:-1]
            return [*flows, sheet._balances_of("", first, as_reported)]

        return self._grid(shift_months(ends, -12), cutoff, parts, None)

    @property
    def is_flow(self) -> NDArray[np.bool_]:
        """Which lines are flows."""
        return np.asarray(self._nature == Nature.FLOW.value)

    def _grid(
        self,
        ends: Days,
        cutoff: int,
        parts: "Callable[[Sheet], list[Timeline]]",
        years: tuple[str, bool, bool] | None,
    ) -> Grid:
        """What stands at `ends`; beside `years` the transitions between them."""
        shape = (len(self.items), len(ends))
        keys = make_keys(np.repeat(np.arange(shape[0]), shape[1]), np.tile(ends, shape[0]))
        cutoffs = np.full(len(keys), cutoff, np.int64)
        out = _Cells.empty(len(keys))
        whole, row = self._whole or (self, 0)
        filed = make_keys(key_company(keys) + row, key_end(keys))
        for timeline in parts(whole):
            out.take(timeline, standing(timeline, filed, cutoffs))
        closes = self.calendar.closes_transition(self._stages(len(ends), cutoff), ends)
        if years and closes.any():  # no year, but a column of its own (F7)
            transition = np.tile(closes, shape[0])
            out.forget(transition)
            for timeline in whole._parts("ytd", *years[1:]):
                rows = standing(timeline, filed, cutoffs)
                out.take(timeline, np.where(transition, rows, -1))
        reason = self._why(keys, cutoff, out.state)
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
        """The nominal ends for which a figure of this form can be there, ascending;
        with years also transitions.
        """
        known = self._nominal[self._facts.at <= cutoff]
        found = np.unique(known).astype(np.int32)
        stages = self._stages(len(found), cutoff)
        if form in ("fy", "h"):
            holds = self.calendar.holds(stages, found, SPANS[form])
            return found[holds | (self.calendar.closes_transition(stages, found) & (form == "fy"))]
        # An odd day of one document makes no column of its own.
        into = self.calendar.months_into_year(stages, found)
        return np.asarray(found[(into % 3 == 0) | (into < 0)])

    def _stages(self, count: int, cutoff: int) -> Rows:
        return np.full(count, self.calendar.known(0, cutoff), np.int64)

    def _parts(self, form: str, first: bool, as_reported: bool) -> list[Timeline]:
        """Timelines that have each item once, the balances last."""
        asked = (form, first, as_reported)
        if asked not in self._formed:
            flows = [
                self._flows(form, kind, first, as_reported)
                for kind in ("plain", "per share", "not additive")
            ]
            self._formed[asked] = [t.without(self._marks_out) for t in flows]
        return [*self._formed[asked], self._balances_of(form, first, as_reported)]

    def _balances_of(self, form: str, first: bool, as_reported: bool) -> Timeline:
        """The balances, with years those of year ends alone."""
        asked = ("balance_fy" if form == "fy" else "balance", first, as_reported)
        if asked not in self._formed:
            found = self._balances(form, first, as_reported)
            self._formed[asked] = [found.without(self._marks_out)]
        return self._formed[asked][0]

    def _of(self, chosen: NDArray[np.bool_]) -> Reported:
        rows = chosen[self._facts.company] if len(self._facts) else np.zeros(0, np.bool_)
        return Reported(
            self._facts.where(rows),
            ranks=self._ranks[rows],
            basis=self._basis,
            flagged=self._flagged,
        )

    def _flows(self, form: str, kind: str, first: bool, as_reported: bool) -> Timeline:
        chosen = self._nature == Nature.FLOW.value
        if kind == "not additive":
            chosen &= ~self._additive
        else:
            chosen &= self._additive & (self._approximate == (kind == "per share"))
        if not chosen.any():
            return Timeline.empty()
        forming = Forming(
            self._of(chosen),
            self.calendar,
            first=first,
            approximate=kind == "per share",
            additive=kind != "not additive" and not as_reported,
            rates=self.rates,
            currency=self._currency,
        )
        return forming.form(form)

    def _balances(self, form: str, first: bool, as_reported: bool) -> Timeline:
        chosen = self._nature == Nature.STOCK.value
        if not chosen.any():
            return Timeline.empty()
        reported = self._of(chosen)
        balance = reported.any_source(0, first=first)
        if not as_reported:
            balance = with_zeros(
                balance, [self._zeros(reported, s, first) for s in reported.sources]
            )
            added = [n for n, i in enumerate(self.items[: self._count]) if self._adds_up(i)]
            sums = [self._sum(n, self.items[n], reported, first) for n in added]
            plain = ~np.isin(key_company(balance.key) % self._count, added)
            balance = coalesce([balance.take(plain), *sums]) if sums else balance
        return self.calendar.at_ends(balance, 12) if form == "fy" else balance

    def _adds_up(self, item: Item) -> bool:
        return bool(item.sum_of) and all(code in self._place for code in item.sum_of)

    def _sum(self, row: int, item: Item, reported: Reported, first: bool) -> Timeline:
        """A line that is the sum of others where nobody reports it."""

        def of_row(timeline: Timeline, place: int) -> Timeline:
            own = timeline.take(key_company(timeline.key) % self._count == place)
            return replace(own, key=make_keys(key_company(own.key) - place + row, key_end(own.key)))

        def parts(source: int) -> list[Timeline]:
            own = reported.of_source(source, 0, first=first)
            whole = with_zeros(own, [self._zeros(reported, source, first)])
            return [of_row(whole, self._place[code]) for code in item.sum_of]

        def ranks(source: int, rows: NDArray[np.int64]) -> NDArray[np.int16]:
            return (
                np.full(len(rows), source, np.int16)
                if self._places is None
                else self._places[rows, source]
            )

        titles = " and ".join(self.items[self._place[code]].title.lower() for code in item.sum_of)
        own = self._of(np.arange(len(self.items)) % self._count == row)
        return summed(own, reported.sources, parts, ranks, titles, first=first)

    def _zeros(self, reported: Reported, source: int, first: bool) -> Timeline:
        """F13: the lines whose absence means zero, at each end where a source's sheet is there."""
        wanted = [n for n, i in enumerate(self.items[: self._count]) if i.absent_is_zero]
        if not wanted or any(code not in self._place for code in TOTALS):
            return Timeline.empty()
        balances = reported.of_source(source, 0, first=first)
        totals = []
        for code in TOTALS:
            own = balances.take(key_company(balances.key) % self._count == self._place[code])
            company = key_company(own.key) // self._count
            totals.append(replace(own, key=make_keys(company, key_end(own.key)), inputs=()))
        zero = for_rows(sheet_there(*totals), wanted, self._count)
        return self._templates.having(zero, [i.templates for i in self.items])

    def applies(self, cutoff: int) -> NDArray[np.bool_]:
        """Whether the company's template, as known at an instant, has each line."""
        template = self._templates.known(0, cutoff)
        return np.array([template is None or template in i.templates for i in self.items], np.bool_)

    def _why(self, keys: Keys, cutoff: int, state: NDArray[np.int8]) -> NDArray[np.uint8]:
        """The reason of each missing cell, judged by what ends there (N)."""
        row, cutoffs = key_company(keys), np.full(len(keys), cutoff, np.int64)
        figures = Presence.of(make_keys(self._facts.company, self._nominal), self._facts.at)
        of_statement = (
            self._statement[self._facts.company] if len(self._facts) else np.zeros(0, np.int64)
        )
        statement = Presence.of(make_keys(of_statement, self._nominal), self._facts.at)
        return reason_at_end(
            state,
            self.applies(cutoff)[row],
            self._additive[row],
            figures.at_end(keys, cutoffs),
            statement.at_end(make_keys(self._statement[row], key_end(keys)), cutoffs),
        )


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
            np.full(n, np.nan),
            np.zeros(n, np.int8),
            np.zeros(n, np.uint8),
            np.full(n, -1, np.int16),
            np.zeros(n, np.int32),
            np.zeros(n, np.int64),
            np.zeros(n, np.bool_),
            np.zeros(n, np.bool_),
            np.zeros(n, np.bool_),
            np.full(n, -1, np.int64),
        )

    def forget(self, cells: NDArray[np.bool_]) -> None:
        """Empty some cells again."""
        blank = _Cells.empty(len(cells))
        for column in fields(self):
            getattr(self, column.name)[cells] = getattr(blank, column.name)[cells]

    def take(self, timeline: Timeline, rows: NDArray[np.int64]) -> None:
        """Take over the cells that stand in a timeline; each item is in one alone."""
        here = rows >= 0
        if not here.any():
            return
        at = rows[here]
        self.value[here], self.state[here] = timeline.value[at], timeline.state[at]
        self.marks[here], self.currency[here] = timeline.marks[at], timeline.currency[at]
        self.start[here] = timeline.start[at]
        self.fact[here] = _facts(timeline)[at]
        self.formed[here] = (self.fact[here] < 0) & (timeline.state[at] == State.VALUE)
        found = story(timeline, rows)
        self.known[here] = found.since[here]
        self.restated |= found.restated
        self.restated_later |= found.restated_later


def _facts(timeline: Timeline) -> NDArray[np.int64]:
    """The fact that each row is, whatever choices lie between; -1 where it was formed."""
    if timeline.chosen is None:
        return np.full(len(timeline), -1, np.int64) if timeline.fact is None else timeline.fact
    out = np.full(len(timeline), -1, np.int64)
    for n, option in enumerate(timeline.inputs):
        mine = timeline.chosen == n
        out[mine] = _facts(option.timeline)[option.rows[mine]]
    return out
