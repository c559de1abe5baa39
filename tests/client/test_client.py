"""The client: typed frames that know how they were asked, and one tree of errors."""

import asyncio
import tempfile
import unittest
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, date, datetime
from pathlib import Path
from unittest import mock

import httpx
import numpy as np
import pandas as pd
from hypothesis import given, note
from hypothesis import strategies as st

import wise_ledger
from tests.live import RULE, Live
from tests.properties import examples
from wise_ledger.client import (
    AccessDenied,
    InputRefused,
    NotThere,
    ServiceFailed,
    ServiceUnreachable,
    WiseLedgerError,
    connect,
)


class Frames(Live):
    def test_a_screen_is_a_typed_frame(self) -> None:
        found = self.ledger.screen(RULE, "first-look", "2023-06-30")
        frame = found.frame()
        self.assertEqual(frame.index.name, "company")
        self.assertTrue(frame.index.str.startswith("co-").all())
        self.assertEqual(str(frame["operating_income / revenue"].dtype), "float64")
        self.assertTrue(
            str(frame["operating_income / revenue.period_end"].dtype).startswith("datetime64")
        )
        self.assertEqual(
            frame["verdict"].value_counts().to_dict(), {"pass": 12, "fail": 9, "unknown": 2}
        )
        asked = {
            "rule": RULE,
            "list": "first-look",
            "known_on": "2023-06-30T23:59:59.999999Z",
            "batch": 25,
        }
        self.assertEqual({name: frame.attrs[name] for name in asked}, asked)
        reasons = found.reasons()
        self.assertEqual(set(reasons["reason"]), {"not_applicable"})
        self.assertEqual(
            set(reasons["company"]), set(frame.index[frame["operating_income / revenue"].isna()])
        )
        self.assertIn("12 pass, 9 fail, 2 unknown", repr(found))

    def test_dates_instants_and_texts_ask_the_same(self) -> None:
        asked = ["2023-06-30", date(2023, 6, 30), datetime(2023, 6, 30, 23, 59, 59, 999999, UTC)]
        answers = [self.ledger.screen(RULE, "first-look", when).answer for when in asked]
        self.assertEqual(answers[0], answers[1])
        self.assertEqual(answers[0], answers[2])

    def test_an_empty_answer_is_an_empty_frame_of_the_same_shape(self) -> None:
        empty = self.ledger.screen(RULE, "first-look", "2019-01-01").frame()
        full = self.ledger.screen(RULE, "first-look", "2023-06-30").frame()
        self.assertEqual((len(empty), list(empty.columns)), (0, list(full.columns)))
        self.assertEqual(empty.dtypes.to_dict(), full.dtypes.to_dict())

    def test_versions_and_facts_are_frames(self) -> None:
        found = self.ledger.explain("AGK@ZALD", "operating_income / revenue", "2024-01-31")
        versions = found.versions()
        self.assertEqual(versions["standing"].tolist(), [False, True])
        self.assertLess(versions["value"].iloc[1], 0.13)
        facts = found.facts()
        sums = (facts["sign"] * facts["value"]).groupby(facts["input"]).sum()
        self.assertAlmostEqual(
            sums["operating_income.ttm"] / sums["revenue.ttm"], versions["value"].iloc[1]
        )
        self.assertIsInstance(facts, pd.DataFrame)

    def test_the_client_reads_its_address_from_the_environment(self) -> None:
        environment = {"WISE_LEDGER_URL": self.live.url + "/", "WISE_LEDGER_TOKEN": self.live.token}
        with mock.patch.dict("os.environ", environment), wise_ledger.connect() as ledger:
            self.assertEqual(
                [entry.name for entry in ledger.lists()], ["first-look", "index-of-aldmoor"]
            )
            self.assertEqual([s.name for s in ledger.sources()], ["fernmark"])

    def test_batches_are_fetched_page_by_page(self) -> None:
        self.assertEqual([b.number for b in self.ledger.batches()], list(range(25, 0, -1)))


