"""Observations of economic series in files: every series has periods of one length."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import Problem
from wise_ledger.core.records.columns import missing
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.periods import Frequency, decoded, period_words, recoded


def of_one_frequency(
    book: SeriesBook, keys: Sequence[str], which: NDArray[np.int32], periods: NDArray[np.int32]
) -> tuple[NDArray[np.int32], dict[int, Problem]]:
    """The periods of the rows of `keys[which]`, and what is wrong with those of another length than their series has.

    A series has the frequency that the ledger knows, else the one of most of its rows. A day is taken for the week that
    holds it where its series is weekly (S2).
    """
    out, problems = periods.copy(), dict[int, Problem]()
    there = ~missing(periods)
    kinds = decoded(np.where(there, periods, Frequency.M))[0]
    for n, key in enumerate(keys):
        own = np.flatnonzero((which == n) & there)
        if not len(own):
            continue
        known = book.frequency(book.number[key]) if key in book.number else None
        frequency = known or Frequency(int(np.bincount(kinds[own]).argmax()))
        odd = own[kinds[own] != frequency]
        if frequency is Frequency.W:
            days = odd[kinds[odd] == Frequency.D]
            out[days] = recoded(periods[days], Frequency.W)
            odd = odd[kinds[odd] != Frequency.D]
        for row in odd.tolist():
            given = Frequency(int(kinds[row]))
            whose = "its series is" if known else "the others of its series are"
            problems[row] = Problem(
                "period", period_words(int(periods[row])), f"this is a {given.noun}; {whose} {frequency.adverb}",
                f"write a {frequency.noun}, or load it as a series of its own",
            )  # fmt: skip
    return out, problems
