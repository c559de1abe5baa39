"""The currencies of estimates: each company's are reckoned in the one it reports in (E2), and only
results are converted into the one asked for (M2).
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.estimates.ofcompany import Announced, Expectation
from wise_ledger.core.language.ondates import estimated_in
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.rates import last_day
from wise_ledger.core.time.instants import DAY
from wise_ledger.engine.snapshot import Snapshot

Whole = NDArray[np.int64]


class EstimateCurrencies:
    """Of companies by number the currency their estimates are reckoned in (`own`, as known at the
    cut-off) and the one they are shown in (`shown`); -1 where neither is known.
    """

    def __init__(self, snapshot: Snapshot, viewpoint: Viewpoint, companies: Sequence[int]) -> None:
        self._view, self._cutoff = snapshot.view, viewpoint.cutoff
        self._asked = None if viewpoint.currency is None else currency_code(viewpoint.currency)
        self._met: dict[tuple[int, int, int], float] = {}  # rates, by both currencies and day
        found = self.at(companies, np.array([self._cutoff]))[:, 0].tolist()
        self.own: dict[int, int] = dict(zip(companies, found, strict=True))
        self.shown = {n: c if self._asked is None else self._asked for n, c in self.own.items()}

    def at(self, companies: Sequence[int], instants: Whole) -> Whole:
        """What estimates are reckoned in as known at instants, (companies, instants)."""
        return estimated_in(self._view, np.array(companies, np.int64), instants)

    def rate(self, company: int, instant: int | None = None) -> float:
        """What a company's results are multiplied by: the rate of an instant's day, as known at the
        cut-off and no later than that; NaN where there is none.
        """
        day = int(last_day(np.array([self._cutoff]))[0])
        if instant is not None:
            day = min(day, instant // DAY)
        asked = (self.own[company], self.shown[company], day)
        if asked not in self._met:
            cells = (np.array([n], np.int64) for n in (*asked, self._cutoff))
            self._met[asked] = float(self._view.estimates.basis(0).rates(*cells)[0])
        return self._met[asked]

    def announced(self, found: Announced) -> Announced:
        """What was announced, at the rate of the day it was."""
        return found.shown_in(self.shown[found.company], self.rate(found.company, found.at))

    def expectation(self, company: int, found: Expectation) -> Expectation:
        """The consensus for a period: at the rate of the day on which it was announced, else of the
        cut-off (E2).
        """
        at = found.announced.at if found.announced else None
        return found.shown_in(self.shown[company], self.rate(company, at))
