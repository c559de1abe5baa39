"""Random companies and markets as the files that people load; the same for the same seed."""

import csv
import io
from collections.abc import Iterator, Mapping, Sequence
from datetime import date, timedelta
from random import Random
from typing import Any

from tests.core.worlds import World
from wise_ledger.client import Ledger
from wise_ledger.core.time.periods import as_date

Row = dict[str, Any]
SAME = ("company", "item", "period_start", "period_end", "published_at", "source")
FIRST, LAST = date(2020, 1, 1), date(2024, 12, 1)
# What may be listed beside a company's share at ZALD.
BESIDE: tuple[Row, ...] = (
    {"mic": "ZBRE", "currency": "EUR", "security_type": "ordinary", "security": "1"},
    {"mic": "ZCAL", "currency": "USD", "security_type": "ordinary", "security": "2"},
    {"mic": "ZCAL", "currency": "GBP", "security_type": "depositary_receipt", "receipt_ratio": 2}
    | {"security": "3"},
    {"mic": "ZBRE", "currency": "USD", "security_type": "preference", "security": "4"},
)
SHARE: Row = {"mic": "ZALD", "currency": "USD", "security_type": "ordinary", "security": "1"}
MEASURES = ("eps", "revenue", "net_income")


def file_of(rows: Sequence[Row]) -> bytes:
    """A CSV file with all columns that any row has."""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(dict.fromkeys(name for row in rows for name in row)))
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


def keys_of(world: int) -> list[str]:
    """How the companies of a world are called."""
    return [f"W{world}C{company}" for company in (0, 1)]


def companies(worlds: Sequence[World]) -> Iterator[tuple[str, list[Row]]]:
    """Worlds as files of companies, splits, figures and rates; two companies each."""
    described, facts, rates, splits = [], [], [], []
    for n, made in enumerate(worlds):
        keys = keys_of(n)
        about = [{"company": key, "name": f"World {key}"} for key in keys]
        described += [{**a, "country": "XA", "valid_from": "2015-01-01"} for a in about]
        for said in made.attributes:
            since = str(as_date(said.valid_from))
            named = {said.name: said.value}
            if said.name == "active":
                status = "active" if said.value == "yes" else "inactive"
                named = {"status": status, "status_date": since}
            described.append({**about[said.company], **named, "valid_from": since})
        of = {tuple(f[name] for name in SAME): f for f in made.facts}
        facts += [{**f, "company": keys[f["company"]]} for f in of.values()]
        rates = rates or [*made.rates]
        for split in made.splits:
            named = {"security": f"{keys[0]}@ZALD", "published_at": split["public"]}
            splits.append(named | {name: split[name] for name in ("ex_date", "ratio")})
    yield from (("companies", described), ("facts", facts), ("rates", rates), ("splits", splits))


def some_day(random: Random) -> date:
    return FIRST + timedelta(random.randint(0, (LAST - FIRST).days))


def listed(company: str, what: Row, **more: Any) -> Row:
    """A listing of a company since 2015, unless `more` says otherwise."""
    since = {"company": company, "symbol": company, "valid_from": "2015-01-01"}
    return {**since, **what, "security": f"{company}-{what['security']}", **more}


def listings(random: Random, company: str) -> list[Row]:
    """A share since 2015; perhaps another venue, class or receipt, perhaps a primary that moves."""
    share = SHARE if company.endswith("0") or random.random() < 0.8 else BESIDE[2]  # a receipt
    rows = [listed(company, share, primary="yes")]
    for beside in random.sample(BESIDE, random.choice([0, 0, 1, 2])):
        start = "2015-01-01" if random.random() < 0.4 else str(some_day(random))
        symbol = company + beside["security"].replace("1", "")
        rows.append(listed(company, beside, symbol=symbol, valid_from=start, primary="no"))
        if beside["security"] == "1" and random.random() < 0.5:  # the other venue takes over
            rows[0]["valid_to"] = rows[-1]["valid_from"] = str(some_day(random))
            rows[-1]["primary"] = "yes"
    return rows


