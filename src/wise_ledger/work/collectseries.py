"""What a collection takes of economic series: what is said of them, where that is new,
and observations.
"""

from collections.abc import Mapping

import numpy as np

from wise_ledger.core.errors import Problem
from wise_ledger.core.records import kinds
from wise_ledger.core.records.columnkinds import SERIES
from wise_ledger.core.records.columns import UNSAID, RecordColumns, missing
from wise_ledger.core.records.records import SeriesAttributeRecord
from wise_ledger.core.series.periods import Frequency, decoded
from wise_ledger.core.time.instants import as_instant
from wise_ledger.sources.series import ObservationsFound, SeriesFound
from wise_ledger.store.batch import BatchWriter
from wise_ledger.words import counted


def write_series(batch: BatchWriter, source: int, found: SeriesFound, _: Mapping[str, int]) -> None:
    """All that was found; an observation of another frequency than its series has is refused."""
    known = batch.series_texts(source)
    for part in found.observations:
        numbers = np.array([batch.series(key) for key in part.keys], np.int32)
        bases = [
            batch.series_base(text) if text else RecordColumns.absent(np.int32)
            for text in part.bases
        ]
        base = np.where(
            part.base < 0, RecordColumns.absent(np.int32), np.array(bases or [0])[part.base]
        )
        rows = RecordColumns.of(
            SERIES,
            series=numbers[part.which],
            period=part.period,
            value=part.value,
            released_at=part.released_at,
            base=base,
        )
        batch.add_columns(source, rows.where(_of_one_frequency(batch, part)))
        first = _first_release(part)
        records, owners = [], []
        for n, key in enumerate(part.keys):
            number = int(numbers[n])
            for name, value in found.described.get(key, {}).items():
                if known.get((number, name)) == value:
                    continue
                new = (number, name) not in known and first[n] != UNSAID
                at = as_instant(int(first[n]) if new else batch.recorded_at)
                records.append(SeriesAttributeRecord(name, value, at))
                owners.append(number)
        batch.add(kinds.SERIES_ATTRIBUTES, records, source=source, series=owners)


def _of_one_frequency(batch: BatchWriter, part: ObservationsFound) -> np.ndarray:
    """Which rows have the frequency of most of their series."""
    kinds_ = decoded(part.period)[0]
    keep = np.ones(len(part), np.bool_)
    if len(np.unique(kinds_)) < 2:
        return keep
    for n, key in enumerate(part.keys):
        own = np.flatnonzero(part.which == n)
        usual = int(np.bincount(kinds_[own]).argmax())
        odd = own[kinds_[own] != usual]
        if len(odd):
            keep[odd] = False
            some = counted(len(odd), "observation")
            problem = f"of another frequency than {Frequency(usual).adverb}: {some}"
            batch.refuse(None, Problem("series", key, problem, "report it to the source"))
    return keep


def _first_release(part: ObservationsFound) -> np.ndarray:
    """When anything of each series was released first; `UNSAID` where the source does not say."""
    out = np.full(len(part.keys), np.iinfo(np.int64).max)
    there = ~missing(part.released_at)
    np.minimum.at(out, part.which[there], part.released_at[there])
    return np.where(out == np.iinfo(np.int64).max, UNSAID, out)
