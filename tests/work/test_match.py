"""Stories 2, 9, 13 and 17 through client, API and command line; decisions; lists (T7, T9)."""

import io
import tempfile
from pathlib import Path

import openpyxl

from tests.live import Live
from wise_ledger.client import InputRefused, NotThere
from wise_ledger.wire.identity import MatchRow

ON = "2024-03-31"


class Matching(Live):
    def one(self, term: str, on: str = ON, **how: object) -> MatchRow:
        (row,) = self.ledger.match([term], on, **how).answer.rows  # type: ignore[arg-type]
        return row

    def test_a_symbol_given_up_and_taken_by_another_story_2(self) -> None:
        names = [
            (r.outcome, r.company and r.company.name)
            for r in (self.one("LNK@ZALD", d) for d in ("2020-06-30", ON))
        ]
        self.assertEqual(
            names, [("matched", "Lorne Knitwear"), ("matched", "Linkwater Technology Holdings plc")]
        )

    def test_two_venues_a_receipt_and_two_classes_story_9(self) -> None:
        self.assertEqual(self.one("PTPX").company, self.one("PTPX@ZALD").company)
        all_ = self.one(
            "Pellam Tide Power", all_listings=True, types=("ordinary", "depositary_receipt")
        ).company
        assert all_ is not None
        self.assertEqual([x.symbol for x in all_.listings], ["PTP", "PTPR", "PTPX"])
        vennet = self.ledger.company("VHL@ZBRE", ON)
        self.assertEqual({x.security_type for x in vennet.listings}, {"ordinary", "preference"})

    def test_a_bankruptcy_is_inactive_with_its_cause_story_13(self) -> None:
        row = self.one("Wexmoor Airways")
        self.assertEqual(
            (row.outcome, row.notes), ("inactive", ["not active after 2023-02-17: bankruptcy"])
        )
        self.assertEqual(self.one("Wexmoor Airways", "2022-12-31").outcome, "matched")
        self.assertEqual(self.one("Wexmoor Airways", ever=True).outcome, "matched")
        for with_inactive, count in ((True, 32), (False, 30)):
            self.assertEqual(self.ledger.companies(on=ON, with_inactive=with_inactive).total, count)

    def test_names_that_are_hard_to_match_story_17(self) -> None:
        for term, name in {
            "Marlow Intl Shipping": "Marlow International Shipping N.V.",
            "MARLOWE INTERNATIONAL SHIPPING": "Marlowe International Shipping (Caldry) K.K.",
            "Societe Brevanne Electricite": "Société Brévanne d'Électricité S.A.",
            "Tidemark Cooperative Strs Inc.": "Tidemark Co-Operative Stores",
            "Linkwater Tech Hldgs": "Linkwater Technology Holdings plc",
            "Tarn and Sable Txetiles": "Tarn & Sable Textiles",
        }.items():
            row = self.one(term)
            self.assertEqual(
                (row.outcome, row.company and row.company.name), ("matched", name), term
            )
        self.assertEqual(self.one("Kestwick Dyes & Alkali").outcome, "renamed")

    def test_mapping_to_other_schemes_and_back(self) -> None:
        found = self.ledger.match(
            ["AGK@ZALD", "Isken Paper", "nobody at all"],
            ON,
            to=["isin", "lei", "symbol", "company"],
        )
        frame = found.frame()
        self.assertEqual(frame["symbol"].tolist()[:2], ["AGK@ZALD", "ISK@ZCAL"])
        again = self.ledger.match(
            frame["isin"].tolist()[:2] + frame["lei"].tolist()[:2], ON
        ).frame()
        self.assertEqual(again["name"].tolist(), ["Ashgrove Kilnworks", "Isken Paper"] * 2)
        self.assertEqual(found.answer.counts["not_found"], 1)
        self.assertIn("2 matched, 1 not found", repr(found))

    def test_a_company_is_named_by_any_identifier_everywhere(self) -> None:
        page = self.ledger.company("AGK@ZALD", ON)
        for span in (*page.identifiers, page.names[0]):
            text = (
                span.value
                if span.kind in ("name", "company", "isin", "lei")
                else f"{span.kind}:{span.value}"
            )
            self.assertEqual(
                self.ledger.explain(text, "revenue", ON).answer.company, page.company.id, text
            )
        self.assertEqual(page.holdings[0].item, "revenue")
        self.assertLessEqual(max(h.last_published for h in page.holdings).isoformat(), ON)

    def test_an_identifier_names_whom_it_named_on_the_day_of_the_question(self) -> None:
        for on, name in (
            ("2020-06-30", "Lorne Knitwear"),
            ("2024-06-30", "Linkwater Technology Holdings plc"),
        ):
            self.assertEqual(self.ledger.explain("LNK@ZALD", "revenue", on).answer.name, name)
            self.assertEqual(self.ledger.statement("LNK@ZALD", known_on=on).answer.name, name)
            self.assertEqual(self.ledger.company("LNK@ZALD", on).company.name, name)
        before_it_was_listed = self.ledger.explain("AGK@ZALD", "revenue", "1999-12-31").answer
        self.assertEqual(
            (before_it_was_listed.name, before_it_was_listed.reason),
            ("Ashgrove Kilnworks", "not_known"),
        )

    def test_bad_questions_are_refused(self) -> None:
        for terms, on, how in (([], ON, {}), (["x"], "31/03/24", {}), (["x"] * 20_001, ON, {})):
            with self.assertRaises(InputRefused):
                self.ledger.match(terms, on, **how)
        with self.assertRaises(NotThere):
            self.ledger.company("Zzyzx Qwortle")

    def test_venues_and_listings_are_counted(self) -> None:
        by_kind = {
            (v.mic, v.security_type): (v.listings, v.companies)
            for v in self.ledger.venues(ON).venues
        }
        self.assertEqual(by_kind["ZBRE", "preference"], (1, 1))
        listed = self.ledger.listings(ON).listings
        self.assertEqual(sum(n for n, _ in by_kind.values()), len(listed))
        lnk = [
            (r.name, r.listing.valid_to)
            for r in self.ledger.listings(venue="ZALD").listings
            if r.listing.symbol == "LNK"
        ]
        self.assertEqual(
            [n for n, _ in lnk], ["Lorne Knitwear", "Linkwater Technology Holdings plc"]
        )

    def test_the_command_line_reads_files_and_says_what_is_open(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "watch.csv"
            path.write_bytes("symbol;name\nAGK@ZALD;x\nLNK@ZALD;y\n".encode("utf-16"))
            ended = self.live.command("match", str(path), "--known-on", ON, "--to", "isin")
            self.assertEqual(ended.returncode, 0, ended.stderr)
            self.assertIn("Linkwater Technology Holdings plc", ended.stdout)
            ended = self.live.command("match", str(path), "--known-on", ON, "--column", "name")
            self.assertEqual(ended.returncode, 3)
            wrong = self.live.command("match", str(path), "--known-on", ON, "--column", "isin")
            self.assertEqual(wrong.returncode, 2)
            self.assertIn("the columns are symbol, name", wrong.stderr)
        for noun in (
            ("companies", "search", "marlow"),
            ("companies", "show", "PTP@ZBRE"),
            ("venues",),
            ("listings",),
        ):
            self.assertGreater(len(self.live.command(*noun).stdout.splitlines()), 2, noun)


class Files(Live):
    def terms(self, content: bytes, column: str | None = None) -> list[str]:
        return [t.text for t in self.ledger.read_terms(content, column).terms]

    def test_encodings_and_delimiters(self) -> None:
        text = 'name,country\nSociété Brévanne,XB\n"Tarn, Sable",XA\n'
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "latin-1"):
            read = self.ledger.read_terms(text.encode(encoding))
            self.assertEqual(
                [t.text for t in read.terms], ["Société Brévanne", "Tarn, Sable"], encoding
            )
            self.assertEqual((read.column, read.terms[0].country), ("name", "XB"))
        mixed = "name\nBrévanne\n".encode() + "Électricité\n".encode("latin-1")
        read = self.ledger.read_terms(mixed)
        self.assertEqual([t.text for t in read.terms], ["Brévanne", "Électricité"])
        self.assertIn("line 3 is not UTF-8", read.notes[0])
        self.assertEqual(self.terms(b"code\tname\nAGK@ZALD\tx\n"), ["AGK@ZALD"])
        self.assertEqual(
            self.terms(b"Tarn, Sable & Co\nAGK@ZALD\n\n"), ["Tarn, Sable & Co", "AGK@ZALD"]
        )
        names = ["Ashgrove Kilns", "Tarn, Sable & Co", "Lorne Knitwear"]
        quoted = ['"Tarn, Sable & Co"' if "," in n else n for n in names]
        for delimiter in ",;\t|":
            for heads, column in (
                (["Company Name", "weight"], None),
                (["what", "Firma"], "what"),
                (["who_is_it", "isin"], "Who is it"),
                ([], None),
            ):
                rows = [delimiter.join(heads)] if heads else []
                rows += [delimiter.join([n, "0.5"]) for n in quoted]
                found = self.ledger.read_terms("\n".join(rows).encode(), column)
                self.assertEqual([t.text for t in found.terms], names, (delimiter, heads))
                self.assertIn("2" if heads else "no head", found.notes[-1])
        plain = "\n".join(names).encode()
        self.assertEqual(self.terms(plain), names)

    def test_a_spreadsheet(self) -> None:
        book = openpyxl.Workbook()
        sheet = book.active
        assert sheet is not None
        for row in (
            ["Company", "ISIN"],
            ["x", "XA0000000001"],
            ["y", 1234563.0],
            ["z", "=A1"],
            ["w", 1.23e8],
        ):
            sheet.append(row)
        out = io.BytesIO()
        book.save(out)
        self.assertEqual(
            self.terms(out.getvalue()), ["XA0000000001", "1234563", "=A1", "123000000"]
        )
        self.assertEqual(self.terms(out.getvalue(), "company")[0], "x")
        with self.assertRaises(InputRefused):
            self.ledger.read_terms(b"PK\x03\x04 broken")

    def test_empty_files_and_wrong_columns_are_refused(self) -> None:
        for content in (b"", b"\n \n", b"\xff\xfe"):
            with self.assertRaises(InputRefused) as caught:
                self.ledger.read_terms(content)
            self.assertEqual(caught.exception.problems[0].problem, "the file is empty")
        with self.assertRaises(InputRefused) as caught:
            self.ledger.read_terms(b"name,country\nx,y\n", "isin")
        self.assertIn("name, country", caught.exception.problems[0].mend)


