"""Lists: kept by hand, by a rule, by a source; filtered, edited, versioned,
with figures as columns (T7, T9).
"""

import math
from itertools import permutations, product
from operator import and_, or_, sub

from tests.live import Live
from wise_ledger.client import InputRefused, WiseLedgerError

ON = "2024-03-31"
SETS = {"union": or_, "intersection": and_, "difference": sub}


class Lists(Live):
    def test_lists_are_kept_changed_combined_and_screened(self) -> None:
        self.ledger.keep_list(
            "two-mills",
            ["ISK@ZCAL", "Quennick Foundry", "AGK@ZALD", "AGK@ZALD"],
            "Ada",
            "Two mills",
        )
        now = self.ledger.members("two-mills")
        self.assertEqual(
            [c.name for c in now.members], ["Ashgrove Kilnworks", "Isken Paper", "Quennick Foundry"]
        )
        found = self.ledger.screen("operating_income / revenue > 15%", "two-mills", "2023-06-30")
        self.assertEqual(found.counts.passed, 2)
        batch = found.batch
        self.ledger.keep_list("two-mills", ["ISK@ZCAL", "Nethercot Timber"], "Ada")
        names = [c.name for c in self.ledger.members("two-mills").members]
        self.assertEqual(names, ["Isken Paper", "Nethercot Timber"])
        past = self.ledger.screen("revenue > 0", "two-mills", "2023-06-30", recorded_by=batch)
        self.assertEqual(len(past.answer.companies), 3)
        body = {
            "name": "both",
            "who": "Ada",
            "how": "intersection",
            "lists": ["two-mills", "first-look"],
        }
        answer = self.live.http("POST", "/lists", json=body)
        self.assertEqual([m["name"] for m in answer.json()["members"]], names)
        for wrong in (
            {"name": "Two Mills"},
            {"companies": []},
            {"who": ""},
            {"how": "intersection", "lists": ["two-mills"]},
        ):
            body = {"name": "x", "companies": ["ISK@ZCAL"], "who": "Ada", **wrong}
            self.assertEqual(self.live.http("POST", "/lists", json=body).status_code, 422, wrong)
        self.assertEqual(self.ledger.verify().batches, self.live.desk.ledger.last_batch())

    def test_a_list_by_a_rule_holds_on_every_date_t9(self) -> None:
        kept = self.ledger.keep_list("brennholt", who="Ada", rule='country == "XB" and active')
        self.assertEqual(len(kept.members), 12)
        before = {c.name for c in self.ledger.members("brennholt", "2018-06-30").members}
        self.assertEqual(len(before), 3)  # the others are not known of before 2021
        found = self.ledger.screen("operating_income / revenue > 20%", "brennholt", "2023-06-30")
        self.assertEqual((found.counts.passed, len(found.answer.companies)), (2, 12))
        ended = self.live.command("lists", "keep", "brennholt", "--rule", "active", "--who", "Ada")
        self.assertEqual(ended.returncode, 2)
        self.assertIn("there is a list of this name", ended.stderr)
        with self.assertRaises(InputRefused):  # it would collect for nobody, and call that finished
            self.ledger.collect("fernmark", "brennholt")
        ended = self.live.command("lists", "keep", "wrong", "--rule", "countr == 3", "--who", "Ada")
        self.assertIn("did you mean country", ended.stderr)
        self.assertIn(
            "Pellam Tide Power", self.live.command("lists", "members", "brennholt").stdout
        )
        self.assertIn("preference", self.live.command("securities", "--known-on", ON).stdout)

    def test_an_index_of_a_source_has_dated_members_and_weights(self) -> None:
        june, july = (
            self.ledger.members("index-of-aldmoor", d).members for d in ("2023-06-30", "2023-07-01")
        )
        self.ledger.keep_list("airways", ["WXM@ZALD", "AGK@ZALD"], "Ada")
        for with_inactive, count in ((True, 2), (False, 1)):
            found = self.ledger.members("airways", ON, with_inactive=with_inactive)
            self.assertEqual(
                (len(found.members), found.answer.with_inactive), (count, with_inactive)
            )
        left = {c.name for c in june} - {c.name for c in july}
        self.assertEqual(
            (left, {c.name for c in july} - {c.name for c in june}),
            ({"Brackwater Glass"}, {"Garrick Moor Quarries"}),
        )

    def test_lists_are_filtered_copied_described_and_archived(self) -> None:
        found = self.ledger.members(
            "first-look", "2023-06-30", where='venue == "ZALD" and total_assets > 1bn USD'
        )
        self.assertEqual({c.country for c in found.members}, {"XA"})
        self.assertLess(len(found.members), 9)
        kinds = self.ledger.members("first-look", "2023-06-30", where='security_type == "ordinary"')
        self.assertEqual((len(kinds.members), kinds.answer.unknown), (23, 0))
        self.assertEqual(
            len(self.ledger.combine_lists("a-copy", "union", ["index-of-aldmoor"], "Ada").members),
            5,
        )
        ended = self.live.command(
            "lists", "describe", "a-copy", "--title", "A copy", "--archive", "--who", "Ada"
        )
        self.assertIn("A copy, archived", ended.stdout)
        self.assertNotIn("a-copy", [x.name for x in self.ledger.lists()])
        self.assertIn("a-copy", [x.name for x in self.ledger.lists(archived=True)])
        back = self.ledger.change_list("a-copy", "Ada", archived=False, description="to try")
        self.assertEqual((back.title, back.description, back.archived), ("A copy", "to try", False))
        ended = self.live.command(
            "lists", "combine", "rest", "difference", "first-look", "a-copy", "--who", "Ada"
        )
        self.assertEqual(ended.returncode, 0, ended.stderr)

    def test_lists_combine_as_sets_on_any_day(self) -> None:
        """Named ones, with weights, and by a rule, as they stood then; and never to nobody."""
        self.ledger.keep_list("large", rule="revenue > 1bn USD", who="Ada")
        names = ("first-look", "index-of-aldmoor", "large")
        for n, (day, how, pair) in enumerate(
            product(("2022-06-30", "2023-08-31"), SETS, permutations(names, 2))
        ):
            one, other = ({m.id for m in self.ledger.members(x, day).members} for x in pair)
            wanted = SETS[how](one, other)
            with self.subTest(day, how=how, lists=pair):
                if wanted:
                    made = self.ledger.combine_lists(f"set-{n}", how, pair, "Ada", day)
                    self.assertEqual({m.id for m in made.members}, wanted)
                else:
                    with self.assertRaisesRegex(InputRefused, f"nobody stands in their {how} on"):
                        self.ledger.combine_lists(f"set-{n}", how, pair, "Ada", day)
        words = ("lists", "combine", "then", "intersection", *names, "--known-on", "2022-06-30")
        self.assertIn("today, batch", self.live.command(*words, "--who", "Ada").stdout)

    def test_chosen_figures_stand_beside_the_members_and_agree_with_a_screen(self) -> None:
        margin = "operating_income / revenue"
        found = self.ledger.members(
            "first-look", "2023-06-30", show=[margin, "country", "current_assets", "active"]
        )
        frame = found.frame()
        screened = self.ledger.screen(f"{margin} > 15%", "first-look", "2023-06-30").frame()
        for company, value in screened[margin].items():
            self.assertTrue(
                frame[margin][company] == value
                or (math.isnan(value) and math.isnan(frame[margin][company]))
            )
        self.assertEqual(
            {m.cells[1].value for m in found.members}, {m.country for m in found.members}
        )
        bank = next(m for m in found.members if m.industry == "64")
        self.assertEqual([c.reason for c in bank.cells][2], "not_applicable")
        self.assertEqual({m.cells[3].value for m in found.members}, {"yes"})
        ended = self.live.command(
            "lists",
            "members",
            "first-look",
            "--known-on",
            ON,
            "--show",
            "revenue",
            "--format",
            "csv",
        )
        self.assertIn("revenue,revenue.reason,revenue.currency,revenue.period", ended.stdout)
        ended = self.live.command("lists", "members", "first-look", "--show", "revnue")
        self.assertIn("did you mean revenue", ended.stderr)

    def test_a_column_may_be_reckoned_from_those_before_it(self) -> None:
        show = ["pe: market_value / net_income", "revenue: net_income", "yield: 1 / pe"]
        show.append("twice: 2 * yield + revenue / revenue")
        found = self.ledger.members("first-look", "2024-06-28", show=show)
        self.assertEqual(
            [c.name for c in found.answer.columns], ["pe", "revenue", "yield", "twice"]
        )
        for member in found.members:
            pe, _, inverse, twice = member.cells
            self.assertEqual(pe.reason, inverse.reason)
            if pe.value is not None:
                self.assertAlmostEqual(inverse.value * pe.value, 1.0)
                # A name that means something of its own means that: the item, not the column.
                self.assertAlmostEqual(twice.value, 2 * inverse.value + 1)
                self.assertIsNotNone(inverse.known_at)
        ended = self.live.command(
            "lists", "members", "first-look", "--show", "a: b + 1", "--show", "b: revenue"
        )
        self.assertIn("b", ended.stderr)
        self.assertNotEqual(ended.returncode, 0)

    def test_an_edit_is_a_version_with_who_when_and_what(self) -> None:
        self.ledger.keep_list("mills", ["ISK@ZCAL", "QNK@ZALD"], "Ada", "Mills")
        self.ledger.change_list("mills", "Ben", add=["AGK@ZALD"], remove=["ISK@ZCAL"])
        ended = self.live.command("lists", "change", "mills", "--remove", "AGK@ZALD", "--who", "Cy")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        # Taken off and put back on one day: the later word counts.
        again = self.ledger.change_list(
            "mills", "Ada", add=["AGK@ZALD"], description="for the spring study"
        )
        self.assertEqual(
            [m.name for m in again.members], ["Ashgrove Kilnworks", "Quennick Foundry"]
        )
        versions = self.ledger.list_versions("mills")
        seen = [(v.who, v.joined, v.left) for v in reversed(versions)]
        ashgrove = ["Ashgrove Kilnworks"]
        self.assertEqual(
            seen,
            [
                ("Ada", ["Isken Paper", "Quennick Foundry"], []),
                ("Ben", ashgrove, ["Isken Paper"]),
                ("Cy", [], ashgrove),
                ("Ada", ashgrove, []),
                ("Ada", [], []),
            ],
        )
        self.assertEqual(versions[0].description, "for the spring study")
        for wrong in (
            {"remove": ["ISK@ZCAL"]},
            {"add": ["AGK@ZALD"], "remove": ["AGK@ZALD"]},
            {"add": ["nobody"]},
        ):
            with self.assertRaises(WiseLedgerError, msg=str(wrong)):
                self.ledger.change_list("mills", "Ada", **wrong)
        self.assertIn("Quennick Foundry", self.live.command("lists", "versions", "mills").stdout)

    def test_a_list_that_a_source_keeps_is_not_changed_by_hand(self) -> None:
        before = [m.name for m in self.ledger.members("index-of-aldmoor", ON).members]
        for attempt in (
            lambda: self.ledger.keep_list("index-of-aldmoor", ["AGK@ZALD"], "Ada"),
            lambda: self.ledger.change_list("index-of-aldmoor", "Ada", add=["ISK@ZCAL"]),
        ):
            with self.assertRaisesRegex(InputRefused, "kept by fernmark.*copy"):
                attempt()
        loaded = self.ledger.load("members", b"list,company\nindex-of-aldmoor,ISK@ZCAL\n")
        self.assertEqual((loaded.rows, loaded.bad[0].problem), (0, "this list is kept by fernmark"))
        self.assertEqual(
            [m.name for m in self.ledger.members("index-of-aldmoor", ON).members], before
        )
        self.assertTrue(all(m.weight for m in self.ledger.members("index-of-aldmoor", ON).members))
