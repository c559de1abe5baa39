"""What a collection takes of a market: prices and levels, dividends, share counts,
ends of listings, estimates.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import ITEMS, Nature
from wise_ledger.core.errors import Problem
from wise_ledger.core.estimates.contributions import MEASURES, QUARTER, YEAR
from wise_ledger.core.money.currencies import currency_code, is_currency
from wise_ledger.core.records import kinds
from wise_ledger.core.records.columnkinds import COLUMN_KINDS, LEVELS, PRICES
from wise_ledger.core.records.columns import ColumnKind, RecordColumns
from wise_ledger.core.records.recordkind import RecordKind
from wise_ledger.sources.market import (
    EstimatesFound,
    Expected,
    LevelsFound,
    MarketFound,
    PricesFound,
)
from wise_ledger.store.batch import BatchWriter, ListingOf

Keyed = tuple[Any, Any]  # the source's key of whose it is, and a record
Listings = Mapping[tuple[str, str], Sequence[ListingOf]]


def write_market(batch: BatchWriter, source: int, found: MarketFound, _: Mapping[str, int]) -> None:
    """All that was found; what is of a security or listing that nobody described is refused."""
    securities, listings = batch.securities_of(source), batch.listings_of(source)
    for prices in found.prices:
        batch.add_columns(source, _prices(batch, prices, listings))
    if found.levels is not None:
        batch.add_columns(source, _levels(batch, found.levels))

    def add(
        kind: RecordKind,
        rows: Sequence[tuple[str, Any]],
        column: str,
        number: Callable[[Any], int | None],
    ) -> None:
        """Records of one kind, security by security,
        as the writer looks for what is there already.
        """
        by_owner: dict[int, list[Any]] = {}
        for key, record in rows:
            owner = number(key)
            if owner is None:
                batch.refuse(
                    None,
                    Problem(
                        kind.name,
                        str(key),
                        "no such security was described",
                        "report it to the source",
                    ),
                )
            else:
                by_owner.setdefault(owner, []).append(record)
        for owner, records in by_owner.items():
            batch.add(kind, records, source=source, **{column: owner})

    add(kinds.DIVIDENDS, found.dividends, "security", securities.get)
    add(kinds.SHARES, found.shares, "security", securities.get)
    ends = [((key, mic), record) for key, mic, record in found.delistings]

    def listing(of: tuple[str, str]) -> int | None:
        return max((x.number for x in listings.get(of, ())), default=None)

    add(kinds.DELISTINGS, ends, "listing", listing)


def _prices(
    batch: BatchWriter, found: PricesFound, listings: Mapping[tuple[str, str], Sequence[ListingOf]]
) -> RecordColumns:
    """The rows whose listing is known on their own day."""
    number = np.full(len(found), -1, np.int32)
    days = found.columns["date"]
    order = np.argsort(found.which, kind="stable")
    bounds = np.searchsorted(found.which[order], np.arange(len(found.keys) + 1))
    for n, key in enumerate(found.keys):
        rows = order[bounds[n] : bounds[n + 1]]
        own = number[rows]
        for listing in listings.get((key, found.mic), ()):
            own[(days[rows] >= listing.since) & (days[rows] <= listing.until)] = listing.number
        number[rows] = own
        if (own < 0).any():
            problem = f"{int((own < 0).sum())} prices at {found.mic} on days on which it was not listed there"
            batch.refuse(
                None,
                Problem("prices", key, problem, "report it to the source, or load its listing"),
            )
    rows = RecordColumns.of(PRICES, listing=number, **found.columns)
    return rows.where(number >= 0)


def _levels(batch: BatchWriter, found: LevelsFound) -> RecordColumns:
    numbers = batch.list_numbers()
    own: NDArray[np.int32] = np.array([numbers.get(name, -1) for name in found.names], np.int32)
    for name in found.names:
        if name not in numbers:
            batch.refuse(
                None, Problem("levels", name, "there is no such list", "report it to the source")
            )
    number = own[found.which] if len(own) else np.empty(0, np.int32)
    return RecordColumns.of(LEVELS, list=number, **found.columns).where(number >= 0)


_KINDS = {"fy": YEAR, "q": QUARTER}


def write_estimates(
    batch: BatchWriter, source: int, found: EstimatesFound, companies: Mapping[str, int]
) -> None:
    """All that was found; what names no company, measure, kind of period or currency is refused."""
    for name, parts in found.rows.items():
        for part in parts:
            batch.add_columns(source, _expected(batch, COLUMN_KINDS[name], part, companies))


def _expected(
    batch: BatchWriter, kind: ColumnKind, found: Expected, companies: Mapping[str, int]
) -> RecordColumns:
    def measure(text: str) -> int | None:
        code = MEASURES.get(text, text)
        return batch.item(code) if code in ITEMS and ITEMS[code].nature is Nature.FLOW else None

    read: dict[str, Callable[[str], int | None]] = {
        "company": companies.get,
        "measure": measure,
        "period_kind": _KINDS.get,
        "currency": lambda text: currency_code(text) if is_currency(text) else None,
        "contributor": lambda text: batch.contributor(text) if text.strip() else None,
    }
    columns, good = {}, np.ones(len(found), np.bool_)
    for name, texts in found.texts.items():
        number = {text: read[name](text) for text in dict.fromkeys(texts)}
        for text in (t for t, n in number.items() if n is None):
            batch.refuse(
                None,
                Problem(
                    kind.name,
                    text,
                    f"there is no such {name.replace('_', ' ')}",
                    "report it to the source",
                ),
            )
        own = np.array([-1 if (n := number[t]) is None else n for t in texts], np.int32)
        columns[name] = own
        good &= own >= 0
    return RecordColumns.of(kind, **columns, **found.columns).where(good)
