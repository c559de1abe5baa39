"""Whatever the service may answer, a result of the client shows itself, and its rows, frame and
plot are of one mind.
"""

import contextlib
import re
import unittest
import warnings
from typing import Any

import httpx
from hypothesis import given, note
from hypothesis import strategies as st
from tools.everycall import every_call

from tests.answers import PLURALS, Answering, Operation, single, varied
from tests.properties import examples
from wise_ledger.client import InputRefused, Ledger, ServiceFailed, WiseLedgerError, connect
from wise_ledger.wire.rows import Tabled

CALLS = range(sum(1 for _ in every_call(connect("http://ledger.example"))))
SHOWS = ("rows", "frame", "wide", "tidy", "reasons", "cells", "arrow", "values", "matrix", "plot")


def made(ledger: Ledger, number: int) -> Any:
    """What one of the calls gives."""
    return next(call for n, call in enumerate(every_call(ledger)) if n == number)()


def shown_of(result: Any) -> dict[str, Any]:
    """All that a result shows of itself."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        found = {n: getattr(result, n)() for n in SHOWS if callable(getattr(result, n, None))}
    return found | {"repr": repr(result)}


class Results(unittest.TestCase):
    @examples(250)
    @given(st.sampled_from(CALLS), st.data())
    def test_each_shows_itself_and_its_frame_has_its_rows(
        self, number: int, data: st.DataObject
    ) -> None:
        def answer(operation: Operation) -> Any:
            found = data.draw(varied(operation.schema, operation.example))
            if re.search("/(runs|extracts|questions)/", operation.path) and isinstance(found, dict):
                kept = {
                    k: operation.example[k] for k in ("state", "kind", "question") if k in found
                }
                return found | kept
            return found

        with connect("http://ledger.example", transport=Answering(answer)) as ledger:
            try:
                result = made(ledger, number)
                shown = shown_of(result)
            except InputRefused:  # a kept screen is no panel
                return
            except ServiceFailed as error:
                # Bars and panels come as Arrow; the run of the example is no meaning of a tag.
                self.assertRegex(error.detail, "It is no (table|Applied)")
                return
        note(f"{type(result)}: {str(result)[:500]}")
        self.assertTrue(shown["repr"])
        if isinstance(result, Tabled) and result.part:
            self.assertEqual(len(shown["frame"]), len(shown["rows"]))
            self.assertEqual(list(shown["frame"].columns), list(shown["rows"].columns))

    def test_one_is_said_where_there_is_one(self) -> None:
        single_ = Answering(lambda operation: single(operation.example))
        with connect("http://ledger.example", transport=single_) as ledger:
            for number in CALLS:
                with self.subTest(number), contextlib.suppress(InputRefused, ServiceFailed):
                    self.assertEqual(PLURALS.findall(repr(made(ledger, number))), [])

    def test_what_no_service_of_ours_says_is_said_to_be_none(self) -> None:
        page = b"<!doctype html><title>Sign in to the network</title>"
        refused = set()
        for number in CALLS:
            for content in (page, b"[]", b'{"other": 1}', b"", b"PAR1"):
                other = httpx.MockTransport(lambda _, c=content: httpx.Response(200, content=c))
                with self.subTest(number, content=content):
                    try:
                        with connect("http://ledger.example", transport=other) as ledger:
                            shown_of(made(ledger, number))
                    except WiseLedgerError as error:
                        self.assertTrue(error.detail)
                        refused.add(number)
        # Some calls give bytes, which may be any, and some have no body.
        self.assertGreater(len(refused), 0.85 * len(CALLS))


if __name__ == "__main__":
    unittest.main()
