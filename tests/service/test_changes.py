"""What people keep (lists, measures, questions, sheets, orders, decisions) in any order, each of it
speaking of the others: every change is taken or refused in words, all that is kept can still be
read, and answers as recorded by an earlier batch stay (T7, T8).
"""

import os
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import ExitStack, closing, suppress
from pathlib import Path
from random import Random
from typing import Any

from tests.live import Live, LiveLedger
from tests.service.questions import KEYS, WHO, brought
from wise_ledger.client import InputRefused, Ledger, NotThere, WiseLedgerError

NAMES = ("one", "two", "three")  # of everything: a name of one kind is that of another too
FORMULAS = (
    "revenue",
    "net_income / revenue",
    "one + 1",
    "two * revenue",
    "three / one",
    "thin - one",
    "growth(one, 1y)",
    'series("OUTPUT/Q.XA")',
    "mean(close, 30d)",
    "rank(two)",
    "estimate(eps, fy1)",
    "market_value / three",
    "revenue >",
    "nothing_known",
    "if(one > 2, two, three)",
)
RULES = (
    "one > 0",
    "revenue > 1mn EUR",
    'country == "XA"',
    "two > three",
    "market_value > 1bn USD",
    "rank(one) < 5",
)
HOW = ("union", "intersection", "difference")
MEMBERS = "list,company,valid_from\n{},{},2021-01-01\n"
SEEN = "company,item,observed_at,value,unit\n{},{},2023-05-01,4,pure\n"
DAYS = ("2021-06-30", "2023-06-30", "2024-06-30", None)
OPS = int(os.environ.get("CHANGES", "60"))


