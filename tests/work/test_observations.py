"""Observations (F14): registered items, files of them, and trees of dated pages."""

import io
import zipfile

from tests.live import Live
from wise_ledger.client import InputRefused

HEAD = "company,item,observed_at,value,unit,published_at\n"
MAPPING = """
captured: "%Y%m%dT%H%M%SZ"
source: kestrel_pages
labels:
  Disclosure score: disclosure_score
  Value over earnings: quoted_multiple
  Quoted value: {item: quoted_value, scale: 0}
skip: [Last updated]
"""
PAGE = """<!doctype html><html><body><h1>Ashgrove Kilnworks</h1>
<table><tr><th>Disclosure score:</th><td>{score}</td></tr><tr><td>Value over earnings</td><td>14.5x</td></tr></table>
<dl><dt>Quoted value</dt><dd>USD 1.25bn</dd><dt>Last updated</dt><dd>yesterday</dd></dl>
<ul><li>Branches: 12</li></ul></body></html>"""


def packed(pages: dict[str, str]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for path, text in pages.items():
            archive.writestr(path, text)
    return out.getvalue()


class Observations(Live):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        for code, unit in (
            ("disclosure_score", "pure"),
            ("quoted_multiple", "pure"),
            ("quoted_value", "money"),
        ):
            cls.ledger.register_item(code, code, unit, "Kestrel pages", "Ada", stale_after=200)

    def seen(self, company: str, on: str, item: str = "disclosure_score") -> object:
        answer = self.ledger.explain(company, item, on).answer
        return answer.reason or answer.value

    def test_the_last_one_known_holds_until_it_is_stale_f14_t6_t9(self) -> None:
        rows = [
            "TSB@ZALD,disclosure_score,2020-03-05,40,,",
            # a week later: no month end draws them together
            "TSB@ZALD,disclosure_score,2020-03-12,41,,",
            "TSB@ZALD,disclosure_score,2020-03-12,44,,2020-06-01",  # the same day, restated
            "TSB@ZALD,disclosure_score,2020-02-01,39,,2020-09-01",  # an older one, published late
            "TSB@ZALD,disclosure_score,2022-03-01T08:00:00Z,50,,",
        ]
        found = self.ledger.load("observations", (HEAD + "\n".join(rows)).encode())
        self.assertEqual((found.rows, found.new, found.bad), (5, 5, []))
        # T8
        self.assertIsNone(self.ledger.load("observations", (HEAD + "\n".join(rows)).encode()).batch)
        expected = {
            "2020-03-04": "not_known", "2020-03-05": 40, "2020-03-11": 40, "2020-03-12": 41, "2020-05-31": 41,
            "2020-06-01": 44, "2020-09-02": 44, "2020-09-28": 44, "2020-09-29": "stale",
            "2022-03-01T07:59:59Z": "stale", "2022-03-01T08:00:00Z": 50,
        }  # fmt: skip
        self.assertEqual({on: self.seen("TSB@ZALD", on) for on in expected}, expected)
        explained = self.ledger.explain("TSB@ZALD", "disclosure_score", "2020-07-01").answer
        self.assertEqual(
            [(v.value, v.standing) for v in explained.versions], [(41, False), (44, True)]
        )
        self.assertEqual(explained.inputs[0].period, "seen 2020-03-12")
        self.ledger.load(
            "observations", (HEAD + "TSB@ZALD,disclosure_score,2022-03-01,,,2022-03-05\n").encode()
        )
        self.assertEqual(self.seen("TSB@ZALD", "2022-03-04"), 50)
        self.assertEqual(self.seen("TSB@ZALD", "2022-03-05"), "withdrawn")
        # it belongs to no period
        lines = self.ledger.statement("TSB@ZALD", "other", lines="all").answer.lines
        self.assertNotIn("disclosure_score", {line.item for line in lines})

    def test_they_mix_with_figures_in_rules_lists_and_columns(self) -> None:
        self.ledger.load(
            "observations", (HEAD + "AGK@ZALD,disclosure_score,2023-05-02,70,,\n").encode()
        )
        found = self.ledger.screen(
            "disclosure_score > 60 and revenue > 0", list="first-look", known_on="2023-06-30"
        )
        passed = [c.name for c in found.answer.companies if c.verdict == "pass"]
        self.assertEqual(passed, ["Ashgrove Kilnworks"])
        self.ledger.keep_list(
            "well-shown", title="Well shown", rule="disclosure_score > 60", who="Ada"
        )
        members = self.ledger.members(
            "well-shown", "2023-06-30", show=["disclosure_score / 100"]
        ).answer.members
        self.assertEqual([m.cells[0].value for m in members], [0.7])
        with self.assertRaisesRegex(InputRefused, "has no .fy"):
            self.ledger.screen("disclosure_score.fy > 1", list="first-look", known_on="2023-06-30")

    def test_a_tree_of_pages_gives_each_page_an_outcome(self) -> None:
        good = PAGE.format(score="63.0")
        pages = {
            "Ashgrove_Kilnworks/page_20240105T093000Z.html": good,
            "Ashgrove_Kilnworks/page_20240401T093000Z.csv": "Disclosure score,61\nValue over earnings,n/a\n",
            "Ashgrove_Kilnworks/page_20240501T093000Z.html": good[: len(good) // 2],
            "Ashgrove_Kilnworks/page_20240601T093000Z.html": "<html><body>Come back later</body></html>",
            "Ashgrove_Kilnworks/page_20240602T093000Z.html": "",
            "Ashgrove_Kilnworks/page_20240603T093000Z.html": good.replace("63.0", "1.234,5"),
            "Ashgrove_Kilnworks/page_20240604T093000Z.html": good.replace(
                "Quoted value", "Disclosure score"
            ),
            "Ashgrove_Kilnworks/page_20241340T093000Z.html": good,
            "Ashgrove_Kilnworks/page_29990101T093000Z.html": good,
            "Ashgrove_Kilnworks/page.html": good,
            "Ashgrove_Kilnworks/logo_20240105T093000Z.png": "x",
            "Nobody at All Inc/page_20240105T093000Z.html": good,
            "Dunmarsh Bank/": "",
            "readme.txt": "hello",
        }
        found = self.ledger.load_pages(packed(pages), MAPPING)
        self.assertEqual(found.new, 4)
        reported = {
            o.path.rpartition("/")[2] or o.path: (o.state, o.reason) for o in found.outcomes
        }
        reasons = {
            "page_20240501T093000Z.html": "breaks off", "page_20240601T093000Z.html": "no label and value",
            "page_20240602T093000Z.html": "empty", "page_20240603T093000Z.html": "two ways",
            "page_20240604T093000Z.html": "says disclosure_score twice|after a number",
            "page_20241340T093000Z.html": "no such day", "page_29990101T093000Z.html": "in the future",
            "page.html": "no instant of capture", "logo_20240105T093000Z.png": "pages of this kind",
            "Nobody at All Inc": "no single company", "readme.txt": "no company's folder",
        }  # fmt: skip
        for path, words in reasons.items():
            self.assertEqual(reported[path][0], "failed", path)
            self.assertRegex(reported[path][1], words)
        self.assertEqual(reported["Dunmarsh Bank"], ("empty", "the folder is empty"))
        self.assertEqual(sum(o.state == "stored" for o in found.outcomes), 2)
        self.assertEqual(found.unmapped, {"Branches": 1})
        # Known from the instant of capture, with the page as its document.
        self.assertEqual(self.seen("AGK@ZALD", "2024-01-05T09:29:59Z", "quoted_value"), "not_known")
        answer = self.ledger.explain("AGK@ZALD", "quoted_value", "2024-01-05T09:30:00Z").answer
        self.assertEqual((answer.value, answer.currency), (1.25e9, "USD"))
        (fact,) = answer.inputs[0].facts
        self.assertEqual(
            (fact.reported, fact.source, fact.place),
            ("USD 1.25bn", "kestrel_pages", "Quoted value"),
        )
        self.assertIn(b"Quoted value", self.ledger.document(fact.document.sha256)[1])
        self.assertEqual(self.seen("AGK@ZALD", "2024-04-02"), 61)
        self.assertEqual(self.seen("AGK@ZALD", "2024-04-02", "quoted_multiple"), 14.5)
        again = self.ledger.load_pages(packed(pages), MAPPING)
        self.assertEqual((again.new, again.batch), (0, None))

    def test_wrong_registrations_and_rows_are_refused_with_the_mend(self) -> None:
        for code, unit, words in (
            ("revenue", "money", "has an item"),
            ("country", "pure", "has this word"),
            ("X y", "pure", "no code"),
            ("staff_score", "euros", "no such unit"),
            ("disclosure_score", "money", "kept figures stay"),
        ):
            with self.assertRaisesRegex(InputRefused, words):
                self.ledger.register_item(code, "A title", unit, "somewhere", "Ada")
        rows = [
            f"AGK@ZALD,{row}"
            for row in (
                "revenue,2024-01-01,1,USD,",
                "disclosure_score,,1,,",
                "quoted_value,2024-01-01,1,,",
            )
        ]
        bad = self.ledger.load("observations", (HEAD + "\n".join(rows)).encode()).bad
        self.assertEqual([b.line for b in bad], [2, 3, 4])
        with self.assertRaisesRegex(InputRefused, "no ZIP"):
            self.ledger.load_pages(b"no archive", MAPPING)
        with self.assertRaisesRegex(InputRefused, "did you mean disclosure_score"):
            self.ledger.load_pages(packed({}), "labels: {Score: disclosure_scor}")
