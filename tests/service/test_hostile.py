"""Hostile values in files of every kind and form, and in questions: refused as bad input,
or kept, and no more.
"""

import csv
import io
import json
import os
import random
import time
import unittest
import zipfile
from collections.abc import Iterator
from decimal import Decimal
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import yaml
from tools.everycall import MAPPING, PAGE

from tests.answers import document
from tests.hostile import mutated
from tests.live import Live
from tests.service.questions import ASKED, answered, brought
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.core.records.kinds import KINDS
from wise_ledger.work.templates import COLUMNS, template

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
WORDS = [
    "",
    " ",
    "x",
    "AGK@ZALD",
    "li-0",
    "first-look",
    "eps",
    "é" * 300,
    "o'clock",
    "%",
    "=1+1",
    "null",
    "true",
]
DAYS = [
    "2024-03-28",
    "1899-12-31",
    "2201-01-01",
    "0001-01-01",
    "9999-12-31",
    "28/03/2024",
    "2024-02-30",
]
MOMENTS = [
    "2024-03-28T10:00:00Z",
    "2024-03-28T10:00:00",
    "2999-01-01T00:00:00Z",
    "2024-03-28T10:00:00+14:00",
]
NUMBERS = [
    "1",
    "41.2",
    "4120",
    "0",
    "-1",
    "nan",
    "inf",
    "1e400",
    "1e21",
    "1,234.5",
    "0x10",
    "  7 ",
    "1e-300",
]
# What Python takes for a number or a day, and nobody else; texts of every kind of evil.
MORE = [
    "²", "٣", "１", "½", "1_0", "9" * 5000, "0" * 400 + "1", "+1", "-0", "1.", "∞", "1 000", "\u00a05", "1e5", "--",
    "2024-3-1", "24-03-28", "20240328", "2024-W13-4", "2024-03-28T24:00:00Z", "2024-03-28T10:00:60Z", "2023Q5",
    "2024-03-28T10:00:00+99:0", "a" * 40_000, "tab\there", "\x00", "\x1b[31m", "\u202e1", "../etc", "EURO", "12:60",
    "Europe/Nowhere", "FY2023", "ordinary", "q", "ZZZ",
]  # fmt: skip
PATHS = [
    "Ashgrove_Kilnworks/page_20230601T120000Z.html", "AGK@ZALD/x_20230602T120000Z.csv", "../p_20230601T120000Z.html",
    "/abs/p_20230601T120000Z.html", "a/b/c/d_20230601T120000Z.html", "Ashgrove_Kilnworks/", "nobody/p.html",
    "Ashgrove_Kilnworks/page_20231301T990000Z.html", "é/page_20230601T120000Z.html", "page_20230601T120000Z.pdf",
    "Ashgrove_Kilnworks/page_99990601T120000Z.html", f"AGK@ZALD/{'n' * 300}_20230601T120000Z.html", "C:\\x\\p.html",
]  # fmt: skip
TYPED: dict[Any, list[Any]] = {
    pa.timestamp("ns", "UTC"): [1, 2**62], pa.timestamp("us"): [1, 2**62, -(2**62)], pa.timestamp("s", "UTC"): [2**60],
    pa.date32(): [2**31 - 1, 0], pa.date64(): [10**15, 1], pa.int64(): [2**63 - 1, -(2**63)], pa.uint64(): [2**64 - 1],
    pa.float64(): [float("nan"), float("inf"), 1e308, -0.0], pa.bool_(): [True], pa.duration("us"): [2**62],
    pa.time64("us"): [5], pa.null(): [None], pa.decimal128(38, 1): [Decimal("9" * 37)], pa.binary(): [b"\xff"],
    pa.dictionary(pa.int8(), pa.string()): ["x"], pa.list_(pa.int8()): [[1]], pa.large_string(): ["x"],
}  # fmt: skip
GOOD = {
    "listing": "AGK@ZALD",
    "security": "AGK@ZALD",
    "company": "AGK@ZALD",
    "list": "first-look",
    "measure": "eps",
}
FILES = int(os.environ.get("FILES", "160"))
FORMS = ("json", "csv", "arrow", "parquet", "xlsx")
ANY = (
    WORDS
    + DAYS
    + MOMENTS
    + NUMBERS
    + ["fy1", "ntm", "FY2023", "turned", "mean,date", "EUR", "quarantined", *FORMS]
)
# What names companies, and names that no header may begin with.
NAMING, BLANKS = {"company", "companies", "terms"}, (" ", "  nobody", "\tnobody ")
MANY = int(os.environ.get("TEXTS", "0"))  # of these in the place of every text of a question
# Texts that are slow to look at for whoever looks from each of their letters on.
LONG = [
    *(" " * 40_000 + "x", "a: x" + " " * 40_000 + "y", "1" * 40_000 + "x", "a" * 40_000),
    *("(" * 40_000, '"' * 40_000, "a." * 20_000, "1 " * 20_000, "not " * 10_000, "a+" * 20_000),
    *("2023-01-01/" * 3_600, "=mean(" * 6_500, "[(" * 20_000, "<p>" * 13_000, "\n" * 40_000),
]


