"""Ids, dates and labels: small things that everything else leans on."""

import unittest
from datetime import UTC, date, datetime

from hypothesis import assume, given
from hypothesis import strategies as st

from wise_ledger.core.catalogue.items import ITEMS, unit_fits
from wise_ledger.core.errors import BadInput
from wise_ledger.core.fiscal.labels import Period, fiscal_label, implied_end
from wise_ledger.core.identity.company_id import ALPHABET, company_id, is_company_id
from wise_ledger.core.money.currencies import currency_code, currency_name
from wise_ledger.core.nearest import mend_for, nearest
from wise_ledger.core.time.instants import (
    as_instant,
    assumed_publication,
    end_of_day,
    micros,
    read_cutoff,
    read_date,
)


class CompanyIds(unittest.TestCase):
    @given(st.integers(0, 2**25 - 1), st.integers(3, 8), st.sampled_from(ALPHABET))
    def test_a_wrong_character_is_found(self, number: int, place: int, other: str) -> None:
        id_ = company_id(number)
        self.assertTrue(is_company_id(id_))
        assume(id_[place] != other)
        self.assertFalse(is_company_id(id_[:place] + other + id_[place + 1 :]))

    @given(st.integers(0, 2**25 - 1), st.integers(3, 7))
    def test_two_characters_swapped_are_found(self, number: int, place: int) -> None:
        id_ = company_id(number)
        assume(id_[place] != id_[place + 1])
        self.assertFalse(
            is_company_id(id_[:place] + id_[place + 1] + id_[place] + id_[place + 2 :])
        )

    def test_ids_are_distinct_and_bounded(self) -> None:
        self.assertEqual(len({company_id(n) for n in range(5000)}), 5000)
        with self.assertRaises(ValueError):
            company_id(2**25)
        self.assertFalse(is_company_id("se-000000"))


class Dates(unittest.TestCase):
    def test_an_ambiguous_date_is_refused_with_its_readings(self) -> None:
        for text, mend in {
            "03/04/2024": "write 2024-04-03 or 2024-03-04",
            "31/12/2023": "write 2023-12-31",
            "4.4.2024": "write 2024-04-04",
            "yesterday": "YYYY-MM-DD",
            "2023-02-30": "YYYY-MM-DD",
        }.items():
            with self.assertRaises(BadInput) as caught:
                read_date(text, "known_on")
            problem = caught.exception.problems[0]
            self.assertEqual((problem.at, problem.value), ("known_on", text))
            self.assertIn(mend, problem.mend)

    def test_a_date_means_its_end_and_an_instant_itself_t3(self) -> None:
        self.assertEqual(
            read_cutoff("2023-06-30", ""), datetime(2023, 6, 30, 23, 59, 59, 999999, UTC)
        )
        self.assertEqual(
            read_cutoff("2023-06-30T10:00:00+02:00", ""), datetime(2023, 6, 30, 8, tzinfo=UTC)
        )
        for text in ("2023-06-30T10:00:00", "2023-06-30T25:00:00Z"):
            with self.assertRaises(BadInput):
                read_cutoff(text, "known_on")

    def test_publication_days_and_lags_t2_t4(self) -> None:
        self.assertEqual(
            end_of_day(date(2023, 6, 30), "Asia/Tokyo"),
            datetime(2023, 6, 30, 14, 59, 59, 999999, UTC),
        )
        year_end = date(2022, 12, 31)
        self.assertEqual(assumed_publication(year_end, 12, True).date(), date(2023, 3, 31))
        self.assertEqual(assumed_publication(year_end, 0, True).date(), date(2023, 3, 31))
        self.assertEqual(assumed_publication(year_end, 3, True).date(), date(2023, 3, 1))
        self.assertEqual(assumed_publication(date(2022, 6, 30), 0, False).date(), date(2022, 8, 29))

    @given(st.datetimes(datetime(1950, 1, 1), datetime(2100, 1, 1), timezones=st.just(UTC)))  # noqa: DTZ001
    def test_instants_are_exact_to_the_microsecond(self, value: datetime) -> None:
        self.assertEqual(as_instant(micros(value)), value)


class Labels(unittest.TestCase):
    @given(
        st.integers(1995, 2050),
        st.sampled_from(["", "Q1", "Q2", "Q3", "H1", "-9M"]),
        st.integers(1, 12),
        st.sampled_from(["end", "start"]),
    )
    def test_a_label_implies_the_end_that_has_it_f2_f5(
        self, year: int, part: str, month: int, named: str
    ) -> None:
        label = f"FY{year}{part}"
        end = implied_end(label, month, named)
        assert end is not None
        span = {"": 12, "-9M": 9, "H1": 6}.get(part, 3)
        self.assertEqual(fiscal_label(span, end, month, named), label)

    def test_what_is_no_label_implies_nothing(self) -> None:
        for text in ("", "2023Q1", "FY23", "TP2022", "odd"):
            self.assertIsNone(implied_end(text, 12))

    def test_a_balance_has_no_start(self) -> None:
        self.assertIsNone(Period(None, date(2023, 1, 2)).nominal_start)
        self.assertEqual(Period(None, date(2023, 1, 2)).nominal_end, date(2022, 12, 31))


class Names(unittest.TestCase):
    def test_the_nearest_names_are_offered(self) -> None:
        self.assertEqual(nearest("revnue", ITEMS)[0], "revenue")
        self.assertIn("operating_cash_flow", nearest("cash_flow", ITEMS))
        self.assertIn("did you mean", mend_for("net_incom", ITEMS))
        self.assertNotIn("did you mean", mend_for("zzzzzz", ["revenue"]))

    def test_units_fit_their_items_q1(self) -> None:
        self.assertTrue(unit_fits(ITEMS["revenue"], "EUR"))
        self.assertTrue(unit_fits(ITEMS["diluted_eps"], "JPY/shares"))
        self.assertTrue(unit_fits(ITEMS["shares_outstanding"], "shares"))
        for item, unit in (
            ("revenue", "EUR/shares"),
            ("revenue", "eur"),
            ("diluted_eps", "EUR"),
            ("revenue", "shares"),
        ):
            self.assertFalse(unit_fits(ITEMS[item], unit), (item, unit))

    @given(st.text("ABCDEFGHIJKLMNOPQRSTUVWXYZ", min_size=3, max_size=3))
    def test_currencies_are_numbers_and_back(self, code: str) -> None:
        self.assertEqual(currency_name(currency_code(code)), code)
