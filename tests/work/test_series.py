"""Economic series end to end: collected and loaded, asked through client,
HTTP and command line (S1 to S4).
"""

import io
import json
import tempfile
import unittest
from contextlib import ExitStack
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import pandas as pd

from tests.live import LiveLedger, LiveSource
from wise_ledger.client import InputRefused, Ledger, NotThere
from wise_ledger.launch.running import address, bind, running
from wise_ledger.sources.sdmx import Sdmx
from wise_ledger.standins.economy import lead_of
from wise_ledger.standins.ostrin import create_app, make_releases
from wise_ledger.standins.ostrin.flows import FLOWS

WANTED = (
    "OUTPUT",
    "CONSUMER_PRICES",
    "HOUSE_PRICES",
    "INTEREST_RATES",
    "PRODUCTION",
    "LABOUR_MARKET",
)
NOW = datetime(2024, 6, 30, tzinfo=UTC)
GDP, CPI = "OUTPUT/Q.XA.TOTAL.VOLUME", "CONSUMER_PRICES/M.XA.00"


class Statistics(unittest.TestCase):
    """A ledger with Fernmark, unasked, and with Ostrin Statistics, collected once."""

    live: ClassVar[LiveLedger]
    ledger: ClassVar[Ledger]
    clock: ClassVar[list[datetime]]

    @classmethod
    def setUpClass(cls) -> None:
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        cls.clock = [NOW]
        made = make_releases([f for f in FLOWS if f.id in WANTED])
        bound = bind("127.0.0.1", 0, "--source-port")
        stack.enter_context(running(create_app(lambda: made, lambda: cls.clock[0]), bound))
        cls.live = LiveLedger(stack, LiveSource(stack))
        cls.live.desk.runs.sources["ostrin"] = lambda: Sdmx(
            "ostrin", "Ostrin Statistics", address(bound), 30.0
        )  # type: ignore[index]
        cls.ledger = cls.live.ledger
        run = cls.ledger.collect("ostrin", every=0.05)
        assert run.state == "finished", run


