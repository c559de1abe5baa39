"""Series side by side, each after its own steps, as they stood on a day."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.keys import matching
from wise_ledger.core.series.lines import Line, side_by_side
from wise_ledger.core.series.periods import label, last_day
from wise_ledger.core.series.steps import (
    Step,
    in_words,
    is_fraction,
    read_steps,
    span_of,
    transformed,
)
from wise_ledger.core.series.vintages import Which
from wise_ledger.work.desk import Desk
from wise_ledger.work.series import Described, describe, known_keys

MOST_CELLS = 2_000_000  # in one answer


@dataclass(frozen=True)
class Wanted:
    """A series, or many by a wildcard key, with steps of its own; None: those of all."""

    key: str
    steps: tuple[str, ...] | None = None
    title: str = ""


@dataclass(frozen=True, eq=False)
class Shown:
    """A series on a sheet: its line after its steps, and the head of its column in words."""

    about: Described
    head: str
    percent: bool
    line: Line
    since: str | None  # the first period with a value, where it is later than asked
    title: str = ""


@dataclass(frozen=True, eq=False)
class Sheet:
    """Several series side by side, as known at the cut-off."""

    series: tuple[Shown, ...]
    start: str | None
    end: str | None
    which: Which
    batch: int
    bases: Mapping[int, str]  # by number


def read_sheet(
    desk: Desk,
    viewpoint: Viewpoint,
    wanted: Sequence[Wanted],
    *,
    steps: Sequence[str] = (),
    start: str | None = None,
    end: str | None = None,
    which: Which = "known",
) -> Sheet:
    """Series from a period to a period, both included,
    each after its own steps or those of all; raises `BadInput`.

    `which`: as known at the cut-off, as first released by then, or as last revised, which looks
    ahead.
    """
    if not wanted:
        raise bad_input(
            "series", "", "no series is named", 'name one such as "CONSUMER_PRICES/M.XA.00"'
        )
    if which not in ("known", "first", "last"):
        raise bad_input("which", which, "there is no such reading", "write known, first or last")
    snapshot = desk.snapshots.of(viewpoint)
    book = snapshot.view.series
    shown, cells = [], 0
    for one in wanted:
        own = read_steps(one.steps if one.steps is not None else steps)
        for key in [one.key] if one.key in book.number else matching(one.key, known_keys(snapshot)):
            shown.append(
                _shown(book, book.number[key], own, one.title, viewpoint.cutoff, start, end, which)
            )
            cells += len(shown[-1].line)
            if cells > MOST_CELLS:
                raise bad_input(
                    "series",
                    one.key,
                    f"these are more than {MOST_CELLS:,} observations",
                    "narrow it",
                )
    lines = side_by_side([s.line for s in shown])
    aligned = tuple(replace(s, line=line) for s, line in zip(shown, lines, strict=True))
    return Sheet(aligned, start, end, which, snapshot.batch, dict(enumerate(book.bases)))


def _shown(
    book: SeriesBook,
    number: int,
    steps: Sequence[Step],
    title: str,
    cutoff: int,
    start: str | None,
    end: str | None,
    which: Which,
) -> Shown:
    read = book.vintages.line(number, cutoff, which)
    about = describe(book, number, cutoff, read if which == "known" else None)
    try:
        # Steps first, so that the first year asked for has its growth.
        line = transformed(read, steps)
        line = line.within(*span_of(line.frequency, start, end))
    except BadInput as error:
        at = [Problem(f"{p.at}, {about.key}", p.value, p.problem, p.mend) for p in error.problems]
        raise BadInput(*at) from None
    there = np.flatnonzero(line.there)
    since = label(line.frequency, int(line.period[there[0]])) if len(there) else None
    return Shown(about, in_words(steps), is_fraction(steps), line, since, title)


Observed = tuple[str, int, float | None, str | None, int | None, bool, str]


def observed(line: Line, bases: Mapping[int, str]) -> list[Observed]:
    """A line entry by entry: period, last day, value, reason,
    the instant it is known since, whether assumed, base.
    """
    columns = (
        line.labels, last_day(line.frequency, line.period).tolist(), line.value.tolist(), line.reason.tolist(),
        line.known.tolist(), line.assumed.tolist(), [bases.get(b, "") for b in line.base.tolist()],
    )  # fmt: skip
    return [
        (p, d, None if why else v, CODES[why], at or None, assumed, base)
        for p, d, v, why, at, assumed, base in zip(*columns, strict=True)
    ]
