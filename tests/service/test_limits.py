"""What is more than is taken at once is refused, with how much is and the mend, at every limit."""

from importlib import import_module
from typing import Any
from unittest.mock import patch

import pyarrow as pa

from tests.core.test_packed import packed
from tests.live import Live
from tests.service.questions import brought

LIST, DAY = {"list": "first-look"}, {"dates": ["2023-06-30"]}
BOTH = {"series": ["OUTPUT/Q.XA", "PRICES/Q.XA"]}
YEAR = {"start": "2023-01-01", "end": "2023-06-30"}
PANEL = {"expressions": ["revenue"]} | LIST | DAY
TWO = {"companies": ["AGK@ZALD", "PTP@ZBRE"]}
MEMBERS = "list,company\nmine,AGK@ZALD\nmine,PTP@ZBRE\n"
PRICES, RATES = (
    packed(pa.table({name: texts, "date": ["2024-03-28", "2024-03-27"]}), "parquet", "zstd")
    for name, texts in (("listing", TWO["companies"]), ("base", ["EUR", "USD"]))
)
# Where a limit is said, how much is taken while it is tried, and what is more than that.
LIMITS: tuple[tuple[str, str, int, str, Any], ...] = (
    ("work.panels", "MOST_CELLS", 3, "/panels", PANEL),
    ("work.panels", "MOST_LAG", 3, "/panels", PANEL | {"lag": 4}),
    ("work.paneldates", "MOST_DATES", 2, "/panels",
     PANEL | {"dates": ["2023-01-01/2023-06-30 monthly"]}),
    ("work.paneltable", "_MOST_TURNED", 1, "/panels",
     PANEL | {"dates": ["2023-01-01/2023-06-30 monthly"], "layout": "turned"}),
    ("core.panels.panel", "MOST_COLUMNS", 1, "/panels",
     PANEL | {"expressions": ["revenue", "net_income"]}),
    ("core.panels.periods", "MOST", 2, "/panels",
     {"expressions": ["revenue"], "periods": "FY2018/FY2022"} | LIST),
    ("core.panels.ahead", "_LONGEST", 1, "/panels", PANEL | {"ahead": ["total 24mo"]}),
    ("core.language.check", "MOST_NODES", 3, "/screens",
     {"rule": "revenue / total_assets + 1 > 5"} | LIST),
    ("core.language.intime", "MOST_DAYS", 20, "/screens",
     {"rule": "mean(close, 30d) > 1 USD"} | LIST),
    ("core.language.ofseries", "_LONGEST", 1, "/screens",
     {"rule": 'ago(series("OUTPUT/Q.XA"), 2y) > 1'} | LIST),
    ("work.prices", "MOST_BARS", 3, "/prices", TWO | YEAR),
    ("work.estimatehistory", "MOST", 3, "/estimates/history",
     YEAR | {"company": "AGK@ZALD", "frequency": "week"}),
    ("work.seriesreading", "MOST_CELLS", 3, "/series/observations", BOTH),
    ("work.seriescompare", "MOST_COMPARED", 1, "/series/comparison", BOTH),
    ("core.series.keys", "MOST_SERIES", 1, "/series/observations", {"series": ["*/Q.XA"]}),
    ("work.seriessheets", "MOST_SERIES", 1, "/series/sheets/two", BOTH | {"who": "ada"}),
    ("work.statements", "MOST_COMPANIES", 1, "/statements", TWO),
    ("work.match", "MOST_TERMS", 1, "/matches", {"terms": ["a", "b"], "on": "2023-06-30"}),
    ("work.tablefile", "MOST_ROWS", 1, "/collections/files/members", MEMBERS),
    ("work.tablefile", "_LONGEST_CELL", 3, "/collections/files/members", MEMBERS),
    ("work.tablefile", "MOST_ROWS", 1, "/collections/files/rates", RATES),
    ("core.records.packed", "MOST_ROWS", 1, "/collections/files/prices", PRICES),
    ("core.records.packed", "MOST_UNPACKED", 99, "/collections/files/prices", PRICES),
)  # fmt: skip


class Limits(Live):
    def test_more_than_is_taken_at_once_is_refused_with_the_mend(self) -> None:
        brought(self.ledger)
        for module, name, most, path, asked in LIMITS:
            room = import_module(f"wise_ledger.{module}")
            verb = {"/estimates": "GET", "/series/sheets": "PUT"}.get(
                path.rpartition("/")[0], "POST"
            )
            where = (
                "params"
                if verb == "GET"
                else "content"
                if isinstance(asked, str | bytes)
                else "json"
            )
            how = {where: asked}
            with self.subTest(path, limit=f"{module}.{name}"):
                with patch.object(room, name, most):
                    answer = self.live.http(verb, path, **how)
                self.assertIn(answer.status_code, (413, 422), answer.text)
                problem = answer.json()["errors"][0]
                self.assertRegex(problem["problem"] + problem["mend"], rf"\b{most:,}\b", problem)
                self.assertTrue(problem["mend"])
                self.assertLess(self.live.http(verb, path, **how).status_code, 300)