class Given(Live):
    """What callers give in any usual form, and what they get back."""

    def test_dates_of_every_kind_ask_the_same(self) -> None:
        asked = [
            "2023-06-30",
            date(2023, 6, 30),
            datetime.fromisoformat("2023-06-30"),
            pd.Timestamp("2023-06-30"),
            np.datetime64("2023-06-30"),
        ]
        answers = [self.ledger.screen(RULE, "first-look", when).answer for when in asked]
        self.assertTrue(all(a == answers[0] for a in answers))
        matched = [self.ledger.match(["AGK@ZALD"], when).answer.on for when in asked]
        self.assertEqual(set(matched), {date(2023, 6, 30)})
        with self.assertRaisesRegex(InputRefused, "time zone"):
            self.ledger.screen(RULE, "first-look", datetime.fromisoformat("2023-06-30T08:00"))

    def test_dates_of_a_panel_come_as_pandas_and_numpy_have_them(self) -> None:
        days = ["2022-12-31", "2023-12-31"]
        stamps = pd.to_datetime(days)
        forms = (
            days, tuple(days), (d for d in days), stamps, pd.Series(days), pd.Series(stamps), stamps.date,
            np.array(days, "datetime64[D]"), pd.period_range("2022", "2023", freq="Y"),
            pd.Series(pd.period_range("2022", "2023", freq="Y")), pd.DataFrame({"date": stamps})["date"],
        )  # fmt: skip
        plain = self.ledger.panel("first-look", ["revenue"], days).frame()
        for form in forms:
            pd.testing.assert_frame_equal(
                self.ledger.panel("first-look", ["revenue"], form).frame(), plain
            )
        one = self.ledger.panel("first-look", ["revenue"], days[1]).frame()
        for form in (date(2023, 12, 31), stamps[1], np.datetime64(days[1]), pd.Period("2023")):
            pd.testing.assert_frame_equal(
                self.ledger.panel("first-look", ["revenue"], form).frame(), one
            )

    def test_no_name_leads_to_another_address(self) -> None:
        ledger = self.ledger
        doors: tuple[Callable[[str], object], ...] = (
            ledger.measure, ledger.item, ledger.question, ledger.extract, ledger.members, ledger.document,
            ledger.revoke_token, ledger.company, ledger.tags, ledger.pause_schedule,
        )  # fmt: skip
        for name in ("", ".", "..", "../tokens", "a/../b", "tokens/.", "a/b", "..."):
            for door in doors:
                with (
                    self.subTest(door.__name__, name=name),
                    self.assertRaises((InputRefused, NotThere)) as caught,
                ):
                    door(name)
                self.assertNotIn("no such resource", str(caught.exception))

    def test_a_symbol_may_have_a_slash(self) -> None:
        listed = b"company,security_type,symbol,mic,currency,valid_from\nAGK@ZALD,ordinary,AGK/B,ZALD,USD,2020-01-01\n"
        self.assertFalse(self.ledger.load("listings", listed).bad)
        page = self.ledger.company("AGK/B@ZALD")
        self.assertEqual(page.company, self.ledger.company("AGK@ZALD").company)

    def test_one_text_is_no_sequence_of_texts(self) -> None:
        calls = [
            lambda: self.ledger.match("AGK", "2023-06-30"), lambda: self.ledger.members("first-look", show="revenue"),
            lambda: self.ledger.screen(RULE, companies="AGK@ZALD"), lambda: self.ledger.keep_list("x", "AGK", "Ada"),
            lambda: self.ledger.statements("AGK@ZALD"), lambda: self.ledger.queue("fernmark", companies="AGK"),
        ]  # fmt: skip
        for call in calls:
            with self.assertRaisesRegex(InputRefused, "not a sequence"):
                call()

    def test_a_screen_is_over_a_list_companies_or_everybody_with_named_columns_sorted(self) -> None:
        how = {"show": ["margin: operating_income / revenue", "revenue"], "sort": "-margin"}
        whole = self.ledger.screen("active", None, "2023-06-30", **how)  # type: ignore[arg-type]
        self.assertRegex(whole.answer.list_title, r"^all \d+ companies active then$")
        ended = {c.id for c in self.ledger.companies().companies} - {
            c.id for c in self.ledger.companies(with_inactive=False).companies
        }
        self.assertTrue(ended)
        self.assertFalse(ended & {c.company for c in whole.answer.companies})
        frame = whole.frame()
        self.assertTrue(
            {"margin", "margin.reason", "margin.period_end", "revenue", "revenue.currency"}
            <= {*frame}
        )
        there = frame["margin"].dropna()
        self.assertTrue(
            there.is_monotonic_decreasing
            and frame["margin"].tolist()[: len(there)] == there.tolist()
        )
        few = self.ledger.screen(
            RULE, companies=["AGK@ZALD", "DMB@ZALD"], known_on="2023-06-30", only=["unknown"]
        ).answer
        self.assertEqual(
            ([c.name for c in few.companies], few.counts.passed), (["Dunmarsh Bank"], 1)
        )
        for wrong in (
            {"sort": "size"},
            {"show": ["revenue"], "sort": "revenue"},
            {"show": ["a: revenue", "a: net_income"]},
            {"list": "x", "companies": ["AGK"]},
        ):
            with self.assertRaises(WiseLedgerError):
                self.ledger.screen(RULE, known_on="2023-06-30", **wrong)  # type: ignore[arg-type]

    def test_statements_of_several_each_with_its_outcome(self) -> None:
        found = self.ledger.statements(
            ["AGK@ZALD", "nobody", "ISK@ZCAL"], "income", "annual", "2024-06-30", periods=2
        )
        self.assertEqual([s.symbol for s in found.statements], ["AGK@ZALD", "ISK@ZCAL"])
        self.assertEqual([f.asked for f in found.failed], ["nobody"])
        frame = found.frame()
        self.assertEqual(
            {*zip(frame["name"], frame["currency"].fillna(""), strict=True)}
            & {("Isken Paper", "JPY")},
            {("Isken Paper", "JPY")},
        )
        listed = self.ledger.statements(list="first-look", known_on="2024-06-30", periods=1)
        self.assertEqual(len(listed.statements), 24)
        ended = self.live.command(
            "statements", "AGK@ZALD", "nobody", "balance", "--periods", "1", "--format", "csv"
        )
        self.assertEqual(ended.returncode, 3)
        self.assertIn("nobody: no single company", ended.stderr)

    def test_every_answer_of_several_has_a_frame_and_a_short_repr(self) -> None:
        found = [
            self.ledger.lists(), self.ledger.runs(), self.ledger.sources(), self.ledger.catalogue(),
            self.ledger.find("revenue"), self.ledger.quality(), self.ledger.coverage("first-look"),
            self.ledger.restatements(), self.ledger.companies(), self.ledger.venues(), self.ledger.listings(),
            self.ledger.securities(), self.ledger.members("first-look"), self.ledger.match(["AGK"], "2024-01-01"),
            self.ledger.statement("AGK", "income"), self.ledger.screen("active"),
        ]  # fmt: skip
        for answer in found:
            frame = answer.frame()  # type: ignore[attr-defined]
            self.assertGreater(frame.shape[1], 1, answer)
            self.assertLess(len(repr(answer)), 300)
            self.assertNotIn(" at 0x", repr(answer))
            for column in frame:
                self.assertFalse(
                    any(isinstance(v, list | dict) for v in frame[column]), (answer, column)
                )
        everybody = self.ledger.companies()
        self.assertEqual(len(everybody.companies), everybody.total)
        pages = [self.live.http("GET", f"/companies?limit=5&cursor={n}").json() for n in (0, 5)]
        self.assertEqual(pages[0]["next"], "5")
        self.assertFalse(
            {c["id"] for c in pages[0]["companies"]} & {c["id"] for c in pages[1]["companies"]}
        )

    def test_files_are_paths_bytes_or_frames(self) -> None:
        frame = pd.DataFrame(
            {
                "base": ["EUR"],
                "quote": ["CHF"],
                "date": [pd.Timestamp("2024-03-28")],
                "rate": [0.98],
            }
        )
        self.assertEqual(self.ledger.load("rates", frame).new, 1)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rates.csv"
            frame.assign(rate=[0.97], date="2024-03-29").to_csv(path, index=False)
            self.assertEqual(
                (self.ledger.load("rates", path).new, self.ledger.load("rates", str(path)).new),
                (1, 0),
            )
        with self.assertRaisesRegex(InputRefused, "cannot be read"):
            self.ledger.load("rates", "nowhere.csv")

    def test_the_same_client_for_async_code(self) -> None:
        async def ask() -> tuple[object, ...]:
            async with wise_ledger.connect_async(self.live.url, self.live.token) as ledger:
                days = ("2023-06-30", "2024-01-15")
                both = await asyncio.gather(
                    *(ledger.screen(RULE, "first-look", day) for day in days)
                )
                return (*(s.counts.passed for s in both), len(await ledger.batches()) > 1)

        self.assertEqual(asyncio.run(ask()), (12, 11, True))


