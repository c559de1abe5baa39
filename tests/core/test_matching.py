"""Matching at its door: schemes, symbols through time, names,
and that no term is ever lost or silently misread.
"""

import unittest
from datetime import date

from benchmarks.slips import code_terms, make_universe, name_terms
from hypothesis import given
from hypothesis import strategies as st
from stdnum import cusip, isin

from tests.properties import examples
from wise_ledger.core.identity.matching import Hint, Matched, Matcher, Outcome, Policy
from wise_ledger.core.identity.names import words
from wise_ledger.core.identity.schemes import (
    CHECKED,
    one_slip_away,
    read_identifier,
    zeros_restored,
)
from wise_ledger.core.identity.symbols import read_symbol, symbol_key
from wise_ledger.core.identity.universe import (
    Activity,
    Ending,
    IdentifierSpan,
    Listing,
    NameSpan,
    Security,
    Stretch,
    Universe,
)
from wise_ledger.core.time.periods import day

LOST = "00123456" + cusip.calc_check_digit("00123456")


def at(text: str) -> int:
    return day(date.fromisoformat(text))


def small() -> Universe:
    """A symbol that two companies held, a renaming, an end, two nearly equal
    names, two venues, a receipt.
    """
    names = [
        "Lorne Knitwear",
        "Linkwater Technology Holdings plc",
        "Kestwick Chemicals",
        "Marlow Shipping N.V.",
        "Marlowe Shipping K.K.",
        "Tidemark Co-Operative Stores",
        "Aberford AG",
    ]
    spans = [NameSpan(n, i, Stretch()) for i, n in enumerate(names) if i != 2]
    spans += [
        NameSpan("Aberford plc", 5, Stretch()),
        NameSpan("Kestwick Dyes", 2, Stretch(until=at("2022-09-30"))),
        NameSpan("Kestwick Chemicals", 2, Stretch(at("2022-10-01"))),
    ]
    activity = [Activity("XA", (Ending(Stretch(at("2021-09-01")), "merged"),))]
    activity += [Activity(c) for c in ("XA", "XB", "XB", "XC", "XA", "XB")]
    securities = [Security(i, i, "ordinary") for i in range(7)] + [
        Security(7, 5, "depositary_receipt", "", 2.0)
    ]
    listings = [
        Listing(0, 0, "LNK", "ZALD", "USD", Stretch(until=at("2021-08-31")), True),
        Listing(1, 1, "LNK", "ZALD", "USD", Stretch(at("2023-09-01")), True),
        Listing(2, 2, "KWC", "ZBRE", "EUR", Stretch(), True),
        Listing(3, 3, "MRL.B", "ZBRE", "EUR", Stretch(), True),
        Listing(4, 4, "MIS", "ZCAL", "JPY", Stretch(), True),
        Listing(5, 5, "TCS", "ZALD", "USD", Stretch(), True),
        Listing(6, 5, "TCSX", "ZBRE", "EUR", Stretch(), False),
        Listing(7, 7, "TCSR", "ZCAL", "JPY", Stretch(), True),
        Listing(8, 6, "MIS", "ZBRE", "EUR", Stretch(), True),
    ]
    identifiers = [
        IdentifierSpan("isin", isin.from_natid("XA", "123456789"), 1, 1, Stretch()),
        IdentifierSpan(
            "isin", isin.from_natid("XB", "123456789"), 2, 2, Stretch(until=at("2022-01-01"))
        ),
        IdentifierSpan("cusip", LOST, 5, 5, Stretch()),
        IdentifierSpan("fernmark", "FM-9", 3, None, Stretch()),
    ]
    venues = {"ZALD": "XA", "ZBRE": "XB", "ZCAL": "XC"}
    return Universe(activity, identifiers, spans, securities, listings, venues)


SMALL = small()
LARGE = make_universe(400, 5)


def match(term: str, on: str = "2024-06-30", hint: Hint | None = None, **policy: object) -> Matched:
    return Matcher(SMALL, at(on), Policy(**policy), ("fernmark",)).match(term, hint)  # type: ignore[arg-type]


