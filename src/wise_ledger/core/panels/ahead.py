"""Returns over the time after each date: what a model is to foretell.

They look ahead, and say so by their names.
"""

import re
from dataclasses import dataclass, replace

import numpy as np

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.arithmetic import subtracted
from wise_ledger.core.errors import bad_input
from wise_ledger.core.language.plan import Stretch
from wise_ledger.core.market.market import Market
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import shift_months
from wise_ledger.core.timelines.keys import Instants, Rows

_ASKED = re.compile(r"(price|total)[ _](?:return[ _])?([0-9]{1,4})(d|mo|q|y)(?: over (\S+))?")
_LONGEST = 10  # years


@dataclass(frozen=True)
class Ahead:
    """The price or total return from each date over a span,
    in excess of a list's own where one is named.
    """

    total: bool
    span: Stretch
    over: str | None = None

    @property
    def name(self) -> str:
        """Of its column, such as `ahead_total_return_3mo`."""
        kind = "total" if self.total else "price"
        over = f"_over_{self.over.replace('-', '_')}" if self.over else ""
        return f"ahead_{kind}_return_{self.span.count}{self.span.unit}{over}"

    @property
    def words(self) -> str:
        """What it is, in words."""
        kind = "total return" if self.total else "price return"
        over = f", less that of {self.over}" if self.over else ""
        unit = {"d": "day", "mo": "month", "q": "quarter", "y": "year"}[self.span.unit]
        span = unit if self.span.count == 1 else f"{self.span.count} {unit}s"
        return f"looks ahead: the {kind} over the {span} after each date{over}"

    def values(self, market: Market, members: Rows, cutoffs: Instants, upto: int) -> Values:
        """The return of the listing that is primary on each date;
        `not_known` where its end is not known yet.
        """
        days = cutoffs // DAY
        if self.span.unit == "d":
            later = days + self.span.count
        else:
            later = shift_months(days.astype(np.int32), self.span.months).astype(np.int64)
        instants = np.minimum(cutoffs + (later - days) * DAY, upto)
        listing = market.listed.of_companies.read(members, cutoffs)
        shape = listing.shape
        start, end, at = (np.broadcast_to(a, shape) for a in (days, later, instants))
        own = market.returns_of(listing, start, end, at, total=self.total)
        if self.over is not None:
            other = market.list_returns(self.over, days, instants, total=self.total)
            reason = np.where(own.reason != 0, own.reason, np.broadcast_to(other.reason, shape))
            value = subtracted(own.value, other.value)
            own = replace(own, value=value, reason=reason.astype(np.uint8))
        early = np.broadcast_to((later + 1) * DAY - 1 > upto, shape)
        return replace(own, reason=np.where(early, np.uint8(Reason.NOT_KNOWN), own.reason))


def read_ahead(text: str, lists: "frozenset[str] | set[str]") -> Ahead:
    """A return ahead as people write it, `total 3mo` or `price 1y over
    a-list`; raises `BadInput`.
    """
    found = _ASKED.fullmatch(text.strip())
    mend = "write total 3mo, price 1y, or total 1mo over a list with levels"
    if not found:
        raise bad_input("ahead", text, "this is no return", mend)
    span = Stretch(int(found[2]), found[3])
    if not span.count or span.years > _LONGEST:
        raise bad_input("ahead", text, f"a span is not empty, and {_LONGEST} years at most", mend)
    if found[4] and found[4] not in lists:
        known = ", ".join(sorted(lists)[:3]) or "none has levels yet"
        raise bad_input(
            "ahead", text, f"there is no list {found[4]} with levels", f"write one of {known}"
        )
    return Ahead(found[1] == "total", span, found[4])
