"""Reading how a question is asked, as people write it."""

from collections.abc import Iterable

from wise_ledger.core.answers.viewpoint import MARKS, Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.work.dates import read_cutoff
from wise_ledger.work.desk import Desk

__all__ = ["Viewpoint", "read_viewpoint"]


def read_viewpoint(
    desk: Desk,
    known_on: str | None,
    recorded_by: int | None = None,
    leave_out: Iterable[str] = (),
    hindsight: bool = False,
    currency: str | None = None,
) -> Viewpoint:
    """As known on a date (its end, UTC), an instant, or without one today; raises `BadInput`."""
    for name in leave_out:
        if name not in MARKS:
            raise bad_input("leave_out", name, "no figure is marked so", mend_for(name, MARKS))
    at = read_cutoff(known_on or desk.ledger.now().date().isoformat(), "known_on")
    return Viewpoint(at, recorded_by, frozenset(leave_out), hindsight, currency)