class Changes(Live):
    def setUp(self) -> None:
        self.random = Random(int(os.environ.get("SEED", "4")))

    def any_change(self) -> tuple[str, Callable[[], Any]]:
        """One change, of things that may be there or not."""
        some, kept = self.random.choice, self.ledger
        name, other, third = (
            some(NAMES),
            some(NAMES),
            some((*NAMES, "first-look", "mine", "index-of-aldmoor")),
        )
        who = self.random.sample(WHO, self.random.randint(0, 3))
        asked = {
            "expressions": [some(FORMULAS), name],
            "dates": ["2022-06-30/2023-06-30 quarterly"],
        }
        whom: dict[str, Any] = some(({"list": third}, {"companies": who}, {"list": name}))
        screen = {"rule": some(RULES), "show": [other], **whom}
        back = self.random.random() < 0.5
        return some(
            (
                ("keep_list", lambda: kept.keep_list(name, who, "ada")),
                ("keep a rule", lambda: kept.keep_list(name, [], "ada", rule=some(RULES))),
                ("combine", lambda: kept.combine_lists(name, some(HOW), [other, third], "ada")),
                (
                    "change_list",
                    lambda: kept.change_list(
                        name,
                        "ada",
                        add=who[:1],
                        remove=who[1:],
                        archived=back,
                        title=some((None, other)),
                    ),
                ),
                ("keep_measure", lambda: kept.keep_measure(name, some(FORMULAS), "ada")),
                ("archive_measure", lambda: kept.archive_measure(name, "ada", archived=back)),
                (
                    "keep a panel",
                    lambda: kept.keep_question(name, "panel", {**asked, **whom}, "ada"),
                ),
                ("keep a screen", lambda: kept.keep_question(name, "screen", screen, "ada")),
                ("archive_question", lambda: kept.archive_question(name, "ada", archived=back)),
                (
                    "keep_sheet",
                    lambda: kept.keep_sheet(name, [some(KEYS), some((*KEYS, "NO/SUCH"))], "ada"),
                ),
                ("archive_sheet", lambda: kept.archive_sheet(name, "ada", archived=back)),
                (
                    "prefer_sources",
                    lambda: kept.prefer_sources(
                        ["fernmark", some(("files", "nobody"))],
                        "ada",
                        item=some((None, "revenue")),
                        company=some((None, *who)),
                    ),
                ),
                (
                    "set_limit",
                    lambda: kept.set_limit(
                        some(("stale_after", "lag_of_year", "lag_of_")),
                        some((None, 0, 75, 550)),
                        "ada",
                        source=some((None, "fernmark", "nobody")),
                    ),
                ),
                ("decide", lambda: kept.decide(name, some((None, *WHO)), "ada", "said so")),
                (
                    "quarantine",
                    lambda: kept.decide_quarantine([some(self.slips)], back, "ada", "looked"),
                ),
                (
                    "register_item",
                    lambda: kept.register_item(f"{name}_seen", "A thing", "pure", "pages", "ada"),
                ),
                ("call_venue", lambda: kept.call_venue(name, some(("ZALD", None)), "ada")),
                ("keep_schedule", lambda: kept.keep_schedule(name, "fernmark", "ada", list=third)),
                ("remove_schedule", lambda: kept.remove_schedule(name)),
                (
                    "load members",
                    lambda: kept.load("members", MEMBERS.format(name, some(WHO)).encode()),
                ),
                (
                    "load seen",
                    lambda: kept.load(
                        "observations", SEEN.format(some(WHO), f"{name}_seen").encode()
                    ),
                ),
            )
        )

    def read(self, kept: Ledger) -> dict[str, Callable[..., Any]]:
        """How each kept thing is read, as recorded by any batch."""
        out = dict[str, Callable[..., Any]]()
        for entry in kept.lists(archived=True):
            out[f"list {entry.name}"] = lambda on, n=entry.name, **by: kept.members(n, on, **by)
            out[f"screen of {entry.name}"] = lambda on, n=entry.name, **by: kept.screen(
                "revenue > 1mn EUR and close > 1 USD", n, on, **by
            )
            out[f"market of {entry.name}"] = lambda on, n=entry.name, **by: kept.market(
                on, list=n, **by
            )
            out[f"restated of {entry.name}"] = lambda on, n=entry.name, **by: kept.restatements(
                list=n, known_on=on, **by
            )
        for found in kept.measures(archived=True).measures:
            if found.name in NAMES:
                out[f"measure {found.name}"] = lambda on, n=found.name, **by: kept.explain(
                    WHO[0], n, on, **by
                )
        for question in kept.questions(archived=True).questions:
            for one in kept.question_versions(question.name).questions:
                ask = kept.kept_panel if one.kind == "panel" else kept.kept_screen
                out[f"{one.kind} {one.name} {one.version}"] = (
                    lambda on, a=ask, n=one.name, v=one.version, **by: a(n, on, version=v, **by)
                )
        for sheet in kept.sheets(archived=True).sheets:
            out[f"sheet {sheet.name}"] = lambda on, n=sheet.name, **by: kept.read_sheet(n, on, **by)
        return out

    def answers(self, ledger: Ledger, batch: int) -> dict[str, str]:
        """What is said of all that is kept, as recorded by a batch; a refusal by its words."""
        said = {}
        for what, ask in self.read(ledger).items():
            on = self.random.choice(DAYS[:3]) if not batch else DAYS[1]
            try:
                found = ask(on, recorded_by=batch) if batch else ask(on)
                said[what] = str(getattr(found, "answer", found))
            except (InputRefused, NotThere) as refused:
                self.assertTrue(refused.problems[0].problem, what)
                said[what] = f"refused: {refused}"
        return said

    def test_every_change_is_taken_or_refused_and_all_that_is_kept_can_be_read(self) -> None:
        brought(self.ledger)
        for name in NAMES:
            self.ledger.keep_measure(name, "revenue", "ada")
        self.slips = [row.fact for row in self.ledger.quality(state="quarantined").findings] + [1]
        pins: dict[int, dict[str, str]] = {}
        taken = dict[str, int]()
        for n in range(OPS):
            what, change = self.any_change()
            with self.subTest(what, step=n), suppress(InputRefused, NotThere):
                change()
                taken[what] = taken.get(what, 0) + 1
            if n % 20 == 19:
                batch = self.live.desk.ledger.last_batch()
                pins[batch] = self.answers(self.ledger, batch)
                self.answers(self.ledger, 0)
        with ExitStack() as stack:  # and the same is said after a restart, of files alone
            folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
            with closing(sqlite3.connect(self.live.folder / "ledger.sqlite")) as plain:
                plain.execute("VACUUM INTO ?", (str(folder / "ledger.sqlite"),))
            again = LiveLedger(stack, self.source, folder=folder)
            for ledger in (self.ledger, again.ledger):
                for batch, said in pins.items():
                    found = self.answers(ledger, batch)
                    self.assertEqual({what: found[what] for what in said}, said, batch)
        self.assertGreater(len(taken), 11, taken)
        self.assertTrue(self.ledger.verify().batches)
        with self.assertRaises(WiseLedgerError):
            self.ledger.members("never-kept")