def prices(random: Random, listing: Row) -> list[Row]:
    """Weekdays, with gaps, days without a close, rows that come late, weekends."""
    begin = FIRST + timedelta(random.choice([0, 0, 200, 700]))
    close, rows, day = (
        random.uniform(5, 80),
        [],
        max(begin, date.fromisoformat(listing["valid_from"])),
    )
    until = date.fromisoformat(listing.get("valid_to") or str(LAST))
    while day < until:
        day += timedelta(1 if random.random() > 0.01 else random.choice([4, 11, 25]))
        close *= random.uniform(0.96, 1.04)
        if day.weekday() > 4 and random.random() < 0.98:
            continue
        spread = sorted(random.uniform(0.98, 1.02) for _ in range(3))
        row = {"listing": f"{listing['symbol']}@{listing['mic']}", "date": str(day)}
        row |= dict(
            zip(("low", "open", "high"), (round(close * s, 2) for s in spread), strict=True)
        )
        row |= {"close": round(close * spread[1], 2), "volume": random.randint(0, 9000)}
        if random.random() < 0.02:
            row[random.choice(["close", "close", "volume", "high"])] = None
        if random.random() < 0.03:
            row["published_at"] = str(day + timedelta(random.choice([1, 5, 40])))
        rows.append(row)
    return rows


def around(random: Random, security: str) -> Iterator[tuple[str, Row]]:
    """Dividends and shares of a security, and perhaps the end of its listing."""
    if random.random() < 0.2:
        ended = some_day(random)
        yield (
            "delistings",
            {
                "listing": security,
                "date": str(ended),
                "cause": random.choice(["merger", "bankruptcy"]),
                "final_return": random.choice([None, -0.5, 0.1]),
                "published_at": str(ended + timedelta(random.choice([0, 0, 20]))),
            },
        )
    for _ in range(random.randint(0, 9)):
        ex = some_day(random)
        yield (
            "dividends",
            {
                "security": security,
                "ex_date": str(ex),
                "amount": random.choice([0.1, 0.25, 1]),
                "currency": random.choice(["USD", "USD", "EUR"]),
                "kind": random.choice(["ordinary", "ordinary", "special"]),
                "published_at": str(ex - timedelta(random.randint(-9, 30))),
            },
        )
    for _ in range(random.randint(0, 6)):
        on = some_day(random)
        counted = random.choice([1000, 1200, 5000])
        yield (
            "shares",
            {
                "security": security,
                "date": str(on),
                "shares_outstanding": counted,
                "published_at": str(on + timedelta(random.randint(0, 60))),
            },
        )


def expected(random: Random, company: str) -> Iterator[tuple[str, Row]]:
    """What some houses expect of a company, what it announces, and when it means to."""
    for year in range(2020, 2026):
        kinds = [("fy", random.choice([12, 12, 6])), *(("q", month) for month in (3, 6, 9, 12))]
        for measure, (kind, month) in ((m, k) for m in MEASURES for k in kinds):
            end = date(year, month, 31 if month in (3, 12) else 30)
            about = {
                "company": company,
                "measure": measure,
                "period_end": str(end),
                "period_kind": kind,
            }
            scale = 1 if measure == "eps" else 100
            about["currency"] = "EUR" if random.random() < 0.1 else "USD"
            for n in range(random.choice([0, 2, 5, 9])):
                given = end + timedelta(random.randint(-400, 90))
                value = None if random.random() < 0.05 else scale * round(random.uniform(-1, 5), 2)
                house = {"contributor": f"House {random.randint(1, 4)}", "value": value}
                yield (
                    "estimates",
                    {**about, **house, "published_at": f"{given}T0{random.randint(6, 9)}:0{n}:00Z"},
                )
            if random.random() < 0.7:
                out = f"{end + timedelta(random.randint(15, 120))}T07:00:00Z"
                told = {"value": scale * round(random.uniform(-1, 5), 2), "published_at": out}
                yield "actuals", {**about, **told}


# Each after those it names.
ORDER = (
    "companies listings splits facts rates prices dividends shares delistings estimates actuals"
).split()


def brought(ledger: Ledger, files: Mapping[str, Sequence[Row]]) -> None:
    """Load them all, none with a bad row; the first of two sources goes first."""
    for kind in ORDER:
        if files.get(kind):
            found = ledger.load(kind, file_of(files[kind]))
            assert not found.bad, found.bad[:3]
    ledger.prefer_sources(["one", "two"], "Ada", why="as they come")


def market(random: Random, worlds: Sequence[World]) -> dict[str, list[Row]]:
    """Worlds with all that is traded, paid, counted and expected of them."""
    out = dict(companies(worlds))
    for company in (key for n in range(len(worlds)) for key in keys_of(n)):
        own = listings(random, company)
        several: list[tuple[str, Row]] = [("listings", row) for row in own]
        for row in own:
            several += [("prices", price) for price in prices(random, row)]
            if row["security"][-1] != "1" or row is own[0]:
                several += around(random, f"{row['symbol']}@{row['mic']}")
        several += expected(random, company)
        for kind, row in several:
            out.setdefault(kind, []).append(row)
    return out
