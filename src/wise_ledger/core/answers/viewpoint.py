"""How a question is asked: one value, the same in every room and through every door."""

from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.core.timelines.keys import Mark


@dataclass(frozen=True)
class Viewpoint:
    """As known on an instant (T3), as recorded by a batch (T7), without
    marked figures, in a currency.

    `known_on` is the cut-off of public knowledge; `recorded_by` leaves out later batches;
    `leave_out` are the marks of figures that do not count (T4, F10); with `hindsight` cells also
    say whether they read differently later; results that are money come in `currency` (M2), without
    one each in its own.

    >>> Viewpoint(as_instant(0), leave_out=frozenset({"assumed"})).with_assumed
    False
    """

    known_on: datetime
    recorded_by: int | None = None
    leave_out: frozenset[str] = frozenset()
    hindsight: bool = False
    currency: str | None = None

    @classmethod
    def at(cls, cutoff: int, currency: str | None = None) -> "Viewpoint":
        """The plain one at an instant in microseconds."""
        return cls(as_instant(cutoff), currency=currency)

    @cached_property
    def cutoff(self) -> int:
        """The cut-off in microseconds."""
        return micros(self.known_on)

    @property
    def with_assumed(self) -> bool:
        """Whether facts count whose publication date was assumed (T4)."""
        return "assumed" not in self.leave_out


def marks_of(names: frozenset[str]) -> int:
    """Marks of formed figures by name; assumed facts are left out before anything is formed."""
    return sum(Mark[name.upper()] for name in names - {"assumed"})


# Of figures that can be left out; an extreme ratio says something of the reading alone.
MARKS = tuple(m.name.lower() for m in Mark if m.name and m is not Mark.EXTREME)
