"""The adapter against the stand-in: what it gives, and every way in which it can fail to."""

import json
import unittest
from contextlib import ExitStack
from dataclasses import replace
from datetime import UTC, date, datetime
from typing import Any

from tests.live import KEY, WORLD, LiveSource
from tests.sources.contract import SourceContract
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.records.records import CompanyRecord
from wise_ledger.sources import http
from wise_ledger.sources.errors import (
    BadFigure,
    SourceBusy,
    SourceDamaged,
    SourceError,
    SourceRefused,
    SourceUnreachable,
)
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.sources.mapping import shipped
from wise_ledger.sources.protocol import FilingRecord
from wise_ledger.standins.fernmark import Quota, World
from wise_ledger.work.collect import check_filing

NOW = datetime(2026, 11, 1, tzinfo=UTC)


def item_of(tag: str) -> str | None:
    rule = shipped("fernmark").rule(tag, None)
    return rule and rule.item


class Fernmarked(unittest.TestCase):
    def setUp(self) -> None:
        self.stack = ExitStack()
        self.addCleanup(self.stack.close)

    def open(self, world: World = WORLD, quota: Quota | None = None, **how: Any) -> Fernmark:
        self.source = LiveSource(self.stack, world, quota)
        adapter = self.source.adapter(**how)
        self.addCleanup(adapter.close)
        return adapter

    def company(self, adapter: Fernmark, key: str) -> CompanyRecord:
        return next(c for c in adapter.companies().companies if c.key == key)

    def filings(self, key: str, known: tuple[str, ...] = ()) -> list[FilingRecord]:
        adapter = self.open()
        return adapter.filings(self.company(adapter, key), set(known)).filings or []


class Contract(SourceContract, Fernmarked):
    def opened(self) -> Fernmark:
        return self.open()


class Given(Fernmarked):
    def test_companies_and_lists_come_whole_over_several_pages(self) -> None:
        adapter = self.open()
        companies = adapter.companies().companies
        self.assertEqual([c.key for c in companies], [c["key"] for c in WORLD.companies])
        ashgrove = {a.name: a.value for a in companies[0].attributes}
        self.assertEqual(
            (ashgrove["name"], ashgrove["country"], ashgrove["active"]),
            ("Ashgrove Kilnworks", "XA", "yes"),
        )
        first_look, _index = adapter.lists().lists
        self.assertEqual(len(first_look.members), 24)

    def test_filings_keep_raw_bytes_scale_and_text_m1(self) -> None:
        filings = self.filings("FM-0001")
        served = {f.id: f.body for f in WORLD.filings["FM-0001"]}
        for filing in filings:
            self.assertEqual(filing.document.content, served[filing.document.key.partition("@")[0]])
            check_filing(filing, NOW)
            for fact in filing.facts:
                body = json.loads(filing.document.content)["figures"][
                    int(fact.place.rpartition("/")[2])
                ]
                self.assertEqual(
                    (item_of(body["tag"]), str(body["amount"])), (fact.item, fact.reported)
                )
        sales = filings[3].facts[0]
        self.assertEqual((sales.item, sales.scale, sales.unit), ("revenue", 3, "USD"))
        self.assertEqual(sales.value, float(sales.reported) * 1000)

    def test_what_is_known_is_not_asked_for_again(self) -> None:
        keys = tuple(f.document.key for f in self.filings("FM-0002"))
        self.assertEqual(self.filings("FM-0002", keys), [])
        # the mark, pages of companies, the index of filings
        self.assertEqual(self.source.served["requests"], 5 + 1)

    def test_publication_as_instant_as_day_and_not_at_all_t2_t4(self) -> None:
        instant, day, never = (
            self.filings(k)[0].facts[0] for k in ("FM-0001", "FM-0021", "FM-0022")
        )
        self.assertFalse(instant.assumed or day.assumed)
        self.assertEqual(day.published_at.time().isoformat(), "23:59:59.999999")
        self.assertTrue(never.assumed)
        self.assertEqual((never.published_at.date() - never.period_end).days, 60)
        year = self.filings("FM-0022")[1].facts[0]
        self.assertEqual((year.published_at.date() - year.period_end).days, 90)

    def test_declared_periods_and_odd_weeks_f2(self) -> None:
        year = next(f for f in self.filings("FM-0013") if f.document.kind == "annual_report").facts[
            0
        ]
        self.assertEqual((year.declared_end, year.period_end.weekday()), (date(2021, 1, 31), 5))

    def test_a_withdrawal_has_no_value_t6(self) -> None:
        (taken,) = [
            f for filing in self.filings("FM-0023") for f in filing.facts if f.value is None
        ]
        self.assertEqual(
            (taken.item, taken.published_at.date()), ("operating_income", date(2024, 5, 6))
        )

    def test_the_world_hangs_together(self) -> None:
        for company in ("FM-0005", "FM-0011"):
            for filing in self.filings(company):
                by_item = {f.item: f.value for f in filing.facts if f.period_start is None}
                owed = (by_item["total_liabilities"] or 0) + (by_item["shareholders_equity"] or 0)
                self.assertAlmostEqual(by_item["total_assets"] or 0, owed, delta=1)
                self.assertTrue(
                    all("bank" in ITEMS[f.item].templates for f in filing.facts)
                    or company == "FM-0005"
                )


