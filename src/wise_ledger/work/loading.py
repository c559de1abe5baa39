"""What every load of a file answers."""

from dataclasses import dataclass, field

FILES = ("files", "Files")  # the source of what people load


@dataclass(frozen=True)
class BadRow:
    """A row that was not loaded: its line, and what is wrong with which cell."""

    line: int
    column: str
    value: str
    problem: str
    mend: str


@dataclass(frozen=True)
class PathOutcome:
    """What became of a folder or page: stored, unchanged, empty or failed, and why; `facts` are the new ones."""

    path: str
    company: str | None
    state: str
    reason: str
    facts: int


@dataclass(frozen=True)
class Loaded:
    """What a load did; `batch` is None where nothing was written, `new` counts facts that were not known (T8)."""

    kind: str
    rows: int
    batch: int | None
    bad: tuple[BadRow, ...]
    new: int | None = None
    outcomes: tuple[PathOutcome, ...] = ()  # of a tree of pages
    unmapped: dict[str, int] = field(default_factory=dict)  # labels without a meaning, and on how many pages
