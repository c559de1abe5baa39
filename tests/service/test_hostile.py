"""Hostile values in files of every kind and form, and in questions: told as bad input, or kept; nothing else stops."""

import io
import json
import random
import unittest
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from tests.live import Live
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.core.records.kinds import KINDS

LOADED = (
    "rates",
    "splits",
    "venues",
    "dividends",
    "delistings",
    "shares",
    "receipt_ratios",
    "series_attributes",
    *COLUMN_KINDS,
)
WORDS = ["", " ", "x", "AGK@ZALD", "li-0", "first-look", "eps", "é" * 300, "o'clock", "%", "=1+1", "null", "true"]
DAYS = ["2024-03-28", "1899-12-31", "2201-01-01", "0001-01-01", "9999-12-31", "28/03/2024", "2024-02-30"]
MOMENTS = ["2024-03-28T10:00:00Z", "2024-03-28T10:00:00", "2999-01-01T00:00:00Z", "2024-03-28T10:00:00+14:00"]
NUMBERS = ["1", "41.2", "4120", "0", "-1", "nan", "inf", "1e400", "1e21", "1,234.5", "0x10", "  7 ", "1e-300"]
GOOD = {"listing": "AGK@ZALD", "security": "AGK@ZALD", "company": "AGK@ZALD", "list": "first-look", "measure": "eps"}
FORMS = ("json", "csv", "arrow", "parquet", "xlsx")
ASKED = WORDS + DAYS + MOMENTS + NUMBERS + ["fy1", "ntm", "FY2023", "turned", "mean,date", "EUR", "quarantined", *FORMS]


class Hostile(Live):
    def setUp(self) -> None:
        self.random = random.Random(11)

    def kind(self, name: str) -> Any:
        return COLUMN_KINDS.get(name) or KINDS[name]

    def row(self, kind: Any, heads: list[str]) -> dict[str, str]:
        """An example row that is put out of joint here and there."""
        good = {h: GOOD.get(h, kind.example.get(h, "")) for h in heads}
        strange = [h for h in heads if self.random.random() < 0.1]
        return good | {h: self.random.choice(WORDS + DAYS + MOMENTS + NUMBERS) for h in strange}

    def file(self, heads: list[str], rows: list[dict[str, str]]) -> bytes:
        form = self.random.choice(["csv", "csv", "json", "parquet", "arrow"])
        if form == "csv":
            lines = [",".join(heads), *(",".join(r[h] for h in heads) for r in rows)]
            return ("\n".join(lines) + self.random.choice(["", "\n", '\n"open, quote', "\n,,,,,,,,,,,,,9"])).encode()
        if form == "json":
            value = lambda text: self.random.choice([text] * 9 + [None, 1.5, True, [1], {"a": 1}])  # noqa: E731
            return "\n".join(json.dumps({h: value(r[h]) for h in heads}) for r in rows).encode()
        columns: dict[str, Any] = {h: [r[h] for r in rows] for h in heads}
        for head in self.random.sample(heads, min(2, len(heads))):
            columns[head] = self.random.choice([[v] * len(rows) for v in (None, 1.5, b"\xff", [1], True)])
        out, table = io.BytesIO(), pa.table(columns)
        if form == "parquet":
            pq.write_table(table, out)
        else:
            with pa.ipc.new_file(out, table.schema) as writer:
                writer.write_table(table)
        whole = out.getvalue()
        return whole[: -self.random.randint(1, 200)] if self.random.random() < 0.2 else whole

    def test_a_file_of_any_kind_is_bad_input_or_kept_and_stops_nothing_else(self) -> None:
        taken, everybody = 0, len(self.ledger.screen("active", known_on="2024-03-29").answer.companies)
        self.ledger.load("series", b"series,period,value\nOUTPUT/Q.XA.TOTAL.SA,2024Q1,1\n")
        for _ in range(190):
            name = self.random.choice(LOADED)
            kind = self.kind(name)
            heads = [h for h in kind.heads if self.random.random() > 0.04] or [kind.heads[0]]
            rows = [self.row(kind, heads) for _ in range(self.random.randint(0, 4))]
            content = self.file(heads, rows)
            asked = {"accept_good": self.random.choice(["true", "false"])}
            answer = self.live.http("POST", f"/collections/files/{name}", content=content, params=asked)
            self.assertLess(answer.status_code, 500, (name, content[:400]))
            taken += answer.status_code == 200 and bool(answer.json()["rows"])
        self.assertGreater(taken, 15)
        self.live.desk.ledger.verify()
        rule = "market_value / net_income > 1 and total_return(1y) > -1 and estimate(eps, fy1) / close > -9"
        for known_on in ("2024-03-29", "2024-12-31"):
            found = self.ledger.screen(rule, known_on=known_on, currency="EUR")
            self.assertEqual(len(found.answer.companies), everybody)
        self.assertGreaterEqual(len(self.ledger.market_quality().findings), 0)

    def test_a_question_of_any_words_is_answered_or_bad_input(self) -> None:
        paths = self.live.http("GET", "/openapi.json").json()["paths"]
        for path, operations in paths.items():
            names = [p["name"] for p in operations.get("get", {}).get("parameters", []) if p["in"] == "query"]
            if "{" in path or not names:
                continue
            for _ in range(12):
                chosen = self.random.sample(names, self.random.randint(1, min(4, len(names))))
                asked = {n: self.random.choice(ASKED) for n in chosen}
                if "company" in names and self.random.random() < 0.7:
                    asked["company"] = "AGK@ZALD"
                answer = self.live.http("GET", path.removeprefix("/api/v1"), params=asked)
                self.assertLess(answer.status_code, 500, (path, asked))


if __name__ == "__main__":
    unittest.main()