class Keeping(Live):
    def test_a_list_kept_of_a_match_has_the_renamed_and_the_ended_too(self) -> None:
        terms = ["AGK@ZALD", "Kestwick Dyes & Alkali", "Wexmoor Airways", "nobody at all"]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "names.txt"
            path.write_text("\n".join(terms), "utf-8")
            for name, out in (("all-of-it", ()), ("alive", ("--leave-out", "inactive"))):
                ended = self.live.command(
                    "match", str(path), "--known-on", ON, "--keep", name, "--who", "Ada", *out
                )
                self.assertEqual(ended.returncode, 3)
                self.assertIn("1 matched, 1 renamed", ended.stderr)
        self.assertIn("without 1 inactive, 1 not found", ended.stderr)
        for name, day, count in (
            ("all-of-it", "2023-02-17", 3),
            ("all-of-it", "2023-02-18", 2),
            ("alive", "2023-02-17", 2),
        ):
            self.assertEqual(
                len(self.ledger.members(name, known_on=day).answer.members), count, (name, day)
            )

    def test_a_missing_file_and_an_unknown_scheme_are_refused(self) -> None:
        for given in (
            ("nosuchfile.csv",),
            ("AGK@ZALD", "--to", "ticker"),
            ("AGK@ZALD", "--to", "foo"),
        ):
            ended = self.live.command("match", *given, "--known-on", ON)
            self.assertEqual(ended.returncode, 2, given)
        self.assertIn("there is no such scheme", ended.stderr)

    def test_codes_never_cross_securities(self) -> None:
        terms, kinds = (
            ["VHL@ZBRE", "VHL.P@ZBRE", "PTPR@ZCAL"],
            ["ordinary", "preference", "depositary_receipt"],
        )
        found = self.ledger.match(terms, ON, to=["isin", "lei"], types=kinds)
        ordinary, preference, receipt = found.answer.rows
        self.assertIsNotNone(ordinary.codes[0])
        self.assertEqual([preference.codes[0], receipt.codes[0]], [None, None])
        self.assertEqual(preference.codes[1], ordinary.codes[1])  # an LEI is the company's
        self.assertIn("this preference has no isin", "; ".join(preference.notes))

    def test_venues_say_where_they_are_and_can_be_called_otherwise(self) -> None:
        found = {v.mic: v for v in self.ledger.venues(ON).venues}
        self.assertEqual(
            (found["ZCAL"].country, found["ZCAL"].name, found["ZALD"].close),
            ("XC", "Caldry Exchange", "16:30"),
        )
        before = self.ledger.match(["AGK.ALD", "AGK XX"], ON).answer.rows
        self.assertEqual([r.outcome for r in before], ["ambiguous", "ambiguous"])
        self.assertIn("no venue is called ALD", before[0].notes[0])
        ended = self.live.command("venues", "alias", "ZALD", ".ALD", "Aldmoor", "--who", "Ada")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        after = self.ledger.match(
            ["AGK.ALD", "ald:agk", {"text": "AGK", "venue": "aldmoor exchange"}], ON
        ).answer.rows
        self.assertEqual(
            [(r.outcome, r.company and r.company.name) for r in after],
            [("matched", "Ashgrove Kilnworks")] * 3,
        )
        self.ledger.call_venue(".ALD", None, "Ada")
        self.assertEqual(self.ledger.match(["AGK.ALD"], ON).answer.rows[0].outcome, "ambiguous")
        with self.assertRaises(InputRefused):
            self.ledger.call_venue(".X", "QQQQ", "Ada")

    def test_search_puts_the_word_first(self) -> None:
        self.assertIn("Électricité", self.ledger.companies("electricite").companies[0].name)


