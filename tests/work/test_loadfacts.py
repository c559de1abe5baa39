"""Figures from files: rows of facts, and wide tables by a mapping file (Q1, T4, T6, T8)."""

import json

from tests.live import Live
from wise_ledger.client import InputRefused

HEAD = "company,item,period_start,period_end,value,unit,published_at,document,source\n"
GOOD = "AGK@ZALD,order_backlog,,2023-12-31,5e8,USD,2024-02-01T07:00:00Z,Backlog,desk\n"
WIDE = """Quennick Foundry;;;
Profit and loss account;;;
in thousands of USD;;;
;2013;2014;Notes
Turnover;1 000.5;(2,500);1
Continuing operations;;;
Note 3: turnover is net;7;8;
Profit for the year;10;−20;
Shares in issue;1000;;
Fixed assets;5;x;
Mystery;1;2;
"""
MAPPING = """
company: QNK@ZALD
unit: USD
head: 4
scale: head
items:
  Turnover: revenue
  Profit for the year: {item: net_income, sign: -1}
  Shares in issue: {item: shares_outstanding, unit: shares}
  Fixed assets: property_plant_equipment
periods:
  "2013": {start: 2013-01-01, end: 2013-12-31, published_at: 2014-03-01}
  "2014": {start: 2014-01-01, end: 2014-12-31, published_at: 2015-03-01}
skip: [Note, Mystery]
"""


