"""Contributions that drift to the actual, and the actuals as they were announced.

The same seed gives the same opinions for every past day; a house sees a part of the way from what a
year looked like at first to what it became, the more the nearer its end.
"""

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from math import fsum, sqrt
from statistics import fmean, median
from typing import Any

from wise_ledger.standins.fernmark import World
from wise_ledger.standins.fernmark.stories import splits_of
from wise_ledger.standins.fernmark.trading import Share

HOUSES = (
    "Ashdown Row", "Bellweather & Finch", "Calloway Research", "Dunmere Partners", "Eastmoor Capital", "Ferrier Oak",
    "Granby Street", "Harbour Street Research", "Inglewood Brothers", "Jessop & Vane", "Kingsmere Securities",
    "Larkfield Analysis", "Moorhouse", "Netherfield Advisers", "Old Quay Research", "Parnell & Sons", "Quillcross",
    "Rookwood Partners", "Saltmarsh Equity", "Thornbury Hall",
)  # fmt: skip
_EPOCH = date(1970, 1, 1)
_FULL = ("both", "discrete")  # styles of companies of which quarters are expected too
SUMMARY = (
    "company", "measure", "period_end", "period_kind", "mean", "median", "high", "low", "stdev", "count", "currency",
    "published_at",
)  # fmt: skip
CALENDAR = ("company", "period_end", "period_kind", "expected_at", "published_at")
_STANDS = 100  # days that an opinion counts in its own consensus
COLUMNS = (
    "company",
    "measure",
    "period_end",
    "period_kind",
    "contributor",
    "value",
    "currency",
    "published_at",
)


@dataclass(frozen=True)
class Opinions:
    """Rows of each kind, by publication; a company is named by its LEI."""

    contributions: Sequence[tuple[Any, ...]]
    actuals: Sequence[tuple[Any, ...]]
    summaries: Sequence[tuple[Any, ...]]  # its own consensus of the running year, month by month
    calendar: Sequence[tuple[Any, ...]]
    companies: Mapping[str, str]  # LEI: name


def make_opinions(world: World, seed: int = 7) -> Opinions:
    """What was expected of every company with statements, up to the world's last day."""
    assert world.market is not None
    contributions: list[tuple[Any, ...]] = []
    actuals: list[tuple[Any, ...]] = []
    summaries: list[tuple[Any, ...]] = []
    calendar: list[tuple[Any, ...]] = []
    names = {}
    for share in world.market.shares:
        if len(share.ends) < 8:
            continue
        company = world.market.companies[share.cast.key]
        lei = next(i["value"] for i in company["identifiers"] if i["scheme"] == "lei")
        names[lei] = company["name"]
        published = world.market.published[share.cast.key]
        for expected, actuals_of in _of_company(share, lei, published, seed):
            contributions += expected
            actuals += actuals_of
            summaries += _summaries(expected, actuals_of)
        calendar += _calendar(share, lei, published, seed)
    last = len(COLUMNS) - 1
    return Opinions(
        sorted(contributions, key=lambda r: (r[last], r[:5])),
        *(sorted(rows, key=lambda r: (r[-1], r[:4])) for rows in (actuals, summaries, calendar)),
        names,
    )


def _of_company(
    share: Share, lei: str, published: Mapping[str, str], seed: int
) -> "list[tuple[list[tuple[Any, ...]], list[tuple[Any, ...]]]]":
    rng = random.Random(f"{seed}:houses:{share.cast.key}")
    covering = rng.sample(HOUSES, rng.randint(3, 8))
    out = []
    for n in range(3, len(share.ends)):
        end = _EPOCH + timedelta(int(share.ends[n]))
        nominal = _nominal(end)
        year = nominal.month == share.cast.year_end
        if year:
            out.append(
                _period(share, lei, n, 4, nominal, "fy", covering, published.get(str(end)), seed)
            )
        if share.cast.style in _FULL:
            out.append(
                _period(share, lei, n, 1, nominal, "q", covering[:2], published.get(str(end)), seed)
            )
    return out


def _summaries(
    expected: Sequence[tuple[Any, ...]], actuals_of: Sequence[tuple[Any, ...]]
) -> list[tuple[Any, ...]]:
    """Its own consensus of earnings of a year on the first of each month of
    the year before its end, to the actual.
    """
    rows = sorted((r for r in expected if r[1] == "eps" and r[3] == "fy"), key=lambda r: r[-1])
    if not rows:
        return []
    end = date.fromisoformat(rows[0][2])
    stop = min((_day(r[-1]) for r in actuals_of), default=end + timedelta(75))
    at, out = (end - timedelta(365)).replace(day=1), []
    while at < stop:
        since, now = f"{at - timedelta(_STANDS)}", f"{at}T05:00:00Z"
        last = {r[4]: r[5] for r in rows if r[-1] < now and r[-1] >= since}
        values = sorted(v for v in last.values() if v is not None)
        if len(values) > 1:
            mean = fmean(values)
            spread = sqrt(fsum((v - mean) ** 2 for v in values) / (len(values) - 1))
            rounded = [round(v, 3) for v in (mean, median(values), values[-1], values[0])]
            out.append((*rows[0][:4], *rounded, round(spread, 4), len(values), rows[0][6], now))
        at = (at + timedelta(32)).replace(day=1)
    return out