class People(Live):
    def test_a_decision_is_kept_used_shown_and_taken_back_t7(self) -> None:
        term = "Marlow Shipping"
        before = self.ledger.match([term], ON).answer
        # a person sees at once whom it may mean
        self.assertEqual(before.rows[0].outcome, "ambiguous")
        kept = self.ledger.decide(term, "MRL@ZBRE", "Ada", "the seat is Brennholt")
        self.assertEqual(
            (kept.name, kept.who, kept.stands), ("Marlow International Shipping N.V.", "Ada", True)
        )
        row = self.ledger.match(["  marlow   SHIPPING "], ON).answer.rows[0]
        self.assertEqual((row.outcome, row.decided), ("matched", "Ada: the seat is Brennholt"))
        then = self.live.http(
            "POST", "/matches", json={"terms": [term], "on": ON, "recorded_by": before.batch}
        ).json()
        self.assertEqual(then["rows"], [r.model_dump(mode="json") for r in before.rows])
        ended = self.live.command("match", term, "--known-on", ON, "--forget", "--who", "Ada")
        self.assertIn("taken back: Marlow Shipping", ended.stderr)
        self.assertEqual(self.ledger.match([term], ON).answer.rows, before.rows)
        self.assertEqual([d.stands for d in self.ledger.decisions()], [False, False])
        with self.assertRaises(NotThere):
            self.ledger.decide(term, None, "Ada")
        with self.assertRaises(InputRefused):
            self.ledger.decide(term, "MRL@ZBRE", " ")
