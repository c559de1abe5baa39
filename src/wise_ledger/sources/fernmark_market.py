"""Fernmark's market data: prices in one columnar file a venue and year,
the rest as JSON in pages.
"""

import json
from collections.abc import Iterator
from datetime import UTC, date, datetime
from typing import Any
from urllib.parse import quote

import pyarrow as pa

from wise_ledger.core.records.packed import TooLarge, read_packed
from wise_ledger.core.records.records import DelistingRecord, DividendRecord, SharesRecord
from wise_ledger.sources.errors import SourceDamaged, SourceError, SourceUnreachable, damaged
from wise_ledger.sources.fernmark_rows import TITLE
from wise_ledger.sources.http import MOST_OF_A_FILE, SourceHttp
from wise_ledger.sources.market import LevelsFound, MarketFound, PricesFound, days, names, numbers

_MISSING = 2  # files that may be: of more the source is in trouble, and is not asked on and on
_PRICES = ("open", "high", "low", "close", "volume")


def market_of(http: SourceHttp, mark: str | None) -> MarketFound:
    """What changed since a mark: files whose version is another, rows that became public since."""
    before = _read_mark(mark)
    versions: dict[str, str] = dict(before.get("files", {}))
    prices, missing = [], list[SourceError]()
    for venue, year, version in _files(http):
        name = f"{venue} {year}"
        if versions.get(name) == version:
            continue
        path = f"/v1/price-files/{quote(str(venue), safe='')}/{quote(str(year), safe='')}"
        try:
            found = http.get(path, read=_parquet, most=MOST_OF_A_FILE).body
            prices.append(_prices(venue, path, found))
        except (SourceDamaged, SourceUnreachable) as error:  # that file alone, and next time again
            missing.append(error)
            if len(missing) > _MISSING:
                raise
            next(_files(http), None)  # the source answers: it is no reason to leave it alone
        else:
            versions[name] = version
    levels = http.get("/v1/levels", etag=before.get("levels"), read=_parquet, most=MOST_OF_A_FILE)
    since = before.get("since", {})
    dividends = [
        _dividend(r) for r in http.pages("/v1/dividends", "dividends", **_since(since, "dividends"))
    ]
    shares = [_shares(r) for r in http.pages("/v1/shares", "shares", **_since(since, "shares"))]
    delistings = [_delisting(r) for r in http.pages("/v1/delistings", "delistings")]
    after = {
        "dividends": max((_moment(d) for _, d in dividends), default=since.get("dividends")),
        "shares": max((_moment(s) for _, s in shares), default=since.get("shares")),
    }
    return MarketFound(
        tuple(prices),
        None if levels.unchanged else _levels(levels.body),
        tuple(dividends),
        tuple(shares),
        tuple(delistings),
        json.dumps({"files": versions, "levels": levels.etag, "since": after}),
        tuple(missing),
    )


def market_calls(http: SourceHttp, mark: str | None) -> int:
    """How many requests `market_of` takes, if each kind of rows comes in one page."""
    versions = _read_mark(mark).get("files", {})
    return 5 + sum(
        versions.get(f"{venue} {year}") != version for venue, year, version in _files(http)
    )


def prices_of(
    http: SourceHttp, security: str, venue: str, since: date | None = None
) -> Iterator[dict[str, Any]]:
    """The prices of one listing, day by day."""
    asked = {"security": security, "venue": venue} | ({"since": str(since)} if since else {})
    yield from http.pages("/v1/prices", "prices", **asked)


def _read_mark(mark: str | None) -> dict[str, Any]:
    found = json.loads(mark) if mark else {}
    return found if isinstance(found, dict) else {}


def _since(since: dict[str, Any], name: str) -> dict[str, str]:
    return {"since": since[name]} if since.get(name) else {}


def _moment(record: DividendRecord | SharesRecord) -> str:
    assert record.published_at is not None
    return record.published_at.strftime("%Y-%m-%dT%H:%M:%SZ")


def _files(http: SourceHttp) -> Iterator[tuple[str, int, str]]:
    body = http.get("/v1/price-files").body
    rows = body.get("files") if isinstance(body, dict) else None
    if not isinstance(rows, list):
        raise damaged(f"{TITLE} /v1/price-files", body, "the answer has no files")
    for row in rows:
        try:
            venue, year, version = row["venue"], row["year"], row["version"]
        except (KeyError, TypeError):
            raise damaged(
                f"{TITLE} /v1/price-files", row, "a file lacks venue, year or version"
            ) from None
        if not (
            isinstance(venue, str)
            and venue.isalnum()
            and isinstance(year, int)
            and isinstance(version, str)
        ):
            raise damaged(f"{TITLE} /v1/price-files", row, "a file garbles venue, year or version")
        yield venue, year, version


def _parquet(raw: bytes) -> pa.Table:
    try:
        return read_packed(raw)
    except (pa.ArrowInvalid, OSError, TooLarge) as error:
        raise ValueError(f"no Parquet: {error}") from None


def _prices(venue: str, path: str, table: pa.Table) -> PricesFound:
    try:
        keys, which = names(table, "security")
        columns = {"date": days(table, "date")} | {name: numbers(table, name) for name in _PRICES}
    except ValueError as error:
        raise damaged(f"{TITLE} {path}", table.schema.names, str(error)) from None
    return PricesFound(venue, keys, which, columns)


def _levels(table: pa.Table) -> LevelsFound:
    try:
        lists, which = names(table, "list")
        columns = {"date": days(table, "date"), "level": numbers(table, "level")}
        return LevelsFound(lists, which, columns | {"total_return_level": numbers(table, "total")})
    except ValueError as error:
        raise damaged(f"{TITLE} /v1/levels", table.schema.names, str(error)) from None


def _instant(text: str) -> datetime:
    return datetime.fromisoformat(text).astimezone(UTC)


def _dividend(row: dict[str, Any]) -> tuple[str, DividendRecord]:
    try:
        amount = None if row["amount"] is None else float(row["amount"])
        ex_date, announced = date.fromisoformat(row["ex_date"]), _instant(row["announced"])
        return _key(row), DividendRecord(ex_date, amount, row["currency"], row["kind"], announced)
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} dividend", row, f"the row lacks or garbles {error}") from None


def _shares(row: dict[str, Any]) -> tuple[str, SharesRecord]:
    try:
        count, published = float(row["shares"]), _instant(row["published_at"])
        return _key(row), SharesRecord(date.fromisoformat(row["date"]), count, published)
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} share count", row, f"the row lacks or garbles {error}") from None


def _delisting(row: dict[str, Any]) -> tuple[str, str, DelistingRecord]:
    try:
        final = None if row["final_return"] is None else float(row["final_return"])
        return (
            _key(row),
            str(row["mic"]),
            DelistingRecord(date.fromisoformat(row["date"]), row["cause"], final),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} delisting", row, f"the row lacks or garbles {error}") from None


def _key(row: dict[str, Any]) -> str:
    if not isinstance(row["security"], str):
        raise ValueError("the security's key")
    return row["security"]