def _calendar(
    share: Share, lei: str, published: Mapping[str, str], seed: int
) -> list[tuple[Any, ...]]:
    """When each period is expected: said three weeks before its end, now and then moved after it.

    It is the day of the same period a year before, so that the same is said whatever came later. A
    year and the quarter that ends with it are announced together: the year is reported.
    """
    out = []
    for n in range(7, len(share.ends)):
        nominal = _nominal(_EPOCH + timedelta(int(share.ends[n])))
        year = nominal.month == share.cast.year_end
        report = published.get(str(_EPOCH + timedelta(int(share.ends[n - 4]))))
        if (not year and share.cast.style not in _FULL) or report is None:
            continue
        kind = "fy" if year else "q"
        rng = random.Random(f"{seed}:calendar:{share.cast.key}:{nominal}")
        usual = datetime.combine(
            _day(report) + timedelta(364), time(rng.choice((6, 7, 16)), 30), UTC
        )
        at = usual + timedelta(rng.choice((0, 0, 0, 1, 2)))
        out.append((lei, str(nominal), kind, _moment(at), f"{nominal - timedelta(21)}T06:00:00Z"))
        if rng.random() < 0.1:
            out.append(
                (
                    lei,
                    str(nominal),
                    kind,
                    _moment(at + timedelta(7)),
                    f"{nominal + timedelta(9)}T06:00:00Z",
                )
            )
    return out


def _moment(at: datetime) -> str:
    return at.strftime("%Y-%m-%dT%H:%M:%SZ")


def _nominal(end: date) -> date:
    """The month end that a period end means."""
    near = end if end.day > 15 else end.replace(day=1) - timedelta(1)
    following = (near.replace(day=28) + timedelta(4)).replace(day=1)
    return following - timedelta(1)


def _period(
    share: Share,
    lei: str,
    n: int,
    quarters: int,
    end: date,
    kind: str,
    houses: Sequence[str],
    out: str | None,
    seed: int,
) -> "tuple[list[tuple[Any, ...]], list[tuple[Any, ...]]]":
    rng = random.Random(f"{seed}:{share.cast.key}:{kind}:{end}")
    net = float(share.net[n - quarters + 1 : n + 1].sum())
    sales = float(share.sales[n - quarters + 1 : n + 1].sum())
    # A year and the quarter that ends with it are announced together.
    announced = _announced(out, random.Random(f"{seed}:{share.cast.key}:{end}")) if out else None
    split = splits_of(share.cast.key)
    expected: list[tuple[Any, ...]] = []
    start = end - timedelta(820 if quarters == 4 else 120)
    stop = min(_day(announced), end + timedelta(75)) if announced else end + timedelta(75)
    first_look = 1 + rng.gauss(0.01, 0.07)  # how far off everybody is at first
    for house in houses:
        own = rng.gauss(0, 0.02)
        at = start + timedelta(rng.randint(0, 90))
        while at < stop:
            way = min(1.0, max(0.0, (at - start).days / max(1, (stop - start).days)))
            view = 1 + (first_look - 1 + own) * (1 - way) + rng.gauss(0, 0.006)
            moment = f"{at}T{rng.randint(7, 17):02d}:{rng.choice((0, 12, 30, 45)):02d}:00Z"
            shares = _shares(share, n, at, split)
            currency = share.cast.currency
            eps = round(net * view / shares, 3)
            gone = rng.random() < 0.012
            expected.append(
                (lei, "eps", str(end), kind, house, None if gone else eps, currency, moment)
            )
            if quarters == 4:
                growth = 1 + (view - 1) * 0.35
                expected.append(
                    (
                        lei,
                        "revenue",
                        str(end),
                        kind,
                        house,
                        round(sales * growth, -3),
                        currency,
                        moment,
                    )
                )
            at += timedelta(rng.randint(70, 150) if quarters == 4 else rng.randint(40, 80))
    if announced is None:
        return expected, []
    shares = _shares(share, n, _day(announced), split)
    eps = round(net / shares, 2)
    actuals_of = [(lei, "eps", str(end), kind, eps, share.cast.currency, announced)]
    if quarters == 4:
        actuals_of.append((lei, "revenue", str(end), kind, sales, share.cast.currency, announced))
    return expected, actuals_of


def _shares(share: Share, n: int, on: date, splits: Sequence[Mapping[str, Any]]) -> float:
    """The shares of a day: an opinion is stated on those, whatever comes later."""
    shares = float(share.shares[n])
    for split in splits:
        shares *= split["ratio"] if on >= date.fromisoformat(split["ex_date"]) else 1
    return shares


def _announced(out: str, rng: random.Random) -> str:
    """Before the open or after the close of the day of the report,
    never after the report itself.
    """
    at = datetime.fromisoformat(out.replace("Z", "+00:00")).astimezone(UTC)
    return _moment(at - timedelta(minutes=rng.choice((0, 15, 30))))


def _day(moment: str) -> date:
    return date.fromisoformat(moment[:10])
