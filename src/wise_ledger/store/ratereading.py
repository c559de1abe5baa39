"""Rates between currencies, which are in doubt, and what people said of prices and rates (M2, Q2)."""

from collections.abc import Sequence
from typing import Any, NamedTuple

from sqlalchemy import Connection, select

from wise_ledger.core.dated.versions import Version, standing
from wise_ledger.core.money.currencies import currency_code, is_currency
from wise_ledger.core.money.rates import RateTable, rate_table
from wise_ledger.core.quality.doubts import Doubt, Quoted, Verdicts, out_of_use, walk
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import tables


def market_verdicts(
    connection: Connection, batch: int
) -> dict[tuple[str, str, int], tuple[bool, str, str]]:
    """What people said last of prices, levels and rates in quarantine: by kind,
    subject and day accepted, who, why.
    """
    t = tables.market_verdicts
    rows = connection.execute(select(t).where(t.c.batch <= batch).order_by(t.c.id))
    return {(r.kind, r.subject, r.date): (bool(r.accepted), r.who, r.why) for r in rows}


def rate_verdicts(connection: Connection, batch: int) -> Verdicts:
    """Whether people accept rates in quarantine, by pair of currencies and day."""
    verdicts = market_verdicts(connection, batch)
    return {
        ("rates", pair, day): accepted
        for (kind, subject, day), (accepted, *_) in verdicts.items()
        if kind == "rates" and (pair := _pair(subject)) is not None
    }


def _pair(subject: str) -> tuple[int, int] | None:
    base, _, quote = subject.partition("/")
    return (
        (currency_code(base), currency_code(quote))
        if is_currency(base) and is_currency(quote)
        else None
    )


class _Rate(NamedTuple):
    """A row of rates, and since when it is known: 0 for its own day."""

    base: str
    quote: str
    date: int
    rate: float
    source: int
    batch: int
    published_at: int | None
    known: int

    @property
    def since(self) -> int:
        """The instant from which on it is known."""
        return max(self.known, (self.date + 1) * DAY - 1)


def _rate_rows(connection: Connection, batch: int) -> list[_Rate]:
    """The rates up to a batch, source by source in order of recording.

    One that replaces an earlier batch's is known since its own batch was recorded, unless it says
    when (T9).
    """
    t = tables.rates
    query = select(t.c.base, t.c.quote, t.c.date, t.c.rate, t.c.source, t.c.batch, t.c.published_at)
    query = query.where(t.c.batch <= batch)
    rows = connection.execute(query.order_by(t.c.source, t.c.id)).all()
    first: dict[tuple[Any, ...], int] = {}
    for r in rows:
        first.setdefault((r.source, r.base, r.quote, r.date), r.batch)
    later = {r.batch for r in rows if first[r.source, r.base, r.quote, r.date] != r.batch}
    at = {}
    if later:
        recorded = select(tables.batches.c.number, tables.batches.c.recorded_at)
        at = {n: instant for n, instant in connection.execute(recorded) if n in later}
    return [
        _Rate(
            *r,
            r.published_at
            or (0 if first[r.source, r.base, r.quote, r.date] == r.batch else at[r.batch]),
        )
        for r in rows
    ]


def _rate_doubts(rows: Sequence[_Rate], verdicts: Verdicts) -> list[Doubt]:
    pairs: dict[tuple[str, str], list[Quoted]] = {}
    for n, r in enumerate(rows):
        quoted = Quoted(n, r.source, r.date, r.since, r.batch, r.rate)
        pairs.setdefault((r.base, r.quote), []).append(quoted)
    out = []
    for (base, quote), quoted_ in pairs.items():
        own = sorted(quoted_, key=lambda q: q.day)
        owner = currency_code(base), currency_code(quote)
        out += walk("rates", owner, own, lambda *_: 1.0, verdicts, invertible=True)
    return out


def rate_doubts(connection: Connection, batch: int) -> list[Doubt]:
    """The rates that cannot be, also those that a person accepted."""
    return _rate_doubts(_rate_rows(connection, batch), rate_verdicts(connection, batch))


def rates(connection: Connection, batch: int, rank: Sequence[int]) -> RateTable:
    """The rates in use up to a batch (Q2): of several for one day the first source's that is known,
    of these the last published (T5).

    One is known since it was published, where that is not said since the end of its date (T9).
    `rank` is the place of each source.
    """
    rows = _rate_rows(connection, batch)
    verdicts = rate_verdicts(connection, batch)
    out = set(out_of_use(_rate_doubts(rows, verdicts), verdicts).tolist())
    of_day: dict[tuple[str, str, int], list[_Rate]] = {}
    for n, r in enumerate(rows):
        if n not in out:
            of_day.setdefault((r.base, r.quote, r.date), []).append(r)
    # Whatever counts later goes first in the table.
    used = [step for own in of_day.values() for step in reversed(_steps(own, rank))]
    known = [since for _, since in used]
    return rate_table([r[:4] for r, _ in used], known if any(known) else None)


def _steps(rows: list[_Rate], rank: Sequence[int]) -> list[tuple[_Rate, int]]:
    """The rates of a day, each with the instant from which on it counts, 0 for its own day."""
    if len(rows) == 1:
        return [(rows[0], rows[0].known)]
    given = [Version(rank[r.source], r.since, r.published_at) for r in rows]
    return [
        (rows[n], rows[n].known if since == rows[n].since else since)
        for n, since, _ in standing(given)
    ]
