"""What a function is: its name, arguments, typing rule, how it wants its operands,
the numbers, the words for help.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.values import Values
from wise_ledger.core.language.units import PURE, TRUTH, Unit


class Wants(Enum):
    """How a function wants its operands."""

    TOGETHER = "together"  # cell by cell, reckoned with one another: amounts in one currency
    APART = "apart"  # cell by cell, one of them chosen or only looked at
    SHIFTED = "shifted"  # the same operand now, and so long before
    WINDOW = "window"  # samples of one operand: now, a step before, two steps before …
    ACROSS = "across"  # all companies of one date
    VERSION = "version"  # the operand itself, from other versions of its figures
    RETURN = "return"  # none: it is of the company's listing
    ESTIMATE = "estimate"  # none: words that say which
    SERIES = "series"  # none: the key of an economic series
    AT_END = "at end"  # an operand that lives on dates, read on a period end


class Second(Enum):
    """What an argument after the operands may be."""

    NOTHING = "nothing"
    SPAN = "span"
    COUNT = "count"
    SHARE = "share"


class UnitRefused(Exception):
    """The units of the operands do not fit; `problem` and `mend` in words."""

    def __init__(self, problem: str, mend: str) -> None:
        super().__init__(problem)
        self.problem, self.mend = problem, mend


Numbers = Callable[[Sequence[Values], float], Values]
Choice = Callable[[Sequence[Values]], NDArray[np.int16]]
Result = Callable[[Unit], Unit]
Samples = NDArray[np.float64]  # samples x companies x dates, NaN where there is none
# Samples, and the years at which they stand (of one or more dimensions), to one
# number for each company and date.
Reckon = Callable[[Samples, NDArray[np.float64]], NDArray[np.float64]]


def same(unit: Unit) -> Unit:
    """The unit of the operands."""
    return unit.plain() if not unit.bare else unit


def pure(_unit: Unit) -> Unit:
    """A plain number, whatever the operands are."""
    return PURE


def truth(_unit: Unit) -> Unit:
    """Yes or no."""
    return TRUTH


@dataclass(frozen=True, eq=False)
class Function:
    """A function or operator.

    `call` and `meaning` are the words for help; `least` and `most` say how many operands it takes,
    `second` what comes after them. `result` gives the unit of the result from the one that all
    operands share; the first `tests` operands say yes or no and share none. `numbers` gets the
    values of the operands and a constant (the second argument, or the years of a span). Leaves
    below a function without `moves_period` set no period end (F11). `highest` is the most that the
    result can be, where there is such a bound. A function that gives one of its operands as it is
    says by `chosen` which, cell by cell. `of_one_length` says that flows now and before must last
    equally long.

    >>> double = Function("double", "double(x)", "twice x", lambda parts, _: parts[0])
    >>> double.wants
    <Wants.TOGETHER: 'together'>
    """

    name: str
    call: str
    meaning: str
    numbers: Numbers
    wants: Wants = Wants.TOGETHER
    least: int = 1
    most: int = 1
    second: Second = Second.NOTHING
    result: Result = same
    tests: int = 0
    moves_period: bool = True
    highest: float | None = None
    chosen: Choice | None = None
    samples: int = 1  # of a window: how many must be there at the least
    window: Reckon | None = None  # of a window: out of its samples and their times
    keywords: tuple[str, ...] = ()  # named arguments that it takes
    of_one_length: bool = False
    bounds: bool = False  # whether its last two operands are a lower and an upper bound

    @property
    def takes(self) -> str:
        """How many operands, in words."""
        if self.least != self.most:
            return f"{self.least} or more arguments"
        return f"{self.least} argument" if self.least == 1 else f"{self.least} arguments"