class Failing(Fernmarked):
    def fails(
        self, error: type[SourceError], world: World = WORLD, key: str = "FM-0001", **how: Any
    ) -> Any:
        adapter = self.open(world, **how)
        company = CompanyRecord(key, "x", (), ())
        with self.assertRaises(error) as caught:
            adapter.filings(company, set()).filings or []
        (problem,) = caught.exception.problems
        self.assertTrue(problem.at and problem.problem)
        self.assertIn("Fernmark Data", problem.at)
        return problem

    def with_figure(self, **change: Any) -> World:
        """A world whose first company has one filing with one figure, changed."""
        figure = {"tag": "sales", "from": "2022-01-01", "to": "2022-12-31", "amount": 5} | change
        body = json.loads(WORLD.filings["FM-0001"][3].body) | {"figures": [figure]}
        filing = replace(WORLD.filings["FM-0001"][3], made=json.dumps(body).encode())
        return replace(WORLD, filings={"FM-0001": [filing]})

    def test_a_source_that_is_down_is_tried_again_then_named(self) -> None:
        adapter = self.open()
        self.source.fault("down", times=http.FAULT_TRIES - 1)
        self.assertEqual(len(adapter.companies().companies), 32)
        self.source.fault("down")
        before = adapter.tries
        with self.assertRaises(SourceUnreachable):
            adapter.companies()
        self.assertEqual(adapter.tries - before, http.FAULT_TRIES)
        self.stack.close()
        with self.assertRaises(SourceUnreachable) as caught:
            adapter.companies()
        self.assertEqual(caught.exception.problems[0].problem, "the source cannot be reached")

    def test_a_slow_source_is_named_with_the_time_it_had(self) -> None:
        adapter = self.open(timeout=0.2)
        self.source.fault("slow", seconds=1.5)
        with self.assertRaises(SourceUnreachable) as caught:
            adapter.companies()
        self.assertIn("0.2 s", caught.exception.problems[0].mend)

    def test_a_refused_key_is_not_tried_again(self) -> None:
        adapter = self.open(key="not the key")
        with self.assertRaises(SourceRefused):
            adapter.companies()
        self.assertEqual(adapter.tries, 1)
        self.assertNotIn(KEY, str(adapter.__dict__))

    def test_truncated_and_other_json_is_refused_with_its_beginning(self) -> None:
        adapter = self.open()
        for kind in ("truncated", "not_json"):
            self.source.fault(kind, "/v1/companies")
            with self.assertRaises(SourceDamaged) as caught:
                adapter.companies()
            self.assertIn("no whole JSON", caught.exception.problems[0].problem)

    def test_a_figure_that_is_no_number_is_named(self) -> None:
        for amount in ("about 5", True, [5], {"x": 1}):
            problem = self.fails(BadFigure, self.with_figure(amount=amount))
            self.assertIn("figure 1 (sales)", problem.at)
            self.assertEqual(problem.problem, "this is no number")

    def test_not_a_number_in_json_is_damage(self) -> None:
        body = WORLD.filings["FM-0001"][3].body.replace(b'"amount": ', b'"amount": NaN, "was": ', 1)
        filing = replace(WORLD.filings["FM-0001"][3], made=body)
        self.fails(SourceDamaged, replace(WORLD, filings={"FM-0001": [filing]}))

    def test_bad_periods_are_named(self) -> None:
        self.assertEqual(
            self.fails(BadFigure, self.with_figure(to="2022-13-31")).problem, "this is no date"
        )

    def test_a_filing_of_another_shape_is_damage(self) -> None:
        filing = replace(WORLD.filings["FM-0001"][3], made=b'{"title": "x"}')
        self.assertIn(
            "lacks",
            self.fails(SourceDamaged, replace(WORLD, filings={"FM-0001": [filing]})).problem,
        )

    def test_a_tag_without_an_item_is_counted_not_dropped_in_silence(self) -> None:
        adapter = self.open(self.with_figure(tag="goodwill_of_the_people"))
        (filing,) = adapter.filings(CompanyRecord("FM-0001", "x", (), ()), set()).filings or []
        self.assertEqual((len(filing.facts), filing.unmapped), (0, ("goodwill_of_the_people",)))


class Manners(Fernmarked):
    def test_the_quota_is_obeyed_and_everything_still_comes(self) -> None:
        adapter = self.open(quota=Quota(3, 0.4))
        filings = adapter.filings(self.company(adapter, "FM-0001"), set()).filings or []
        self.assertEqual(len(filings), 21)
        self.assertGreater(self.source.served["refused"], 0)
        # Each refusal is one wait, not a volley: requests beyond the quota stay few.
        self.assertLess(self.source.served["refused"], 8)

    def test_a_source_that_wants_to_be_left_alone_is(self) -> None:
        adapter = self.open(quota=Quota(1, 3600.0))
        with self.assertRaises(SourceBusy) as caught:
            adapter.companies()
        self.assertIn("left alone", caught.exception.problems[0].problem)
        self.assertEqual(adapter.tries, 2)

    def test_endless_pages_are_noticed(self) -> None:
        adapter = self.open()

        self.source.fault("repeated_cursor", "cursor=")
        with self.assertRaises(SourceDamaged) as caught:
            adapter.companies()
        self.assertIn("again and again", caught.exception.problems[0].problem)