class Errors(Live):
    def test_errors_carry_problem_and_mend(self) -> None:
        with self.assertRaises(InputRefused) as caught:
            self.ledger.screen("revenue > 5", "first-look", "2023-06-30")
        self.assertEqual(
            caught.exception.problems[0].mend, "write an amount with its currency: 5mn EUR"
        )
        with self.assertRaises(NotThere):
            self.ledger.screen(RULE, "nobody", "2023-06-30")
        with connect(self.live.url, "wl_wrong_token") as stranger, self.assertRaises(AccessDenied):
            stranger.lists()
        for kind in (InputRefused, NotThere, AccessDenied, ServiceFailed, ServiceUnreachable):
            self.assertTrue(issubclass(kind, WiseLedgerError))

    def test_nobody_there_and_somebody_else_there(self) -> None:
        with (
            connect("http://127.0.0.1:9", "x") as ledger,
            self.assertRaises(ServiceUnreachable) as caught,
        ):
            ledger.lists()
        self.assertIn("WISE_LEDGER_URL", caught.exception.detail)
        other = httpx.MockTransport(lambda request: httpx.Response(500, text="<html>"))
        with (
            connect("http://127.0.0.1", "x", transport=other) as ledger,
            self.assertRaises(ServiceFailed),
        ):
            ledger.lists()

        def slow(request: httpx.Request) -> httpx.Response:
            raise httpx.ReadTimeout("late")

        late = httpx.MockTransport(slow)
        with (
            connect("http://127.0.0.1", "x", transport=late) as ledger,
            self.assertRaises(ServiceFailed),
        ):
            ledger.lists()


