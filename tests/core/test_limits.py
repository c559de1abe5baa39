"""How old a figure may be (F12), and when one was published that no source dates (T4): as set."""

import unittest
from dataclasses import replace
from datetime import date, timedelta
from random import Random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import at_end_of
from tests.core.worlds import BALANCES, FLOWS, World, world
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.words import meaning
from wise_ledger.core.records.limits import LIMITS, Limits, LimitSaid
from wise_ledger.core.time.periods import NO_END

COLUMNS = (
    *(f"{code}.{form}" for code in FLOWS for form in ("q", "fy", "ttm")), *BALANCES,
    "growth(revenue, 1y)", "operating_income / revenue", "revenue.ttm > 100 USD", "missing(revenue)",
)  # fmt: skip
DAYS = [date(2020, 12, 31) + timedelta(83 * n) for n in range(22)]
SEEDS = st.integers(0, 2**32)


def undated(seed: int, lags: dict[tuple[int, str], int]) -> World:
    """A world of which no source dates a part of the figures,
    taken to be published so many days later, by lag and source.
    """
    random = Random(seed)
    facts = [
        f
        if random.random() < 0.4
        else f | {"published_at": str(end + timedelta(lags[lag, f["source"]])), "assumed": True}
        for f in world(seed).facts
        for end, lag in [(date.fromisoformat(f["period_end"]), random.choice((90, 60)))]
    ]
    return replace(world(seed), facts=tuple(facts))


class AsSet(unittest.TestCase):
    @examples(10)
    @given(SEEDS)
    def test_figures_that_no_source_dates_are_known_when_the_lags_say_t4(self, seed: int) -> None:
        random = Random(seed)
        names = {90: "lag_of_year", 60: "lag_of_other"}
        scopes = [(lag, source) for lag in names for source in (None, 0, 1)]
        said = [
            LimitSaid(names[lag], source, random.choice([None, 0, 30, 75, 200]))
            for lag, source in random.choices(scopes, k=random.randint(0, 6))
        ]
        last = {(s.name, s.source): s.days for s in said}
        plain = {(lag, source): lag for lag in names for source in ("one", "two")}
        moved = {
            (lag, source): next(
                days
                for days in (last.get((names[lag], n)), last.get((names[lag], None)), lag)
                if days is not None
            )
            for lag in names
            for n, source in enumerate(("one", "two"))
        }
        kept = undated(seed, plain).ledger().view(limits=Limits.of(said))
        wanted = undated(seed, moved).ledger().view()
        cutoffs = np.array([at_end_of(d) for d in DAYS], np.int64)
        for text in COLUMNS:
            one, other = (
                Evaluation(view, np.arange(2), cutoffs).run(plan(text)) for view in (kept, wanted)
            )
            np.testing.assert_array_equal(one[0].reason, other[0].reason, text)
            np.testing.assert_array_equal(one[0].value, other[0].value, text)
            np.testing.assert_array_equal(one[1], other[1], text)

    @examples(10)
    @given(SEEDS, st.integers(1, 900), st.booleans())
    def test_a_figure_is_used_so_many_days_after_its_end_and_no_longer_f12(
        self, seed: int, days: int, many: bool
    ) -> None:
        made = world(seed).ledger()
        cutoffs = np.array([at_end_of(d) for d in (DAYS if many else DAYS[9:10])], np.int64)
        limits = Limits.of([LimitSaid("stale_after", None, days)])
        ever = Limits.of([LimitSaid("stale_after", None, LIMITS["stale_after"].most)])
        age = cutoffs[None, :] // 86_400_000_000
        for text in COLUMNS[:-2]:  # those of one period end
            (own, ends), (free, _) = (
                Evaluation(made.view(limits=given), np.arange(2), cutoffs).run(plan(text))
                for given in (limits, ever)
            )
            old = (ends != NO_END) & (age - ends > days) & (free.reason != Reason.WITHDRAWN)
            np.testing.assert_array_equal(own.reason == Reason.STALE, old, text)
            np.testing.assert_array_equal(own.reason[~old], free.reason[~old], text)
            np.testing.assert_array_equal(own.value[~old], free.value[~old], text)

    def test_words_say_the_limit_that_stands(self) -> None:
        view = world(1).ledger().view(limits=Limits.of([LimitSaid("stale_after", None, 400)]))
        self.assertIn("stale after 400 days", meaning("revenue", view.vocabulary).periods[0])
        self.assertIn("stale after 550 days", meaning("revenue").periods[0])


if __name__ == "__main__":
    unittest.main()
