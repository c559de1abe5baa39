"""Tolvane Filings: the contract, xBRL-JSON and Atom that are wrong,
and two sources of one company (T5, story 14).
"""

import json
import unittest
from contextlib import ExitStack
from datetime import UTC, datetime
from typing import Any

from tests.live import WORLD, LiveLedger, LiveSource
from tests.sources.contract import SourceContract
from tests.work.test_stories import world_of
from wise_ledger.client import InputRefused, NotThere
from wise_ledger.launch.running import address, bind, running
from wise_ledger.sources.errors import BadFigure, SourceDamaged
from wise_ledger.sources.mapping import shipped
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.tolvane import Tolvane
from wise_ledger.sources.xbrljson import read_report
from wise_ledger.standins.tolvane import create_app, make_reports
from wise_ledger.store.operations import Asked
from wise_ledger.work.collect import Collection

REPORTS = make_reports(WORLD)


class Archived(unittest.TestCase):
    reports = REPORTS

    def setUp(self) -> None:
        stack = ExitStack()
        self.addCleanup(stack.close)
        self.app = create_app(self.reports, page=10)
        bound = bind("127.0.0.1", 0, "--port")
        stack.enter_context(running(self.app, bound))
        self.url = address(bound)

    def opened(self) -> Tolvane:
        source = Tolvane(self.url, 5.0, Budget(Pace()))
        self.addCleanup(source.close)
        return source


class Contract(Archived, SourceContract):
    """What every adapter must hold to."""


class Late(Archived):
    late = REPORTS[0]  # the oldest
    reports = REPORTS[1:]

    def test_a_report_put_in_late_under_an_earlier_date_is_fetched(self) -> None:
        before = self.opened()
        (company,) = (c for c in before.companies().companies if c.key == self.late.lei)
        found = before.filings(company, set())
        known = {f.document.key for f in found.filings or []}
        self.assertLess(self.late.published, max(k.partition("@")[2] for k in known))
        self.reports = REPORTS
        self.setUp()
        (fetched,) = self.opened().filings(company, known, found.mark).filings or []
        self.assertEqual(fetched.document.key, f"{self.late.id}@{self.late.published}")


class Wrong(Archived):
    def refused(self, error: type[Exception], **facts: Any) -> str:
        body = {"documentInfo": {"documentType": "https://xbrl.org/2021/xbrl-json"}, "facts": facts}
        with self.assertRaises(error) as caught:
            read_report(
                body, "a report", datetime(2024, 1, 1, tzinfo=UTC), shipped("tolvane"), None
            )
        problem = caught.exception.problems[0]  # type: ignore[attr-defined]
        return f"{problem.at} {problem.problem}"

    def fact(self, value: Any = "5", **dimensions: Any) -> dict[str, Any]:
        plain = {
            "concept": "tvf:Sales",
            "entity": "lei:X",
            "period": "2022-01-01T00:00:00/2023-01-01T00:00:00",
        }
        return {
            "value": value,
            "decimals": -3,
            "dimensions": {**plain, "unit": "iso4217:EUR", **dimensions},
        }

    def test_periods_units_signs_and_dimensions_are_read_as_the_standard_has_them(self) -> None:
        facts = {
            "a": self.fact("2215023000"),
            "b": self.fact("7", concept="tvf:EquityTotal", period="2023-01-01T00:00:00"),
            "c": self.fact("1.5", concept="tvf:EarningsPerShareDiluted", unit="iso4217:EUR/xbrli:shares"),
            "d": self.fact("9", **{"tvf:SegmentAxis": "agk:Home"}),
            "e": self.fact(None), "f": self.fact("3", concept="agk:Kilns"),
            "g/1": self.fact("4", concept="tvf:OwnSharesHeld"),
        }  # fmt: skip
        body = {
            "documentInfo": {"documentType": "https://xbrl.org/2021/xbrl-json", "unknown": 1},
            "facts": facts,
        }
        reported = read_report(
            body, "x", datetime(2024, 1, 1, tzinfo=UTC), shipped("tolvane"), None
        )
        read = [
            (f.item, str(f.period_start), str(f.period_end), f.value, f.unit, f.basis, f.place)
            for f in reported.facts
        ]
        self.assertEqual(
            read[0],
            (
                "revenue",
                "2022-01-01",
                "2022-12-31",
                2215023000.0,
                "EUR",
                "consolidated",
                "/facts/a",
            ),
        )
        self.assertEqual(read[1][:4], ("shareholders_equity", "None", "2022-12-31", 7.0))
        self.assertEqual(read[2][3:5], (1.5, "EUR/shares"))
        self.assertEqual(read[3][5], "tvf:SegmentAxis=agk:Home")
        self.assertEqual((read[4][3], read[4][6]), (-4.0, "/facts/g~11"))
        self.assertEqual(reported.unmapped, ("agk:Kilns",))

    def test_what_is_wrong_in_a_report_is_named(self) -> None:
        for value in ("about 5", "NaN", True, [5]):
            self.assertIn("fact a", self.refused(BadFigure, a=self.fact(value)))
        for period in ("2022-13-01T00:00:00", "yesterday", None, "2022-01-01T00:00:00/", 5):
            self.assertIn("no period", self.refused(BadFigure, a=self.fact(period=period)))
        self.assertIn("no concept", self.refused(SourceDamaged, a={"value": "5", "dimensions": {}}))
        for body in (
            [],
            {},
            {"documentInfo": {"documentType": "other"}},
            {"documentInfo": {}, "facts": []},
        ):
            with self.assertRaises(SourceDamaged):
                read_report(body, "a report", datetime.now(UTC), shipped("tolvane"), None)

    def test_a_damaged_feed_or_report_is_named_and_entities_are_not_expanded(self) -> None:
        bomb = b'<!DOCTYPE f [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><feed xmlns="http://www.w3.org/2005/Atom"><title>&b;</title></feed>'
        for body, words in (
            (bomb, "document type"),
            (b"<feed", "no XML"),
            (b"<html/>", "no Atom"),
            (
                b'<feed xmlns="http://www.w3.org/2005/Atom"><entry><id>x</id></entry></feed>',
                "lacks its id",
            ),
        ):
            self.app.state.damaged["/feed"] = body
            with self.assertRaisesRegex(SourceDamaged, words):
                self.opened().companies()
        self.app.state.damaged.clear()
        source = self.opened()
        company = source.companies().companies[0]
        report = next(r for r in REPORTS if r.lei == company.key)
        mixed = json.loads(report.body)
        next(iter(mixed["facts"].values()))["dimensions"]["entity"] = "lei:OTHER"
        whole = json.dumps(mixed).encode()
        for body, words in (
            (b"{", "cannot be read"),
            (whole, "more than one company"),
            (b"[" * 9999, "cannot be read"),
        ):
            self.app.state.damaged[report.id] = body
            with self.assertRaisesRegex(SourceDamaged, words):
                source.filings(company, set())


