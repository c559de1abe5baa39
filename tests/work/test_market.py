"""Prices, the market and estimates through API, client and command line,
on a collected ledger; files beside it.
"""

import io
import unittest
from datetime import date, timedelta
from typing import Any, ClassVar

import pandas as pd
import pyarrow as pa

from tests.live import WORLD, Live
from wise_ledger.client import InputRefused
from wise_ledger.standins.fernmark.trading import day
from wise_ledger.standins.oskelby import make_opinions

ON = "2024-06-28"
ESTIMATES = "company,measure,period_end,period_kind,contributor,value,currency,published_at\n"


class Prices(Live):
    def test_a_column_that_is_asked_for_twice_is_one(self) -> None:
        asked = self.ledger.prices(["AGK@ZALD"], known_on=ON, columns=["close", "date", "close"])
        self.assertEqual([*asked.frame().columns][-2:], ["close", "date"])

    def test_prices_come_as_the_source_has_them_and_say_what_was_asked(self) -> None:
        found = self.ledger.prices(["AGK@ZALD"], "2023-01-01", "2023-06-30", ON)
        assert WORLD.market is not None
        traded = next(t for t in WORLD.market.traded if t.security == "FM-0001-S1").upto(
            day("2023-06-30")
        )
        own = traded.columns["close"][traded.days >= day("2023-01-01")]
        frame = found.frame()
        self.assertEqual(frame["close"].tolist(), own.tolist())
        self.assertEqual(
            frame["date"].iloc[[0, -1]].dt.date.tolist(), [date(2023, 1, 2), date(2023, 6, 30)]
        )
        self.assertEqual(
            (found.context["start"], found.context["end"]), ("2023-01-01", "2023-06-30")
        )
        self.assertTrue(found.context["both_ends_included"])
        self.assertEqual(found.context["since"], {"AGK@ZALD": "2021-01-04"})
        self.assertIn("both included", repr(found))

    def test_bars_are_those_of_their_days_and_returns_chain_m4(self) -> None:
        days = self.ledger.prices(
            ["PTP@ZBRE"], "2023-01-01", "2023-12-31", ON, columns=COLUMNS
        ).frame()
        months = self.ledger.prices(
            ["PTP@ZBRE"], "2023-01-01", "2023-12-31", ON, frequency="month", columns=COLUMNS
        ).frame()
        grouped = days.groupby(days["date"].dt.to_period("M"))
        for name, how in (
            ("open", "first"),
            ("high", "max"),
            ("low", "min"),
            ("close", "last"),
            ("volume", "sum"),
        ):
            self.assertEqual(months[name].tolist(), grouped[name].agg(how).tolist(), name)
        for name in ("change", "total_return"):
            chained = (1 + days[name]).groupby(days["date"].dt.to_period("M")).prod() - 1
            for a, b in zip(months[name], chained, strict=True):
                self.assertAlmostEqual(a, b, 12)
        self.assertTrue(months["complete"].all())
        cut = self.ledger.prices(
            ["PTP@ZBRE"], "2023-01-10", "2023-02-10", ON, frequency="month", columns=COLUMNS
        )
        self.assertEqual(cut.frame()["complete"].tolist(), [False, False])

    def test_every_format_layout_and_order_is_one_answer(self) -> None:
        asked = {
            "companies": ["AGK@ZALD", "PTP@ZBRE"],
            "start": "2024-06-03",
            "end": "2024-06-07",
            "known_on": ON,
        }
        plain = self.live.http("POST", "/prices", json=asked).json()["histories"]
        for form in ("csv", "arrow", "parquet", "xlsx"):
            content = self.live.http("POST", f"/prices?format={form}", json=asked).content
            if form == "arrow":
                made = pa.ipc.open_stream(content).read_all().to_pandas()
            else:
                read = {"csv": pd.read_csv, "parquet": pd.read_parquet, "xlsx": pd.read_excel}[form]
                made = read(io.BytesIO(content))
            closes = [b["close"] for h in plain for b in h["bars"]]
            self.assertEqual(made["close"].tolist(), closes, form)
        ended = self.live.command(
            "prices",
            "AGK@ZALD",
            "PTP@ZBRE",
            "--from",
            "2024-06-03",
            "--to",
            "2024-06-07",
            "--known-on",
            ON,
            "--layout",
            "turned",
            "--columns",
            "close",
            "--no-header",
        )
        self.assertEqual(ended.returncode, 0, ended.stderr)
        rows = [line.split("\t") for line in ended.stdout.splitlines()]
        self.assertEqual([r[0] for r in rows], ["AGK@ZALD", "PTP@ZBRE"])
        self.assertEqual([float(c) for c in rows[0][1:]], [b["close"] for b in plain[0]["bars"]])

    def test_what_cannot_be_is_refused_with_the_mend_and_stops_no_other(self) -> None:
        for asked, problem in (
            ({"start": "2024-06-07", "end": "2024-06-03"}, "before the start"),
            ({"start": "2031-01-01", "end": "2032-01-01"}, "not"),
            ({"start": "03/04/2024"}, "ambiguous"),
            ({"frequency": "hour"}, ""),
        ):
            answer = self.live.http("POST", "/prices", json={"companies": ["AGK@ZALD"], **asked})
            self.assertEqual(answer.status_code, 422, asked)
            self.assertIn(problem, answer.text)
        ended = self.live.command(
            "prices", "AGK@ZALD", "nobody", "--from", "2024-06-01", "--known-on", ON
        )
        self.assertEqual(ended.returncode, 3)  # partly done
        self.assertIn("nobody: no single company", ended.stderr)
        # Weekends as ends of a range are no days of trade; a range before the first
        # price says from when there are.
        weekend = self.ledger.prices(["AGK@ZALD"], "2024-06-01", "2024-06-02", ON)
        self.assertEqual(len(weekend), 0)
        self.assertEqual(len(self.ledger.prices(["AGK@ZALD"], "2015-01-01", "2015-12-31", ON)), 0)

    def test_the_market_of_a_list_and_its_level(self) -> None:
        found = self.ledger.market(ON, list="index-of-aldmoor").frame().set_index("symbol")
        closes = (
            self.ledger.prices(["AGK@ZALD"], "2023-06-01", ON, ON)
            .frame()
            .set_index("date")["close"]
        )
        own = found.loc["AGK@ZALD"]
        self.assertEqual(own["close"], closes.iloc[-1])
        self.assertAlmostEqual(own["day"], closes.iloc[-1] / closes.iloc[-2] - 1)
        self.assertAlmostEqual(
            own["year_to_date"], closes.iloc[-1] / closes[:"2023-12-31"].iloc[-1] - 1
        )
        levels = self.ledger.levels("index-of-aldmoor", "2024-06-01", "2024-06-30", ON).frame()
        self.assertTrue((levels["total_return_level"] > levels["level"]).all())
        with self.assertRaisesRegex(Exception, "no list"):
            self.ledger.levels("index-of-nowhere")

    def test_stories_two_venues_a_receipt_and_two_classes_m5(self) -> None:
        """Story 9."""
        show = ["close", "market_value", "shares: shares_outstanding"]
        cells = self.ledger.screen(
            "active", companies=["PTP@ZBRE", "HLT@ZBRE"], known_on=ON, show=show
        )
        power, tools = (c.cells for c in cells.answer.companies)
        if cells.answer.companies[0].name.startswith("Hallowick"):
            power, tools = tools, power
        names = [c.name for c in cells.answer.columns]
        one = dict(zip(names, power, strict=True))
        # Neither the second venue nor the receipt counts again.
        self.assertAlmostEqual(
            one["market_value"].value / (one["close"].value * one["shares"].value), 1.0, 9
        )
        two = dict(zip(names, tools, strict=True))
        second = self.ledger.prices(["HLT.B@ZBRE"], "2024-06-20", ON, ON).frame()["close"].iloc[-1]
        expected = two["shares"].value * (0.8 * two["close"].value + 0.2 * second)
        self.assertAlmostEqual(two["market_value"].value / expected, 1.0, 6)

    def test_a_figure_explained_shows_its_prices_and_an_extreme_ratio_is_marked(self) -> None:
        found = self.ledger.explain(
            "AGK@ZALD", "close / ago(close, 3y) + net_income / revenue", ON
        ).answer
        close, before = found.dated
        frame = self.ledger.prices(["AGK@ZALD"], "2021-06-01", ON, ON).frame()
        self.assertEqual((close.expression, close.value), ("close", frame["close"].iloc[-1]))
        self.assertEqual((close.day, close.known_at.date()), (date(2024, 6, 28), date(2024, 6, 28)))
        self.assertEqual(close.about, "AGK@ZALD, 2024-06-28, fernmark")
        self.assertEqual(before.expression, "ago(close, 3y)")
        self.assertAlmostEqual(before.value, frame[frame["date"] <= "2021-06-28"]["close"].iloc[-1])
        marks = {}
        for ratio in (
            "market_value / net_income",
            "market_value / (net_income / 10k)",
            "market_value / (net_income * 10mn)",
        ):
            marks[ratio] = self.ledger.explain("AGK@ZALD", ratio, ON).answer.marks
        self.assertEqual([*marks.values()], [[], ["extreme"], ["extreme"]])
        shown = self.live.command(
            "explain", "AGK@ZALD", "close", "--known-on", ON
        ).stdout.splitlines()
        self.assertIn("AGK@ZALD, 2024-06-28, fernmark", shown[1])


