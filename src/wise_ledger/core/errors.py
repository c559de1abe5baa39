"""The root of every error that a person sees: what is wrong, where, and the mend."""

from dataclasses import dataclass

_SHOWN = 20  # problems that an error says in one sentence


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

    def __post_init__(self) -> None:
        # What came in is shown, not handed back: it may be megabytes of one character.
        for name, most in (("at", 200), ("value", 300), ("problem", 1000), ("mend", 1000)):
            text = getattr(self, name)
            if isinstance(text, str) and len(text) > most:
                object.__setattr__(self, name, f"{text[:most]}…")


class LedgerError(Exception):
    """Something a person asked for cannot be done; `problems` says what, where and the mend."""

    title = "The request cannot be answered"

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        sentences = [f"{p.problem} ({p.mend})" if p.mend else p.problem for p in problems[:_SHOWN]]
        more = [f"and {len(problems) - _SHOWN:,} more"] if len(problems) > _SHOWN else []
        super().__init__("; ".join([*sentences, *more]))


class BadInput(LedgerError):
    """The input is wrong: an expression, a date, a name that is not known."""

    title = "The input cannot be used"


class NotFound(LedgerError):
    """What was named does not exist in the ledger."""

    title = "Not found"


def bad_input(at: str, value: object, problem: str, mend: str = "") -> BadInput:
    """A `BadInput` with a single problem."""
    return BadInput(Problem(at, "" if value is None else str(value), problem, mend))
