"""The command as a shell runs it, whatever its streams are: full, closed, or gone."""

import os
import subprocess
import sys
import unittest
from collections.abc import Callable
from pathlib import Path

HELP = ("--help",)


def run(*arguments: str, before: Callable[[], object] | None = None, **how: object) -> str:
    """What it said on stderr and how it ended."""
    command = [sys.executable, "-m", "wise_ledger.launch.main", *arguments]
    ended = subprocess.run(  # type: ignore[call-overload]
        command,
        preexec_fn=before,
        stderr=subprocess.PIPE,
        text=True,
        check=False,
        timeout=120,
        **how,
    )
    return f"{ended.returncode} {ended.stderr}"


class Streams(unittest.TestCase):
    def test_a_full_disk_is_said_in_a_line(self) -> None:
        with Path("/dev/full").open("w", encoding="ascii") as full:
            for arguments in (HELP, ("screen", "--help"), ("--version",)):
                with self.subTest(arguments):
                    said = run(*arguments, stdout=full)
                    self.assertEqual(said, "1 Error: No space left on device\n")

    def test_a_closed_stream_is_written_nowhere(self) -> None:
        for which in (1, 2):
            with self.subTest(which):
                self.assertEqual(
                    run(*HELP, stdout=subprocess.DEVNULL, before=lambda n=which: os.close(n)), "0 "
                )

    def test_who_reads_no_further_ends_it(self) -> None:
        ours, theirs = os.pipe()
        os.close(ours)
        self.assertEqual(run(*HELP, stdout=theirs), "1 ")
        os.close(theirs)


if __name__ == "__main__":
    unittest.main()