class LoadFacts(Live):
    def load(self, *rows: str, **how: object):  # type: ignore[no-untyped-def]
        return self.ledger.load("facts", (HEAD + "".join(rows)).encode(), **how)  # type: ignore[arg-type]

    def value(self, company: str, expression: str, on: str, **how: object) -> float | str | None:
        return self.ledger.explain(company, expression, on, **how).answer.value  # type: ignore[arg-type]

    def test_a_figure_published_in_the_future_is_a_bad_row_with_its_line(self) -> None:
        late = GOOD.replace("2024-02-01T07:00:00Z", "2090-02-01T07:00:00Z").replace(
            "2023-12-31", "2022-12-31"
        )
        found = self.load(late, GOOD.replace("2023-12-31", "2022-12-31"))
        bad = [(row.line, row.column, row.problem) for row in found.bad]
        self.assertEqual(bad, [(2, "published_at", "it is in the future")])
        # the good row beside it is not loaded unless that is asked for
        self.assertIsNone(found.new)

    def test_a_loaded_figure_is_known_from_its_publication_with_its_file_as_document(self) -> None:
        found = self.load(GOOD, name="backlog.csv")
        self.assertEqual((found.rows, found.new, found.bad), (1, 1, []))
        self.assertIsNone(self.value("AGK@ZALD", "order_backlog", "2024-01-31"))
        answer = self.ledger.explain("AGK@ZALD", "order_backlog", "2024-02-01").answer
        self.assertEqual(answer.value, 5e8)
        (fact,) = answer.inputs[0].facts
        self.assertEqual(
            (fact.source, fact.place, fact.document.title),
            ("desk", "line 2, Backlog", "backlog.csv"),
        )
        _, raw = self.ledger.document(fact.document.sha256)
        self.assertEqual(raw.decode(), HEAD + GOOD)
        self.assertIsNone(self.load(GOOD, name="backlog.csv").batch)  # T8: nothing new
        # A row without a value withdraws (T6), one without publication date is assumed to lag (T4).
        self.load("AGK@ZALD,order_backlog,,2023-12-31,,USD,2024-03-01,Taken back,desk\n")
        self.assertEqual(
            self.ledger.explain("AGK@ZALD", "order_backlog", "2024-03-01").answer.reason,
            "withdrawn",
        )
        self.load("TSB@ZALD,order_backlog,,2023-12-31,7,USD,,,\n")
        late = self.ledger.explain("TSB@ZALD", "order_backlog", "2024-03-30").answer
        self.assertEqual((late.value, late.marks), (7, ["assumed"]))
        self.assertIsNone(self.value("TSB@ZALD", "order_backlog", "2024-03-29"))

    def test_a_source_of_any_name_goes_before_others_and_many_are_all_named_t5(self) -> None:
        day = "2021-12-31"
        names = ["desk", "Kestrel pages", *(f"page {n}" for n in range(150))]
        rows = [
            GOOD.replace("2023-12-31", day).replace("desk", name).replace("5e8", str(n + 1))
            for n, name in enumerate(names)
        ]
        self.assertEqual(self.load(*rows).new, len(names))
        asked = ("AGK@ZALD", "order_backlog", "2024-02-01", {"period_end": day})
        value = lambda: self.ledger.explain(*asked[:3], **asked[3]).answer.value  # noqa: E731
        self.assertEqual(value(), 1)
        self.ledger.prefer_sources(["Kestrel pages", "desk"], "Ada", item="order_backlog")
        self.assertEqual(value(), 2)
        (order,) = [o for o in self.ledger.source_orders() if o.item == "order_backlog"]
        self.assertEqual(order.sources, ["Kestrel pages", "desk"])
        shown = self.ledger.panel(
            ["AGK@ZALD"], ["order_backlog"], ["2024-02-01"], beside=["source"], progress=False
        )
        beside = shown.frame()["order_backlog.source"].iloc[0]
        self.assertEqual(beside.split("; "), names)
        self.ledger.prefer_sources([], "Ada", item="order_backlog")

    def test_every_bad_row_is_named_and_nothing_is_loaded_unless_the_good_are_taken(self) -> None:
        wrong = {
            "nobody at all,revenue,2023-01-01,2023-12-31,1,USD,2024-02-01,,\n": "company",
            "ISK@ZCAL,revnue,2023-01-01,2023-12-31,1,USD,2024-02-01,,\n": "item",
            "ISK@ZCAL,revenue,2023-12-31,2023-01-01,1,USD,2024-02-01,,\n": "period_start",
            "ISK@ZCAL,revenue,,2023-12-31,1,USD,2024-02-01,,\n": "period_start",
            "ISK@ZCAL,total_assets,2023-01-01,2023-12-31,1,USD,2024-02-01,,\n": "period_start",
            "ISK@ZCAL,revenue,2023-01-01,2023-12-31,1,shares,2024-02-01,,\n": "unit",
            "ISK@ZCAL,revenue,2023-01-01,2023-12-31,about 5,USD,2024-02-01,,\n": "value",
            "ISK@ZCAL,revenue,2023-01-01,2023-12-31,NaN,USD,2024-02-01,,\n": "value",
            "ISK@ZCAL,revenue,2023-01-01,2023-12-31,1,USD,2023-02-01,,\n": "published_at",
            "ISK@ZCAL,revenue,2023-01-01,31/12/2023,1,USD,2024-02-01,,\n": "period_end",
        }
        good = "ISK@ZCAL,provisions,,2023-12-31,1,JPY,2024-02-01,,\n"
        twice = "ISK@ZCAL,provisions,,2023-12-31,2,JPY,2024-02-01,,\n"
        before = self.live.desk.ledger.last_batch()
        found = self.load(good, *wrong, twice)
        self.assertEqual([b.column for b in found.bad], [*wrong.values(), "value"])
        self.assertEqual([b.line for b in found.bad], list(range(3, 14)))
        self.assertTrue(all(b.problem and b.mend for b in found.bad))
        self.assertEqual((found.rows, self.live.desk.ledger.last_batch()), (0, before))
        taken = self.load(good, *wrong, twice, accept_good=True)
        self.assertEqual((taken.rows, taken.new), (1, 1))
        self.assertEqual(self.value("ISK@ZCAL", "provisions", "2024-06-30"), 1)

    def test_a_wide_table_with_its_scale_in_the_head_and_notes_between(self) -> None:
        found = self.ledger.load("facts", WIDE.encode(), mapping=MAPPING, name="quennick.csv")
        self.assertEqual([(b.line, b.column, b.value) for b in found.bad], [(10, "value", "x")])
        huge = WIDE.replace(";5;x;", f";{'9' * 25};6;")  # one of the two figures of a line
        found = self.ledger.load("facts", huge.encode(), mapping=MAPPING, name="quennick.csv")
        self.assertEqual([(b.line, b.value) for b in found.bad], [(10, "9" * 25)])
        found = self.ledger.load(
            "facts", WIDE.replace(";x;", ";6;").encode(), mapping=MAPPING, name="quennick.csv"
        )
        self.assertEqual((found.rows, found.bad), (7, []))
        for expression, on, value in (
            ("revenue.fy", "2014-03-01", 1_000_500.0),
            ("revenue.fy", "2015-03-01", -2_500_000.0),
            ("net_income.fy", "2015-03-01", 20_000.0),
            ("property_plant_equipment", "2015-03-01", 6000.0),
            ("shares_outstanding", "2014-06-30", 1000.0),
        ):
            self.assertEqual(self.value("QNK@ZALD", expression, on), value, expression)
        unmapped = MAPPING.replace(", Mystery", "")
        problem = self.ledger.load("facts", WIDE.replace(";x;", ";6;").encode(), mapping=unmapped)
        self.assertEqual([(b.line, b.value) for b in problem.bad], [(11, "Mystery")])

    def test_a_wrong_mapping_is_refused_with_the_mend(self) -> None:
        for change, word in (
            (("head: 4", "head: 1"), "none of these is one of the periods"),
            (("head: 4", "hed: 4"), "head"),
            (("Turnover: revenue", "Turnover: revnue"), "revenue"),
            (("scale: head", "scale: lots"), "scale"),
            (("company: QNK@ZALD", ""), "company"),
            (("end: 2013-12-31", "till: 2013-12-31"), "start, end"),
            (("items:", "items: [\n"), "no YAML"),
        ):
            with self.assertRaisesRegex(InputRefused, word):
                self.ledger.load("facts", WIDE.encode(), mapping=MAPPING.replace(*change))
        with self.assertRaisesRegex(InputRefused, "only facts"):
            self.ledger.load("members", b"list,company\nx,AGK@ZALD\n", mapping=MAPPING)

    def test_the_command_says_what_was_loaded(self) -> None:
        path = self.live.folder / "rows.jsonl"
        row = {
            "company": "PHC@ZBRE",
            "item": "employees",
            "period_end": "2023-12-31",
            "value": 120,
            "unit": "count",
        }
        path.write_text(json.dumps(row))
        ended = self.live.command("load", "facts", str(path))
        self.assertRegex(
            ended.stdout, r"1 row of facts loaded, batch \d+, 1 new; 0 bad rows", ended.stderr
        )
