"""Made-up prices: every trading day of every listing, dividends, share counts, delistings,
levels of the market lists.

Prices follow what a company earns, at a multiple of its own that wanders, with the noise of days;
dividends are those of the cash flow statement, share counts those of the balance sheet, levels what
the members' prices make of them. One seed gives the same prices of a past day whenever asked.
"""

import io
import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import cached_property
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from wise_ledger.standins.fernmark import stories
from wise_ledger.standins.fernmark.identity import CURRENCY
from wise_ledger.standins.fernmark.levels import LEVELS, level_of
from wise_ledger.standins.fernmark.reports import on_a_weekday
from wise_ledger.standins.fernmark.trading import (
    EPOCH,
    Days,
    Numbers,
    Share,
    Traded,
    closes,
    columns_of,
    day,
    last_close,
    trading_days,
    walk,
)

# a listing that was not traded for weeks
HALTED, HALT = "FM-0040", (date(2022, 3, 14), date(2022, 4, 22))
# fiscal years with a special dividend
SPECIALS = {"FM-0015": (2019, 2022), "FM-0077": (2018,), "FM-0002": (2023,)}
_FINAL = {"bankruptcy": (-0.97, -0.6), "liquidation": (-0.5, -0.1), "taken private": (0.0, 0.06)}


def _year(value: np.int64) -> int:
    return (EPOCH + timedelta(int(value))).year