COLUMNS: list = [
    "date",
    "open",
    "high",
    "low",
    "close",
    "volume",
    "change",
    "total_return",
    "complete",
]  # type: ignore[type-arg]


class Files(Live):
    opinions: ClassVar[bytes]

    def test_a_corrected_price_is_a_later_version_as_of_which_the_past_stays_t5_t9(self) -> None:
        asked = (["AGK@ZALD"], "2024-03-04", "2024-03-04")
        before = self.ledger.prices(*asked).frame()["close"].iloc[0]
        batch = next(iter(self.ledger.batches())).number
        head = b"listing,date,close,published_at\n"
        self.assertEqual(
            self.ledger.load(
                "prices", head + b"AGK@ZALD,2024-03-04,99.5,2024-09-02T08:00:00Z\n"
            ).new,
            1,
        )
        self.ledger.prefer_sources(["files", "fernmark"], "Ada", why="corrected by hand")
        self.assertEqual(self.ledger.prices(*asked, "2024-12-31").frame()["close"].iloc[0], 99.5)
        self.assertEqual(self.ledger.prices(*asked, "2024-08-31").frame()["close"].iloc[0], before)
        self.assertEqual(
            self.ledger.prices(*asked, "2024-12-31", recorded_by=batch).frame()["close"].iloc[0],
            before,
        )

    def test_of_every_kind_the_source_counts_that_goes_first_for_the_company_t5(self) -> None:
        assert WORLD.market is not None
        said, mine = "2024-09-02T08:00:00Z", ["files", "fernmark"]
        own = [d for d in WORLD.market.dividends if d["security"] == "FM-0002-S1"]
        paid = [d for d in own if d["ex_date"] < "2024-08-31"][-1]
        counted = [c for c in WORLD.market.counts if c["security"] == "FM-0002-S1"]
        dated = [c["date"] for c in counted if c["published_at"] < "2024-08-31"][-1]
        lines = {
            "dividends": f"security,ex_date,amount,currency,kind,published_at\n"
            f"PTP@ZBRE,{paid['ex_date']},{paid['amount'] + 1},{paid['currency']},ordinary,{said}\n",
            "shares": "security,date,shares_outstanding,published_at\n"
            f"PTP@ZBRE,{dated},5e6,{said}\n",
            "rates": f"base,quote,date,rate,published_at\nEUR,USD,2024-08-30,3,{said}\n",
        }
        for kind, content in lines.items():
            self.assertEqual(self.ledger.load(kind, content.encode()).new, 1, kind)
        asked, days = ["dividend_12mo", "market_value / close"], ["2024-08-31", "2024-09-03"]

        def answered(asked: list[str], days: list[str], **how: Any) -> list[list[float]]:
            found = self.ledger.panel(["PTP@ZBRE"], asked, days, progress=False, **how).frame()
            return [found[name].tolist() for name in asked]

        self.ledger.prefer_sources([], "Ada")  # as at first
        before = answered(asked, days)
        in_dollars = answered(["revenue.q"], ["2024-12-31"], currency="USD")
        self.assertNotEqual(before[1][1], 5e6)
        self.ledger.prefer_sources(mine, "Ada", company="AGK@ZALD")
        self.assertEqual(answered(asked, days), before)  # which is another one
        self.ledger.prefer_sources(mine, "Ada", company="PTP@ZBRE")
        after = answered(asked, days)
        for was, now in zip(before, after, strict=True):
            self.assertEqual(was[0], now[0])  # not published yet
        self.assertAlmostEqual(after[0][1] - before[0][1], 1)
        self.assertAlmostEqual(after[1][1], 5e6)
        self.assertEqual(answered(["revenue.q"], ["2024-12-31"], currency="USD"), in_dollars)
        self.ledger.prefer_sources(mine, "Ada")  # rates are of no company
        self.assertGreater(answered(["revenue.q"], ["2024-12-31"], currency="USD"), in_dollars)

    def test_estimates_from_files_give_consensus_walk_and_announcements(self) -> None:
        rows = [
            "GMQ@ZALD,eps,2024-12-31,fy,Harbour Street Research,1.50,USD,2024-02-01T09:00:00Z",
            "GMQ@ZALD,eps,2024-12-31,fy,Old Quay,1.70,USD,2024-03-01T09:00:00Z",
            "GMQ@ZALD,eps,2024-12-31,fy,Old Quay,,,2024-04-01T09:00:00Z",
            "GMQ@ZALD,eps,2023-12-31,fy,Old Quay,1.10,USD,2024-01-10T09:00:00Z",
        ]
        self.assertEqual(
            self.ledger.load("estimates", (ESTIMATES + "\n".join(rows)).encode()).new, 4
        )
        found = self.ledger.estimates("GMQ@ZALD", "2024-03-15", period="FY2024")
        self.assertEqual(
            (found.periods[0].consensus.mean, found.periods[0].consensus.count), (1.6, 2)
        )
        found = self.ledger.estimates("GMQ@ZALD", "2024-04-15", period="FY2024")
        expected = [
            ("Harbour Street Research", "in"),
            ("Old Quay", "withdrawn"),
            ("Old Quay", "replaced"),
        ]
        self.assertEqual([(c.contributor, c.state) for c in found.contributions], expected)
        self.assertEqual((found.walk[-1].mean, found.walk[-1].count), (1.5, 1))
        reported = self.ledger.announcements(
            ["GMQ@ZALD"], "2024-01-01", "2024-06-30", ON
        ).announcements
        self.assertEqual([(a.period, a.mean) for a in reported], [("FY2023", 1.1)])
        self.assertAlmostEqual(reported[0].surprise, reported[0].actual - 1.1)
        shown = self.live.command(
            "estimates", "announcements", "GMQ@ZALD", "--known-on", ON, "--columns", "period,mean"
        )
        self.assertEqual(shown.stdout.split(), ["period", "mean", "FY2023", "1.1"])
        with self.assertRaisesRegex(InputRefused, "nothing was expected"):
            self.ledger.estimates("GMQ@ZALD", ON, period="FY2031")
        with self.assertRaisesRegex(InputRefused, "estimated"):
            self.ledger.estimates("GMQ@ZALD", ON, measure="epps")

    def test_who_is_not_in_it_and_limits_of_a_question_e2_e1(self) -> None:
        rows = [
            "BWG@ZALD,eps,2024-12-28,fy,Harbour Street Research,1.40,USD,2023-11-01T09:00:00Z",
            "BWG@ZALD,eps,2024-12-31,fy,Harbour Street Research,1.50,USD,2024-02-01T09:00:00Z",
            "BWG@ZALD,eps,2024-12-31,fy,Old Quay,1.70,USD,2024-05-01T09:00:00Z",
        ]
        self.ledger.load("estimates", (ESTIMATES + "\n".join(rows)).encode())
        for limit, mean, state in ((120, 1.6, "in"), (60, 1.7, "too old")):
            found = self.ledger.estimates("BWG@ZALD", "2024-05-20", period="FY2024", max_age=limit)
            self.assertAlmostEqual(found.periods[0].consensus.mean, mean)
            self.assertEqual(
                {c.value: c.state for c in found.contributions},
                {1.7: "in", 1.5: state, 1.4: "replaced"},
            )

    def test_a_consensus_as_supplied_stands_beside_ours_e5_t6(self) -> None:
        head = "company,measure,period_end,period_kind,mean,high,low,count,currency,published_at,source\n"
        rows = [
            "DMB@ZALD,eps,2024-12-31,fy,1.50,1.70,1.40,5,USD,2024-02-01T09:00:00Z,first",
            "DMB@ZALD,eps,2024-12-31,fy,1.60,1.70,1.40,6,USD,2024-03-01T09:00:00Z,first",
            "DMB@ZALD,eps,2024-12-31,fy,1.80,1.90,1.40,3,USD,2024-02-01T09:00:00Z,second",
            "DMB@ZALD,eps,2024-12-31,fy,,,,,,2024-04-01T09:00:00Z,second",
        ]
        own = f"{ESTIMATES}DMB@ZALD,eps,2024-12-31,fy,Old Quay,1.30,USD,2024-02-15T09:00:00Z\n"
        self.ledger.load("estimates", own.encode())
        self.assertEqual(self.ledger.load("consensus", (head + "\n".join(rows)).encode()).new, 4)
        for on, expected in (
            ("2024-02-20", {"first": 1.5, "second": 1.8}),
            ("2024-04-20", {"first": 1.6}),
        ):
            found = self.ledger.estimates("DMB@ZALD", on, period="FY2024")
            self.assertEqual({s.source: s.mean for s in found.supplied}, expected)
            self.assertEqual(found.periods[0].consensus.mean, 1.3)
        bad = self.ledger.load("consensus", (head + rows[0].replace("1.40", "1.60")).encode()).bad
        self.assertEqual([(b.line, b.column) for b in bad], [(2, "low")])

    def test_a_calendar_has_what_was_announced_and_what_is_expected_t9(self) -> None:
        """Of two rows the last known counts; one without an instant takes back;
        else a year later is assumed.
        """
        report = next(a for a in self._between("2023-01-01", "2023-12-31") if a.period_kind == "fy")
        following = f"{report.period_end.replace(year=2023)}"

        def entry(known_on: str) -> Any:
            found = self.ledger.calendar(["KWC@ZBRE"], "2024-01-01", "2024-12-31", known_on).entries
            return next(
                ((e.at.date(), e.state) for e in found if str(e.period_end) == following), None
            )

        really = next(
            a.announced_at
            for a in self._between("2024-01-01", "2024-12-31")
            if str(a.period_end) == following
        )
        self.assertEqual(
            entry("2024-01-05"), (report.announced_at.date() + timedelta(364), "assumed")
        )
        head = "company,period_end,period_kind,expected_at,published_at\n"
        words = [
            ("2024-02-01T07:00:00Z", "2024-01-08"),
            ("2024-01-15T07:00:00Z", "2024-01-10"),
            ("", "2024-01-20"),
        ]
        rows = [f"KWC@ZBRE,{following},fy,{at},{on}T09:00:00Z" for at, on in words]
        self.assertEqual(
            self.ledger.load("announcements", (head + "\n".join(rows)).encode()).new, 3
        )
        self.assertEqual(entry("2024-01-09"), (date(2024, 2, 1), "expected"))
        self.assertEqual(entry("2024-01-12"), (date(2024, 1, 15), "expected"))
        self.assertEqual(entry("2024-01-19"), (date(2024, 1, 15), "overdue"))
        self.assertIsNone(entry("2024-01-21"))
        self.assertEqual(entry("2024-12-01"), (really.date(), "announced"))
        shown = self.live.command(
            "estimates",
            "calendar",
            "KWC@ZBRE",
            "--from",
            "2024-01-01",
            "--to",
            "2024-03-01",
            "--known-on",
            "2024-01-12",
            "--columns",
            "period_end,state",
        )
        self.assertEqual(shown.stdout.split()[-2:], [following, "expected"])

    def _between(self, start: str, end: str) -> Any:
        ends = [f"{year}-12-31" for year in (2022, 2023)]
        rows = [f"KWC@ZBRE,eps,{end},fy,Old Quay,1,EUR,{end}T09:00:00Z" for end in ends]
        self.ledger.load("estimates", (ESTIMATES + "\n".join(rows)).encode())
        return self.ledger.announcements(["KWC@ZBRE"], start, end, "2024-12-31").announcements

    def test_a_history_is_each_day_as_known_then_on_the_basis_of_the_cut_off_e3_m3(self) -> None:
        """Four new shares for one in June 2023:
        what was expected before is stated on the new ones.
        """
        rows = [
            f"PHC@ZBRE,eps,{end},fy,Old Quay,{value},EUR,{day}T09:00:00Z"
            for end, value, day in (
                ("2023-12-31", 8.0, "2023-03-10"),
                ("2023-12-31", 2.1, "2023-07-10"),
                ("2024-12-31", 2.4, "2023-07-10"),
                ("2023-12-31", 2.2, "2023-10-10"),
            )
        ]
        self.ledger.load("estimates", (ESTIMATES + "\n".join(rows)).encode())
        self.ledger.load("splits", b"security,ex_date,ratio\nPHC@ZBRE,2023-06-05,4\n")
        asked = (["PHC@ZBRE"], "2023-01-02", "2023-11-30", "2023-12-29")
        found = self.ledger.estimate_history(*asked)
        (reported,) = found.histories
        self.assertEqual(
            (reported.since, found.start, found.end),
            (date(2023, 3, 10), date(2023, 1, 2), date(2023, 11, 30)),
        )
        means = {f"{d.date:%m}": d.mean for d in reported.days}
        expected = {
            "01": None,
            "02": None,
            "03": 2.0,
            "04": 2.0,
            "06": 2.0,
            "07": 2.1,
            "09": 2.1,
            "10": 2.2,
        }
        self.assertEqual({m: means[m] for m in expected}, expected)
        self.assertEqual({d.period for d in reported.days if d.mean is not None}, {"FY2023"})
        for on in reported.days:  # as the language has it on that day, on the basis of that day
            show = ["estimate(eps, fy1)", "estimate(eps, fy1, count)"]
            asked_then = {"companies": ["PHC@ZBRE"], "known_on": f"{on.date}", "show": show}
            mean, count = self.ledger.screen("active", **asked_then).answer.companies[0].cells[-2:]
            factor = 4 if on.date < date(2023, 6, 5) else 1
            self.assertEqual(
                (on.mean, on.reason), (mean.value and mean.value / factor, mean.reason)
            )
            self.assertEqual(on.count, count.value)
        wide = self.live.command(
            "estimates",
            "history",
            "PHC@ZBRE",
            "AGK@ZALD",
            "--from",
            "2023-01-02",
            "--to",
            "2023-11-30",
            "--known-on",
            "2023-12-29",
            "--frequency",
            "quarter",
            "--layout",
            "wide",
            "--columns",
            "mean",
            "--no-header",
        )
        cells = [line.split("\t")[:2] for line in wide.stdout.splitlines()]
        ends = {"2023-03-31": "2.0", "2023-06-30": "2.0", "2023-09-29": "2.1", "2023-11-30": "2.2"}
        self.assertEqual(cells, [[*cell] for cell in ends.items()])
        with self.assertRaisesRegex(InputRefused, "swap the two dates"):
            self.ledger.estimate_history(["PHC@ZBRE"], "2023-05-01", "2023-01-02")

    def test_bad_estimates_are_refused_by_line_column_and_mend(self) -> None:
        good = "AGK@ZALD,eps,2024-12-31,fy,Old Quay,1.70,USD,2024-03-01T09:00:00Z"
        for row, column in (
            ("AGK@ZALD,epps,2024-12-31,fy,Old Quay,1,USD,2024-03-01T09:00:00Z", "measure"),
            ("AGK@ZALD,eps,2024-12-31,year,Old Quay,1,USD,2024-03-01T09:00:00Z", "period_kind"),
            ("AGK@ZALD,eps,2024-12-31,fy,,1,USD,2024-03-01T09:00:00Z", "contributor"),
            ("AGK@ZALD,eps,2024-12-31,fy,Old Quay,1,DOLLARS,2024-03-01T09:00:00Z", "currency"),
            ("AGK@ZALD,eps,2024-12-31,fy,Old Quay,1,,2024-03-01T09:00:00Z", "currency"),
            ("AGK@ZALD,eps,2024-12-31,fy,Old Quay,1,USD,", "published_at"),
            ("AGK@ZALD,eps,2024-12-15,fy,Old Quay,1,USD,2024-03-01T09:00:00Z", "period_end"),
            ("AGK@ZALD,eps,2054-12-31,fy,Old Quay,1,USD,2024-03-01T09:00:00Z", "period_end"),
            ("Nobody At All,eps,2024-12-31,fy,Old Quay,1,USD,2024-03-01T09:00:00Z", "company"),
        ):
            with self.subTest(row):
                found = self.ledger.load("estimates", f"{ESTIMATES}{good}\n{row}\n".encode())
                self.assertIsNone(found.batch)
                self.assertEqual([(b.line, b.column) for b in found.bad], [(3, column)])
                self.assertIn(found.bad[0].value, row.split(","))  # as it stands in the file

    def test_the_made_up_opinions_drift_to_the_actual(self) -> None:
        found = make_opinions(WORLD)
        actual = {r[:4]: r[4] for r in found.actuals}
        off: dict[bool, list[float]] = {True: [], False: []}
        for lei, measure, end, kind, _house, value, _currency, at in found.contributions:
            known = actual.get((lei, measure, end, kind))
            if value is not None and known and kind == "fy":
                off[at[:10] > end].append(abs(value / known - 1))
        near, far = (sum(x) / len(x) for x in (off[True], off[False]))
        self.assertLess(near, far / 2)


if __name__ == "__main__":
    unittest.main()