class Hostile(Live):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        brought(cls.ledger)
        cls.ledger.keep_list("by-rule", [], "ada", rule="market_value > 1bn USD")

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
            return (
                "\n".join(lines)
                + self.random.choice(["", "\n", '\n"open, quote', "\n,,,,,,,,,,,,,9"])
            ).encode()
        if form == "json":
            value = lambda text: self.random.choice([text] * 9 + [None, 1.5, True, [1], {"a": 1}])  # noqa: E731
            return "\n".join(json.dumps({h: value(r[h]) for h in heads}) for r in rows).encode()
        columns: dict[str, Any] = {h: [r[h] for r in rows] for h in heads}
        for head in self.random.sample(heads, min(2, len(heads))):
            columns[head] = self.random.choice(
                [[v] * len(rows) for v in (None, 1.5, b"\xff", [1], True)]
            )
        out, table = io.BytesIO(), pa.table(columns)
        if form == "parquet":
            pq.write_table(table, out)
        else:
            with pa.ipc.new_file(out, table.schema) as writer:
                writer.write_table(table)
        whole = out.getvalue()
        return whole[: -self.random.randint(1, 200)] if self.random.random() < 0.2 else whole

    def test_a_file_of_any_kind_is_bad_input_or_kept_and_stops_nothing_else(self) -> None:
        taken, everybody = (
            0,
            len(self.ledger.screen("active", known_on="2024-03-29").answer.companies),
        )
        self.ledger.load("series", b"series,period,value\nOUTPUT/Q.XA.TOTAL.SA,2024Q1,1\n")
        for _ in range(FILES):
            name = self.random.choice(LOADED)
            kind = self.kind(name)
            heads = [h for h in kind.heads if self.random.random() > 0.04] or [kind.heads[0]]
            rows = [self.row(kind, heads) for _ in range(self.random.randint(0, 4))]
            content = self.file(heads, rows)
            asked = {"accept_good": self.random.choice(["true", "false"])}
            answer = self.live.http(
                "POST", f"/collections/files/{name}", content=content, params=asked
            )
            self.assertLess(answer.status_code, 500, (name, content[:400]))
            taken += answer.status_code == 200 and bool(answer.json()["rows"])
        self.assertGreater(taken, FILES // 16)
        self.live.desk.ledger.verify()
        rule = "market_value / net_income > 1 and total_return(1y) > -1 and estimate(eps, fy1) / close > -9"
        for known_on in ("2024-03-29", "2024-12-31"):
            found = self.ledger.screen(rule, known_on=known_on, currency="EUR")
            self.assertEqual(len(found.answer.companies), everybody)
        self.assertGreaterEqual(len(self.ledger.market_quality().findings), 0)

    def test_every_cell_of_every_kind_takes_any_word_or_is_named_as_bad_and_stops_no_answer(
        self,
    ) -> None:
        words = [*WORDS, *DAYS, *MOMENTS, *NUMBERS, *MORE]
        for kind in sorted({*COLUMNS, *COLUMN_KINDS}):
            head, row = csv.reader(io.StringIO(template(kind).decode()))
            good = dict(zip(head, row, strict=True)) | {h: GOOD[h] for h in head if h in GOOD}
            rows = [good | {h: word} for h in head for word in words]
            out = io.StringIO()
            writer = csv.DictWriter(out, head)
            writer.writeheader()
            writer.writerows(rows)
            with self.subTest(kind):
                loaded = self.ledger.load(kind, out.getvalue().encode(), accept_good=True)
                self.assertEqual(loaded.rows + len(loaded.bad), len(rows))
                for bad in loaded.bad:
                    self.assertTrue(bad.line and bad.mend, bad)
                    cell = rows[bad.line - 2][bad.column]  # as it stands in the file
                    self.assertTrue(
                        cell.lstrip().startswith(bad.value.lstrip().removesuffix("…")), bad
                    )
        found = answered(self.live)
        self.assertEqual(set(found.values()), {200}, found)

    def test_a_column_of_any_type_is_read_or_refused(self) -> None:
        typed = [pa.array([value], kind) for kind, given in TYPED.items() for value in given]
        for kind in sorted({*COLUMNS, *COLUMN_KINDS}):
            head, row = csv.reader(io.StringIO(template(kind).decode()))
            good = dict(zip(head, row, strict=True)) | {h: GOOD[h] for h in head if h in GOOD}
            for name in head:
                for odd in self.random.sample(typed, 5):
                    columns = {h: pa.array([cell or None]) for h, cell in good.items()}
                    table, out = pa.table(columns | {name: odd}), io.BytesIO()
                    with pa.ipc.new_stream(out, table.schema) as writer:
                        writer.write_table(table)
                    answer = self.live.http(
                        "POST", f"/collections/files/{kind}", content=out.getvalue()
                    )
                    said = (kind, name, str(odd.type), answer.text[:200])
                    self.assertIn(answer.status_code, (200, 422), said)

    def test_a_file_whose_cells_are_lost_or_doubled_is_refused_with_its_line_and_keeps_nothing(
        self,
    ) -> None:
        before = self.live.desk.ledger.last_batch()
        deep = b"[" * 100_000
        for kind in sorted({*COLUMNS, *COLUMN_KINDS}):
            head, row = template(kind).decode().strip().split("\n")[:2]
            first = head.split(",")[0]
            for damage, content in {
                "a row longer than its head": f"{head}\n{row},7\n{row}\n",
                "a number parted by its comma": f"{head}\n{row}\n{row},234.5\n",
                "an open quote": f'{head}\n"{row}\n{row}\n{row}\n',
                "two columns of one name": f"{head},{first}\n{row},x\n",
                "a name twice in an object": f'{{"{first}": "a", "{first}": "b"}}\n',
                "a line that is no object": f'{{"{first}": "a"}}\n[1]\n',
                "nested without end": b'{"a": ' + deep,
                "a cell of megabytes": f"{head}\n{'9' * 5_000_000}{row}\n",
                "no file at all": "",
            }.items():
                raw = content if isinstance(content, bytes) else content.encode()
                response = self.live.http("POST", f"/collections/files/{kind}", content=raw)
                where = (kind, damage, response.text[:300])
                self.assertIn(response.status_code, (200, 422), where)
                problems = response.json().get("errors") or response.json().get("bad")
                self.assertTrue(problems and problems[0]["mend"], where)
            wide = f"{head}\n{row}".encode("utf-16")
            for odd in (
                head.encode("utf-16")[:-1],
                f"{head}\r{row}\r".encode(),
                b"\xff\xfe\x00\xd8",
                b"PAR1" * 9,
                wide,
                b"PK\x03\x04" * 9,
                b"ARROW1" * 9,
                b"\x00" * 5000,
                f"{head}\n\x00{row}".encode(),
            ):
                response = self.live.http(
                    "POST",
                    f"/collections/files/{kind}",
                    content=odd,
                    params={"accept_good": "false"},
                )
                self.assertIn(
                    response.status_code, (200, 422), (kind, odd[:40], response.text[:300])
                )
        self.assertLessEqual(
            self.live.desk.ledger.last_batch() - before, 3 * len({*COLUMNS, *COLUMN_KINDS})
        )

    def test_a_spreadsheet_that_unpacks_without_end_is_refused_at_once(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("xl/worksheets/sheet1.xml", b" " * (300 << 20))
        began = time.monotonic()
        for path in ("/collections/files/facts", "/collections/files/prices", "/matches/terms"):
            response = self.live.http("POST", path, content=out.getvalue())
            self.assertEqual(response.status_code, 422, response.text[:200])
            self.assertIn("MB", response.text)
        self.assertLess(time.monotonic() - began, 5)

    def test_an_archive_of_pages_of_any_bytes_is_refused_or_read_page_by_page(self) -> None:
        random, statuses = self.random, set[int]()
        self.ledger.register_item("disclosure_score", "Disclosure score", "pure", "pages", "ada")

        def page() -> bytes:
            texts = [
                f"<tr><td>{w}</td><td>{random.choice(MORE)}</td></tr>"
                for w in ("Disclosure score", "x")
            ]
            text = f"<table>{''.join(texts)}</table>" + random.choice(["", "<div>" * 9999, PAGE])
            return random.choice([text.encode(), text.encode("utf-16"), random.randbytes(300)])

        for _ in range(80):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", random.choice([0, zipfile.ZIP_DEFLATED])) as packed:
                for name in random.sample(PATHS, random.randint(0, 4)):
                    packed.writestr(name, page())
            content = bytearray(out.getvalue())
            for _ in range(random.choice([0, 0, 1, 8])):
                content[random.randrange(len(content))] = random.randrange(256)
            params = {"mapping": MAPPING, "name": "pages"}
            answer = self.live.http(
                "POST", "/collections/pages", content=bytes(content), params=params
            )
            self.assertIn(answer.status_code, (200, 422), answer.text[:300])
            statuses.add(answer.status_code)
        self.assertEqual(statuses, {200, 422})
        self.live.desk.ledger.verify()

    def test_definitions_that_are_nested_without_end_are_refused_and_the_service_stands(
        self,
    ) -> None:
        for text in ("[" * 100_000, "{" * 100_000, "- " * 100_000, "a: &a [*a]"):
            asked = {"text": text, "who": "ada"}
            answer = self.live.http("POST", "/measures/definitions", json=asked)
            self.assertEqual(answer.status_code, 422, answer.text[:300])

    def test_a_mapping_of_any_shape_is_refused_at_its_place(self) -> None:
        facts = yaml.safe_load(
            "{company: AGK@ZALD, unit: USD, head: 1, labels: 1, scale: 0, skip: [Note], items: {Turnover: "
            "{item: revenue, sign: 1}, Cost: cost_of_revenue}, periods: {A: {start: 2023-01-01, end: 2023-12-31}}}"
        )
        series = yaml.safe_load(
            "{head: 1, periods: 1, frequency: month, series: {A: {key: X/M.A}, B: X/M.B}, missing: [x]}"
        )
        texts = [
            "head: -1", "a: &a [*a]", "a: &x [1]\nb: *x", "{" * 5000, "company: 1\ncompany: 2", "? [a]\n: b", "- 1", "",
            "\t", "end: 2023-02-31", "a: !!python/object:os.system x", "\x00", "head: 1e999",
            "items: {x: {item: revenue, scale: 999}}",
        ]  # fmt: skip
        for words in (facts, series):
            for _ in range(60):
                texts.append(
                    mutated(json.loads(json.dumps(words, default=str)), self.random, 1).decode(
                        "utf-8", "replace"
                    )
                )
        table = b"x,A,B\nTurnover,1,2\nCost,3,4\n"
        for text in texts:
            for kind in ("facts", "series"):
                response = self.live.http(
                    "POST",
                    f"/collections/files/{kind}",
                    content=table,
                    params={"mapping": text[:20000]},
                )
                self.assertIn(
                    response.status_code,
                    (200, 422, 414, 431),
                    (kind, text[:200], response.text[:300]),
                )
        self.assertTrue(self.live.desk.ledger.verify())

    def test_a_question_of_any_words_is_answered_or_bad_input(self) -> None:
        paths = document()["paths"]
        for path, operations in paths.items():
            names = [
                p["name"]
                for p in operations.get("get", {}).get("parameters", [])
                if p["in"] == "query"
            ]
            if "{" in path or not names:
                continue
            for _ in range(12):
                chosen = self.random.sample(names, self.random.randint(1, min(4, len(names))))
                asked = {n: self.random.choice(ANY) for n in chosen}
                if "company" in names and self.random.random() < 0.7:
                    asked["company"] = "AGK@ZALD"
                answer = self.live.http("GET", path.removeprefix("/api/v1"), params=asked)
                self.assertLess(answer.status_code, 500, (path, asked))

    def test_a_text_anywhere_is_answered_in_moments_however_long_or_blank_it_is(self) -> None:
        kept = {"rule": "close > 1 USD", "title": "a", "description": "b", "who": "ada"}
        more = {
            "POST /measures/checks": {"expression": "close", "title": "a"},
            "PUT /lists/own": kept,
        }
        for call, asked in {**ASKED, **more}.items():
            verb, path, *_ = call.split()
            for place in _texts(asked):
                if place[0] not in NAMING and not MANY:
                    continue
                for text in (*BLANKS, *self.random.sample(LONG, MANY)):
                    given = _with(asked, place, text[:4_000] if verb == "GET" else text)
                    began = time.process_time()
                    by = {"params" if verb == "GET" else "json": given}
                    answer = self.live.http(verb, path, **by)
                    about = (call, place, text[:20], answer.text[:200])
                    self.assertLess(answer.status_code, 500, about)
                    self.assertLess(time.process_time() - began, 3.0, about)


def _texts(asked: Any, place: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Where a question has a text; of several alike the first."""
    if isinstance(asked, str):
        yield place
    elif isinstance(asked, dict):
        for name, value in asked.items():
            yield from _texts(value, (*place, name))
    elif isinstance(asked, list):
        yield from _texts(asked[0], (*place, 0))


def _with(asked: Any, place: tuple[Any, ...], text: str) -> Any:
    """The question with another text there."""
    if not place:
        return text
    changed = asked.copy()
    changed[place[0]] = _with(asked[place[0]], place[1:], text)
    return changed


if __name__ == "__main__":
    unittest.main()
