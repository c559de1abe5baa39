"""What every command shares: the client, and errors with their exit status."""

import re
import sys
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.ink import still

if TYPE_CHECKING:
    from wise_ledger.client import Ledger, WiseLedgerError
    from wise_ledger.wire.viewpoint import Unanswered

FAILED, WRONG_USAGE, PARTLY = 1, 2, 3


@contextmanager
def asking() -> Iterator["Ledger"]:
    """A client of the service; its errors are shown on stderr and end the
    command with their exit status.
    """
    from wise_ledger.client import InputRefused, WiseLedgerError, connect

    try:
        with connect() as ledger:
            yield ledger
    except WiseLedgerError as error:
        show(error)
        sys.exit(WRONG_USAGE if isinstance(error, InputRefused) else FAILED)


def show(error: "WiseLedgerError") -> None:
    """The error on stderr: what, where, and the mend."""
    from wise_ledger.client import AccessDenied

    _say(error.title, fg="red", bold=True)
    if isinstance(error, AccessDenied):
        _say("  Set WISE_LEDGER_TOKEN to a token; `wise-ledger serve` and `demo` print one.")
        return
    if not error.problems:
        _say(f"  {error.detail}")
    for problem in error.problems:
        place = re.fullmatch(r"line [0-9]+, column ([0-9]+)", problem.at)
        if problem.line and place:
            # The rule as it was written, and under it what is meant.
            before = problem.line[: int(place[1]) - 1]
            width = (
                max(1, len(problem.value))
                if problem.line.startswith(problem.value, len(before))
                else 1
            )
            _say(f"  {problem.line}")
            _say(f"  {' ' * len(before)}{'^' * width}", fg="red")
        else:
            _say(f"  {problem.at}: {problem.value}")
        _say(f"    {problem.problem}")
        if problem.mend:
            _say(f"    {problem.mend}", fg="cyan")


def partly(failed: "Iterable[Unanswered]") -> None:
    """Name those who are not found on stderr, and end with `PARTLY` where there are any."""
    found = list(failed)
    for one in found:
        _say(f"{one.asked}: {one.problem}; {one.mend}", fg="red")
    if found:
        sys.exit(PARTLY)


def _say(text: str, **style: Any) -> None:
    """A line on stderr; what it quotes may hold anything, and moves nothing there."""
    click.secho(still(text), err=True, **style)
