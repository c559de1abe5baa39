"""The hostile world in long form: calls, kills, faults of sources, flipped bytes, files;
ends with one table.

python -m tests.torture [--scale N]: each generator of the suite, so many times as long, and what
became of it.
"""

import argparse
import logging
import os
import sys
import time
import unittest

from rich import box
from rich.console import Console
from rich.table import Table

# What is tried, the setting that says how often, how often at scale 1, and the tests that do it.
KINDS = (
    ("generated calls", "CALLS", 10_000, ("tests.service.test_fuzz",)),
    ("kills with -9", "WISE_LEDGER_KILLS", 100, ("tests.work.test_collect.Killed",)),
    ("hostile answers of sources", "ROUNDS", 6, ("tests.sources.test_hostile_source",)),
    ("flipped bytes", "FLIPS", 200, ("tests.store.test_damage",)),
    ("hostile files", "FILES", 1_000, ("tests.service.test_hostile",)),
    ("clients at once", "CLIENTS", 200, ("tests.service.test_crowd",)),
    ("doors", "DOORS", 1, ("tests.service.test_gate",)),
)
LOST, POISONED, UNANSWERED = "lost", "poisoned", "unanswered"


def main() -> int:
    """Run them all; 1 where anything was lost, poisoned or unanswered."""
    parser = argparse.ArgumentParser(prog="torture")
    parser.add_argument("--scale", type=float, default=1.0, help="times as often")
    scale = parser.parse_args().scale
    table = Table(box=box.SIMPLE_HEAD)
    for title in ("tried", "times", "refused or kept", "lost", "poisoned", "unanswered", "seconds"):
        table.add_column(title, justify="left" if title == "tried" else "right")
    logging.disable(logging.CRITICAL)
    failed = 0
    for what, setting, times, names in KINDS:
        os.environ[setting] = str(max(1, int(times * scale)))
        began = time.monotonic()
        # The settings are read when a module of tests is: it is loaded now.
        suite = unittest.defaultTestLoader.loadTestsFromNames(names)
        result = unittest.TextTestRunner(stream=sys.stderr, verbosity=0).run(suite)
        wrong = [test for test, _ in (*result.failures, *result.errors)]
        counts = dict.fromkeys((LOST, POISONED, UNANSWERED), 0)
        for test in wrong:
            counts[_kind(str(test))] += 1
        failed += len(wrong)
        reported = f"{result.testsRun - len(wrong)} of {result.testsRun} checks"
        seconds = f"{time.monotonic() - began:,.0f}"
        table.add_row(
            what, os.environ[setting], reported, *(str(n) for n in counts.values()), seconds
        )
    Console(width=110).print(table)
    return 1 if failed else 0


def _kind(test: str) -> str:
    """What it means that a test failed."""
    if any(word in test for word in ("Killed", "Damage", "lost_or_doubled")):
        return LOST
    return POISONED if "poisons" in test or "stops_nothing" in test else UNANSWERED


if __name__ == "__main__":
    sys.exit(main())
