"""Restated figures: what each was, what it became, when and by which document."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from math import isnan
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, bindparam, select, text

from wise_ledger.core.time.instants import as_instant
from wise_ledger.core.time.periods import ABSENT, as_date
from wise_ledger.core.timelines.changes import Changes
from wise_ledger.store.arrayreading import NO_VALUE, read_arrays
from wise_ledger.store.examining import quarantined
from wise_ledger.store.factids import in_batches
from wise_ledger.store.limitreading import limits, published_at
from wise_ledger.store.tables import items


@dataclass(frozen=True)
class Change:
    """A restated figure: what it was and is (None: withdrawn), with the document that says so.

    `original` is its first version ever, `latest` the last one known by the cut-off of the
    question.
    """

    company: int
    item: str
    period_start: date | None
    period_end: date
    unit: str
    old: float | None
    new: float | None
    original: float | None
    latest: float | None
    published_at: datetime
    document: str
    sha256: str
    source: str
    # microseconds: when old, new, original, latest were published
    instants: tuple[int, int, int, int] = (0, 0, 0, 0)
    fact: int = -1  # the ledger's row of what it is now

    @property
    def percent(self) -> float | None:
        """By how much it changed, in percent of what it was; None from or to nothing."""
        return (
            None
            if not self.old or self.new is None
            else (self.new - self.old) / abs(self.old) * 100
        )


_VERSION = {
    "company": np.int32,
    "item_number": np.int32,
    "source": np.int16,
    "start": np.int32,
    "end": np.int32,
    "at": np.int64,
    "batch": np.int32,
    "position": np.int32,
    "value": np.float64,
    "fact": np.int64,
}
_VERSIONS = (
    f"SELECT company, item, source, coalesce(period_start, {ABSENT}), period_end, {{published_at}}, batch, position,"
    f" coalesce(value, {NO_VALUE}), id FROM facts"
    " WHERE company IN ({companies}) AND batch <= {last} AND basis = 'consolidated'"
)
_AT_ONCE = 100  # companies whose facts are read at once
_FACTS_AT_ONCE = 5_000  # asked for by their numbers
_EVER = (-(1 << 62), 1 << 62)


def of_batches(connection: Connection, batches: Sequence[int]) -> list[Change]:
    """Figures of these batches that differ from the version before, or take one back; by company.

    As recorded by the last of these batches.
    """
    last = max(batches, default=0)
    touched = text(
        f"SELECT DISTINCT company FROM facts WHERE {in_batches(connection, batches)} ORDER BY company"
    )
    companies = list(connection.execute(touched).scalars())
    out, published = quarantined(connection, last), published_at(limits(connection, last))
    changes: list[Change] = []
    for begin in range(0, len(companies), _AT_ONCE):
        some = ", ".join(str(int(c)) for c in companies[begin : begin + _AT_ONCE])
        query = _VERSIONS.format(companies=some, last=last, published_at=published)
        facts = read_arrays(connection, query, (), _VERSION)
        changes += _of_versions(
            connection, facts[~np.isin(facts["fact"], out)], np.array(batches, np.int64)
        )
    return sorted(changes, key=lambda c: (c.company, c.published_at, c.item, c.period_end))


def _of_versions(connection: Connection, facts: Any, batches: NDArray[np.int64]) -> list[Change]:
    """The changes of these batches among facts of several items,
    which have the columns of `_VERSION`.
    """
    facts = facts[np.argsort(facts["item_number"], kind="stable")].view(np.recarray)
    found = []
    for rows in np.split(np.arange(len(facts)), np.flatnonzero(np.diff(facts.item_number)) + 1):
        of_item = Changes.of(facts[rows], *_EVER)
        four = np.stack(
            [rows[of_item.before], rows[of_item.now], rows[of_item.original], rows[of_item.latest]]
        )
        found.append(four[:, np.isin(facts.batch[four[1]], batches)])
    versions = np.concatenate(found, axis=1)  # one row each: before, now, original, latest
    now = facts[versions[1]]
    values = [[None if isnan(v) else v for v in four] for four in facts.value[versions].T.tolist()]
    instants = [tuple(four) for four in facts.at[versions].T.tolist()]
    starts = [None if start == ABSENT else as_date(start) for start in now.start.tolist()]
    codes = {r.number: r.code for r in connection.execute(select(items.c.number, items.c.code))}
    items_of = [codes[number] for number in now.item_number.tolist()]
    filed = filed_in(connection, now.fact.tolist())
    whose = zip(
        now.company.tolist(),
        items_of,
        starts,
        map(as_date, now.end.tolist()),
        now.fact.tolist(),
        strict=True,
    )
    return [
        Change(
            company, item, start, end, (by := filed[fact]).unit, *four, as_instant(at[1]),
            by.document, by.sha256, by.source, at, fact,
        )
        for (company, item, start, end, fact), four, at in zip(whose, values, instants, strict=True)
    ]  # fmt: skip


@dataclass(frozen=True)
class Filed:
    """In which document a fact was published."""

    document: str
    sha256: str
    source: str
    unit: str


def filed_in(connection: Connection, facts: Collection[int]) -> dict[int, Filed]:
    """The documents of facts by their numbers."""
    query = text(
        "SELECT f.id, d.title, d.sha256, s.name, f.unit FROM facts f JOIN documents d ON d.number = f.document"
        " JOIN sources s ON s.number = f.source WHERE f.id IN :facts"
    ).bindparams(bindparam("facts", expanding=True))
    asked = sorted(facts)
    some = (asked[begin : begin + _FACTS_AT_ONCE] for begin in range(0, len(asked), _FACTS_AT_ONCE))
    return {
        number: Filed(*rest)
        for ids in some
        for number, *rest in connection.execute(query, {"facts": ids})
    }
