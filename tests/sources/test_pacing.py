"""The budget of a source: paces, quotas, the rest it is given after failures."""

import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.sources.errors import SourceBusy
from wise_ledger.sources.pacing import Budget, Pace


class Clock:
    """A clock that moves only when somebody waits."""

    def __init__(self) -> None:
        self.now, self.day = 0.0, datetime(2026, 3, 1, 12, tzinfo=UTC)

    def budget(self, pace: Pace) -> Budget:
        return Budget(pace, clock=lambda: self.now, sleep=self.wait, today=lambda: self.day)

    def wait(self, seconds: float) -> None:
        self.now += seconds


class Pacing(unittest.TestCase):
    def ask(self, budget: Budget) -> None:
        with budget.slot("a page"):
            pass

    @examples(60)
    @given(st.floats(0.5, 50), st.lists(st.floats(0, 0.6), min_size=1, max_size=60))
    def test_no_stretch_of_time_has_more_requests_than_the_pace_allows(
        self, rate: float, pauses: list[float]
    ) -> None:
        clock = Clock()
        budget, made = clock.budget(Pace(per_second=rate)), list[float]()
        for pause in pauses:
            clock.wait(pause)
            self.ask(budget)
            made.append(clock.now)
        width = max(1, int(rate))
        for early, late in zip(made, made[width:], strict=False):
            self.assertGreaterEqual(late - early, width / rate - 1e-9)

    def test_a_rest_that_the_source_asks_for_is_kept_by_all_and_costs_no_request(self) -> None:
        clock = Clock()
        budget = clock.budget(Pace(per_second=2, per_day=9))
        for _ in range(3):
            self.ask(budget)
        budget.hold(7)
        began = clock.now
        self.ask(budget)
        self.assertEqual((clock.now, budget.used_today), (began + 7, 4))
        asked = []

        # while somebody waits, the source asks another connection for more rest
        def wait(seconds: float) -> None:
            if not asked:
                asked.append(budget.hold(3))
            clock.wait(seconds)

        budget = Budget(Pace(), clock=lambda: clock.now, sleep=wait)
        budget.hold(1)
        began = clock.now
        self.ask(budget)
        self.assertEqual(clock.now, began + 3)

    def test_the_quota_of_a_day_holds_over_restarts_and_ends_with_the_day(self) -> None:
        clock = Clock()
        budget = clock.budget(Pace(per_day=3))
        budget.already_used("2026-03-01", 2)
        self.ask(budget)
        with self.assertRaisesRegex(SourceBusy, "quota of the day"):
            self.ask(budget)
        clock.day += timedelta(days=1)
        self.ask(budget)
        self.assertEqual(budget.used_today, 1)

    def test_a_source_that_fails_in_a_row_is_left_alone_and_longer_each_time(self) -> None:
        clock, rests = Clock(), []
        budget = clock.budget(Pace())
        for _ in range(3):
            while budget.left_alone_until is None:
                budget.failed()
            rests.append(budget.left_alone_until - clock.day)
            with self.assertRaisesRegex(SourceBusy, "left alone"):
                self.ask(budget)
            clock.wait(rests[-1].total_seconds() + 0.1)
            self.ask(budget)
        self.assertEqual([r.total_seconds() for r in rests], [20, 40, 80])
        budget.answered()
        while budget.left_alone_until is None:
            budget.failed()
        self.assertAlmostEqual((budget.left_alone_until - clock.day).total_seconds(), 20)