@dataclass(frozen=True)
class Market:
    """All that is traded in a made-up world; `last` is the last day that anything is made for."""

    shares: Sequence[Share]
    companies: Mapping[str, dict[str, Any]]
    lists: Sequence[dict[str, Any]]
    rates: Sequence[dict[str, Any]]
    # of each company, by quarter end: when its report came out
    published: Mapping[str, Mapping[str, str]]
    seed: int
    last: int

    @cached_property
    def traded(self) -> list[Traded]:
        """Every listing with its prices."""
        out = []
        for share in self.shares:
            out += self._of_company(share)
        return out

    @cached_property
    def _market_noise(self) -> tuple[int, Numbers]:
        first = day("2011-12-26")
        return first, walk(self.seed, "market", self.last - first + 1, 0.006)

    @cached_property
    def _rate(self) -> Mapping[str, tuple[Days, Numbers]]:
        days = np.array([day(r["date"]) for r in self.rates], np.int64)
        return {
            quote: (days, np.array([r["rates"][quote] for r in self.rates]))
            for quote in ("USD", "JPY")
        }

    def _in(self, currency: str, days: Days) -> Numbers:
        """Units of a currency for one euro."""
        if currency == "EUR":
            return np.ones(len(days))
        at, rate = self._rate[currency]
        return np.asarray(np.interp(days, at, rate))

    def _of_company(self, share: Share) -> list[Traded]:
        key, cast = share.cast.key, share.cast
        company = self.companies[key]
        home = cast.symbol.split("@")[1]
        ended = day(share.ended[0]) if share.ended else self.last
        every = np.arange(share.first, self.last + 1)
        first, noise = self._market_noise
        plain = closes(share, every, self.seed, noise[share.first - first : self.last - first + 1])
        for split in stories.splits_of(key):
            plain = np.where(every >= day(split["ex_date"]), plain / split["ratio"], plain)
        out = []
        for security in company["securities"]:
            factor, currency = 1.0, CURRENCY[home]
            value = plain
            if security["type"] == "depositary_receipt":
                factor = security["ratio"]
            elif security["type"] == "preference":
                value = 25 * np.exp(walk(self.seed, f"preference:{key}", len(every), 0.004))
            elif security["key"].endswith("-S3"):
                value = plain * 0.97 * np.exp(walk(self.seed, f"class:{key}", len(every), 0.003))
            for listing in security["listings"]:
                since = max(day(listing["from"]), share.first)
                until = min(day(listing["to"]) if listing["to"] else self.last, ended, self.last)
                days = trading_days(listing["mic"], since, until)
                if key == HALTED:
                    days = days[(days < day(HALT[0])) | (days > day(HALT[1]))]
                into, seed = (
                    listing["currency"],
                    [self.seed, *f"{security['key']}@{listing['mic']}".encode()],
                )
                there = value[days - share.first] * factor
                if into != currency:
                    away = np.exp(np.random.default_rng([*seed, 0]).normal(0, 0.002, len(days)))
                    there = there * self._in(into, days) / self._in(currency, days) * away
                held = share.shares[0] * (0.0009 if listing["primary"] else 0.0002)
                split_on = np.ones(len(days))
                for split in stories.splits_of(key) if security["type"] != "preference" else ():
                    place = int(np.searchsorted(days, day(split["ex_date"])))
                    split_on[place : place + (place > 0)] *= split["ratio"]
                columns = columns_of(there, into, seed, held * np.cumprod(split_on), split_on)
                out.append(Traded(security["key"], listing["mic"], days, columns))
        return out

    # ---- as served, with what is public by the clock

    def traded_in(self, mic: str, year: int, last: int) -> bool:
        """Whether anything was traded at a venue in a year, up to a day of it."""
        days = (one.upto(last).days for one in self.traded if one.mic == mic)
        return any((of_one >= day(date(year, 1, 1))).any() for of_one in days)

    def file(self, mic: str, year: int, now: datetime) -> bytes | None:
        """All prices of a venue and year up to the last close, as Parquet; None without any."""
        if (mic, year) not in self.years:
            return None
        last = min(last_close(mic, now), day(date(year, 12, 31)))
        parts = []
        for one in self.traded:
            if one.mic != mic:
                continue
            own = one.upto(last)
            begin = int(np.searchsorted(own.days, day(date(year, 1, 1))))
            if begin < len(own.days):
                parts.append(
                    (one.security, own.days[begin:], {n: c[begin:] for n, c in own.columns.items()})
                )
        if not parts:
            return None
        names = pa.DictionaryArray.from_arrays(
            np.repeat(np.arange(len(parts), dtype=np.int32), [len(p[1]) for p in parts]),
            [p[0] for p in parts],
        )
        dates = pa.array(np.concatenate([p[1] for p in parts]).astype(np.int32)).cast(pa.date32())
        columns = {
            n: np.concatenate([p[2][n] for p in parts])
            for n in ("open", "high", "low", "close", "volume")
        }
        out = io.BytesIO()
        pq.write_table(
            pa.table({"security": names, "date": dates, **columns}), out, compression="zstd"
        )
        return out.getvalue()

    @cached_property
    def years(self) -> list[tuple[str, int]]:
        """The venues and years that have prices."""
        found = {
            (one.mic, year)
            for one in self.traded
            if len(one.days)
            for year in range(_year(one.days[0]), _year(one.days[-1]) + 1)
        }
        return sorted(found)

    @cached_property
    def dividends(self) -> list[dict[str, Any]]:
        """What ordinary shares were paid: what the cash flow statements say,
        in the quarter they say it for.
        """
        out = []
        for share in self.shares:
            key = share.cast.key
            ordinary = [s for s in self.companies[key]["securities"] if s["type"] == "ordinary"]
            waiting = 0.0
            for n, end in enumerate(share.ends.tolist()):
                waiting += max(0.0, share.net[n] - round(share.net[n] * 0.6))
                if share.cast.style in ("half", "cumulative") and n % 2 == 0:
                    continue
                ex = EPOCH + timedelta(end - 38)
                ex = on_a_weekday(ex)
                amount, waiting = waiting / share.shares[n], 0.0
                if (
                    amount <= 0
                    or ex < EPOCH + timedelta(share.first)
                    or (share.ended and str(ex) >= share.ended[0])
                ):
                    continue
                special = ex.year in SPECIALS.get(key, ()) and ex.month >= 10
                parts = (
                    [("ordinary", amount / 2), ("special", amount / 2)]
                    if special
                    else [("ordinary", amount)]
                )
                for split in stories.splits_of(key):  # the share of the day it is paid on
                    if ex < date.fromisoformat(split["ex_date"]) <= EPOCH + timedelta(end):
                        parts = [(kind, paid * split["ratio"]) for kind, paid in parts]
                announced = f"{ex - timedelta(20)}T07:00:00Z"
                out += [
                    {
                        "security": s["key"],
                        "ex_date": str(ex),
                        "amount": round(float(paid), 6),
                        "kind": kind,
                        "currency": share.cast.currency,
                        "announced": announced,
                    }
                    for s in ordinary
                    for kind, paid in parts
                ]
        return sorted(out, key=lambda d: (d["announced"], d["security"], d["kind"]))

    @cached_property
    def counts(self) -> list[dict[str, Any]]:
        """Shares in issue of each ordinary class, as each report has them."""
        out = []
        for share in self.shares:
            ordinary = [
                s for s in self.companies[share.cast.key]["securities"] if s["type"] == "ordinary"
            ]
            portions = (1.0,) if len(ordinary) == 1 else (0.8, 0.2)
            for end, number in zip(share.ends.tolist(), share.shares.tolist(), strict=True):
                published = self.published[share.cast.key].get(str(EPOCH + timedelta(end)))
                if published is None:
                    continue
                for split in stories.splits_of(share.cast.key):
                    number *= split["ratio"] if end >= day(split["ex_date"]) else 1
                out += [
                    {
                        "security": s["key"],
                        "date": str(EPOCH + timedelta(end)),
                        "shares": round(number * portion),
                        "published_at": published,
                    }
                    for s, portion in zip(ordinary, portions, strict=True)
                ]
        return sorted(out, key=lambda d: (d["published_at"], d["security"]))

    @cached_property
    def delistings(self) -> list[dict[str, Any]]:
        """Listings that ended with their company, and what was left of a share."""
        out = []
        for share in self.shares:
            if share.ended is None:
                continue
            rng = random.Random(f"{self.seed}:final:{share.cast.key}")
            when, cause = share.ended
            low, high = _FINAL.get(cause, (-0.01, 0.03))
            final = None if rng.random() < 0.1 else round(rng.uniform(low, high), 4)
            out += [
                {
                    "security": s["key"],
                    "mic": x["mic"],
                    "date": when,
                    "cause": cause,
                    "final_return": final,
                }
                for s in self.companies[share.cast.key]["securities"]
                for x in s["listings"]
                if x["to"] is None or x["to"] >= when
            ]
        return sorted(out, key=lambda d: (d["date"], d["security"], d["mic"]))

    @cached_property
    def levels(self) -> Mapping[str, tuple[Days, Numbers, Numbers]]:
        """Day, level and total return level of each market list, 1000 on its first day."""
        primary = {
            share.cast.key: one
            for share in self.shares
            for one in self.traded
            if one.security == f"{share.cast.key}-S1" and one.mic == share.cast.symbol.split("@")[1]
        }
        return {
            entry["name"]: level_of(entry, primary, self.dividends, self.last)
            for entry in self.lists
            if entry["name"] in LEVELS
        }

    def level_file(self, now: datetime) -> bytes:
        """The levels of all lists up to the last close, as Parquet."""
        names, days, level, total = [], [], [], []
        last = day(now.date()) - 1
        for name, (own, a, b) in self.levels.items():
            there = int(np.searchsorted(own, last, "right"))
            names += [name] * there
            days.append(own[:there])
            level.append(a[:there])
            total.append(b[:there])
        dates = pa.array(np.concatenate(days or [np.empty(0)]).astype(np.int32)).cast(pa.date32())
        columns = {
            "level": np.concatenate(level or [np.empty(0)]),
            "total": np.concatenate(total or [np.empty(0)]),
        }
        out = io.BytesIO()
        pq.write_table(
            pa.table({"list": pa.array(names, pa.string()), "date": dates, **columns}), out
        )
        return out.getvalue()


def as_public(rows: Sequence[dict[str, Any]], at: str, now: datetime) -> list[dict[str, Any]]:
    """The rows that are public by an instant."""
    moment = now.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return [r for r in rows if r[at] <= (moment if len(r[at]) > 10 else moment[:10])]
