"""Reading what belongs to securities and listings: splits, dividends, delistings,
shares outstanding, prices.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, Row, func, select

from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.dated.versions import Version, standing
from wise_ledger.core.market.factors import Factor
from wise_ledger.core.market.payouts import Dividend
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.market.whose import Delisting
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.splits import Split
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import tables

Versions = Iterator[tuple[Row[Any], int, int]]
# The place of each source by number, 0 first, for a kind of record of a company (T5).
Ranks = Callable[[str, int], NDArray[np.int16]]


def _versions(
    connection: Connection,
    table: Any,
    batch: int,
    key: Sequence[str],
    known: Callable[[Row[Any]], int],
    ranks: Ranks,
) -> Versions:
    """The rows up to a batch, since and until when each is what is known of its key.

    `known` says since when a row that gives no instant is.
    """
    query = select(table).where(table.c.batch <= batch).order_by(table.c.id)
    found: dict[tuple[Any, ...], list[Row[Any]]] = {}
    for row in connection.execute(query):
        found.setdefault(tuple(getattr(row, name) for name in key), []).append(row)
    company: dict[int, int] = {}
    for (owner, *_), rows in found.items():
        rank: Any = {rows[0].source: 0}
        if any(r.source != rows[0].source for r in rows):
            company = company or _companies(connection, listings="listing" in key)
            rank = ranks(table.name, company[owner]).tolist()
        given = [
            Version(rank[r.source], known(r), None)
            if r.published_at is None
            else Version(rank[r.source], r.published_at, r.published_at)
            for r in rows
        ]
        yield from ((rows[n], since, until) for n, since, until in standing(given))


def _companies(connection: Connection, *, listings: bool) -> dict[int, int]:
    """The company of each security by number, or of each listing."""
    s, x = tables.securities.c, tables.listings.c
    query = select(s.number, s.company)
    if listings:
        query = select(x.number, s.company).select_from(tables.listings).join(tables.securities)
    return {row[0]: row[1] for row in connection.execute(query)}


def splits_of_securities(connection: Connection, batch: int, ranks: Ranks) -> list[Factor]:
    """The splits of all securities; one without a ratio was taken back."""
    key = ("security", "ex_date")
    rows = _versions(connection, tables.splits, batch, key, _from_ex_date, ranks)
    return [Factor(r.security, r.ex_date, r.ratio, a, b) for r, a, b in rows if r.ratio is not None]


def splits_of_companies(connection: Connection, batch: int, ranks: Ranks) -> list[Split]:
    """The splits of each company's main ordinary security (M4):
    its per-share figures follow them.
    """
    company = {security: owner for owner, security in _main_ordinary(connection, batch).items()}
    return [
        Split(company[f.owner], f.day, f.factor, f.known, f.until)
        for f in splits_of_securities(connection, batch, ranks)
        if f.owner in company
    ]


def _main_ordinary(connection: Connection, batch: int) -> dict[int, int]:
    """Of each company the ordinary security listed longest; of several unlisted ones the first."""
    s, x = tables.securities.c, tables.listings.c
    since = func.min(x.valid_from)
    query = (
        select(s.company, s.number, since.label("since"))
        .select_from(
            tables.securities.outerjoin(
                tables.listings, (x.security == s.number) & (x.batch <= batch)
            )
        )
        .where(s.type == "ordinary", s.batch <= batch)
        .group_by(s.number)
        .order_by(since.is_(None), since, s.number)
    )
    out: dict[int, int] = {}
    for row in connection.execute(query):
        out.setdefault(row.company, row.number)
    return out


def dividends(connection: Connection, batch: int, ranks: Ranks) -> list[Dividend]:
    """The dividends of all securities; one without an amount was taken back."""
    key = ("security", "ex_date", "kind")
    rows = _versions(connection, tables.dividends, batch, key, _from_ex_date, ranks)
    return [
        Dividend(
            r.security, r.ex_date, r.amount, currency_code(r.currency), r.kind == "special", a, b
        )
        for r, a, b in rows
        if r.amount is not None
    ]


def delistings(connection: Connection, batch: int, ranks: Ranks) -> list[Delisting]:
    """The ends of listings; one that replaces an earlier batch's is known
    since its own (T9), unless it says when.
    """
    table = tables.delistings
    first: dict[tuple[int, int], int] = {}
    recorded = dict(
        connection.execute(select(tables.batches.c.number, tables.batches.c.recorded_at)).all()
    )  # type: ignore[arg-type]
    for r in connection.execute(select(table).where(table.c.batch <= batch).order_by(table.c.id)):
        first.setdefault((r.listing, r.source), r.batch)

    def known(r: Row[Any]) -> int:
        own = _end_of_its_day(r)
        return own if first[r.listing, r.source] == r.batch else max(own, recorded[r.batch])

    rows = _versions(connection, table, batch, ("listing",), known, ranks)
    return [Delisting(r.listing, r.date, np.nan if r.final_return is None else r.final_return, a, b)
            for r, a, b in rows]  # fmt: skip


def share_counts(connection: Connection, batch: int, ranks: Ranks) -> ShareCounts:
    """Shares outstanding; known at the day's end unless published."""
    key = ("security", "date")
    rows = list(_versions(connection, tables.shares, batch, key, _end_of_its_day, ranks))
    series = DatedSeries.of((r.security, r.date, since) for r, since, _ in rows)
    return ShareCounts(series, np.array([r.shares_outstanding for r, *_ in rows], np.float64))


def receipt_ratios(
    connection: Connection, batch: int, ranks: Ranks
) -> list[tuple[int, int, int, float]]:
    """Ratios of receipts that are others than the first: security, from which day,
    since when known, ratio.
    """
    key, table = ("security", "valid_from"), tables.receipt_ratios
    rows = _versions(connection, table, batch, key, lambda r: int(r.valid_from * DAY), ranks)
    return [(r.security, r.valid_from, since, r.ratio) for r, since, _ in rows]


def _from_ex_date(row: Row[Any]) -> int:
    return int(row.ex_date * DAY)


def _end_of_its_day(row: Row[Any]) -> int:
    return int((row.date + 1) * DAY - 1)


def item_codes(connection: Connection) -> dict[int, str]:
    """The code of each item by its number."""
    return {
        r.number: r.code
        for r in connection.execute(select(tables.items.c.number, tables.items.c.code))
    }


def contributors(connection: Connection) -> tuple[str, ...]:
    """The names of contributors to estimates, by number."""
    query = select(tables.contributors.c.name).order_by(tables.contributors.c.number)
    return tuple(connection.execute(query).scalars())
