"""No answer of the service depends on the order in which rows came, nor on whether in one file or
in several (T5): of two rows that say when they became public, the later counts.
"""

import json
import os
import re
from contextlib import ExitStack
from typing import Any

import pandas as pd

from tests.live import Live, LiveLedger, copied
from tests.service.questions import ASKED, BY_DAY, brought
from tests.service.test_later import Rows, comparable
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.work.templates import COLUMNS, template

# Whose rows say when they became public.
DATED = [
    kind
    for kind in {**COLUMNS, **COLUMN_KINDS}
    if {b"published_at", b"released_at"} & set(template(kind).split(b"\n")[0].split(b","))
]
RULE = "estimate(eps, fy1) > 0 USD or market_value > 1bn USD"
KEPT = ("2022-06-01", "2023-01-02", "2023-03-01")  # days that the rows are of
RATED = ("2022-06-30", "2023-03-31")  # and those that amounts are converted at
DAYS = ("2023-06-30", "2024-12-31")


class Apart(Rows):
    """Rows of a few keys, of which no two became public at one instant, and whose figures no check
    holds back: what is held back is found by what was there.
    """

    instants = 0

    def of(self, kind: str) -> dict[str, Any]:
        row = super().of(kind)
        kept = RATED if kind == "rates" else KEPT
        days = {"date", "ex_date", "valid_from"} & set(row)
        said = {"published_at", "released_at"} & set(row)
        return (
            row
            | dict.fromkeys(days, self.chance.choice(kept))
            | dict.fromkeys(said, self._instant())
        )

    def _instant(self) -> str:
        self.instants += 1
        return str(pd.Timestamp("2023-05-01", tz="UTC") + pd.Timedelta(self.instants * 7, "h"))

    def _values(self) -> dict[str, Any]:
        pick = self.chance.choice
        return super()._values() | {"close": pick([21.5, 22]), "value": pick([2.4e9, 2.5e9, ""])}

    def _own(self, kind: str) -> dict[str, Any]:
        pick = self.chance.choice
        own = {
            "actuals": {"value": pick([1.5, 1.6])},
            "rates": {"base": "EUR", "quote": "USD", "rate": pick([1.05, 1.06, 1.07, 1.08])},
        }
        return super()._own(kind) | own.get(kind, {})


class Order(Live):
    def test_rows_in_any_order_and_file_leave_the_same_answers_t5(self) -> None:
        with ExitStack() as stack:
            other = LiveLedger(stack, self.source, folder=copied(stack))
            both = (self.live, other)
            for live in both:
                brought(live.ledger)
                live.ledger.keep_list("by-rule", [], "ada", rule=RULE)
                live.ledger.prefer_sources(["files", "fernmark"], "ada")
            before = self.answers(self.live)
            seed = int(os.environ.get("SEED", "7"))
            rows = Apart(seed)
            every = {kind: [rows.of(kind) for _ in range(7)] for kind in DATED}
            each = [(kind, [row]) for kind, several in every.items() for row in several]
            for live, files in ((self.live, each), (other, list(every.items()))):
                for kind, some in rows.chance.sample(files, len(files)):
                    mixed = pd.DataFrame(rows.chance.sample(some, len(some)))
                    content = mixed.to_csv(index=False).encode()
                    live.ledger.load(kind, content, accept_good=True)
            for kind, some in every.items():  # T8
                content = pd.DataFrame(some).to_csv(index=False).encode()
                for live in both:
                    self.assertIn(
                        live.ledger.load(kind, content, accept_good=True).new, (0, None), kind
                    )
            found, again = self.answers(self.live), self.answers(other)
            for asked, answer in found.items():
                with self.subTest(asked, seed=seed):
                    self.assertEqual(answer, again[asked])
            # some calls are of what no such row is of
            self.assertGreater(sum(before[a] != found[a] for a in found), len(found) / 3)

    def answers(self, live: LiveLedger) -> dict[tuple[str, str], list[str]]:
        return {
            (call, day): self.answer(live, call, words, day)
            for call, words in ASKED.items()
            for day in DAYS
        }

    def answer(self, live: LiveLedger, call: str, words: dict[str, Any], day: str) -> list[str]:
        verb, path, *_ = call.split()
        on = {"on": day} if "/matches" in path else {BY_DAY.get(path, "known_on"): day}
        asked = words | on
        by = {"params": asked} if verb == "GET" else {"json": asked}
        answer = live.http(verb, path, **by)
        self.assertEqual(answer.status_code, 200, (call, answer.text))
        found = answer.json()
        found.pop("documents", None)  # the files, which are others
        text = json.dumps(found, separators=(",", ":"))
        return comparable(re.sub(r'"(se|li)-\w+"|"sha256":"\w+"|"key":"[^"]*"', '""', text))
