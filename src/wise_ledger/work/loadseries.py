"""Observations of economic series in files: as rows, as SDMX-CSV,
or in wide tables by a mapping file.

A wide table has periods down and series across, or releases of one series across:

    head: 3                       # the line with the labels; lines are counted from 1
    periods: 1                    # the column with the periods; columns are counted from 1
    frequency: month              # what dates stand for, where periods are written as dates
    released_at: 2024-03-15       # of all; assumed where it is left out
    base: 2015=100                # of all
    series:
      All items: MY_PRICES/M.XA.00
      Jobless rate: {key: MY_LABOUR/M.XA.RATE, base: ""}
    missing: ["..", "n/a"]        # what stands where there is nothing

With `across: releases` and `key: MY_OUTPUT/Q.XA` in the place of `series`, the heads are days of
release.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray
from pydantic import Field

from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.columns import UNSAID, RecordColumns, missing
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.periods import (
    Frequency,
    decoded,
    label,
    last_day,
    period_of,
    period_words,
    read_frequency,
    read_period,
    recoded,
)
from wise_ledger.sources.errors import SourceDamaged
from wise_ledger.sources.sdmx import read_sdmx_csv
from wise_ledger.words import counted
from wise_ledger.work.columnfile import FileColumns
from wise_ledger.work.loading import BadRow
from wise_ledger.work.mappingfile import MappingPart, Text, read_mapping, short_for
from wise_ledger.work.tablefile import read_grid


def of_one_frequency(
    book: SeriesBook, keys: Sequence[str], which: NDArray[np.int32], periods: NDArray[np.int32]
) -> tuple[NDArray[np.int32], dict[int, Problem]]:
    """The periods of the rows of `keys[which]`,
    and what is wrong with those of another length than their series has.

    A series has the frequency that the ledger knows, else the one of most of its rows. A day is
    taken for the week that holds it where its series is weekly (S2).
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
                "period",
                period_words(int(periods[row])),
                f"this is a {given.noun}; {whose} {frequency.adverb}",
                f"write a {frequency.noun}, or load it as a series of its own",
            )
    return out, problems


def older_releases(book: SeriesBook, rows: RecordColumns) -> tuple[str, ...]:
    """Of rows just loaded those released before what the ledger had of their
    period: they change the past.
    """
    shape = rows["released_at"]
    newest = book.vintages.newest_release()
    count, keys = 0, []
    for number in np.unique(rows["series"]).tolist():
        frequency = book.frequency(number)
        if frequency is None or not newest:
            continue
        own = np.flatnonzero((rows["series"] == number) & (shape != UNSAID))
        periods = period_of(frequency, decoded(rows["period"][own])[1])
        last = np.array([newest.get((number, p), UNSAID) for p in periods.tolist()], np.int64)
        if late := int((shape[own] < last).sum()):
            count += late
            keys.append(book.keys[number])
    if not count:
        return ()
    whose = ", ".join(keys[:3]) + (" …" if len(keys) > 3 else "")
    what = f"{counted(count, 'observation')} ({whose}), released before what the ledger had"
    return (f"{what} of the same period: what was known then changes",)


_HEADS = ("series", "period", "value", "released_at", "base")
_NOTHING = ("", "..", "...", "n/a", "na", "nan", "-", "–", ".")


def sdmx_columns(content: bytes) -> FileColumns:
    """A message of SDMX-CSV as the columns of a file of observations; raises `BadInput`."""
    try:
        return _columns(read_sdmx_csv(content), 2)
    except SourceDamaged as error:
        raise BadInput(*error.problems) from None


def _columns(rows: dict[str, list[str]], first: int | list[int]) -> FileColumns:
    count = len(rows["series"])
    lines = np.arange(first, first + count) if isinstance(first, int) else np.array(first, np.int64)
    return FileColumns(
        {n: pa.chunked_array([pa.array(c, pa.string())]) for n, c in rows.items()}, lines
    )