class Schemes(unittest.TestCase):
    @given(st.sampled_from(LARGE.identifiers))
    def test_a_code_is_read_bare_and_with_its_scheme(self, span: IdentifierSpan) -> None:
        for text in (
            f"{span.scheme}:{span.value}",
            f" {span.scheme.upper()} : {span.value.lower()} ",
        ):
            reading = read_identifier(text)
            assert reading is not None
            self.assertEqual(
                (reading.scheme, reading.value, reading.problem), (span.scheme, span.value, None)
            )
        bare = read_identifier(span.value)
        assert bare is not None
        self.assertTrue(CHECKED[bare.scheme](bare.value))

    @given(
        st.sampled_from([i for i in LARGE.identifiers if i.scheme in ("isin", "lei")]), st.data()
    )
    def test_one_wrong_character_is_shown_with_what_it_was(
        self, span: IdentifierSpan, data: st.DataObject
    ) -> None:
        wrong = data.draw(
            st.sampled_from(
                [w for w in one_slip_away(span.value) if not CHECKED[span.scheme](w)][:200]
            )
        )
        reading = read_identifier(f"{span.scheme}:{wrong}")
        assert reading is not None and reading.problem
        found = Matcher(LARGE, at("2024-06-30")).match(f"{span.scheme}:{wrong}")
        self.assertEqual((found.outcome, found.chosen), (Outcome.INVALID, None))
        self.assertIn(f"{span.scheme}:{span.value}", found.repair)

    def test_what_a_spreadsheet_did_is_shown(self) -> None:
        self.assertIn("digits are lost", match("1.23E+08").notes[0])
        lost = match(LOST.lstrip("0"))
        self.assertEqual((lost.outcome, lost.repair), (Outcome.INVALID, (f"cusip:{LOST}",)))
        self.assertEqual(
            [r.value for r in zeros_restored(LOST.lstrip("0")) if r.scheme == "cusip"], [LOST]
        )
        for text, word in (
            ("=SUM(A1)", "formula"),
            ("", "empty"),
            ("  ", "empty"),
            ("x" * 1_000_000, "1000000 characters"),
        ):
            found = match(text)
            self.assertEqual(found.outcome, Outcome.INVALID)
            self.assertIn(word, found.notes[0])
            self.assertLess(len(found.term), 200)

    def test_a_source_key_is_a_scheme_too(self) -> None:
        found = match("fernmark:FM-9")
        self.assertEqual(found.chosen and found.chosen.company, 3)
        self.assertEqual(match("fernmark:FM-8").outcome, Outcome.NOT_FOUND)


class Symbols(unittest.TestCase):
    def test_spellings_of_one_symbol_agree(self) -> None:
        for text in (
            "MRL.B",
            "mrl-b",
            "MRL/B",
            "MRL B",
            "MRL.B@ZBRE",
            "zbre:mrl.b",
            "MRL-B.ZBRE",
            "mrl b zbre",
            "MRL.B XB",
        ):
            found = match(text)
            self.assertEqual(
                (found.outcome, found.chosen and found.chosen.company), (Outcome.MATCHED, 3), text
            )
        self.assertEqual(symbol_key(" a-b/c "), "A.B.C")
        self.assertEqual(
            [r.place for r in read_symbol("ABC.ZALD", {"ZALD": "ZALD"})], ["ZALD", None]
        )

    def test_a_symbol_means_who_held_it_then(self) -> None:
        before, between, after = (
            match("LNK@ZALD", d) for d in ("2020-01-31", "2022-01-31", "2024-01-31")
        )
        self.assertEqual(
            (before.outcome, before.chosen and before.chosen.company), (Outcome.MATCHED, 0)
        )
        self.assertIn("is of Linkwater Technology Holdings plc from 2023-09-01", before.notes[0])
        self.assertEqual(
            (between.outcome, between.chosen and between.chosen.company), (Outcome.INACTIVE, 0)
        )
        self.assertEqual(
            (after.outcome, after.chosen and after.chosen.company), (Outcome.MATCHED, 1)
        )
        self.assertIn("was of Lorne Knitwear until 2021-08-31", after.notes[0])

    def test_a_bare_symbol_of_two_venues_needs_a_hint(self) -> None:
        self.assertEqual(match("MIS").outcome, Outcome.AMBIGUOUS)
        self.assertEqual({c.company for c in match("MIS").candidates}, {4, 6})
        for hint in (Hint(venue="ZCAL"), Hint(country="XC")):
            found = match("MIS", hint=hint)
            self.assertEqual(found.chosen and found.chosen.company, 4)

    def test_policies_choose_listings_and_types(self) -> None:
        def listed(**policy: object) -> list[str]:
            found = match("Tidemark Cooperative Stores", **policy)
            return [x.symbol for x in (found.chosen.listings if found.chosen else ())]

        self.assertEqual(listed(), ["TCS"])
        self.assertEqual(listed(all_listings=True), ["TCS", "TCSX"])
        both = frozenset({"ordinary", "depositary_receipt"})
        self.assertEqual(listed(all_listings=True, types=both), ["TCS", "TCSR", "TCSX"])
        self.assertEqual(match("Lorne Knitwear", ever=True).outcome, Outcome.MATCHED)


