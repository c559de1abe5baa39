"""What shares one period end: a comparison, or all that stands outside comparisons (F11)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.language.plan import Leaf
from wise_ledger.core.time.periods import Days
from wise_ledger.core.timelines.joint import FormName


@dataclass(frozen=True, eq=False)
class Scope:
    """One period end per company and date, and what makes every leaf of the scope missing."""

    ends: Days  # NO_END where there is none
    reason: NDArray[np.uint8]
    rows: dict[FormName, NDArray[np.int64]]  # rows of the leaves that set E
    leaves: tuple[Leaf, ...] = ()  # all of them
    per_share: bool = False  # a figure or estimate of it is one share's: beside it so is a receipt's price (M4)
