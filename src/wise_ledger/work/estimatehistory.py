"""The consensus of companies over a range of days, each as known on its own day."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.estimates.consensus import STATISTICS
from wise_ledger.core.estimates.estimates import BLENDED, HORIZONS, NOTHING
from wise_ledger.core.estimates.history import (
    ConsensusHistory,
    consensus_history,
    first_contributions,
)
from wise_ledger.core.market.bars import FREQUENCIES, last_days
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.nearest import check_name
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.estimatecurrency import EstimateCurrencies
from wise_ledger.work.estimates import read_measure
from wise_ledger.work.whom import read_whom

MOST = 1_000_000  # cells of one answer
BLENDED_FIRST = tuple(s for s in STATISTICS if s in BLENDED)  # what the next twelve months have


@dataclass(frozen=True)
class Expected:
    """A company of a history, with the day since which anybody had contributed."""

    company: str
    name: str
    symbol: str | None
    currency: str | None
    since: date | None


@dataclass(frozen=True, eq=False)
class EstimateHistory:
    """The consensus of companies (down) on days (across); `labels` of their
    target periods, None without one.
    """

    companies: tuple[Expected, ...]
    days: list[date]
    history: ConsensusHistory
    reasons: list[list[str | None]]
    labels: list[list[str | None]]
    first: date
    last: date
    batch: int
    failed: tuple[Problem, ...] = ()  # companies that were named and are not found


@dataclass(frozen=True)
class AskedHistory:
    """What is asked for: of which measure and horizon, between which days,
    both included; raises `BadInput`.
    """

    measure: str = "eps"
    horizon: str = "fy1"
    first: date | None = None
    last: date | None = None
    frequency: str = "month"
    statistics: Sequence[str] = STATISTICS

    def __post_init__(self) -> None:
        words = (
            ("horizon", [self.horizon], HORIZONS),
            ("frequency", [self.frequency], FREQUENCIES),
        )
        for at, given, known in (*words, ("columns", self.statistics, STATISTICS)):
            for word in given:
                check_name(at, word, known)
        if self.horizon == "ntm" and (
            more := next((s for s in self.statistics if s not in BLENDED), None)
        ):
            problem = "the next twelve months blend two years, and have none of these"
            raise bad_input("columns", more, problem, f"ask for {', '.join(sorted(BLENDED))}")
        if self.first is not None and self.last is not None and self.last < self.first:
            raise bad_input(
                "end", self.last, f"it is before the start, {self.first}", "swap the two dates"
            )


def read_estimate_history(
    desk: Desk,
    viewpoint: Viewpoint,
    asked: AskedHistory,
    list_name: str | None = None,
    names: Sequence[str] = (),
) -> EstimateHistory:
    """The consensus of a list's members or of companies,
    on the last day of each stretch between two days.
    """
    if list_name is None and not names:
        raise bad_input(
            "companies", "", "nobody is named", "name a list, or companies such as AGK@ZALD"
        )
    snapshot, cutoff = desk.snapshots.of(viewpoint), viewpoint.cutoff
    in_currency(snapshot, viewpoint)
    code, today = read_measure(snapshot, asked.measure), cutoff // DAY
    last = min(today, day(asked.last)) if asked.last else today
    first = day(asked.first) if asked.first else day(as_date(last) - timedelta(365))
    if first > last:
        raise bad_input(
            "start", as_date(first), "nothing is known of these days yet", f"it is {as_date(today)}"
        )
    whom = read_whom(desk, snapshot, cutoff, list_name, names)
    days = last_days(first, last, asked.frequency)
    if len(days) * len(whom.numbers) > MOST:
        raise bad_input(
            "start",
            as_date(first),
            f"these are more than {MOST:,} days of companies",
            "ask for fewer",
        )
    members = np.array(whom.numbers, np.int64)
    currencies = EstimateCurrencies(snapshot, viewpoint, whom.numbers)
    codes = np.array([currencies.shown[n] for n in whom.numbers], np.int64)
    at = np.minimum((days + 1) * DAY - 1, cutoff)
    estimates = snapshot.view.estimates
    found = consensus_history(
        estimates,
        code,
        asked.horizon,
        asked.statistics,
        members,
        at,
        cutoff,
        currencies.at(whom.numbers, at),
        codes,
    )
    since = first_contributions(estimates, code, members)
    companies = tuple(
        Expected(
            snapshot.ids[n],
            snapshot.name(n, cutoff),
            snapshot.symbol(n, cutoff),
            currency_name(int(c)),
            None if s is None or s > today else as_date(s),
        )
        for n, c, s in zip(whom.numbers, codes.tolist(), since, strict=True)
    )
    kind = 3 if asked.horizon[0] == "q" else 12
    labels = [
        [
            None if e == NOTHING else snapshot.target_label(n, e, int(c), kind)
            for e, c in zip(ends, at, strict=True)
        ]
        for n, ends in zip(whom.numbers, found.period_end.tolist(), strict=True)
    ]
    reason = (
        found.reasons[asked.statistics[0]]
        if asked.statistics
        else np.zeros(found.period_end.shape, np.uint8)
    )
    reasons = [[CODES[r] for r in row] for row in reason.tolist()]
    return EstimateHistory(
        companies,
        [as_date(d) for d in days.tolist()],
        found,
        reasons,
        labels,
        as_date(first),
        as_date(last),
        snapshot.batch,
        whom.failed,
    )