class Names(unittest.TestCase):
    def test_ways_of_writing_one_name_agree(self) -> None:
        for one, other in (
            ("The Tarn & Sable Textiles Co., Ltd.", "Tarn and Sable Textiles"),
            ("Marrowby Co-Operative S.p.A.", "MARROWBY COOPERATIVE"),
            ("Intl Paper Wks Inc", "International Paper Works Corporation"),
            ("Jørgen Bätz A/S", "Jorgen Batz"),
            ("Quennick Foundry GmbH & Co. KG", "Quennick Foundry AG"),
            ("Vennet Harbor Lines N.V. Class A Ord Shs", "Vennet Harbour Lines"),
            ("Oxlade Instruments (Caldry) K.K.", "Oxlade Instruments Kabushiki Kaisha"),
        ):
            self.assertEqual(words(one), words(other))
        self.assertNotEqual(words("Marlow Shipping"), words("Marlowe Shipping"))
        for name in ("AG", "Ltd", "Ord", "(x)", "&"):
            self.assertTrue(words(name) or not name.isalpha(), name)

    def test_nearly_equal_names_are_distinguished_or_left_open(self) -> None:
        self.assertEqual(
            match("Marlow Shipping").chosen and match("Marlow Shipping").chosen.company, 3
        )  # type: ignore[union-attr]
        self.assertEqual(
            match("MARLOWE SHIPPING").chosen and match("MARLOWE SHIPPING").chosen.company, 4
        )  # type: ignore[union-attr]
        self.assertEqual(
            match("Marlow Shipping").notes, ("nearly the same name: Marlowe Shipping K.K.",)
        )
        unclear = match("Aberford")
        self.assertEqual(unclear.outcome, Outcome.AMBIGUOUS)
        self.assertEqual({c.company for c in unclear.candidates[:2]}, {5, 6})

    def test_a_former_name_is_shown_as_renamed_with_the_new_one(self) -> None:
        now, then = match("Kestwick Dyes"), match("Kestwick Dyes", "2022-01-31")
        self.assertEqual((now.outcome, then.outcome), (Outcome.RENAMED, Outcome.MATCHED))
        self.assertEqual(
            now.notes, ("called Kestwick Dyes until 2022-09-30, now Kestwick Chemicals",)
        )

    def test_an_identifier_that_ended_is_shown_as_renamed(self) -> None:
        old = isin.from_natid("XB", "123456789")
        self.assertEqual(match(old).outcome, Outcome.RENAMED)
        self.assertEqual(match(old, "2021-06-30").outcome, Outcome.MATCHED)

    def test_what_a_person_would_see_at_once_is_theirs_to_settle(self) -> None:
        for term, company in {
            "Tidemark": 5,
            "Kestwik Chemcial Co": 2,
            "Linkwater Holdings": 1,
        }.items():
            found = match(term)
            self.assertIs(found.outcome, Outcome.AMBIGUOUS, term)
            self.assertEqual([c.company for c in found.candidates], [company])

    def test_slips_in_the_legal_form_cost_nothing(self) -> None:
        for term in (
            "Kestwick Chemicals Lmited",
            "Kestwick Chemicals Gmhb",
            "Kestwick Chemicals Ltdd",
        ):
            self.assertIs(match(term).outcome, Outcome.MATCHED, term)

    def test_a_name_not_yet_borne_and_a_company_not_yet_listed_are_named(self) -> None:
        self.assertIn(
            "named so from 2022-10-01, Kestwick Dyes before",
            match("Kestwick Chemicals", "2022-01-01").notes,
        )
        self.assertIn(
            "not listed before 2023-09-01",
            match("Linkwater Technology Holdings plc", "2023-01-01").notes,
        )

    def test_a_key_given_bare_names_whom_it_named_to_its_source(self) -> None:
        self.assertEqual(match("FM-9").chosen.company, 3)  # type: ignore[union-attr]

    def test_a_symbol_with_an_unknown_suffix_says_who_has_it(self) -> None:
        for term in ("KWC.QQ", "KWC XX"):
            found = match(term)
            self.assertEqual(
                (found.outcome, [c.company for c in found.candidates]),
                (Outcome.AMBIGUOUS, [2]),
                term,
            )
            self.assertIn("no venue is called", found.notes[0])

    def test_what_is_nothing_like_any_name_is_not_found(self) -> None:
        found = match("Zzyzx Qwortle")
        self.assertEqual((found.outcome, found.chosen), (Outcome.NOT_FOUND, None))


