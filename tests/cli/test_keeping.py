"""What is kept under a name is asked again as it was, whoever asks; seen otherwise where that is
said, and with nothing of another question beside it.
"""

from random import Random

from tests.live import RULE, Live
from wise_ledger.client import InputRefused
from wise_ledger.work.questions import keep_question

PANEL = (
    ("--where", "revenue > 1mn USD"), ("--lag", "30"), ("--at-close",), ("--first-reported",),
    ("--layout", "tidy"), ("--beside", "reason", "--beside", "marks"),
)  # fmt: skip
SCREEN = (
    ("--show", "revenue", "--show", "m: net_margin"), ("--sort", "-m", "--show", "m: net_margin"),
    ("--only", "pass", "--only", "unknown"), ("--hindsight",),
)  # fmt: skip
SEEN = (("--leave-out", "implied"), ("--recorded-by", "20"), ("--currency", "EUR"))
WHOM = (("--list", "first-look"), ("--company", "AGK@ZALD", "--company", "DMB@ZALD"), ())
DATES = ("--dates", "2022-12-31", "--dates", "2023-01-01/2023-12-31 quarterly")


class Kept(Live):
    def asked(self, *words: str) -> str:
        ended = self.live.command(*words, "--format", "csv")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        return ended.stdout

    def test_a_kept_question_has_the_answer_that_it_had(self) -> None:
        random = Random(5)
        for n in range(8):
            kind, asked, own = random.choice(
                (("panel", ["revenue", "m: net_margin", *DATES], PANEL), ("screen", [RULE], SCREEN))
            )
            some = random.sample([*own, *SEEN], 3)
            words = [*random.choice(WHOM), *(word for option in some for word in option)]
            with self.subTest(kind, words=words):
                day = ["--known-on", "2024-01-10"]
                self.asked(kind, *asked, *words, *day, "--keep", f"k{n}", "--who", "Ada")
                first = self.asked(kind, *asked, *words, *day)
                self.assertEqual(self.asked(kind, "--kept", f"k{n}"), first)
                later = ["--known-on", "2024-06-30"]
                again = self.asked(kind, *asked, *words, *later)
                self.assertEqual(self.asked(kind, "--kept", f"k{n}", *later), again)
                kept = getattr(self.ledger, f"kept_{kind}")(f"k{n}", later[1])
                self.assertEqual(len(kept.frame()), again.count("\n") - 1)

    def test_it_is_asked_whole_and_as_what_it_is(self) -> None:
        self.asked("screen", RULE, "--list", "first-look", "--keep", "margins", "--who", "Ada")
        for words in (["--list", "first-look"], ["--only", "pass"], ["active"]):
            ended = self.live.command("screen", "--kept", "margins", *words)
            self.assertEqual(ended.returncode, 2)
            self.assertIn("beside --kept", ended.stderr)
        ended = self.live.command("panel", "--kept", "margins")
        self.assertEqual(ended.returncode, 2)
        self.assertIn("this question is a screen", ended.stderr)
        with self.assertRaisesRegex(InputRefused, "this question is a screen"):
            self.ledger.kept_panel("margins")
        self.assertEqual(self.live.command("screen").returncode, 2)

    def test_what_cannot_be_answered_is_not_kept(self) -> None:
        for words in (["screen", "revnue > 1"], ["panel", "revnue", "--dates", "2023-12-31"]):
            ended = self.live.command(*words, "--keep", "wrong", "--who", "Ada")
            self.assertNotEqual(ended.returncode, 0)
            self.assertNotIn("wrong", [q.name for q in self.ledger.questions().questions])

    def test_a_panel_kept_with_a_word_that_it_took_once_is_asked_without_it(self) -> None:
        asked = {"expressions": ["revenue"], "dates": ["2023-12-31"], "hindsight": True}
        keep_question(self.live.desk.ledger, "panel", "once", "Once", "", asked, ["revenue"], "Ada")
        self.assertGreater(len(self.ledger.kept_panel("once").frame()), 3)
        self.assertIn("revenue", self.asked("panel", "--kept", "once"))
