"""The one door for values: every record is looked at here before the ledger keeps it,
from whatever source it comes.

A record that does not pass is refused with its problem and stops nothing else. What is asked of
each kind of dated record is declared with it (`kinds.py`).
"""

from collections.abc import Callable, Iterable, Sequence
from datetime import date, datetime
from typing import TypeVar

import numpy as np

from wise_ledger.core.errors import Problem
from wise_ledger.core.records.fields import (
    FIRST_YEAR,
    LARGEST,
    LAST_YEAR,
    LONGEST,
    UNREADABLE,
    Found,
    of_day,
    of_instant,
    of_number,
    of_text,
)
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import FactRecord

R = TypeVar("R")


def all_pass(figures: Figures, now: datetime) -> bool:
    """Whether no figure has a problem, column by column: millions pass here.

    Where it says no, `of_fact` says why.
    """
    try:
        given = (
            [v for v in figures.value if v is not None] if None in figures.value else figures.value
        )
        dated = (
            figures.period_end,
            figures.period_start,
            figures.declared_end,
            figures.share_basis_date,
        )
        days = {day for column in dated for day in column.values} - {None}
        instants, assumed = (
            figures.published_at,
            np.fromiter(figures.assumed, np.bool_, len(figures)),
        )
        few, many = {*figures.unit.values, *figures.basis.values}, (figures.reported, figures.place)
        return (
            None not in figures.period_end.values
            and {*map(type, given)} <= {float, int}
            and bool((np.abs(np.array(given, np.float64)) <= LARGEST).all())
            and all(type(d) is date and FIRST_YEAR <= d.year <= LAST_YEAR for d in days)
            and all(
                at.tzinfo is not None and FIRST_YEAR <= at.year <= LAST_YEAR
                for at in instants.values
            )
            and all(at <= now for at in instants.where(~assumed).values)
            and all(unit.strip() for unit in figures.unit.values)
            and all(max(map(len, texts), default=0) < LONGEST for texts in (few, *many))
            and all(_readable("".join(texts)) for texts in (few, *many))
        )
    except (AttributeError, TypeError, OverflowError):
        return False


def _readable(text: str) -> bool:
    # the first is quick, and true of nearly all
    return text.isprintable() or not UNREADABLE.search(text)


def of_fact(record: FactRecord, now: datetime) -> Found:
    """Problems of a figure; one whose publication was assumed may lie ahead."""
    yield from of_number("value", record.value)
    yield from of_day("period_start", record.period_start)
    yield from of_day("period_end", record.period_end)
    yield from of_day("declared_end", record.declared_end)
    yield from of_day("share_basis_date", record.share_basis_date)
    yield from of_instant("published_at", record.published_at, None if record.assumed else now)
    yield from of_text("unit", record.unit)
    for at in ("reported", "place", "basis"):
        yield from of_text(at, getattr(record, at), empty=True)


def passing(
    records: Iterable[R], problems_of: Callable[[R, datetime], Found], now: datetime
) -> tuple[list[R], list[Problem]]:
    """The records without a problem, in their order,
    and the first problem of each of the others.
    """
    good: list[R] = []
    wrong: list[Problem] = []
    for record in records:
        problem = next(problems_of(record, now), None)
        if problem is None:
            good.append(record)
        else:
            wrong.append(problem)
    return good, wrong


def in_words(problems: Sequence[Problem]) -> str:
    """Refused values in one sentence, the first ones named."""
    shown = "; ".join(f"{p.at} {p.value}: {p.problem}" for p in problems[:3])
    more = f"; and {len(problems) - 3} more" if len(problems) > 3 else ""
    return f"{len(problems)} {'value' if len(problems) == 1 else 'values'} refused: {shown}{more}"
