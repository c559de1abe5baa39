"""What every load of a file answers."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Self, TypeVar

from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.records.fields import of_text
from wise_ledger.work import NotFound
from wise_ledger.work.tablefile import Line

FILES = ("files", "Files")  # the source of what people load
# the mends of two rows of a file about one thing
KEEP_ONE = "keep one of them"
KEEP_ONE_OR_SAY = "keep one of them, or say in {} when each became public"
_LONGEST_SOURCE = 100  # characters of a name
_LONGEST_CELL = 100  # of a cell that is shown
T = TypeVar("T")


@dataclass(frozen=True)
class BadRow:
    """A row that was not loaded: its line, and what is wrong with which cell."""

    line: int
    column: str
    value: str
    problem: str
    mend: str

    @classmethod
    def of(cls, line: int, problem: Problem, cells: Mapping[str, str]) -> Self:
        """With the cell as it stands in the file, where the row has it."""
        cell = cells.get(problem.at, problem.value)
        shown = cell if len(cell) <= _LONGEST_CELL else cell[: _LONGEST_CELL - 1] + "…"
        return cls(line, problem.at, shown, problem.problem, problem.mend)


@dataclass(frozen=True)
class PathOutcome:
    """What became of a folder or page: stored, unchanged, empty or failed, and why;
    `facts` are the new ones.
    """

    path: str
    company: str | None
    state: str
    reason: str
    facts: int


@dataclass(frozen=True)
class Loaded:
    """What a load did; `batch` is None where nothing was written,
    `new` counts facts that were not known (T8).
    """

    kind: str
    rows: int
    batch: int | None
    bad: tuple[BadRow, ...]
    new: int | None = None
    outcomes: tuple[PathOutcome, ...] = ()  # of a tree of pages
    # labels without a meaning, and on how many pages
    unmapped: dict[str, int] = field(default_factory=dict)
    notes: tuple[str, ...] = ()  # what a person should know of what was loaded
    quarantined: int = 0  # rows of prices, levels or rates that cannot be: kept, and not used


def source_problem(name: str) -> Problem | None:
    """What is wrong with the name of a source that a file gives, if anything is."""
    if len(name) > _LONGEST_SOURCE:
        mend = f"keep it to {_LONGEST_SOURCE}"
        return Problem("source", name[:40], f"the name has {len(name)} characters", mend)
    return next(of_text("source", name), None)


def read_rows(
    lines: Sequence[Line], needed: Sequence[str], read: Callable[[Line], T]
) -> tuple[list[T], list[BadRow]]:
    """Each row as `read` makes it, and those that are bad: a needed cell is
    empty, or `read` refuses it.
    """
    good: list[T] = []
    bad: list[BadRow] = []
    for line in lines:
        try:
            for name in needed:
                if name not in line.cells:
                    raise bad_input(name, "", "the cell is empty", "every row needs it")
            good.append(read(line))
        except (BadInput, NotFound) as error:
            bad.append(BadRow.of(line.number, error.problems[0], line.cells))
    return good, bad