def wide_columns(content: bytes, mapping: str) -> FileColumns:
    """A wide table as the columns of a file of observations, each with its
    line; raises `BadInput`.
    """
    shape = _mapping(mapping)
    grid = read_grid(content)
    head, of = shape.head, shape.periods - 1
    if len(grid) < head:
        raise bad_input(
            "head",
            head,
            f"the file has {counted(len(grid), 'line')}",
            "name the line with the labels",
        )
    labels = [str(cell).strip() for cell in grid[head - 1]]
    targets = _releases(labels, of, shape) if shape.across == "releases" else _series(labels, shape)
    frequency = read_frequency(shape.frequency) if shape.frequency else None
    nothing = {word.strip().lower() for word in shape.missing} | set(_NOTHING)
    rows: dict[str, list[str]] = {name: [] for name in _HEADS}
    lines: list[int] = []
    bad: list[BadRow] = []
    for number, cells in enumerate(grid[head:], start=head + 1):
        period = str(cells[of]).strip() if len(cells) > of else ""
        if not period:
            continue
        try:
            period = _period(period, frequency)
        except BadInput as error:
            problem = replace(error.problems[0], at="period")
            bad.append(BadRow.of(number, problem, {"period": period}))
            continue
        for column, target in targets.items():
            text = str(cells[column]).strip() if column < len(cells) else ""
            if text.lower() in nothing:
                continue
            made = {**target, "period": period, "value": text.replace("\u2212", "-")}
            for name in _HEADS:
                rows[name].append(made.get(name, ""))
            lines.append(number)
    if not lines and not bad:
        raise bad_input(
            "file",
            f"{len(content)} bytes",
            "there is no value below the labels",
            "check head and periods",
        )
    found = _columns(rows, lines)
    return FileColumns(found.columns, found.lines, tuple(bad))


class _To(MappingPart):
    key: Text
    base: Text = ""
    released_at: Text = ""


class _Wide(MappingPart):
    """What a mapping of a wide table says."""

    head: int = Field(1, ge=1)
    periods: int = Field(1, ge=1)
    frequency: Text | None = None
    released_at: Text = ""
    base: Text = ""
    series: dict[Text, Annotated[_To, short_for("key")]] = Field({})
    missing: tuple[Text, ...] = ()
    across: Literal["series", "releases"] = "series"
    key: Text = ""
    source: Text = ""


def _mapping(text: str) -> _Wide:
    shape = read_mapping(text, _Wide, "docs/series.md")
    needed = "key" if shape.across == "releases" else "series"
    if not getattr(shape, needed):
        raise bad_input(
            "mapping", needed, "it is missing", f"say {needed}:, as docs/series.md does"
        )
    return shape


def _series(labels: list[str], shape: _Wide) -> dict[int, dict[str, str]]:
    """By column which series it is of, and what else is said of its cells."""
    out = {}
    for name, to in shape.series.items():
        if name not in labels:
            raise bad_input(
                "series", name, "no column has this label", mend_for(name, [x for x in labels if x])
            )
        own = {"series": to.key, "base": to.base, "released_at": to.released_at}
        common = {"base": shape.base, "released_at": shape.released_at}
        given = to.model_fields_set
        out[labels.index(name)] = {
            n: v if n in given or n == "series" else common[n] for n, v in own.items()
        }
    return out


def _releases(labels: list[str], of: int, shape: _Wide) -> dict[int, dict[str, str]]:
    base = {"base": shape.base} if shape.base else {}
    return {
        n: {"series": shape.key, "released_at": day, **base}
        for n, day in enumerate(labels)
        if n != of and day
    }


def _period(text: str, frequency: Frequency | None) -> str:
    """A period as it is written; a day as the longer period that it stands for."""
    of, period = read_period(text)
    if frequency is None or of is frequency:
        return text
    if of is not Frequency.D:
        raise bad_input(
            "period",
            text,
            f"this is a {of.noun}, not a {frequency.noun}",
            "mend it, or the frequency",
        )
    return label(frequency, int(period_of(frequency, last_day(of, np.array([period])))[0]))
