"""Panels: many measures of a list, of companies or of everybody,
on many dates or by fiscal period.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.language.check import plan_rule
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.market.closes import closing
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.panels.ahead import read_ahead
from wise_ledger.core.panels.panel import (
    Block,
    PanelColumn,
    Question,
    blocks,
    plan_columns,
    plan_condition,
)
from wise_ledger.core.panels.periods import Periods, ends_of, read_periods
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import listreading
from wise_ledger.words import counted
from wise_ledger.work import lists
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.paneldates import read_dates
from wise_ledger.work.whom import read_whom

BESIDE = ("reason", "currency", "period_end", "known_at", "marks", "source")
MOST_CELLS = 500_000_000
MOST_LAG = 3_660  # days
Days = NDArray[np.int64]
Truths = NDArray[np.bool_]


@dataclass(frozen=True)
class PanelAsked:
    """A panel as somebody asks for it; either `dates` or `periods`.

    `lag` are days by which what was known lies before each date; with `at_close` the cut-off is the
    close of each company's venue; with `first` figures count as first reported; `ahead` are returns
    after each date.
    """

    expressions: tuple[str, ...]
    list: str | None = None
    companies: tuple[str, ...] = ()
    dates: tuple[str, ...] = ()
    periods: str | None = None
    where: str | None = None
    lag: int = 0
    at_close: bool = False
    first: bool = False
    ahead: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Panel:
    """A panel that can be read, block by block; `days` are those of its dates, empty by period."""

    asked: PanelAsked
    snapshot: Snapshot
    viewpoint: Viewpoint
    question: Question
    title: str
    days: Days
    periods: Periods | None
    failed: tuple[Problem, ...]  # companies that were named and are not found

    @property
    def columns(self) -> tuple[PanelColumn, ...]:
        """The columns, in the order asked for; those that look ahead last."""
        return self.question.columns

    @property
    def batch(self) -> int:
        """As of which batch."""
        return self.snapshot.batch

    @property
    def most_rows(self) -> int:
        """How many rows there are before the condition."""
        return int(self.question.counted.members.sum())

    def blocks(self) -> Iterator[Block]:
        """Some dates at a time, in order."""
        return blocks(self.snapshot.view, self.question)

    @cached_property
    def names(self) -> list[str]:
        """What each company is called, as known at the last cut-off."""
        return self.snapshot.names(self.question.members.tolist(), int(self.question.cutoffs[-1]))

    @cached_property
    def symbols(self) -> list[str | None]:
        """The symbol of each company's primary listing at the last cut-off."""
        cutoff = int(self.question.cutoffs[-1])
        return [self.snapshot.symbol(n, cutoff) for n in self.question.members.tolist()]

    @cached_property
    def ids(self) -> list[str]:
        """The id of each company."""
        return [self.snapshot.ids[n] for n in self.question.members.tolist()]

    @property
    def date_labels(self) -> list[str]:
        """Each date as a reader sees it, or each period."""
        return (
            list(self.periods.labels)
            if self.periods
            else [as_date(d).isoformat() for d in self.days.tolist()]
        )


def read_panel(desk: Desk, viewpoint: Viewpoint, asked: PanelAsked) -> Panel:
    """A panel, planned and checked; nothing is evaluated yet.

    Raises `BadInput`, `ExpressionError`, `NotFound`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    in_currency(snapshot, viewpoint)
    _check(asked)
    words = snapshot.view.vocabulary
    periods = read_periods(asked.periods) if asked.periods is not None else None
    selector = periods.selector if periods else ""
    columns = plan_columns(asked.expressions, words, selector=selector, first=asked.first)
    columns += _ahead(desk, asked)
    _check_names(columns)
    condition = plan_condition(asked.where, words)
    about = {
        "condition": condition,
        "currency": viewpoint.currency,
        "known_at": "known_at" in asked.beside,
    }
    if periods is not None:
        cutoffs = np.full(periods.last - periods.first + 1, viewpoint.cutoff, np.int64)
        members, on, title, failed = _whom(desk, snapshot, asked, np.array([viewpoint.cutoff]))
        ends = ends_of(snapshot.view.calendar, periods, members, viewpoint.cutoff)
        who = Counted(np.broadcast_to(on, ends.shape))
        question = Question(columns, members, cutoffs, who, ends, upto=viewpoint.cutoff, **about)
        return Panel(
            asked, snapshot, viewpoint, question, title, np.empty(0, np.int64), periods, failed
        )
    days = read_dates(snapshot, viewpoint, asked.dates)
    late = days[days > viewpoint.cutoff // DAY]
    if len(late):
        at = as_date(int(late[0]))
        raise bad_input(
            "dates",
            at,
            "it lies after what is known",
            f"ask for days up to {viewpoint.known_on:%Y-%m-%d}",
        )
    cutoffs = np.minimum((days + 1) * DAY - 1, viewpoint.cutoff) - asked.lag * DAY
    members, on, title, failed = _whom(desk, snapshot, asked, cutoffs)
    if len(members) * len(days) * len(columns) > MOST_CELLS:
        sizes = (len(members), "company"), (len(days), "date"), (len(columns), "column")
        size = " x ".join(counted(n, noun) for n, noun in sizes)
        raise bad_input(
            "dates", size, f"a panel has at most {MOST_CELLS:,} cells", "ask for fewer at once"
        )
    who = Counted(on)
    if asked.at_close:
        cutoffs, who = _at_close(snapshot, members, days, cutoffs, who, asked.lag)
    question = Question(columns, members, cutoffs, who, upto=viewpoint.cutoff, **about)
    return Panel(asked, snapshot, viewpoint, question, title, days, None, failed)


def _check(asked: PanelAsked) -> None:
    if bool(asked.dates) == (asked.periods is not None):
        mend = "write dates such as 2015-01-01/2024-12-31 monthly, or periods such as FY2015/FY2024"
        raise bad_input("dates", "", "a panel is over dates, or by fiscal period", mend)
    if not 0 <= asked.lag <= MOST_LAG:
        raise bad_input(
            "lag", asked.lag, f"a lag is 0 to {MOST_LAG} days", "write how many days before counts"
        )
    for name in asked.beside:
        if name not in BESIDE:
            raise bad_input(
                "beside", name, "nothing of this name stands beside a value", mend_for(name, BESIDE)
            )
    if asked.periods is not None and (asked.ahead or asked.at_close or asked.lag):
        name = "ahead" if asked.ahead else "at_close" if asked.at_close else "lag"
        raise bad_input(
            name,
            "",
            "a panel by period is read at one cut-off",
            "ask for it over dates, or leave it out",
        )


def _ahead(desk: Desk, asked: PanelAsked) -> tuple[PanelColumn, ...]:
    with desk.ledger.database.read() as connection:
        known = frozenset(listreading.list_numbers(connection)) if asked.ahead else frozenset()
    found = [read_ahead(text, known) for text in asked.ahead]
    return tuple(PanelColumn(a.name, a.words, None, a) for a in dict.fromkeys(found))


def _check_names(columns: Sequence[PanelColumn]) -> None:
    """A name is a column's alone, and not that of what every row has."""
    seen = {"company", "name", "symbol", "date", "period", "period_end", "measure", "value", "text"}
    for column in columns:
        if column.name in seen:
            problem = "two columns would have this name"
            raise bad_input(
                "expressions", column.name, problem, f"name it: other: {column.expression}"
            )
        seen.add(column.name)