class Files(unittest.TestCase):
    @examples(40)
    @given(
        st.lists(
            st.one_of(
                st.text(max_size=40),
                st.sampled_from(["LNK@ZALD", "Marlow Shipping", "XA1234567897", "=A1", "", "MIS"]),
            ),
            max_size=30,
        )
    )
    def test_every_term_has_an_outcome_in_its_place(self, terms: list[str]) -> None:
        found = Matcher(SMALL, at("2024-06-30")).match_all(terms)
        self.assertEqual(len(found), len(terms))
        for term, one in zip(terms, found, strict=True):
            self.assertEqual(one.term, term)
            self.assertEqual(
                one.chosen is not None,
                one.outcome in (Outcome.MATCHED, Outcome.RENAMED, Outcome.INACTIVE),
            )

    def test_a_term_that_came_before_says_so(self) -> None:
        found = Matcher(SMALL, at("2024-06-30")).match_all(["TCS", "KWC", "tcs "])
        self.assertEqual(found[2].notes[-1], "the same as row 1")
        self.assertEqual(found[0].chosen, found[2].chosen)

    def test_codes_and_names_with_slips_reach_their_bounds(self) -> None:
        matcher = Matcher(LARGE, at("2024-06-30"), Policy(ever=True))
        for terms in (code_terms(LARGE, 400, 71), name_terms(LARGE, 800, 72)):
            found = matcher.match_all([t.text for t in terms])
            taken = [
                (t, f) for t, f in zip(terms, found, strict=True) if f.outcome is Outcome.MATCHED
            ]
            right = sum(f.chosen is not None and f.chosen.company == t.company for t, f in taken)
            self.assertGreaterEqual(right / len(taken), 0.995)
            self.assertGreaterEqual(right / len(terms), 0.95)

    @examples(60)
    @given(st.sampled_from(LARGE.identifiers), st.data())
    def test_a_slip_in_a_code_never_matches_another_company(
        self, span: IdentifierSpan, data: st.DataObject
    ) -> None:
        wrong = data.draw(st.sampled_from(list(one_slip_away(span.value))))
        found = Matcher(LARGE, at("2024-06-30"), Policy(ever=True)).match(f"{span.scheme}:{wrong}")
        if found.outcome is Outcome.MATCHED:
            assert found.chosen is not None
            own = {(i.scheme, i.value) for i in LARGE.identifiers_of[found.chosen.company]}
            self.assertIn((span.scheme, wrong), own)  # the slip made another's very own code
