"""scale: how the time of a panel of twenty measures grows with the number of companies.

The exponent is that of time over size, by least squares on logarithms: 1 where twice as many take
twice as long.
"""

import numpy as np

from benchmarks.as_of import month_ends
from benchmarks.measures import MEASURES, make_filings, view_of
from benchmarks.timing import Result, best_of
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.panels.panel import Question, blocks, plan_columns

SIZES = {"small": ((100, 200, 400), 48, 20), "full": ((500, 1000, 2000, 4000, 8000), 180, 60)}
BOUND = 1.1


def run(size: str) -> list[Result]:
    """One row a number of companies, then the exponent in the place of a ratio."""
    numbers, dates, quarters = SIZES[size]
    cutoffs, seconds = month_ends(dates), []
    for companies in numbers:
        view = view_of(make_filings(companies, quarters), companies)
        columns = plan_columns(MEASURES, view.vocabulary)
        on = Counted(np.ones((companies, dates), np.bool_))
        question = Question(columns, np.arange(companies), cutoffs, on)

        def read(question: Question = question, view: object = view) -> None:
            for _ in blocks(view, question):  # type: ignore[arg-type]
                pass

        read()
        seconds.append(best_of(2, read)[0])
    exponent = float(np.polyfit(np.log(numbers), np.log(seconds), 1)[0])
    rows = [
        Result("scale", size, f"{n:,} companies", s, s / seconds[0], True, holds="")
        for n, s in zip(numbers, seconds, strict=True)
    ]
    label = f"exponent ({BOUND:g} is aimed at)"
    return [*rows, Result("scale", size, label, seconds[-1], exponent, True, holds="")]
