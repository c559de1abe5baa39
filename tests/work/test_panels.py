"""Measures and panels end to end: through client, HTTP and command line, on a collected ledger."""

import io
import json
import tempfile
from datetime import date
from functools import partial
from itertools import product
from pathlib import Path
from unittest import mock

import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq

from tests.live import PLAIN, Live, until
from wise_ledger.client import InputRefused, Ledger, NotThere
from wise_ledger.client.panelcalls import panel_request
from wise_ledger.wire.panels import PanelRequest
from wise_ledger.work import panelreading
from wise_ledger.work.extractpanels import extract_batches

LIST, WHEN = "first-look", "2021-12-31/2024-06-30 quarterly"
MARGINS = ["operating_margin", "net: net_income / revenue", "rank(revenue)", "industry", "revenue"]


class Panels(Live):
    def asked(self, **more: object) -> PanelRequest:
        return panel_request(LIST, MARGINS, [WHEN], None, None, {}, **more)

    def test_every_door_has_the_same_columns_rows_and_cells(self) -> None:
        asked = self.asked(beside=["reason", "period_end", "known_at", "marks", "source"])
        table = self.ledger.panel_answer(asked).arrow()
        parquet = pq.read_table(io.BytesIO(self.ledger.panel_file(asked, "parquet")))
        self.assertTrue(table.equals(parquet))
        rows = self.ledger.panel_rows(asked, limit=5_000)
        self.assertEqual(rows.heads, table.column_names)
        self.assertEqual(rows.total, table.num_rows)
        plain = json.loads(json.dumps(table.to_pylist(), default=lambda v: v.isoformat()))
        for a, b in zip(rows.records, plain, strict=True):
            self.assertEqual(
                {k: str(v)[:19] for k, v in a.items()}, {k: str(v)[:19] for k, v in b.items()}
            )
        separated = pd.read_csv(io.BytesIO(self.ledger.panel_file(asked, "csv")))
        self.assertEqual([*separated.columns], table.column_names)
        self.assertEqual(len(separated), table.num_rows)
        self.assertEqual(
            separated["operating_margin"].notna().sum(),
            table.num_rows - table["operating_margin"].null_count,
        )
        book = pd.read_excel(io.BytesIO(self.ledger.panel_file(asked, "xlsx")))
        self.assertEqual([*book.columns], table.column_names)
        schema = self.live.http(
            "POST", "/panels?schema=table&format=csv", json=asked.model_dump()
        ).json()
        self.assertEqual([f["name"] for f in schema["fields"]], table.column_names)

    def test_every_layout_says_the_same_of_every_cell(self) -> None:
        measures = ["operating_margin", "revenue", "current_ratio"]
        besides = ["reason", "currency", "period_end", "known_at", "marks", "source"]
        for when in ({"dates": WHEN}, {"periods": "FY2021/FY2023"}):
            wide, tidy, turned = (
                self.ledger.panel(LIST, measures, layout=layout, beside=besides, **when)
                for layout in ("wide", "tidy", "turned")
            )
            by = [wide.first, "company"]
            for measure in measures:
                reported = {
                    what: wide.cells(measure, what).set_index(by)[what]
                    for what in ("value", *besides)
                }
                for other in (tidy, turned):
                    for what in ("value", *besides):
                        with self.subTest(
                            other.context["layout"], measure=measure, what=what, **when
                        ):
                            own = (
                                other.cells(measure, what)
                                .set_index(by)[what]
                                .reindex(reported[what].index)
                            )
                            self.assertEqual(
                                own.astype(str).tolist(), reported[what].astype(str).tolist()
                            )
                    pd.testing.assert_frame_equal(
                        other.wide(measure), wide.wide(measure), check_like=True
                    )
            self.assertEqual(
                *(set(map(tuple, p.reasons().astype(str).to_numpy())) for p in (wide, turned))
            )

    def test_companies_that_are_named_come_in_the_order_given_and_say_the_same_in_any(self) -> None:
        given = ["DMB@ZALD", "AGK@ZALD", "BWG@ZALD", "GMQ@ZALD"]
        measures = [
            "revenue",
            "rank(operating_margin)",
            "close",
            "country",
            "mean(net_income.q, 2y)",
        ]
        for layout, when in product(
            ("tidy", "wide", "turned"), ({"dates": WHEN}, {"periods": "FY2021/FY2023"})
        ):
            if "periods" in when:
                measures = ["revenue", "operating_margin"]
            named = [
                self.ledger.panel(who, measures, layout=layout, **when)
                for who in (given, given[::-1])
            ]  # type: ignore[arg-type]
            with self.subTest(layout, **when):
                for panel, wanted in zip(named, (given, given[::-1]), strict=True):
                    self.assertEqual([*dict.fromkeys(panel.arrow()["symbol"].to_pylist())], wanted)
                for measure in measures:
                    pd.testing.assert_frame_equal(
                        *(p.wide(measure) for p in named), check_like=True
                    )
        stated = self.ledger.statements(given, known_on="2024-06-30").statements
        self.assertEqual([s.symbol for s in stated], given)
        traded = self.ledger.prices(given, "2024-01-01", "2024-06-30", "2024-06-30").frame()
        self.assertEqual([*dict.fromkeys(traded["symbol"])], given)

    def test_what_a_result_cannot_show_is_refused_with_what_it_can(self) -> None:
        for layout in ("wide", "tidy"):  # words cannot be turned
            panel = self.ledger.panel(LIST, ["country", "revenue"], WHEN, layout=layout)
            for work, mend in (
                (lambda: panel.plot("country"), "revenue"),  # noqa: B023
                (lambda: panel.wide("nothing"), "country, revenue"),  # noqa: B023
                (lambda: panel.cells("revenue", "colour"), "reason"),  # noqa: B023
            ):
                with self.subTest(layout, mend=mend), self.assertRaises(InputRefused) as caught:
                    work()
                self.assertIn(mend, caught.exception.problems[0].mend)
        explained = self.ledger.explain("AGK@ZALD", "revenue", "2024-06-30")
        self.assertRegex(repr(explained), r"^<'revenue' of Ashgrove Kilnworks, known on .* USD>$")

    def test_turned_shows_the_currency_once_for_the_row(self) -> None:
        frame = self.ledger.panel(
            LIST, ["revenue", "operating_margin"], WHEN, layout="turned"
        ).frame()
        per_date = self.ledger.panel(
            LIST, ["revenue"], WHEN, layout="turned", beside=["currency"]
        ).frame()
        self.assertTrue(frame.loc["operating_margin", "currency"].isna().all())
        every = per_date.loc["revenue", [c for c in per_date if c.endswith(".currency")]]
        self.assertNotIn("currency", per_date)
        for company, row in every.iterrows():
            codes = set(row.dropna())
            self.assertLessEqual(len(codes), 1)
            self.assertEqual(set(frame.loc[[("revenue", company)], "currency"].dropna()), codes)

    def test_a_column_at_one_date_is_the_screens_and_the_lists(self) -> None:
        frame = self.ledger.panel(LIST, ["operating_margin", "ranked: rank(revenue)"], WHEN).frame()
        for day in ("2022-03-31", "2024-03-31"):
            screened = self.ledger.screen(
                "active", LIST, day, show=["operating_margin", "ranked: rank(revenue)"]
            ).answer
            own = frame.loc[day]
            self.assertEqual(set(own.index), {c.company for c in screened.companies})
            for company in screened.companies:
                row = own.loc[company.company]
                for cell, name in zip(
                    company.cells[-2:], ("operating_margin", "ranked"), strict=True
                ):
                    if cell.reason is None:
                        self.assertEqual(row[name], cell.value, (day, company.name, name))
                    else:
                        self.assertEqual(
                            row[f"{name}.reason"], cell.reason, (day, company.name, name)
                        )

    def test_a_frame_is_typed_and_knows_how_it_was_asked(self) -> None:
        panel = self.ledger.panel(LIST, MARGINS, WHEN, currency="EUR")
        frame = panel.frame()
        self.assertEqual(frame.index.names, ["date", "company"])
        self.assertTrue(
            frame.index.is_monotonic_increasing
            or frame.index.get_level_values(0).is_monotonic_increasing
        )
        self.assertEqual(frame["net"].dtype, "float64")
        self.assertEqual(frame["industry"].dtype, "category")
        self.assertNotIn("revenue.currency", frame)
        self.assertEqual(frame.attrs["batch"], panel.batch)
        wide = panel.wide("net")
        self.assertEqual(wide.index.name, "date")
        self.assertIn("AGK@ZALD", wide.columns)
        reasons = panel.reasons()
        self.assertEqual(len(reasons[reasons.measure == "net"]), frame["net"].isna().sum())
        summary = panel.summary().set_index("name")
        self.assertEqual(summary.loc["net", "filled"], frame["net"].notna().sum())
        self.assertAlmostEqual(summary.loc["net", "median"], frame["net"].median())
        self.assertIn("First look", repr(panel))
        self.assertIn("<table", panel._repr_html_())
        drawn = panel.plot("net")
        self.assertEqual(drawn.get_title(loc="left").split(",")[0], "net")
        drawn.set_title("$\\frac", loc="left")  # the $ of a name begins no formula
        drawn.figure.canvas.draw()

    def test_dates_companies_and_measures_come_in_any_usual_form(self) -> None:
        symbols = pd.Series(["AGK@ZALD", "PTP@ZBRE"])
        ends = pd.date_range("2022-12-31", "2023-12-31", freq="YE")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "measures.txt"
            file.write_text("# ours\noperating_margin\nnet: net_income / revenue\n", "utf-8")
            a = self.ledger.panel(symbols, file, ends).frame()
        b = self.ledger.panel(
            [*symbols],
            {"operating_margin": "operating_margin", "net": "net_income / revenue"},
            [date(2022, 12, 31), "2023-12-31"],
        ).frame()
        pd.testing.assert_frame_equal(a, b)
        self.assertEqual(len(a), 4)
        c = self.ledger.panel(
            symbols, "operating_margin", pd.period_range("2022", "2023", freq="Y")
        ).frame()
        pd.testing.assert_series_equal(a["operating_margin"], c["operating_margin"])

    def test_by_fiscal_period_flows_are_those_of_the_period(self) -> None:
        panel = self.ledger.panel(
            ["AGK@ZALD"], ["revenue", "total_assets"], periods="FY2021/FY2023"
        )
        years = panel.frame().reset_index().set_index("period")
        stated = self.ledger.statement("AGK@ZALD", "income", "annual").frame()
        for label in years.index:
            self.assertEqual(
                years.loc[label, "revenue"],
                stated.xs(label, axis=1, level="period").loc["revenue"].iloc[0],
            )
        quarters = self.ledger.panel(["AGK@ZALD"], ["revenue"], periods="FY2022Q1/FY2022Q4").wide(
            "revenue"
        )
        self.assertAlmostEqual(quarters["AGK@ZALD"].sum(), years.loc["FY2022", "revenue"])
        none = self.ledger.panel(["AGK@ZALD"], ["revenue"], periods="FY1990").frame()
        self.assertEqual([*none["revenue.reason"]], ["not_known"])

    def test_layouts_conditions_lags_and_returns_ahead(self) -> None:
        ledger = self.ledger
        tidy = (
            ledger.panel(LIST, ["operating_margin", "industry"], WHEN, layout="tidy")
            .frame()
            .reset_index()
        )
        wide = ledger.panel(LIST, ["operating_margin", "industry"], WHEN).frame()
        self.assertEqual(
            tidy[tidy.measure == "operating_margin"]["value"].dropna().tolist()[:5],
            wide["operating_margin"].dropna().tolist()[:5],
        )
        self.assertEqual(
            tidy[tidy.measure == "industry"]["text"].tolist()[:5],
            wide["industry"].astype(str).tolist()[:5],
        )
        turned = (
            ledger.panel(LIST, ["operating_margin"], WHEN, layout="turned").frame().reset_index()
        )
        turned = turned.set_index("symbol")["2024-06-30"]
        last = wide.loc["2024-06-30"].set_index("symbol")["operating_margin"]
        self.assertEqual(turned["AGK@ZALD"], last["AGK@ZALD"])
        some = ledger.panel(
            LIST, ["operating_margin"], WHEN, where="operating_margin > 15%"
        ).frame()
        self.assertEqual(len(some), (wide["operating_margin"] > 0.15).sum())
        lagged = (
            ledger.panel(["AGK@ZALD"], ["revenue"], "2023-06-30", lag=60).frame()["revenue"].iloc[0]
        )
        before = ledger.panel(["AGK@ZALD"], ["revenue"], "2023-05-01").frame()["revenue"].iloc[0]
        self.assertEqual(lagged, before)
        first = ledger.panel(
            ["AGK@ZALD"], ["revenue.fy"], "2024-06-28", first_reported=True
        ).frame()
        plain = ledger.panel(["AGK@ZALD"], ["first_reported(revenue.fy)"], "2024-06-28").frame()
        self.assertEqual(first.iloc[0, 2], plain.iloc[0, 2])
        ahead = ledger.panel(["AGK@ZALD"], ["operating_margin"], "2023-06-30", ahead=["price 1mo"])
        self.assertEqual(ahead.looks_ahead, ["ahead_price_return_1mo"])
        self.assertIn("looking ahead", repr(ahead))
        self.assertIn(b"looks_ahead", ahead.arrow().schema.field("ahead_price_return_1mo").metadata)

    def test_bad_questions_are_refused_what_where_and_the_mend(self) -> None:
        for how, at, word in (
            ({"measures": []}, "expressions", "no column"),
            ({"measures": ["mine: revenue / revenue", "mine: 2 * revenue"]}, "show", "already"),
            ({"measures": ["company: net_margin"]}, "expressions", "name it"),
            ({"measures": {"2020-01-01": "revenue"}}, "show", "write x_2020_01_01: revenue"),
            ({"measures": ["Net margin: net_margin"]}, "show", "write net_margin: net_margin"),
            ({"measures": ["mine:"]}, "show", "nothing after the colon"),
            ({"dates": None}, "dates", "over dates"),
            ({"periods": "FY2020"}, "dates", "over dates"),
            ({"dates": "2020-01-01/2021-01-01"}, "dates", "no frequency"),
            ({"dates": "2020-01-01/2021-01-01 fortnightly"}, "dates", "no frequency"),
            ({"dates": "2021-01-01/2020-01-01 daily"}, "dates", "ends before"),
            ({"dates": "2020-02-01/2020-02-02 monthly"}, "dates", "no such day"),
            ({"dates": "2020-01-01/2021-01-01 trading XXXX"}, "dates", "no venue"),
            ({"dates": "2199-01-01"}, "dates", "after what is known"),
            ({"dates": "1955-01-01"}, "list", "no company"),
            ({"dates": "03/04/2024"}, "dates", ""),
            ({"who": "no-such-list"}, "list", "no list"),
            ({"where": "revenue"}, "line 1, column 1", "yes or no"),
            ({"ahead": ["sideways"]}, "ahead", "no return"),
            ({"ahead": ["total 1mo over nobody"]}, "ahead", "no list nobody"),
            ({"currency": "XTS"}, "currency", ""),
            ({"where": 'industry == "Glass"'}, "line 1, column 13", "no industry Glass"),
        ):
            given: dict[str, object] = {
                "who": LIST,
                "measures": ["net_margin"],
                "dates": "2024-06-28",
                **how,
            }
            with self.assertRaises((InputRefused, NotThere), msg=str(how)) as caught:
                self.ledger.panel(
                    given.pop("who"), given.pop("measures"), given.pop("dates"), **given
                )  # type: ignore[arg-type]
            problem = caught.exception.problems[0]
            self.assertEqual(problem.at, at, how)
            self.assertIn(word, f"{problem.problem} {problem.mend}", how)
            self.assertTrue(problem.mend, how)

    def test_a_large_one_is_an_extract_with_progress_a_stop_and_a_file(self) -> None:
        asked = self.asked()
        reported: list[int] = []
        plain = self.ledger.panel_answer(asked).arrow()
        before, panelreading.AT_ONCE = panelreading.AT_ONCE, 10
        try:
            with self.assertRaises(InputRefused) as caught:
                self.ledger.panel_file(asked, "xlsx")
            self.assertIn("POST /extracts", caught.exception.problems[0].mend)
            later = self.live.http("POST", "/panels?format=csv", json=asked.model_dump())
            self.assertEqual((later.status_code, later.json()["format"]), (202, "csv"))
            where = later.headers["location"].removeprefix("/api/v1/extracts/")
            self.assertEqual(self.ledger.wait_for_extract(where).state, "done")
            written = self.ledger.extract_file(where)
            self.ledger.drop_extract(where)
            self.assertEqual(self.ledger.panel_file(asked, "csv"), written)
            found = self.ledger.panel_answer(
                asked, progress=lambda e: reported.append(e.done)
            ).arrow()
        finally:
            panelreading.AT_ONCE = before
        self.assertTrue(plain.equals(found))
        self.assertEqual(self.ledger.panel_file(asked, "csv"), written)
        extract = self.ledger.ask_extract(asked, "csv")
        done = self.ledger.wait_for_extract(extract.id)
        self.assertEqual((done.rows, done.done, done.total), (plain.num_rows, 11, 11))
        self.assertEqual(
            len(pd.read_csv(io.BytesIO(self.ledger.extract_file(extract.id)))), plain.num_rows
        )
        self.assertIn(extract.id, [e.id for e in self.ledger.extracts().extracts])
        self.ledger.drop_extract(extract.id)
        with self.assertRaises(NotThere):
            self.ledger.extract(extract.id)
        until(lambda: not [*self.live.folder.glob("extracts/*")])

    def test_a_file_is_the_same_at_once_and_as_an_extract_and_no_text_in_it_is_reckoned_with(
        self,
    ) -> None:
        self.ledger.load("companies", b"company,name,country,currency\nX-1,=1+1 Works,XA,USD\n")
        for layout in ("wide", "tidy", "turned"):
            asked = panel_request(
                ["X-1", "AGK@ZALD"],
                ["revenue"],
                [WHEN],
                None,
                None,
                {},
                layout=layout,
                beside=["known_at"],
            )
            files: dict[str, tuple[bytes, bytes]] = {}
            for form in ("csv", "arrow", "parquet"):
                extract = self.ledger.wait_for_extract(self.ledger.ask_extract(asked, form).id)  # type: ignore[arg-type]
                files[form] = (
                    self.ledger.panel_file(asked, form),
                    self.ledger.extract_file(extract.id),
                )
                self.ledger.drop_extract(extract.id)
            with self.subTest(layout):
                self.assertEqual(*files["csv"])
                self.assertIn(b"'=1+1 Works", files["csv"][0])
                self.assertTrue(
                    pa.Table.equals(*(pa.ipc.open_stream(f).read_all() for f in files["arrow"]))
                )
                self.assertTrue(
                    pa.Table.equals(*(pq.read_table(io.BytesIO(f)) for f in files["parquet"]))
                )

    def test_an_extract_that_is_stopped_in_the_middle_fails_in_no_layout(self) -> None:
        for layout in ("wide", "tidy", "turned"):
            asked = self.asked(layout=layout, beside=["reason"]).model_copy(
                update={"expressions": ["revenue"]}
            )
            id_ = self.ledger.ask_extract(asked).id
            kept = self.live.desk.extracts.find(id_).asked
            with mock.patch("wise_ledger.core.panels.panel._BLOCK", 1):  # a date at a time
                every = pa.Table.from_batches(
                    list(extract_batches(self.live.desk, kept, lambda *_: True))
                )
                some = pa.Table.from_batches(
                    list(extract_batches(self.live.desk, kept, lambda *_: False))
                )
            self.assertEqual(some.schema, every.schema)
            if layout == "turned":
                self.assertEqual(some.column(-1).null_count, len(some))
            else:
                self.assertLess(len(some), len(every) / 2)
            self.ledger.drop_extract(id_)

    def test_what_does_not_stand_across_is_refused_before_the_answer_begins(self) -> None:
        doors = (
            *(
                partial(Ledger.panel_file, form=form)
                for form in ("csv", "arrow", "parquet", "xlsx")
            ),
            *(Ledger.panel_rows, Ledger.plan_panel, Ledger.ask_extract),
        )
        for measure, when, word in (
            ("industry", WHEN, "no number"),
            ("revenue", "2000-01-03/2024-06-28 daily", "across"),
        ):
            asked = panel_request(LIST, [measure], [when], None, None, {}, layout="turned")
            for door in doors:
                with self.assertRaises(InputRefused) as caught:
                    door(self.ledger, asked)
                self.assertIn(word, caught.exception.problems[0].problem)

    def test_a_kept_panel_is_asked_again_by_anybody_with_its_stamp(self) -> None:
        asked = self.asked(where="operating_margin > 10%")
        question = asked.model_dump(mode="json", exclude_defaults=True)
        self.assertEqual(
            self.ledger.keep_question("margins", "panel", question, "ada", title="Margins").version,
            1,
        )
        again = self.ledger.kept_panel("margins", "2024-06-30")
        self.assertEqual(again.known_on.date(), date(2024, 6, 30))
        self.assertEqual(len(again), len(self.ledger.panel_answer(asked)))
        self.assertEqual(self.ledger.keep_question("margins", "panel", question, "bob").version, 2)
        self.assertEqual(
            [q.who for q in self.ledger.question_versions("margins").questions], ["bob", "ada"]
        )
        with self.assertRaises(InputRefused):
            self.ledger.keep_question(
                "broken", "panel", {**question, "expressions": ["revnue"]}, "ada"
            )
        self.ledger.keep_question(
            "the-few", "screen", {"rule": "operating_margin > 15%", "list": LIST}, "ada"
        )
        self.assertEqual(
            {q.name for q in self.ledger.questions().questions}, {"margins", "the-few"}
        )
        self.assertTrue(self.ledger.archive_question("the-few", "ada").archived)

    def test_the_command_line_asks_writes_and_keeps(self) -> None:
        shown = self.live.command(
            "panel", "operating_margin", "--list", LIST, "--dates", WHEN, "--format", "table"
        ).stdout
        self.assertIn("Ashgrove Kilnworks", shown)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "p.parquet"
            done = self.live.command(
                "panel", *MARGINS, "--list", LIST, "--dates", WHEN, "--output", str(path)
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertTrue(isinstance(pq.read_table(path), pa.Table))
        ended = self.live.command(
            "panel",
            "operating_margin",
            "--list",
            LIST,
            "--dates",
            WHEN,
            "--summary",
            "--format",
            "tsv",
        )
        self.assertIn("operating_margin\t", ended.stdout)
        kept = self.live.command(
            "panel",
            "net_margin",
            "--list",
            LIST,
            "--dates",
            "2024-06-28",
            "--keep",
            "nets",
            "--who",
            "ada",
        )
        self.assertIn("nets is kept, version 1", kept.stderr)
        self.assertEqual(self.live.command("panel", "--kept", "nets").stdout, kept.stdout)
        self.assertIn("nets", self.live.command("questions", "list").stdout)
        wrong = self.live.command("panel", "nett_margin", "--dates", "2024-06-28")
        self.assertEqual((wrong.returncode, "did you mean net_margin" in wrong.stderr), (2, True))

    def test_a_question_through_http_alone(self) -> None:
        body = {"expressions": ["operating_margin"], "list": LIST, "dates": ["2024-06-28"]}
        found = self.live.http("POST", "/panels?format=arrow", json=body)
        self.assertEqual(found.status_code, 200)
        with pa.ipc.open_stream(found.content) as reader:
            self.assertEqual(reader.read_all().num_rows, 24)
        plan = self.live.http("POST", "/panels/plan", json=body).json()
        self.assertEqual((plan["rows"], plan["companies"], plan["at_once"]), (24, 24, True))
        self.assertEqual(PLAIN.post(f"{self.live.url}/api/v1/panels", json=body).status_code, 401)
