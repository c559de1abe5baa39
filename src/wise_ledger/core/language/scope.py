"""What shares one period end: a comparison, or all that stands outside comparisons (F11)."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.language.plan import Compare, Estimate, Leaf, Step, scope_leaves, within_scope
from wise_ledger.core.time.periods import Days
from wise_ledger.core.timelines.joint import FormName

ScopeName = tuple[tuple[Leaf, ...], bool]  # its leaves, and whether figures of it are one share's


@dataclass(frozen=True, eq=False)
class Found:
    """One period end per company and date, and what makes every leaf of the scope missing."""

    ends: Days  # NO_END where there is none
    reason: NDArray[np.uint8]
    rows: dict[FormName, NDArray[np.int64]]  # rows of the leaves that set E


@dataclass(frozen=True, eq=False)
class Scope:
    """What shares a period end, which is found when it is first asked for."""

    leaves: tuple[Leaf, ...]
    # a figure or estimate of it is one share's: beside it so is a receipt's price (M4)
    per_share: bool
    find: Callable[[], Found]

    @cached_property
    def found(self) -> Found:
        """The period ends, as found."""
        return self.find()

    @property
    def ends(self) -> Days:
        """E of each company and date; NO_END where there is none."""
        return self.found.ends

    @property
    def reason(self) -> NDArray[np.uint8]:
        """What makes every leaf missing."""
        return self.found.reason

    @property
    def name(self) -> ScopeName:
        """What makes it the same as another."""
        return self.leaves, self.per_share


def scope_name(step: Step) -> ScopeName:
    """The scope that a comparison opens, or the outermost one."""
    sides = (step.left, step.right) if isinstance(step, Compare) else (step,)
    per_share = any(
        part.unit.shares != 0
        for side in sides
        for part in within_scope(side)
        if isinstance(part, Leaf | Estimate)
    )
    return tuple(scope_leaves(step)), per_share