class Asked(Statistics):
    def test_story_16_a_series_revised_for_years_reads_as_it_stood(self) -> None:
        then = self.ledger.series(GDP, "2019Q2", "2019Q2", "2019-08-31").frame()
        later = self.ledger.series(GDP, "2019Q2", "2019Q2", "2023-01-01").frame()
        self.assertIsInstance(then.index, pd.PeriodIndex)
        reported = self.ledger.revisions(GDP, "2019Q2", "2023-01-01").revisions
        self.assertEqual(
            (reported[0].value, reported[-1].value), (then[GDP].iloc[0], later[GDP].iloc[0])
        )
        self.assertGreaterEqual(len(reported), 5)
        self.assertEqual({r.base for r in reported}, {"2010=100", "2015=100"})
        ended = self.ledger.describe_series("PRODUCTION/M.XB.13.SA")
        self.assertEqual(
            (ended.state, ended.last_period, ended.next_period), ("discontinued", "2019-12", None)
        )
        incomplete = self.ledger.series(
            "INTEREST_RATES/D.XA.10Y",
            "2024-05",
            "2024-06",
            "2024-06-12",
            transforms=["monthly mean"],
        )
        self.assertEqual(
            [o.reason for o in incomplete.series[0].observations], [None, "incomplete"]
        )

    def test_first_released_and_last_revised_are_asked_for_by_name_s1(self) -> None:
        known, first, last = (
            self.ledger.series(GDP, "2020", "2021", "2021-12-31", which=which).frame()[GDP]
            for which in ("known", "first", "last")
        )
        self.assertTrue((known != first).any() and (known != last).any())
        vintages = self.ledger.vintages(GDP, "2020", "2021", "2021-12-31", most=400).frame()
        np.testing.assert_array_equal(
            vintages.bfill(axis=1).iloc[:, 0].to_numpy(), first.to_numpy()
        )
        np.testing.assert_array_equal(vintages.iloc[:, -1].to_numpy(), known.to_numpy())

    def test_forty_regions_are_one_key_and_leaders_are_found(self) -> None:
        found = self.ledger.compare_series("HOUSE_PRICES/M.*.SA", "2006", known_on="2024-06-30")
        self.assertEqual((len(found.series), found.matrix().shape), (40, (40, 40)))
        leads = {s.key: s.lead for s in found.series}
        for region in range(40):
            self.assertAlmostEqual(
                leads[f"HOUSE_PRICES/M.R{region + 1:02d}.SA"] or 0, lead_of(region), delta=1
            )
        np.testing.assert_allclose(np.diag(found.matrix()), 1.0)
        rebased = self.ledger.series(
            "HOUSE_PRICES/M.*.SA", "2015", "2015", transforms=["rebased to 2015"]
        ).frame()
        np.testing.assert_allclose(rebased.mean(), 100.0)
        spread = self.ledger.compare_series(
            "HOUSE_PRICES/M.R01+R02.SA", "2020", spread_to="HOUSE_PRICES/M.R01.SA"
        )
        self.assertEqual(set(spread.values()["HOUSE_PRICES/M.R01.SA"]), {0.0})

    def test_a_sheet_has_each_series_with_its_own_steps_and_a_reason_in_every_hole(self) -> None:
        asked = {
            CPI: ["growth on a year ago"],
            GDP: ["growth on a year ago"],
            "INTEREST_RATES/D.XA.10Y": ["monthly mean"],
        }
        found = self.ledger.series(asked, "1999", "2001-06", "2024-06-30")
        self.assertEqual(
            [s.head for s in found.series], ["growth on a year ago"] * 2 + ["monthly mean"]
        )
        frame = found.frame()
        self.assertIsInstance(frame.index, pd.DatetimeIndex)
        self.assertEqual(frame.attrs["series"][CPI]["unit"], "index")
        for line in found.series:
            self.assertTrue(
                all((o.value is None) == (o.reason is not None) for o in line.observations),
                line.key,
            )
        first = next(o.period for o in found.series[0].observations if o.value is not None)
        self.assertEqual((first, found.series[0].since), ("2001-01", "2001-01"))
        self.assertEqual(set(found.reasons()["reason"]), {"incomplete"})

    def test_the_finder_allows_slips_and_shows_what_it_can_be_narrowed_by(self) -> None:
        found = self.ledger.find_series("unemploiment rate")
        self.assertTrue(found.series[0].key.startswith("LABOUR_MARKET/M.XA.UNEMPLOYMENT"))
        family = self.ledger.find_series(family="House prices", where=["ADJUSTMENT=SA"], limit=1)
        self.assertEqual((family.total, len(family.series)), (40, 1))
        self.assertEqual(len({d.id: d for d in family.dimensions}["REGION"].codes), 40)
        self.assertEqual(
            self.ledger.find("metals production", kind=["series"]).entries[0].kind, "series"
        )

    def test_rules_and_columns_name_series_s4(self) -> None:
        run = self.ledger.collect("fernmark", every=0.05)
        self.assertEqual(run.state, "finished", run)
        cpi = self.ledger.series(CPI, "2022-05", "2023-05", "2023-06-30").frame()[CPI]
        growth = cpi.iloc[-1] / cpi.iloc[0] - 1
        rule = f'growth(series("{CPI}"), 1y) > {growth - 1e-6} and operating_income / revenue > 15%'
        whole = self.ledger.screen(rule, "first-look", "2023-06-30")
        plain = self.ledger.screen("operating_income / revenue > 15%", "first-look", "2023-06-30")
        passed = lambda s: [c.name for c in s.answer.companies if c.verdict == "pass"]  # noqa: E731
        self.assertEqual(passed(whole), passed(plain))
        explained = self.ledger.explain(
            "AGK@ZALD", f'revenue.fy / revenue.fy * series("{GDP}")', "2023-06-30"
        )
        (dated,) = explained.answer.dated
        self.assertIn("2023Q1", dated.about)

    def test_what_cannot_be_is_refused_with_the_mend(self) -> None:
        outputs = [GDP, "OUTPUT/Q.XB.TOTAL.VOLUME"]
        for problem, mend, series, how in (
            ("no such series", CPI, "CONSUMER_PRICES/M.XA.0", {}),
            ("no family", "OUTPUT", "OUTPUTS/Q.*", {}),
            ("several frequencies", "quarterly", [GDP, CPI], {}),
            ("no such step", "quarterly mean", GDP, {"transforms": ["median"]}),
            ("before the start", "swap", outputs, {"start": "2020", "end": "2019"}),
            ("ambiguous", "2024-04-03", outputs, {"start": "03/04/2024"}),
            ("several series", "name more", GDP, {}),
        ):
            with self.assertRaises(InputRefused, msg=problem) as caught:
                self.ledger.compare_series(series, **how)  # type: ignore[arg-type]
            (wrong, *_) = caught.exception.problems
            self.assertIn(problem, wrong.problem)
            self.assertIn(mend, wrong.mend or "")

    def test_a_sheet_is_kept_versioned_and_shows_what_changed(self) -> None:
        with self.assertRaises(InputRefused):
            self.ledger.keep_sheet("bad", ["NOTHING/AT.ALL"], "ada")
        self.ledger.keep_sheet(
            "prices",
            {"CONSUMER_PRICES/M.*.00": ["growth on a year ago"]},
            "ada",
            title="Prices",
            start="2019",
        )
        kept = self.ledger.keep_sheet(
            "prices", {CPI: ["growth on a year ago"], GDP: []}, "ben", start="2019"
        )
        self.assertEqual((kept.version, kept.who), (2, "ben"))
        self.assertEqual(len(self.ledger.read_sheet("prices", "2020-03-31", version=1).series), 3)
        changes = self.ledger.sheet_changes("prices", "2020-02-29", "2020-03-31").changes
        self.assertIn((CPI, "2020-02", "new"), [(c.key, c.period, c.kind) for c in changes])
        self.assertTrue(all(c.kind != "revised" or c.before != c.after for c in changes))
        self.ledger.archive_sheet("prices", "ada")
        self.assertNotIn("prices", [s.name for s in self.ledger.sheets().sheets])
        self.ledger.archive_sheet("prices", "ada", archived=False)
        self.assertEqual(self.ledger.sheet_versions("prices").sheets[0].version, 4)
        with self.assertRaises(NotThere):
            self.ledger.sheet("no-such-sheet")

    def test_a_second_collection_brings_what_is_new_alone(self) -> None:
        before = self.ledger.series(GDP).batch
        self.clock[0] = datetime(2024, 8, 31, tzinfo=UTC)
        self.addCleanup(self.clock.__setitem__, 0, NOW)
        self.assertEqual(self.ledger.collect("ostrin", every=0.05).state, "finished")
        self.assertGreater(self.ledger.series(GDP).batch, before)
        self.assertEqual(self.ledger.describe_series(GDP, "2024-08-31").last_period, "2024Q2")
        self.assertEqual(self.ledger.describe_series(GDP, "2024-06-30").last_period, "2024Q1")
        self.ledger.verify()

    def test_the_command_line_shows_tables_files_and_plots(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            png, csv = Path(folder) / "houses.png", Path(folder) / "houses.csv"
            asked = (
                "series",
                "get",
                "HOUSE_PRICES/M.*.SA",
                "--then",
                "rebased to 2015",
                "--from",
                "2015",
            )
            done = self.live.command(
                *asked,
                "--layout",
                "wide",
                "--format",
                "csv",
                "--output",
                str(csv),
                "--plot",
                str(png),
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(png.read_bytes()[:4], b"\x89PNG")
            self.assertEqual(pd.read_csv(csv).shape[1], 42)
            svg = Path(folder) / "compared.svg"
            done = self.live.command(
                "series", "compare", "HOUSE_PRICES/M.*.SA", "--from", "2006", "--plot", str(svg)
            )
            self.assertIn("<svg", svg.read_text("utf-8"), done.stderr)
        shown = self.live.command(
            "series", "show", GDP, "--known-on", "2020-06-30", "--format", "table"
        )
        self.assertIn("2020Q2, about 14 August 2020", shown.stdout)
        whole = json.loads(
            self.live.command("series", "find", "house prices", "--format", "json").stdout
        )
        self.assertEqual(whole["series"][0]["family"], "House prices")

    def test_every_format_says_the_same(self) -> None:
        asked = {"series": [CPI], "start": "2023", "known_on": "2024-06-30", "layout": "tidy"}
        by_json = self.live.http("POST", "/series/observations", json=asked).json()["series"][0][
            "observations"
        ]
        for form, read in (
            ("csv", pd.read_csv),
            ("parquet", pd.read_parquet),
            ("xlsx", pd.read_excel),
        ):
            answer = self.live.http("POST", f"/series/observations?format={form}", json=asked)
            frame: Any = read(io.BytesIO(answer.content))  # type: ignore[operator]
            self.assertEqual(
                frame["value"].round(9).tolist(), [round(o["value"], 9) for o in by_json], form
            )
        first, again = (
            self.live.http("POST", "/series/observations", json=asked) for _ in range(2)
        )
        self.assertEqual(
            (first.content, first.headers["etag"]), (again.content, again.headers["etag"])
        )


class Loaded(Statistics):
    def test_rows_wide_tables_triangles_and_sdmx_say_the_same(self) -> None:
        rows = (
            "series,period,value,released_at,base\nM/A,2024-01,1.5,2024-02-10T09:00:00Z,2020=100\n"
            "M/A,2024M02,1.75,2024-03-10T09:00:00Z,2020=100\n"
        )
        wide = "Made up\n,,\nMonth,All items,Note\n2024-01-31,1.5,x\n29/02/2024,9,\n2024-02-29,1.75,..\n"
        mapping = "head: 3\nfrequency: month\nseries: {All items: {key: W/A, base: 2020=100}}\n"
        mapping += "released_at: 2024-03-10T09:00:00Z"
        triangle = "period,2024-02-10,2024-03-10\n2024-01,1.5,1.6\n2024-02,,1.75\n"
        sdmx = "DATAFLOW,FREQ,AREA,TIME_PERIOD,OBS_VALUE,UNIT_MULT,VALID_FROM\n"
        sdmx += "X:S(1.0),M,A,2024-01,1.5,0,2024-02-10T09:00:00Z\n"
        self.assertEqual(self.ledger.load("series", rows.encode()).new, 2)
        (bad,) = self.ledger.load("series", wide.encode(), mapping=mapping).bad
        self.assertEqual((bad.line, bad.column), (5, "period"))
        good = wide.replace("29/02/2024,9,\n", "")
        self.assertEqual(self.ledger.load("series", good.encode(), mapping=mapping).new, 2)
        self.ledger.load("series", triangle.encode(), mapping="across: releases\nkey: T/A")
        self.assertEqual(self.ledger.load("series", sdmx.encode()).new, 1)
        for key in ("M/A", "W/A", "T/A"):
            values = self.ledger.series(key, known_on="2024-06-30").frame()[key].tolist()
            self.assertEqual(values, [1.6 if key == "T/A" else 1.5, 1.75], key)
        self.assertEqual(
            self.ledger.series("T/A", known_on="2024-02-15").frame()["T/A"].tolist(), [1.5]
        )
        self.assertEqual(self.ledger.series("S/M.A").frame()["S/M.A"].tolist(), [1.5])
        self.assertEqual(self.ledger.load("series", rows.encode()).new, 0)  # T8
        older = "series,period,value,released_at\nM/A,2024-01,1.4,2024-02-05T09:00:00Z\n"
        self.assertIn(
            "1 observation (M/A), released before",
            self.ledger.load("series", older.encode()).notes[0],
        )

    def test_what_was_released_loads_elsewhere_and_reads_the_same_on_every_day(self) -> None:
        """SDMX-CSV out and in again, and the columns of a file of series: with withdrawals, other
        bases, assumed releases, a key without dimensions (S1, T4).
        """
        own = "series,period,value,released_at,base\nPLAIN,2024-01,1.5,2024-02-10T09:00:00Z,\n"
        own += "PLAIN,2024-01,,2024-03-10T09:00:00Z,\nPLAIN,2024-02,3,,pre-war=1\n"
        own += (
            "V/Q.A,2023Q3,2,2024-01-10T09:00:00Z,2015=100\nV/Q.A,2023Q3,4,2024-02-10T09:00:00Z,\n"
        )
        own += "V/W.B,2024-W05,7,,\nOF:US(1)/D,2024-03-28,-0.1,2024-04-10T09:00:00Z,1(a):2\n"
        self.assertEqual(self.ledger.load("series", own.encode()).new, 7)
        keys = ["PLAIN", "V/Q.A", "V/W.B", "OF:US(1)/D", "OUTPUT/*.*.*.*", "INTEREST_RATES/*.XA.*"]
        with ExitStack() as stack:
            others = [LiveLedger(stack, LiveSource(stack)).ledger for _ in "ab"]
            for key in keys:
                found = self.ledger.releases(key)
                self.assertEqual(len(found.frame()), found.observations)
                raw = [found.sdmx_csv(), found.frame().to_csv(index=False)]
                for other, text, named in zip(others, raw, (key, "as rows"), strict=True):
                    with self.subTest(named):
                        came = other.load("series", text.encode())
                        self.assertEqual((came.new, came.bad), (found.observations, []))
            frames = ("value", "reason", "base", "known_at", "assumed")
            for on in ("2014-05-02", "2019-08-31", "2024-02-20", "2024-06-30"):
                for key in keys:
                    with self.subTest(key=key, on=on):
                        try:
                            wanted = self.ledger.series(key, known_on=on).rows("tidy")
                        except InputRefused:  # nothing was known by then
                            continue
                        for other in others:
                            got = other.series(key, known_on=on).rows("tidy")
                            self.assertEqual(
                                [[r[n] for n in frames] for r in got],
                                [[r[n] for n in frames] for r in wanted],
                            )
        mixed = self.live.http("GET", "/series/releases?key=V/Q.A&key=PLAIN&format=sdmx")
        self.assertEqual(mixed.status_code, 422)
        self.assertIn("one flow at a time", mixed.json()["errors"][0]["mend"])
        asked = {"accept": "application/vnd.sdmx.data+csv;version=1.0.0"}
        by_type = self.live.http("GET", "/series/releases?key=V/Q.A", headers=asked)
        self.assertEqual(by_type.text, self.ledger.releases("V/Q.A").sdmx_csv())
        done = self.live.command("series", "releases", "V/Q.A", "--format", "sdmx")
        self.assertEqual(done.stdout, by_type.text, done.stderr)

    def test_bad_rows_are_refused_with_line_column_and_mend(self) -> None:
        good = "series,period,value,released_at\nB/A,2024-01,1,2024-02-10T09:00:00Z\n"
        self.ledger.load("series", good.encode())
        for row, at, word in (
            ("B/A,2024Q2,1,2024-08-10T09:00:00Z", "period", "monthly"),
            ("B/A,2024-13,1,", "period", "no such month"),
            ("B/A,03/04/2024,1,", "period", "ambiguous"),
            ("B/A,2024S1,1,", "period", "half years"),
            ("B A,2024-02,1,", "series", "blank"),
            (",2024-02,1,", "series", "empty"),
            ("B/A,2024-02,much,", "value", "number"),
            ("B/A,2024-02,inf,", "value", ""),
            ("B/A,2024-03,1,2024-02-01T00:00:00Z", "released_at", "before its period"),
            ("B/A,2024-02,1,2024-03-10T09:00:00", "released_at", "time zone"),
        ):
            (problem,) = self.ledger.load(
                "series", f"series,period,value,released_at\n{row}\n".encode()
            ).bad
            self.assertEqual((problem.line, problem.column), (2, at), row)
            self.assertIn(word, problem.problem, row)
            self.assertTrue(problem.mend, row)

    def test_without_release_days_they_are_assumed_and_can_be_left_out_t4(self) -> None:
        self.ledger.load("series", b"series,period,value\nU/A,2024-01,1\nU/A,2024-02,2\n")
        shown = self.ledger.series("U/A", known_on="2024-03-20").series[0].observations
        self.assertEqual([(o.period, o.value, o.assumed) for o in shown], [("2024-01", 1.0, True)])
        without = self.ledger.series("U/A", known_on="2024-03-20", without_assumed=True)
        self.assertEqual(without.series[0].observations, [])
        # T9: known since its own batch
        self.ledger.load("series", b"series,period,value\nU/A,2024-01,1.25\n")
        self.assertEqual(
            self.ledger.series("U/A", known_on="2024-03-20").series[0].observations[0].value, 1.0
        )
        self.assertEqual(self.ledger.series("U/A").series[0].observations[0].value, 1.25)

    def test_real_series_of_a_statistics_package_agree_with_its_own_aggregation(self) -> None:
        import statsmodels.api as statsmodels

        data = statsmodels.datasets.macrodata.load_pandas().data
        index = pd.PeriodIndex.from_fields(
            year=data.year.astype(int), quarter=data.quarter.astype(int), freq="Q"
        )
        names = ["realgdp", "cpi", "unemp"]
        wide = data[names].set_axis(index.astype(str))
        mapping = "series:\n" + "".join(f"  {n}: REAL/{n}\n" for n in names)
        self.ledger.load("series", wide.to_csv(index_label="period").encode(), mapping=mapping)
        yearly = self.ledger.series(
            "REAL/*", transforms=["yearly mean", "growth on a year ago"]
        ).frame()
        expected = data[names].set_axis(index).groupby(index.year).mean().pct_change()
        found = yearly.dropna()
        self.assertEqual(len(found), 2009 - 1959 - 1)  # the last year is not whole
        for name in names:
            np.testing.assert_allclose(
                found[f"REAL/{name}"], expected[name].loc[found.index.year], rtol=1e-12
            )
