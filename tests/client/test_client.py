"""The client: typed frames that know how they were asked, and one tree of errors."""

from datetime import UTC, date, datetime
from unittest import mock

import httpx
import pandas as pd

import wise_ledger
from tests.live import RULE, Live
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
        self.assertTrue(str(frame["operating_income / revenue period_end"].dtype).startswith("datetime64"))
        self.assertEqual(frame["verdict"].value_counts().to_dict(), {"pass": 12, "fail": 9, "unknown": 2})
        asked = {"rule": RULE, "list": "first-look", "known_on": "2023-06-30T23:59:59.999999Z", "batch": 25}
        self.assertEqual({name: frame.attrs[name] for name in asked}, asked)
        reasons = found.reasons()
        self.assertEqual(set(reasons["reason"]), {"not_applicable"})
        self.assertEqual(set(reasons["company"]), set(frame.index[frame["operating_income / revenue"].isna()]))
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
        self.assertAlmostEqual(sums["operating_income.ttm"] / sums["revenue.ttm"], versions["value"].iloc[1])
        self.assertIsInstance(facts, pd.DataFrame)

    def test_the_client_reads_its_address_from_the_environment(self) -> None:
        environment = {"WISE_LEDGER_URL": self.live.url + "/", "WISE_LEDGER_TOKEN": self.live.token}
        with mock.patch.dict("os.environ", environment), wise_ledger.connect() as ledger:
            self.assertEqual([entry.name for entry in ledger.lists()], ["first-look", "index-of-aldmoor"])
            self.assertEqual([s.name for s in ledger.sources()], ["fernmark"])

    def test_batches_are_fetched_page_by_page(self) -> None:
        self.assertEqual([b.number for b in self.ledger.batches()], list(range(25, 0, -1)))


class Errors(Live):
    def test_errors_carry_problem_and_mend(self) -> None:
        with self.assertRaises(InputRefused) as caught:
            self.ledger.screen("revenue > 5", "first-look", "2023-06-30")
        self.assertEqual(caught.exception.problems[0].mend, "write an amount with its currency: 5mn EUR")
        with self.assertRaises(NotThere):
            self.ledger.screen(RULE, "nobody", "2023-06-30")
        with connect(self.live.url, "wl_wrong_token") as stranger, self.assertRaises(AccessDenied):
            stranger.lists()
        for kind in (InputRefused, NotThere, AccessDenied, ServiceFailed, ServiceUnreachable):
            self.assertTrue(issubclass(kind, WiseLedgerError))

    def test_nobody_there_and_somebody_else_there(self) -> None:
        with connect("http://127.0.0.1:9", "x") as ledger, self.assertRaises(ServiceUnreachable) as caught:
            ledger.lists()
        self.assertIn("WISE_LEDGER_URL", caught.exception.detail)
        other = httpx.MockTransport(lambda request: httpx.Response(500, text="<html>"))
        with connect("http://127.0.0.1", "x", transport=other) as ledger, self.assertRaises(ServiceFailed):
            ledger.lists()

        def slow(request: httpx.Request) -> httpx.Response:
            raise httpx.ReadTimeout("late")

        late = httpx.MockTransport(slow)
        with connect("http://127.0.0.1", "x", transport=late) as ledger, self.assertRaises(ServiceFailed):
            ledger.lists()