class TwoSources(Archived):
    def test_sources_are_never_mixed_their_order_is_shown_and_disagreements_are_listed_t5_t7(
        self,
    ) -> None:
        stack = ExitStack()
        self.addCleanup(stack.close)
        world = world_of("FM-0009", "FM-0002")
        self.app = create_app(make_reports(world))
        bound = bind("127.0.0.1", 0, "--port")
        stack.enter_context(running(self.app, bound))
        live = LiveLedger(stack, LiveSource(stack, world))
        self.assertEqual(live.ledger.collect("fernmark").state, "finished")
        companies = live.ledger.verify()
        archive = Tolvane(address(bound), 5.0, Budget(Pace()))
        self.addCleanup(archive.close)
        Collection(live.desk.ledger, archive, Asked("tolvane"), lambda *_: None).run(set())
        self.assertGreater(live.ledger.verify().facts, companies.facts)
        # joined by their LEIs
        self.assertEqual(live.ledger.companies("", on="2024-06-30").total, 2)

        def debt(expression: str = "long_term_debt.fy", **how: Any) -> tuple[float, str]:
            answer = live.ledger.explain("BWG@ZALD", expression, "2024-06-30", **how).answer
            return answer.value, answer.inputs[0].facts[0].source

        statement = live.ledger.statement(
            "BWG@ZALD", "income", known_on="2024-06-30", periods=1
        ).answer
        self.assertEqual([b.rpartition(":")[2] for b in statement.bases], ["Abroad", "Home"])
        parts = [
            live.ledger.statement(
                "BWG@ZALD", "income", known_on="2024-06-30", periods=1, basis=b
            ).answer.lines
            for b in statement.bases
        ]
        whole = next(x for x in statement.lines if x.item == "revenue").cells[0].value
        self.assertEqual([[x.item for x in lines] for lines in parts], [["revenue"], ["revenue"]])
        self.assertAlmostEqual(sum(lines[0].cells[0].value for lines in parts) / whole, 1, 3)
        with self.assertRaisesRegex(InputRefused, "nothing on it"):
            live.ledger.statement("BWG@ZALD", basis="a segment")

        vendor, source = debt()
        self.assertEqual(source, "fernmark")
        found = live.ledger.quality(check="sources").findings
        self.assertEqual(
            {(f.name, f.item) for f in found}, {("Brackwater Glass", "long_term_debt")}
        )
        batch = live.ledger.quality().batch
        live.ledger.prefer_sources(
            ["tolvane"], "Ada", item="long_term_debt", company="BWG@ZALD", why="the audited one"
        )
        audited, source = debt()
        self.assertEqual(source, "tolvane")
        self.assertAlmostEqual(audited / vendor, 1.08, 2)
        self.assertEqual(debt(recorded_by=batch), (vendor, "fernmark"))
        (line,) = (
            x
            for x in live.ledger.statement(
                "BWG@ZALD", "balance", known_on="2024-06-30", periods=1
            ).answer.lines
            if x.item == "long_term_debt"
        )
        self.assertEqual(line.cells[0].value, audited)
        self.assertEqual(debt("total_assets.fy")[1], "fernmark")
        live.ledger.prefer_sources([], "Ada", item="long_term_debt", company="BWG@ZALD")
        self.assertEqual(debt(), (vendor, "fernmark"))
        orders = live.ledger.prefer_sources(["tolvane", "fernmark"], "Ada")
        self.assertEqual([o.sources for o in orders], [["tolvane", "fernmark"]])
        self.assertEqual(debt()[1], "tolvane")
        for sources, error in ((["nobody"], NotThere), (["tolvane", "tolvane"], InputRefused)):
            with self.assertRaises(error):
                live.ledger.prefer_sources(sources, "Ada")
        # Segments are kept apart, and tags of the company's own are listed.
        revenue = live.ledger.explain("BWG@ZALD", "revenue.fy", "2024-06-30").answer
        self.assertEqual([len(i.facts) for i in revenue.inputs], [1])
        with live.desk.ledger.database.read() as connection:
            bases = (
                connection.exec_driver_sql("SELECT DISTINCT basis FROM facts ORDER BY basis")
                .scalars()
                .all()
            )
            tags = connection.exec_driver_sql("SELECT DISTINCT tag FROM unmapped").scalars().all()
        self.assertIn("tvf:SegmentAxis=bwg:Home", bases)
        self.assertIn("bwg:TrainingHours", tags)
        live.ledger.verify()
