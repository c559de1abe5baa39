"""Run every test with unittest; the last line counts them."""

import os
import sys
import unittest
from pathlib import Path


class Counting(unittest.TextTestResult):
    """Counts the tests that passed; in CI a skipped browser test is a failed one."""

    passed = 0

    def addSuccess(self, test: unittest.TestCase) -> None:
        super().addSuccess(test)
        self.passed += 1

    def addSkip(self, test: unittest.TestCase, reason: str) -> None:
        if os.environ.get("CI") and "browser" in test.id():
            self.addFailure(test, (AssertionError, AssertionError(f"skipped in CI: {reason}"), None))
            return
        super().addSkip(test, reason)


def main() -> int:
    root = Path(__file__).parent
    names = sys.argv[1:]
    loader = unittest.TestLoader()
    found = loader.loadTestsFromNames(names) if names else loader.discover(str(root), top_level_dir=str(root.parent))
    runner = unittest.TextTestRunner(resultclass=Counting, verbosity=2 if names else 1)
    result = runner.run(found)
    assert isinstance(result, Counting)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    passed = result.passed + len(result.expectedFailures)
    sys.stderr.flush()
    print(f"\n{passed} passed, {failed} failed, {len(result.skipped)} skipped", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
