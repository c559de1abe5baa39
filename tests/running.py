"""Run every test with unittest, a class at a time in several processes; the last line counts.

As many processes as there are processors take the classes of services; one more those of browsers,
since two browsers at once wait for one another; as many again the core's, which only reckon, and
stand back for the others.

With names (`python -m tests tests.core`) those alone run, in this process, one line each.
"""

import io
import os
import sys
import time
import unittest
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

from wise_ledger.launch.memory import look_for_garbage_less

_ROOT = Path(__file__).parent
_LONGEST = (
    "tests.launch",
    "tests.engine",
    "tests.cli",
    "tests.service",
    "tests.sources",
    "tests.core.test_knowledge",
    "tests.core.test_asof_properties",
    "tests.core.test_plainly",
)
_RECKONS, _BROWSES = "tests.core", "tests.e2e"


class Counting(unittest.TextTestResult):
    """Counts the tests that passed; in CI a skipped browser test is a failed one."""

    passed = 0

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1

    def addSkip(self, test: unittest.TestCase, reason: str) -> None:
        if os.environ.get("CI") and "browser" in test.id():
            self.addFailure(
                test, (AssertionError, AssertionError(f"skipped in CI: {reason}"), None)
            )
            return
        super().addSkip(test, reason)


@dataclass
class Count:
    passed: int = 0
    failed: int = 0
    skipped: int = 0
    seconds: float = 0.0
    worked: float = 0.0  # seconds of processors, those of ended children with them
    wrong: tuple[str, ...] = ()  # the tests that failed, by name

    def add(self, other: "Count") -> None:
        self.passed += other.passed
        self.failed += other.failed
        self.skipped += other.skipped
        self.wrong += other.wrong


def run(suite: unittest.TestSuite, stream: object, verbosity: int) -> Count:
    result = unittest.TextTestRunner(stream, resultclass=Counting, verbosity=verbosity).run(suite)  # type: ignore[arg-type]
    assert isinstance(result, Counting)
    wrong = [test for test, _ in result.failures + result.errors] + result.unexpectedSuccesses
    passed = result.passed + len(result.expectedFailures)
    return Count(passed, len(wrong), len(result.skipped), wrong=tuple(test.id() for test in wrong))


def run_class(name: str) -> tuple[str, Count]:
    """One class, in a process of the pool: what it printed, and how many passed."""
    stream, began, busy = io.StringIO(), time.monotonic(), sum(os.times()[:4])
    count = run(unittest.defaultTestLoader.loadTestsFromName(name), stream, verbosity=1)
    count.seconds, count.worked = time.monotonic() - began, sum(os.times()[:4]) - busy
    return stream.getvalue(), count


def _pool(count: int | None, standing_back: int = 0) -> ProcessPoolExecutor:
    """So many processes; `standing_back` is their nice value."""
    return ProcessPoolExecutor(
        count,
        mp_context=get_context("spawn"),
        initializer=_begin,
        initargs=(standing_back,),
    )


def _begin(standing_back: int) -> None:
    look_for_garbage_less()  # as the service does
    os.nice(standing_back)


def everything() -> Count:
    """All classes, those that wait for browsers and services first:
    the longest of them must not start last.
    """
    found = unittest.defaultTestLoader.discover(str(_ROOT), top_level_dir=str(_ROOT.parent))
    tests = list(_each(found))
    names = list(
        dict.fromkeys(f"{type(t).__module__}.{type(t).__qualname__}" for t in tests if _loaded(t))
    )[::-1]
    names.sort(
        key=lambda name: next(
            (n for n, room in enumerate(_LONGEST) if name.startswith(room)), len(_LONGEST)
        )
    )
    # What could not be loaded fails here: no process could find it by its name.
    total = run(unittest.TestSuite(t for t in tests if not _loaded(t)), sys.stderr, 1)
    reported: list[str] = []
    each = os.cpu_count()
    with _pool(each) as pool, _pool(1) as browser, _pool(each, standing_back=10) as behind:
        pools = {_RECKONS: behind, _BROWSES: browser}
        tasks = {
            pools.get(".".join(name.split(".")[:2]), pool).submit(run_class, name): name
            for name in names
        }
        for task in as_completed(tasks):
            printed, count = task.result()
            total.add(count)
            reported += [f"{tasks[task]} {printed}"] if count.failed else []
            dots = f"{printed.split(chr(10), 1)[0]} {count.seconds:.0f} s, {count.worked:.0f} s of processors"
            print(f"{tasks[task]} {dots}", file=sys.stderr, flush=True)
    # What failed stands last, where whoever reads looks first.
    print("\n".join(reported), file=sys.stderr)
    return total


def loaded(names: Sequence[str]) -> unittest.TestSuite:
    """The tests of these names; of a room all that stand in it."""
    suite = unittest.TestSuite()
    for name in names:
        folder = _ROOT.parent.joinpath(*name.split("."))
        if folder.is_dir():
            suite.addTests(
                unittest.TestLoader().discover(str(folder), top_level_dir=str(_ROOT.parent))
            )
        else:
            suite.addTests(unittest.defaultTestLoader.loadTestsFromName(name))
    return suite


def _loaded(test: unittest.TestCase) -> bool:
    return not type(test).__module__.startswith("unittest")


def _each(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for test in suite:
        if isinstance(test, unittest.TestSuite):
            yield from _each(test)
        else:
            yield test


def main() -> int:
    names = sys.argv[1:]
    total = run(loaded(names), sys.stderr, 2) if names else everything()
    print("".join(f"failed: {name}\n" for name in total.wrong), file=sys.stderr, flush=True)
    print(f"\n{total.passed} passed, {total.failed} failed, {total.skipped} skipped", flush=True)
    return 1 if total.failed or not total.passed else 0