class Connected(unittest.TestCase):
    """An address, a token and an answer of any kind are used, or refused in words."""

    @examples(150)
    @given(
        st.one_of(
            st.text(max_size=12),
            st.builds(
                "{}{}{}".format,
                st.sampled_from(
                    ["http://", "https://", "HTTP://", "ftp://", "//", "http:", " http://"]
                ),
                st.sampled_from(
                    ["a", "127.0.0.1", "[::1]", "[::1", "a b", "é", "x" * 300, "", "u:p@a", "a..b"]
                ),
                st.sampled_from(
                    [
                        "",
                        "/",
                        ":0",
                        ":80",
                        ":99999",
                        ":x",
                        "/api/v1",
                        "/api/v1/",
                        "/p",
                        "?q=1",
                        "#f",
                    ]
                ),
            ),
        ),
        st.one_of(st.text(max_size=8), st.just("wl_token")),
        st.binary(max_size=20)
        | st.sampled_from([b"null", b"[]", b"{}", b"<html>", b'{"lists": 1}', b"[" * 9999]),
        st.sampled_from([200, 204, 301, 404, 500]),
    )
    def test_any_of_them(self, url: str, token: str, body: bytes, status: int) -> None:
        answer = httpx.MockTransport(lambda request: httpx.Response(status, content=body))
        with suppress(WiseLedgerError), connect(url or "?", token, transport=answer) as ledger:
            note(ledger.lists())

    def test_an_address_may_be_that_of_the_api_itself(self) -> None:
        asked: list[str] = []

        def answer(request: httpx.Request) -> httpx.Response:
            asked.append(str(request.url))
            return httpx.Response(200, json={"lists": []})

        for url in ("http://a:1", "http://a:1/", " http://a:1/api/v1/", "http://a:1/behind/"):
            with connect(url, "x", transport=httpx.MockTransport(answer)) as ledger:
                ledger.lists()
        self.assertEqual(
            {a.partition("?")[0] for a in asked},
            {"http://a:1/api/v1/lists", "http://a:1/behind/api/v1/lists"},
        )
