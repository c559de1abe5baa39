"""Reading what belongs to securities and listings: splits, dividends, delistings,
shares outstanding, prices.
"""

from collections.abc import Callable, Iterator, Sequence
from itertools import accumulate
from typing import Any

import numpy as np
from sqlalchemy import Connection, Row, func, select

from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.market.factors import Factor
from wise_ledger.core.market.payouts import Dividend
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.market.whose import Delisting
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.splits import NEVER, Split, known_from
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import tables

Versions = Iterator[tuple[Row[Any], int, int]]


def _versions(
    connection: Connection,
    table: Any,
    batch: int,
    key: Sequence[str],
    known: Callable[[Row[Any]], int],
) -> Versions:
    """The rows up to a batch, since and until when each is what is known:
    as the first source of them says it last.

    A later row of one key replaces the one before from the instant on at which it is public itself
    (M3): the one that says a later instant, whenever it came (T5), and one that says none replaces
    what came before it.
    """
    query = select(table).where(table.c.batch <= batch).order_by(table.c.source, table.c.id)
    found: dict[tuple[Any, ...], list[Row[Any]]] = {}
    for row in connection.execute(query):
        found.setdefault(tuple(getattr(row, name) for name in key), []).append(row)
    for rows in found.values():
        own = [(r, known(r)) for r in rows if r.source == rows[0].source]
        # Without an instant of its own a row stands where it came.
        newest = accumulate((since for _, since in own), max)
        place = [
            since if r.published_at is not None else before
            for (r, since), before in zip(own, newest, strict=True)
        ]
        in_order = [own[n] for n in sorted(range(len(own)), key=place.__getitem__)]
        until, standing = NEVER, []
        for r, since in reversed(in_order):
            if since < until:
                standing.append((r, since, until))
                until = since
        yield from reversed(standing)


def splits_of_securities(connection: Connection, batch: int) -> list[Factor]:
    """The splits of all securities; one without a ratio was taken back."""
    rows = _versions(
        connection,
        tables.splits,
        batch,
        ("security", "ex_date"),
        lambda r: known_from(r.ex_date, r.published_at),
    )
    return [Factor(r.security, r.ex_date, r.ratio, a, b) for r, a, b in rows if r.ratio is not None]


def splits_of_companies(connection: Connection, batch: int) -> list[Split]:
    """The splits of each company's main ordinary security (M4):
    its per-share figures follow them.
    """
    company = {security: owner for owner, security in _main_ordinary(connection, batch).items()}
    return [
        Split(company[f.owner], f.day, f.factor, f.known, f.until)
        for f in splits_of_securities(connection, batch)
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


def dividends(connection: Connection, batch: int) -> list[Dividend]:
    """The dividends of all securities; one without an amount was taken back."""
    rows = _versions(
        connection, tables.dividends, batch, ("security", "ex_date", "kind"),
        lambda r: known_from(r.ex_date, r.published_at),
    )  # fmt: skip
    return [
        Dividend(
            r.security, r.ex_date, r.amount, currency_code(r.currency), r.kind == "special", a, b
        )
        for r, a, b in rows
        if r.amount is not None
    ]


def delistings(connection: Connection, batch: int) -> list[Delisting]:
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
        if r.published_at is not None:
            return int(r.published_at)
        own = (r.date + 1) * DAY - 1
        return own if first[r.listing, r.source] == r.batch else max(own, recorded[r.batch])

    rows = _versions(connection, table, batch, ("listing",), known)
    return [Delisting(r.listing, r.date, np.nan if r.final_return is None else r.final_return, a, b)
            for r, a, b in rows]  # fmt: skip


def share_counts(connection: Connection, batch: int) -> ShareCounts:
    """Shares outstanding: of one day the first source's, as it says last;
    known at the day's end unless published.
    """
    t = tables.shares
    query = select(t).where(t.c.batch <= batch).order_by(t.c.source.desc(), t.c.id)
    rows = connection.execute(query).all()
    series = DatedSeries.of(
        (r.security, r.date, (r.date + 1) * DAY - 1 if r.published_at is None else r.published_at)
        for r in rows
    )
    return ShareCounts(series, np.array([r.shares_outstanding for r in rows], np.float64))


def receipt_ratios(connection: Connection, batch: int) -> list[tuple[int, int, int, float]]:
    """Ratios of receipts that are others than the first: security, from which day,
    since when known, ratio.
    """
    t = tables.receipt_ratios
    rows = connection.execute(
        select(t).where(t.c.batch <= batch).order_by(t.c.source.desc(), t.c.id)
    )
    return [
        (
            r.security,
            r.valid_from,
            r.valid_from * DAY if r.published_at is None else r.published_at,
            r.ratio,
        )
        for r in rows
    ]


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