def _whom(
    desk: Desk, snapshot: Snapshot, asked: PanelAsked, cutoffs: Days
) -> tuple[Days, Truths, str, tuple[Problem, ...]]:
    """Companies, ascending, on which dates each counts, what to call them,
    and who was named and is not found.
    """
    if asked.list is not None and asked.companies:
        raise bad_input(
            "list", asked.list, "companies are named beside a list", "name a list, or companies"
        )
    if asked.companies:
        whom = read_whom(desk, snapshot, int(cutoffs[-1]), companies=asked.companies)
        numbers = np.array(whom.numbers, np.int64)
        return numbers, np.ones((len(numbers), len(cutoffs)), np.bool_), whom.title, whom.failed
    if asked.list is not None:
        info = lists.find_list(desk.ledger, asked.list, snapshot.batch)
        on = _on_list(desk, snapshot, info, cutoffs)
        title = info.title
    else:
        everybody = np.arange(len(snapshot.ids))
        named = snapshot.attributes.read("name", everybody, cutoffs)
        active = snapshot.attributes.read("active", everybody, cutoffs)
        on = named.there & ~(active.there & (active.value == 0))
        title = "all companies active then"
    numbers = np.flatnonzero(on.any(axis=1))
    if not len(numbers):
        what = f"the list {asked.list}" if asked.list else "the ledger"
        raise bad_input(
            "list", asked.list or "", f"{what} has no company on these dates", "choose other dates"
        )
    return numbers, on[numbers], title, ()


def _on_list(desk: Desk, snapshot: Snapshot, info: listreading.ListInfo, cutoffs: Days) -> Truths:
    """Who was on a list on each date, all companies by number."""
    everybody = np.arange(len(snapshot.ids))
    if info.rule is not None:
        step = plan_rule(info.rule, snapshot.view.vocabulary)
        verdict, _ = Evaluation(snapshot.view, everybody, cutoffs).run(step)
        return np.asarray(verdict.there & (verdict.value != 0))
    with desk.ledger.database.read() as connection:
        stays = listreading.stays(connection, info.name, snapshot.batch)
    on = np.zeros((len(everybody), len(cutoffs)), np.bool_)
    days = cutoffs // DAY
    for stay in stays:
        on[stay.company] |= (days >= stay.valid_from) & (
            days <= (2**40 if stay.valid_to is None else stay.valid_to)
        )
    return on


def _at_close(
    snapshot: Snapshot, members: Days, days: Days, cutoffs: Days, counted: Counted, lag: int
) -> tuple[Days, Counted]:
    """All cut-offs at which some company is looked at, and whose is which (T3)."""
    venue = snapshot.view.field("venue", members, cutoffs)
    words = np.where(venue.there, venue.value, "")
    mics = sorted(set(words.ravel().tolist()))
    venues = snapshot.universe.venues
    at = {mic: closing(venues.get(mic, ()), days) for mic in mics}
    # venues x dates
    of_venue = np.array([np.minimum(at[mic] - lag * DAY, cutoffs) for mic in mics])
    every = np.unique(of_venue)
    place = {mic: n for n, mic in enumerate(mics)}
    which = np.array([[place[w] for w in row] for row in words.tolist()], np.int64)
    own = np.searchsorted(every, of_venue)[which, np.arange(len(days))]
    date = np.searchsorted(np.minimum.reduce(of_venue), every, "right") - 1
    return every, Counted(counted.members, own, date)
