"""Made-up levels of market lists: what the prices and dividends of their members make of them."""

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from wise_ledger.standins.fernmark import stories
from wise_ledger.standins.fernmark.trading import Days, Numbers, Traded, day, trading_days

LEVELS = ("index-of-aldmoor", "thirty-of-brennholt", "thirty-of-caldry")


def level_of(
    entry: Mapping[str, Any],
    primary: Mapping[str, Traded],
    dividends: Iterable[Mapping[str, Any]],
    last: int,
) -> tuple[Days, Numbers, Numbers]:
    """Day, level and total return level of a list, 1000 on its first day, from the prices
    of each member's primary listing.
    """
    paid: dict[str, dict[int, float]] = {}
    for row in dividends:
        of = paid.setdefault(row["security"].rsplit("-", 1)[0], {})
        of[day(row["ex_date"])] = of.get(day(row["ex_date"]), 0.0) + row["amount"]
    members = [m for m in entry["members"] if m["company"] in primary]
    mic = max(
        (primary[m["company"]].mic for m in members),
        key=[primary[m["company"]].mic for m in members].count,
    )
    days = trading_days(mic, min(day(m["from"]) for m in members), last)
    gain, total, weights = np.zeros(len(days)), np.zeros(len(days)), np.zeros(len(days))
    for member in members:
        one = primary[member["company"]]
        close = one.columns["close"]
        row = np.searchsorted(one.days, days, "right") - 1
        there = row >= 0
        price = np.where(there, close[np.maximum(row, 0)], np.nan)
        for split in stories.splits_of(member["company"]):
            price = np.where(days < day(split["ex_date"]), price / split["ratio"], price)
        step = price[1:] / price[:-1] - 1
        cash = np.zeros(len(days))
        for ex, amount in paid.get(member["company"], {}).items():
            place = int(np.searchsorted(days, ex))
            if place < len(days):
                cash[place] += amount
        since, until = day(member["from"]), day(member["to"]) if member["to"] else last
        counts = (
            (days[1:] > since) & (days[1:] <= min(until, int(one.days[-1]))) & np.isfinite(step)
        )
        weight = member.get("weight") or 1.0
        gain[1:] += np.where(counts, weight * step, 0.0)
        total[1:] += np.where(counts, weight * (step + np.nan_to_num(cash[1:] / price[:-1])), 0.0)
        weights[1:] += np.where(counts, weight, 0.0)
    weights = np.where(weights > 0, weights, 1.0)
    level, reinvested = (np.round(1000 * np.cumprod(1 + g / weights), 4) for g in (gain, total))
    return days, level, reinvested
