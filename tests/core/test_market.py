"""M3 to M5, T9: prices, windows, returns and market value against the same reckoned day by day
in plain Python.
"""

import math
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core import marketworlds as plain
from tests.core.marketworlds import BEGIN, END, EUR, USD, World, worlds
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.identity.universe import FOREVER, Listing, Security, Stretch
from wise_ledger.core.market import quoted
from wise_ledger.core.market.bars import bars_of
from wise_ledger.core.market.factors import Factor
from wise_ledger.core.market.value import MarketValue
from wise_ledger.core.market.whose import Listed
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date

DAYS = np.arange(BEGIN - 1, END + 12)
CUTOFFS = (DAYS + 1) * DAY - 1
BOTH = np.array([0, 1])
DAYS_AROUND = st.integers(BEGIN - 3, END + 3)
STRETCHES: dict[str, Callable[[int], Any]] = {
    "day": lambda day: day,
    "week": lambda day: day - as_date(day).weekday(),
    "month": lambda day: as_date(day).replace(day=1),
    "year": lambda day: as_date(day).year,
}


class AsPlain(unittest.TestCase):
    def same(self, found: Values, expected: Any, what: str) -> None:
        """`expected(company, day, cutoff)` gives a number or a reason."""
        for company in BOTH.tolist():
            for n, (day, cutoff) in enumerate(zip(DAYS.tolist(), CUTOFFS.tolist(), strict=True)):
                where = f"{what} of {company} on {day}"
                wanted = expected(company, day, cutoff)
                reason = found.reason[company, n]
                got = Reason(reason).code if reason else float(found.value[company, n])
                if isinstance(wanted, str) or isinstance(got, str):
                    self.assertEqual(got, wanted, where)
                else:
                    self.assertTrue(
                        math.isclose(got, wanted, rel_tol=1e-9, abs_tol=1e-12),
                        f"{where}: {got} {wanted}",
                    )

    @given(worlds(), st.integers(1, 12))
    @examples(150)
    def test_every_figure_of_a_random_market(self, world: World, span: int) -> None:
        market = world.market()
        for name, reckoned in (
            ("close", plain.close),
            ("high_52w", plain.highest),
            ("dividend_12mo", plain.paid),
        ):
            self.same(market.field(name, BOTH, CUTOFFS), lambda *a, f=reckoned: f(world, *a), name)
        for total in (False, True):
            found = market.returns(BOTH, DAYS - span, CUTOFFS, total=total)
            self.same(
                found,
                lambda c, d, at, t=total: plain.return_(world, c, d - span, d, at, t),
                f"return {total}",
            )
        value = MarketValue(market, world.counts())
        own = np.broadcast_to(np.array([USD, EUR])[:, None], (2, len(CUTOFFS)))
        self.same(
            value.of(BOTH, CUTOFFS, own), lambda *a: plain.market_value(world, *a), "market value"
        )

    @given(worlds(), st.sampled_from([0, 1]), st.integers(0, len(DAYS) - 1))
    @examples(150)
    def test_the_rows_behind_a_figure_make_it_up(self, world: World, company: int, n: int) -> None:
        market, day, at = world.market(), int(DAYS[n]), int(CUTOFFS[n])
        one, cutoffs = np.array([company]), CUTOFFS[n : n + 1]
        listing = int(market.listed.of_companies.read(one, cutoffs)[0, 0])
        rows = {
            "close": quoted.quoted(market, "close", listing, day, at)[0],
            "high_52w": quoted.extreme(market, "high_52w", listing, day, at),
            "low_52w": quoted.extreme(market, "low_52w", listing, day, at),
        }
        for name, row in rows.items():
            found = market.field(name, one, cutoffs)
            if found.there[0, 0]:
                assert row is not None
                self.assertLessEqual((row.day, row.known_at), (day, at))
                self.assertAlmostEqual(row.value / found.value[0, 0], 1, 9, name)
        _, why = quoted.quoted(market, "close", listing, day, at)
        self.assertEqual(why, market.field("close", one, cutoffs).reason[0, 0])
        found = market.field("dividend_12mo", one, cutoffs)
        into = market.listed.currency[listing]
        paid = quoted.dividends(market, listing, day - 365, day, at, special=False)
        total = sum(
            p.value * float(plain.rate_on(p.dividend.currency, into, p.dividend.ex_date, at))
            for p in paid
        )
        if found.there[0, 0]:
            self.assertAlmostEqual(total, found.value[0, 0], 9)

    @given(worlds(), st.integers(BEGIN, END))
    @examples(60)
    def test_nothing_published_later_changes_an_answer_t9(self, world: World, day: int) -> None:
        cutoff = np.array([(day + 1) * DAY - 1])
        now, later = world.known(int(cutoff[0])).market(), world.market()
        for ask in (
            *(
                lambda m, n=n: m.field(n, BOTH, cutoff)
                for n in ("close", "low_52w", "dividend_12mo", "volume")
            ),
            lambda m: m.returns(BOTH, cutoff // DAY - 9, cutoff, total=True),
        ):
            a, b = ask(now), ask(later)
            np.testing.assert_array_equal(a.reason, b.reason)
            np.testing.assert_allclose(a.value[a.there], b.value[b.there], rtol=1e-12)

    @given(worlds(), st.sampled_from([*STRETCHES]), DAYS_AROUND, DAYS_AROUND, DAYS_AROUND)
    @examples(100)
    def test_bars_are_what_the_rows_of_their_stretch_make_of_them_m4(
        self, world: World, frequency: str, first: int, last: int, day: int
    ) -> None:
        """A volume that some day does not say is no sum of the others."""
        cutoff = (day + 1) * DAY - 1
        found = bars_of(world.market(), BOTH, first, last, cutoff, frequency)
        for listing in (0, 1):
            wanted = plain.bars(world, listing, first, last, cutoff, STRETCHES[frequency])
            own = found.place == listing
            self.assertEqual(found.day[own].tolist(), sorted(wanted))
            names = ("open", "high", "low", "close", "volume", "change", "total_return")
            for n, name in enumerate(names):
                np.testing.assert_allclose(
                    getattr(found, name)[own], [wanted[d][n] for d in sorted(wanted)],
                    rtol=1e-9, atol=1e-12, err_msg=f"{name} of {frequency}",
                )  # fmt: skip

    @given(worlds(), st.integers(BEGIN, END), st.sampled_from([2.0, 0.25]))
    @examples(60)
    def test_a_split_alone_changes_no_return_m3(self, world: World, day: int, ratio: float) -> None:
        """Prices, and dividends, from its day on are those of the new shares."""
        moved = World(
            tuple(
                (n, d, h / ratio, c / ratio, k) if d >= day else (n, d, h, c, k)
                for n, d, h, c, k in world.rows
            ),
            (*world.splits, *(Factor(n, day, ratio, day * DAY) for n in (0, 1))),
            tuple(
                plain.replace(x, amount=x.amount / ratio) if x.ex_date >= day else x
                for x in world.dividends
            ),
            world.delistings,
        )
        late = CUTOFFS[day <= DAYS]
        a, b = (w.market().returns(BOTH, late // DAY - 7, late, total=True) for w in (world, moved))
        np.testing.assert_array_equal(a.reason, b.reason)
        np.testing.assert_allclose(a.value[a.there], b.value[b.there], rtol=1e-9, atol=1e-12)


class Receipts(unittest.TestCase):
    def test_what_a_receipt_stands_for_is_dated_and_known_from_when_it_is_stated_m4_t9(
        self,
    ) -> None:
        span = Stretch(17_000, FOREVER)
        listings = [
            Listing(0, 0, "A", "ZALD", "USD", span, True),
            Listing(1, 1, "AR", "ZCAL", "JPY", span, True),
        ]
        securities = [Security(0, 0, "ordinary"), Security(1, 0, "depositary_receipt", ratio=2.0)]
        listed = Listed.of(
            securities,
            listings,
            (),
            [(1, 18_000, 18_100 * DAY, 5.0), (1, 18_200, 18_200 * DAY, 4.0)],
        )
        at = np.array([[17_900, 18_050, 18_150, 18_300]]) * DAY
        self.assertEqual(listed.ratio_at(np.full((1, 4), 1), at).tolist(), [[2.0, 2.0, 5.0, 4.0]])
        self.assertEqual(listed.ratio_at(np.full((1, 4), 0), at).tolist(), [[1.0] * 4])
        self.assertEqual(listed.ratio_at(np.full((1, 4), -1), at).tolist(), [[1.0] * 4])
