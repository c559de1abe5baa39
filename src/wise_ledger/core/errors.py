"""The root of every error that is told to a person: what is wrong, where, and the mend."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """One thing wrong with an input: where (`at`), the value, what is wrong and how to mend it.

    Of an expression `line` is the line of it that `at` names.
    """

    at: str
    value: str
    problem: str
    mend: str
    line: str = ""


class LedgerError(Exception):
    """Something a person asked for cannot be done; `problems` says what, where and the mend."""

    title = "The request cannot be answered"

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        super().__init__("; ".join(f"{p.problem} ({p.mend})" if p.mend else p.problem for p in problems))


class BadInput(LedgerError):
    """The input is wrong: an expression, a date, a name that is not known."""

    title = "The input cannot be used"


class NotFound(LedgerError):
    """What was named does not exist in the ledger."""

    title = "Not found"


def bad_input(at: str, value: object, problem: str, mend: str = "") -> BadInput:
    """A `BadInput` with a single problem."""
    return BadInput(Problem(at, str(value), problem, mend))
