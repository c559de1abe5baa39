"""All that was released of a series: its vintages side by side,
and one period release by release.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.series.keys import dimensions_of, family_of, matching
from wise_ledger.core.series.periods import Frequency, label, read_period
from wise_ledger.core.series.steps import span_of
from wise_ledger.work.desk import Desk
from wise_ledger.work.series import Described, describe, known_keys, one_series

MOST_RELEASES = 400  # in one answer
MOST_OBSERVATIONS = 500_000


@dataclass(frozen=True, eq=False)
class Triangle:
    """Every vintage of a series: periods down, releases across; NaN where nothing was known."""

    about: Described
    periods: tuple[str, ...]
    releases: np.ndarray
    values: np.ndarray
    new: tuple[int, ...]  # periods that each release brought first
    revised: tuple[int, ...]  # and changed
    bases: tuple[str, ...]  # what an index stood on after each
    batch: int


def read_triangle(
    desk: Desk,
    viewpoint: Viewpoint,
    key: str,
    *,
    start: str | None = None,
    end: str | None = None,
    most: int = 60,
) -> Triangle:
    """The vintages of the last `most` releases by the cut-off,
    of the periods from one to another, both included.
    """
    snapshot = desk.snapshots.of(viewpoint)
    book = snapshot.view.series
    number = one_series(snapshot, key)
    if not 1 <= most <= MOST_RELEASES:
        raise bad_input(
            "most",
            most,
            f"between 1 and {MOST_RELEASES} releases are shown",
            f"write {MOST_RELEASES}",
        )
    frequency = book.frequency(number) or Frequency.M
    periods, at, values = book.vintages.triangle(number, viewpoint.cutoff, most + 1)
    first, last = span_of(frequency, start, end)
    keep = np.ones(len(periods), np.bool_)
    keep &= periods >= first if first is not None else True
    keep &= periods <= last if last is not None else True
    periods, values = periods[keep], values[keep]
    before = values[:, :-1] if values.shape[1] else values
    there = ~np.isnan(values[:, 1:])
    new = (there & np.isnan(before)).sum(axis=0) if values.shape[1] > 1 else np.empty(0, np.int64)
    revised = (
        (there & ~np.isnan(before) & (values[:, 1:] != before)).sum(axis=0) if len(new) else new
    )
    if len(at) > most:
        at, values = at[1:], values[:, 1:]
        counts = new, revised
    elif not len(at):  # nothing was released by then
        counts = new, revised
    else:  # the first of all brought all that it has
        counts = np.append((~np.isnan(values[:, :1])).sum(), new), np.append(0, revised)
    labels = tuple(label(frequency, int(p)) for p in periods)
    whole = (tuple(int(n) for n in c) for c in counts)
    stood = tuple(map(book.base, book.vintages.bases(number, at)))
    return Triangle(
        describe(book, number, viewpoint.cutoff), labels, at, values, *whole, stood, snapshot.batch
    )


@dataclass(frozen=True, eq=False)
class History:
    """Every release of a series, by period, then by when it was known; NaN where it took back."""

    about: Described
    flow: str  # what the key names before its codes; all of it where it has none
    codes: Mapping[str, str]  # by dimension, in the order of the key
    periods: tuple[str, ...]
    values: np.ndarray
    known: np.ndarray
    assumed: np.ndarray
    bases: tuple[str, ...]


def read_histories(
    desk: Desk,
    viewpoint: Viewpoint,
    keys: Sequence[str],
    *,
    start: str | None = None,
    end: str | None = None,
) -> tuple[list[History], int]:
    """All that was released by the cut-off of series (keys may have wildcards), of the periods from
    one to another, both included; raises `BadInput`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    book, there = snapshot.view.series, known_keys(snapshot)
    numbers = [book.of(k) for k in dict.fromkeys(k for key in keys for k in matching(key, there))]
    found, count = [], 0
    for number in numbers:
        vintages, frequency = book.vintages, book.frequency(number) or Frequency.M
        rows = vintages.history(number, viewpoint.cutoff)
        first, last = span_of(frequency, start, end)
        if first is not None:
            rows = rows[vintages.period[rows] >= first]
        if last is not None:
            rows = rows[vintages.period[rows] <= last]
        count += len(rows)
        if count > MOST_OBSERVATIONS:
            problem = f"they have more than {MOST_OBSERVATIONS:,} observations"
            mend = "ask for fewer series, or from a later period"
            raise bad_input("series", ", ".join(keys)[:200], problem, mend)
        periods = vintages.period[rows].tolist()
        words = {p: label(frequency, p) for p in set(periods)}
        about = describe(book, number, viewpoint.cutoff)
        found.append(
            History(
                about,
                family_of(about.key) or about.key,
                _codes(about),
                tuple(words[p] for p in periods),
                vintages.value[rows],
                vintages.known[rows],
                vintages.assumed[rows],
                tuple(map(book.base, vintages.base[rows].tolist())),
            )
        )
    return found, snapshot.batch


def _codes(about: Described) -> dict[str, str]:
    """The codes of a key by the ids of their dimensions, numbered where nobody described them."""
    codes, ids = dimensions_of(about.key), [*about.dimensions]
    if len(ids) != len(codes):
        ids = ["FREQ" if n == 1 else f"DIMENSION_{n}" for n in range(1, len(codes) + 1)]
    return dict(zip(ids, codes, strict=True))


@dataclass(frozen=True)
class Revision:
    """What was said of a period at a release; None where it was taken back."""

    at: int
    value: float | None
    base: str
    assumed: bool


def read_revisions(
    desk: Desk, viewpoint: Viewpoint, key: str, period: str
) -> tuple[Described, str, list[Revision], int]:
    """Every release of one period of a series by the cut-off, the oldest
    first; raises `BadInput`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    book, vintages = snapshot.view.series, snapshot.view.series.vintages
    number = one_series(snapshot, key)
    frequency = book.frequency(number) or Frequency.M
    of, asked = read_period(period)
    if of is not frequency:
        raise bad_input(
            "period", period, f"{key} is {frequency.adverb}", f"write a {frequency.noun}"
        )
    own = vintages.rows_of(number)
    rows = np.arange(own.start, own.stop)[
        (vintages.period[own] == asked) & (vintages.known[own] <= viewpoint.cutoff)
    ]
    out = []
    for row in rows.tolist():
        value, base = float(vintages.value[row]), int(vintages.base[row])
        plain = None if math.isnan(value) else value
        out.append(
            Revision(
                int(vintages.known[row]),
                plain,
                book.base(base),
                bool(vintages.assumed[row]),
            )
        )
    return describe(book, number, viewpoint.cutoff), label(frequency, asked), out, snapshot.batch
