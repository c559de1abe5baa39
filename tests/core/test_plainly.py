"""The engine against a plain reckoning of the rules:
selectors and functions of the fiscal axis (F7 to F13, N, T5).
"""

import math
import unittest
from datetime import date
from random import Random

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.plainexpressions import evaluate, facts_of, leaves, money, pure, scope_of, truth
from tests.core.plainly import Plain, month_number
from tests.core.small_ledger import LONG_AGO, SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.time.periods import NO_END, as_date

SOURCES = ("one", "two")
DAYS = [date(2021 + n // 4, 3 * (n % 4) + 2, 17) for n in range(17)]


class Plainly(unittest.TestCase):
    @examples(60)
    @example(129073)  # a withdrawn cumulative figure beside what is chosen instead of it
    @given(st.integers(0, 2**40))
    def test_every_value_reason_and_period_end_is_that_of_a_plain_reckoning(
        self, seed: int
    ) -> None:
        random = Random(seed)
        facts = facts_of(random)
        year_end = facts[0]["year_end"] if facts else 12
        view = SmallLedger(facts, [(0, LONG_AGO, year_end)], SOURCES).view()
        days = random.sample(DAYS, 6)
        days.sort()
        worlds = [Plain(facts, on, year_end, SOURCES) for on in days]
        cutoffs = np.array([at_end_of(d) for d in days])
        for make in (money, money, pure, pure, truth):
            text, node = make(random)
            try:
                step = plan(text, view.vocabulary)
            except ExpressionError as error:  # only for its size
                self.assertIn("parts", error.problems[0].problem)
                continue
            values, ends = Evaluation(view, np.arange(1), cutoffs).run(step)
            for n, (on, world) in enumerate(zip(days, worlds, strict=True)):
                expected = evaluate(world, node)
                reason = Reason(int(values.reason[0, n]))
                found = reason.code if reason else float(values.value[0, n])
                where = f"seed {seed}, {text}, known on {on}"
                if isinstance(expected, str) or isinstance(found, str):
                    self.assertEqual(found, expected, where)
                else:
                    self.assertTrue(
                        math.isclose(found, expected, rel_tol=1e-9, abs_tol=1e-9),
                        f"{where}: {found}, {expected}",
                    )
                end, _ = scope_of(world, leaves(node))
                own = None if ends[0, n] == NO_END else month_number(as_date(int(ends[0, n])))
                if leaves(node):
                    self.assertEqual(own, end, where)
