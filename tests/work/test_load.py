"""Loading files: one batch or none, every bad row named with line, column, value,
problem and mend.
"""

import io
import json
import tempfile
from pathlib import Path

import pandas as pd

from tests.live import Live
from wise_ledger.client import InputRefused

COMPANIES = b"""company,name,country,currency,template,fiscal_year_end,status,status_date,status_cause,valid_from
H-1,Harrowgate Mills,XA,USD,industrial,6,active,,,2018-01-01
H-2,Oldcastle Weavers,XB,EUR,industrial,12,inactive,2022-05-01,bankruptcy,2018-01-01
AGK@ZALD,,,,,,,,,2024-06-01
"""
LISTINGS = b"""company,security_type,receipt_ratio,symbol,mic,currency,valid_from,valid_to,primary
files:H-1,,,HGM,ZALD,USD,2018-01-01,2022-12-31,yes
files:H-1,,,HGMX,ZALD,USD,2023-01-01,,yes
files:H-1,depositary_receipt,2,HGMR,ZCAL,JPY,2019-01-01,,no
"""
BAD = {  # kind, a row, the column, a word of the problem
    "companies": [
        ("company,name,country\nX-1,New,Xa", "country", "no country"),
        ("company,country\nX-1,XA", "name", "empty"),
        ("company,name,fiscal_year_end\nX-1,New,13", "fiscal_year_end", "no fiscal year end"),
        ("company,name,template\nX-1,New,shop", "template", "no template"),
        ("company,name,valid_from\nX-1,New,03/04/2020", "valid_from", "ambiguous"),
        ("company,name,status\nX-1,New,inactive", "status_date", "empty"),
        ("company,name\nisin:XA1234567890,New", "company", "check digit"),
        (
            "company,name,status,status_date,status_cause\nX-1,New,inactive,2020-01-01,merged into New",
            "status_cause",
            "merged into itself",
        ),
    ],
    "identifiers": [
        ("company,scheme,value\nAGK@ZALD,isin,XA0000000000", "value", "check digit"),
        ("company,scheme,value\nNobody At All,lei,x", "company", "no single company"),
        (
            "company,scheme,value,valid_from,valid_to\nAGK@ZALD,symbol,A,2020-01-02,2020-01-01",
            "valid_to",
            "before",
        ),
        (
            "company,scheme,value\nPTP@ZBRE,fernmark,FM-0001",
            "valid_from",
            "names Ashgrove Kilnworks",
        ),
    ],
    "listings": [
        ("company,symbol,mic,currency\nAGK@ZALD,A,zald,USD", "mic", "no mic"),
        (
            "company,symbol,mic,currency,security_type\nAGK@ZALD,A,ZALD,USD,bond",
            "security_type",
            "no security type",
        ),
        (
            "company,symbol,mic,currency,valid_from,valid_to\nAGK@ZALD,Q,ZALD,USD,2020-01-01,2021-01-01\n"
            "PTP@ZBRE,Q,ZALD,USD,2020-06-01,",
            "valid_from",
            "names Ashgrove Kilnworks in these days too",
        ),
    ],
    "members": [("list,company,weight\nmine,AGK@ZALD,much", "weight", "no number")],
}


