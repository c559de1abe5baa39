"""Who counts in a cross-section: the members of a list on each date,
each looked at when it is asked for.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.values import Values

Truths = NDArray[np.bool_]
Places = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Counted:
    """`members` says who counts on each date, (companies, dates).

    Where companies have cut-offs of their own (the close of their venues, T3), `own` is the place
    of each company's among all cut-offs, (companies, dates), and `date` the date of each cut-off;
    without, the cut-offs are the dates.
    """

    members: Truths
    own: Places | None = None
    date: Places | None = None

    def seen(self, values: Values) -> Values:
        """Values at all cut-offs, as each company is looked at on each date."""
        if self.own is None:
            return values
        return values.of_each(self.on_dates)

    def on_dates(self, array: NDArray[Any]) -> NDArray[Any]:
        """The same of one array, (companies, cut-offs)."""
        return array if self.own is None else array[np.arange(len(self.own))[:, None], self.own]

    def spread(self, values: Values) -> Values:
        """Values on the dates, at each of the cut-offs of those."""
        if self.date is None:
            return values
        return values.of_each(lambda array: array[:, self.date])