class Loading(Live):
    def test_companies_listings_identifiers_and_members_go_in_and_are_found(self) -> None:
        loaded = self.ledger.load("companies", COMPANIES)
        self.assertEqual((loaded.rows, loaded.bad), (3, []))
        self.assertEqual(self.ledger.load("listings", LISTINGS).rows, 3)
        lei = b"company,scheme,value\nHGMX@ZALD,lei,529900T8BM49AURSDO55\n"
        self.assertEqual(self.ledger.load("identifiers", lei).rows, 1)
        members = (
            b"list,company,valid_from,valid_to,weight\nmills,HGMX@ZALD,2020-01-01,2023-12-31,0.4\n"
        )
        members += b"mills,AGK@ZALD,,,0.6\n"
        self.assertEqual(self.ledger.load("members", members).rows, 2)
        page = self.ledger.company("529900T8BM49AURSDO55", "2024-01-31")
        self.assertEqual((page.company.name, page.company.country), ("Harrowgate Mills", "XA"))
        self.assertEqual([x.symbol for x in page.listings], ["HGM", "HGMR", "HGMX"])
        rows = self.ledger.match(
            ["HGM@ZALD", "Oldcastle Weavers", "HGMX"], "2024-01-31"
        ).answer.rows
        self.assertEqual([r.outcome for r in rows], ["renamed", "inactive", "matched"])
        for on, count in (("2023-12-31", 2), ("2024-01-01", 1)):
            self.assertEqual(len(self.ledger.members("mills", on).members), count)
        again = self.ledger.load("listings", LISTINGS)
        self.assertEqual((again.rows, again.batch), (3, None))  # nothing new, so no batch
        self.ledger.verify()

    def test_a_company_that_is_active_again_was_not_in_between_t9(self) -> None:
        heads = "company,name,status,status_date,status_cause,valid_from\n"
        for row in (
            "H-3,Ferrow Looms,inactive,2021-05-01,receivership,2018-01-01",
            "H-3,,active,,,2023-03-01",
            "H-3,,inactive,2024-07-01,merged,2018-01-01",
        ):
            self.assertEqual(self.ledger.load("companies", (heads + row).encode()).rows, 1)
        expected = {
            "2021-04-30": (True, None, None),
            "2022-06-30": (False, "2021-04-30", "receivership"),
            "2023-03-01": (True, None, None),
            "2024-07-01": (False, "2024-06-30", "merged"),
        }
        for on, (active, ended, cause) in expected.items():
            page = self.ledger.company("files:H-3", on)
            found = page.company.active, page.ended and str(page.ended), page.end_cause
            self.assertEqual(found, (active, ended, cause), on)
            (row,) = self.ledger.match(["files:H-3"], on).answer.rows
            self.assertEqual(row.outcome, "matched" if active else "inactive", on)

    def test_every_bad_row_is_named_and_nothing_is_written(self) -> None:
        before = self.live.desk.ledger.last_batch()
        for kind, cases in BAD.items():
            for content, column, problem in cases:
                found = self.ledger.load(kind, content.encode())
                self.assertEqual((found.rows, found.batch), (0, None), content)
                self.assertEqual(found.bad[0].column, column, content)
                self.assertIn(problem, found.bad[0].problem, content)
                self.assertTrue(found.bad[0].mend, content)
                self.assertEqual(found.bad[0].line, content.count("\n") + 1)
        self.assertEqual(self.live.desk.ledger.last_batch(), before)

    def test_files_that_cannot_be_read_are_refused(self) -> None:
        for kind, content, word in (
            ("companies", b"", "no rows"),
            ("companies", b"company,naem\nx,y\n", "no such column"),
            ("companies", b'{"company": ', "no JSON"),
            ("weather", b"x", "not loaded"),
        ):
            with self.assertRaises(InputRefused) as caught:
                self.ledger.load(kind, content)
            self.assertIn(word, caught.exception.problems[0].problem)

    def test_other_formats_say_the_same(self) -> None:
        rows = [
            {"list": "formats", "company": "ISK@ZCAL", "weight": 1.0},
            {"list": "formats", "company": "PTP@ZBRE"},
        ]
        frame = pd.DataFrame(rows)
        parquet, sheet = io.BytesIO(), io.BytesIO()
        frame.astype({"weight": "object"}).where(frame.notna(), None).to_parquet(parquet)
        frame.to_excel(sheet, index=False)
        lines = "\n".join(json.dumps(r) for r in rows).encode()
        batches = [
            self.ledger.load("members", c).batch
            for c in (lines, parquet.getvalue(), sheet.getvalue())
        ]
        self.assertIsNotNone(batches[0])
        self.assertEqual(batches[1:], [None, None])

    def test_the_command_line_takes_the_good_and_writes_the_bad(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, rejects = Path(folder) / "members.csv", Path(folder) / "rejects.csv"
            path.write_text("list,company\npair,AGK@ZALD\npair,Nobody At All\n")
            refused = self.live.command("load", "members", str(path))
            self.assertEqual(refused.returncode, 1)
            self.assertIn("line 3, company: Nobody At All", refused.stderr)
            ended = self.live.command(
                "load", "members", str(path), "--accept-good", "--rejects", str(rejects)
            )
            self.assertEqual(ended.returncode, 3)
            self.assertIn("1 row of members loaded", ended.stdout)
            self.assertIn("Nobody At All", rejects.read_text())
        self.assertEqual(
            [c.name for c in self.ledger.members("pair").members], ["Ashgrove Kilnworks"]
        )


class Templates(Live):
    def test_the_template_of_each_kind_has_its_heads_and_a_row_that_loads(self) -> None:
        kinds = "companies listings identifiers members facts rates splits dividends shares delistings prices"
        for kind in kinds.split():
            content = self.ledger.load_template(kind)
            found = self.ledger.load(kind, content)
            self.assertEqual((found.rows, found.bad), (1, []), kind)
        self.assertEqual(
            self.ledger.explain("EXW@ZALD", "revenue.fy", "2024-03-01").answer.value, 1_250_000
        )
        ended = self.live.command("load", "observations", "seen.csv", "--template")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        path = Path("seen.csv")
        self.addCleanup(path.unlink, missing_ok=True)
        self.assertTrue(path.read_text().startswith("company,item,observed_at"))
        again = self.live.command("load", "observations", "seen.csv", "--template")
        self.assertEqual(again.returncode, 2)
        missing = self.live.command("load", "rates", "nowhere.csv")
        self.assertIn("--template", missing.stderr)
        with self.assertRaises(InputRefused):
            self.ledger.load_template("weather")
